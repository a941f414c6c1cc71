/** On a board drawings catch each other by axes, levels and edges, and the page's modules. */
import { describe, expect, test } from "vitest";

import type { Board, BoardState, PlacedDrawing } from "../src/api/client";
import {
  alike,
  caughtBy,
  freeId,
  type Guide,
  guidesFor,
  moduleEdges,
  shownBox,
} from "../src/benches/sheet/board/boards";

const MODULE = { columns: 4, rows: 2, gutter: 10, margin: 20 };
const placed = (id: string, at: [number, number], some: Partial<PlacedDrawing> = {}) =>
  ({ id, view: id, page: 1, at, ...some }) as PlacedDrawing;
const boardOf = (...drawings: PlacedDrawing[]) =>
  ({ id: "b", page: { width: 400, height: 300, module: MODULE }, drawings }) as unknown as Board;

type Lie = { across: number[]; down: number[]; left: number; top: number } | null;
const stateOf = (...rows: [string, [number, number], Lie][]) =>
  ({
    drawings: rows.map(([id, at, lie]) => ({ id, at, size: [100, 60], lie, mark: id.toUpperCase(), name: id })),
  }) as unknown as BoardState;

const lie = (left: number, top: number, across = [1, 0, 0], down = [0, 0, 1]): Lie => ({ across, down, left, top });
const said = (guides: Guide[], words: string) => guides.filter((g) => g.said === words).map((g) => [g.way, g.at]);

test("nothing is offered that the core would refuse: a fiftieth of a millimetre over thirty metres", () => {
  const off = (mm: number) => alike([1, 0, 0], [1 + mm / 30, 0, 0]);
  expect([off(0), off(0.0199), off(-0.0199), off(0.0201), off(0.021)]).toEqual([true, true, true, false, false]);
});

test("axes and levels of drawings that look the same way are in line where the model is", () => {
  const board = boardOf(placed("a", [0, 0]), placed("b", [150, 40]));
  const guides = guidesFor(
    board,
    stateOf(["a", [0, 0], lie(12, 30)], ["b", [150, 40], lie(20, 50)]),
    board.drawings![0]!,
  );
  expect(said(guides, "axes of B")).toEqual([[0, 150 + 20 - 12]]);
  expect(said(guides, "levels of B")).toEqual([[1, 40 + 50 - 30]]);
  expect(guides.filter((g) => g.line).every((g) => g.line === "b")).toBe(true);
});

test.each([
  ["another scale", lie(20, 50, [2, 0, 0], [0, 0, 2])],
  ["another front", lie(20, 50, [0, 1, 0], [0, 0, 1])],
  ["a perspective", null],
] as [string, Lie][])("a drawing of %s has no axes in line", (_name, other) => {
  const board = boardOf(placed("a", [0, 0]), placed("b", [150, 40]));
  const guides = guidesFor(board, stateOf(["a", [0, 0], lie(12, 30)], ["b", [150, 40], other]), board.drawings![0]!);
  expect(said(guides, "axes of B")).toEqual([]);
});

test("edges meet edges, and middles middles, of what is shown of the frames", () => {
  const cropped = placed("b", [150, 40], {
    frame: [
      [10, 5],
      [70, 5],
      [70, 45],
    ] as never,
  });
  const board = boardOf(placed("a", [0, 0]), cropped);
  const guides = guidesFor(board, stateOf(["a", [0, 0], null], ["b", [150, 40], null]), board.drawings![0]!);
  const across = said(guides, "edge of B")
    .filter(([way]) => way === 0)
    .map(([, at]) => at);
  // Left and right of what is shown, at 160 and 220, against the left and the right of a frame that is 100 wide.
  expect(across.sort((a, b) => a! - b!)).toEqual([60, 120, 160, 220]);
  expect(said(guides, "middle of B")).toEqual([
    [0, 190 - 50],
    [1, 65 - 30],
  ]);
});

test("drawings on other pages, and those that are not known yet, offer nothing", () => {
  const board = boardOf(placed("a", [0, 0]), placed("b", [150, 40], { page: 2 }));
  const guides = guidesFor(board, stateOf(["a", [0, 0], null], ["b", [150, 40], null]), board.drawings![0]!);
  expect(new Set(guides.map((g) => g.said))).toEqual(new Set(["module"]));
  expect(guidesFor(board, stateOf(["b", [150, 40], null]), board.drawings![0]!)).toEqual([]);
});

test("modules fill the page between its margins, with a gutter between two", () => {
  const edges = moduleEdges(boardOf(), 0);
  expect(edges).toHaveLength(8);
  expect([edges[0], edges.at(-1)]).toEqual([20, 380]);
  edges.slice(1, -1).forEach((edge, k) => k % 2 && expect(edge - edges[k]!).toBeCloseTo(10));
  expect(new Set(edges.filter((_, k) => k % 2).map((e, k) => (e - edges[2 * k]!).toFixed(6))).size).toBe(1);
  expect(moduleEdges(boardOf(), 1).at(-1)).toBe(280);
});

describe("what catches", () => {
  const guide = (way: 0 | 1, at: number, line = ""): Guide => ({ way, at, said: `${at}`, line });
  test("the nearest within reach, each way by itself", () => {
    expect(caughtBy([guide(0, 10), guide(0, 13), guide(1, 50)], [12, 20], 3)).toEqual({
      at: [13, 20],
      by: [guide(0, 13), null],
    });
  });
  test("axes before edges, and from farther", () => {
    expect(caughtBy([guide(0, 12), guide(0, 16, "b")], [12, 0], 3).at[0]).toBe(16);
    expect(caughtBy([guide(0, 12), guide(0, 17, "b")], [12, 0], 3).at[0]).toBe(12);
  });
});

test("what is shown of a frame is the box about its corners, or all of it", () => {
  expect(shownBox(placed("a", [0, 0]), [100, 60])).toEqual([0, 0, 100, 60]);
  expect(
    shownBox(
      placed("a", [0, 0], {
        frame: [
          [9, 2],
          [30, 50],
        ] as never,
      }),
      [100, 60],
    ),
  ).toEqual([0, 0, 100, 60]);
  expect(
    shownBox(
      placed("a", [0, 0], {
        frame: [
          [9, 2],
          [30, 50],
          [4, 8],
        ] as never,
      }),
      [100, 60],
    ),
  ).toEqual([4, 2, 30, 50]);
});

test("a free id is the first that is not taken", () => {
  expect(freeId("text", [{ id: "text-1" }, { id: "text-3" }])).toBe("text-2");
  expect(freeId("text", [])).toBe("text-1");
});
