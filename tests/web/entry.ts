/** The front end's plain functions behind a line of JSON each, for tests: {"name", "args"} in, {"value"} or {"error"} out. */
import { createInterface } from "node:readline";

import * as windows from "../../web/src/benches/collage/windows";
import * as choice from "../../web/src/benches/model/choice";
import * as parts from "../../web/src/benches/model/parts";
import * as camera from "../../web/src/benches/view/camera";
import * as directions from "../../web/src/benches/view/directions";
import * as edits from "../../web/src/desk/edits";
import * as cuts from "../../web/src/shared/cuts";

const known: Record<string, unknown> = { ...camera, ...directions, ...parts, ...windows, withChanges: edits.withChanges, shownAfter: edits.shownAfter };

/** {@link cuts.whollyGone} for parts given as a list. */
known.whollyGone = (points: number[], owner: number[], whole: Set<number>, rows: never[], origin: never) =>
  [...cuts.whollyGone(points, owner, (part) => whole.has(part), rows, origin)].sort((a, b) => a - b);

/** A choice made step by step: the numbers chosen after it, and where a range would begin. */
known.chosenAfter = (steps: [number[], "only" | "add" | "remove"][]) => {
  choice.useChoice.setState({ chosen: new Set(), anchor: null });
  for (const [numbers, how] of steps) choice.useChoice.getState().choose(numbers, how);
  const { chosen, anchor } = choice.useChoice.getState();
  return { chosen: [...chosen].sort((a, b) => a - b), anchor };
};

const revived = (value: unknown): unknown =>
  Array.isArray(value) ? value.map(revived) : value && typeof value === "object" && "set" in value && Object.keys(value).length === 1 ? new Set((value as { set: unknown[] }).set) : value;
const plain = (_key: string, value: unknown) => (value instanceof Uint8Array ? [...value] : value instanceof Set ? [...value] : value);

for await (const line of createInterface({ input: process.stdin })) {
  try {
    const { name, args } = JSON.parse(line) as { name: string; args: unknown[] };
    const value = (known[name] as (...args: unknown[]) => unknown)(...args.map(revived));
    console.log(JSON.stringify({ value: value === undefined ? null : value }, plain));
  } catch (error) {
    console.log(JSON.stringify({ error: String(error) }));
  }
}
