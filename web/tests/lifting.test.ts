import { expect, test } from "vitest";

import { blackOf, stronger } from "../src/out/lifting";

const LIFTS = [
  [0.2, 0.02],
  [0.4, 0.05],
  [0.6, 0.08],
  [0.8, 0.12],
  [1, 0.17],
];

test("how light the darkest becomes goes by the core's table, and between its rows evenly", () => {
  for (const [lift, black] of LIFTS) expect(blackOf(lift!, LIFTS)).toBeCloseTo(black!, 6);
  expect([0, 0.1, 0.5, 0.9].map((v) => blackOf(v, LIFTS))).toEqual([0, 0.01, 0.065, 0.145]);
});

test("what is lifted more goes on to the next row, and stops at the last", () => {
  expect([0, 0.2, 0.35, 1].map((v) => stronger(v, LIFTS))).toEqual([0.2, 0.4, 0.4, 1]);
});
