/** What is done to a study is never dropped in silence and never done twice, wherever a request is lost. */
import { QueryClient } from "@tanstack/react-query";
import { toast } from "sonner";
import { beforeEach, describe, expect, test, vi } from "vitest";

import { answered, type Changed, type Command, http, type Study } from "../src/api/client";
import { Edits, shownAfter, useSending, withChanges } from "../src/desk/edits";
import { type Fault, FAULTS, Server, studyOf } from "./server";

const opacity = (trace: string, value: number, label = `${trace} at ${value}`): Command => ({
  do: "look",
  label,
  changes: [{ path: ["traces", trace, "opacity"], do: "set", value }],
  everywhere: false,
});
const undo = (base: number) =>
  answered<Changed>(http.POST("/api/studies/{slug}/undo", { params: { path: { slug: "house" } }, body: { base } }));

function desk(server: Server) {
  const queries = new QueryClient();
  queries.setQueryData(["study", "house"], server.study);
  return { edits: new Edits("house", queries), shown: () => queries.getQueryData<Study>(["study", "house"])! };
}

const of = (study: Study, trace: string) =>
  (study.look.traces as { id: string; opacity: number }[]).find((t) => t.id === trace)!.opacity;
/** A minute goes by, in which all that can be sent is. */
const settled = async () => {
  await vi.advanceTimersByTimeAsync(60_000);
  expect(useSending.getState().sending).toBe(false);
};

beforeEach(() => {
  vi.useFakeTimers();
  useSending.setState({ sending: false, unheard: 0 });
  return () => vi.useRealTimers();
});

describe.each(FAULTS)("a request %s", (fault) => {
  test("at whatever point leaves each edit done once and in order", async () => {
    for (let at = 0; ; at++) {
      const server = new Server((call): Fault | null => (call === at ? fault : null));
      const { edits, shown } = desk(server);
      const all = [
        edits.push([opacity("wash", 0.1)]),
        edits.push([opacity("paper", 0.2)]),
        edits.then(undo),
        edits.push([opacity("wash", 0.3)]),
      ];
      await settled();
      const found = await Promise.all(all);
      expect(server.done, `fault at request ${at}`).toEqual(["wash at 0.1", "paper at 0.2", "undo", "wash at 0.3"]);
      expect(found.every(Boolean)).toBe(true);
      expect(shown()).toEqual(server.study);
      expect(useSending.getState().unheard).toBe(0);
      if (!server.reached(at)) break;
      expect(at).toBeLessThan(20);
    }
  });

  test("twice in a row is waited out, and what waits is said to be unheard", async () => {
    const server = new Server((call): Fault | null => (call < 2 ? fault : null));
    const { edits, shown } = desk(server);
    const done = edits.push([opacity("wash", 0.7)]);
    await vi.advanceTimersByTimeAsync(10);
    expect(useSending.getState().unheard).toBe(1);
    const leaving = new Event("beforeunload", { cancelable: true });
    window.dispatchEvent(leaving);
    expect(leaving.defaultPrevented, "the browser asks before it throws this away").toBe(true);
    expect(of(shown(), "wash"), "shown at once").toBe(0.7);
    await settled();
    expect(await done).not.toBeNull();
    expect(server.done).toEqual(["wash at 0.7"]);
  });
});

test("of one gesture only the newest waits, and each of its steps is told when it is done", async () => {
  const server = new Server();
  const { edits, shown } = desk(server);
  const steps = [0.1, 0.2, 0.3, 0.4].map((v) => edits.push([opacity("wash", v)], "wash.opacity"));
  expect(of(shown(), "wash")).toBe(0.4);
  await settled();
  const found = await Promise.all(steps);
  expect(server.done).toEqual(["wash at 0.1", "wash at 0.4"]);
  expect(found.map((s) => of(s!, "wash"))).toEqual([0.1, 0.4, 0.4, 0.4]);
});

test("another gesture between two steps keeps both", async () => {
  const server = new Server();
  const { edits } = desk(server);
  void edits.push([opacity("paper", 0.9)]);
  void edits.push([opacity("wash", 0.1)], "a");
  void edits.push([opacity("paper", 0.5)], "b");
  void edits.push([opacity("wash", 0.2)], "a");
  await settled();
  expect(server.done).toEqual(["paper at 0.9", "wash at 0.1", "paper at 0.5", "wash at 0.2"]);
});

test("what is refused is said and not shown, and what waits behind it is still done", async () => {
  const said = vi.spyOn(toast, "error").mockReturnValue("");
  const server = new Server(
    () => null,
    (command) => ((command as { label: string }).label.includes("bad") ? "An opacity lies between 0 and 1." : null),
  );
  const { edits, shown } = desk(server);
  const refused = edits.push([opacity("wash", 7, "bad")]);
  const after = edits.push([opacity("paper", 0.4)]);
  await settled();
  expect(await refused).toBeNull();
  expect(await after).not.toBeNull();
  expect(said).toHaveBeenCalledWith("An opacity lies between 0 and 1.");
  expect([of(shown(), "wash"), of(shown(), "paper")]).toEqual([0.5, 0.4]);
});

test("where another window moved on, all that was built on the state before goes, and how many is said", async () => {
  const said = vi.spyOn(toast, "error").mockReturnValue("");
  const server = new Server();
  const { edits, shown } = desk(server);
  server.study = {
    ...server.study,
    revision: 9,
    look: { ...server.study.look, traces: [{ id: "paper", opacity: 0.25 }] as never },
  };
  const three = [
    edits.push([opacity("wash", 0.1)]),
    edits.push([opacity("wash", 0.2)]),
    edits.push([opacity("paper", 0.3)]),
  ];
  await settled();
  expect(await Promise.all(three)).toEqual([null, null, null]);
  expect(said.mock.calls[0]![0]).toBe("Another window changed this study meanwhile. Nor were the 2 after it.");
  expect(shown()).toEqual(server.study);
  expect(server.done).toEqual([]);
});

test("what is not there yet cannot be changed", async () => {
  new Server();
  expect(await new Edits("house", new QueryClient()).push([opacity("wash", 1)])).toBeNull();
});

describe("changes to data", () => {
  const rows = { rows: [{ id: "a", n: 1 }, { id: "b", n: 2 }, { n: 3 }, { id: "c", n: 4 }], word: "x" };
  test.each([
    ["set a value", { path: ["word"], do: "set", value: "y" }, { ...rows, word: "y" }],
    [
      "set within a row by its id",
      { path: ["rows", "b", "n"], do: "set", value: 9 },
      { ...rows, rows: [rows.rows[0], { id: "b", n: 9 }, rows.rows[2], rows.rows[3]] },
    ],
    [
      "set a row by its place",
      { path: ["rows", "2"], do: "set", value: { n: 8 } },
      { ...rows, rows: [rows.rows[0], rows.rows[1], { n: 8 }, rows.rows[3]] },
    ],
    [
      "add a row",
      { path: ["rows", "d"], do: "set", value: { id: "d", n: 5 } },
      { ...rows, rows: [...rows.rows, { id: "d", n: 5 }] },
    ],
    ["drop a row", { path: ["rows", "a"], do: "drop" }, { ...rows, rows: rows.rows.slice(1) }],
    ["drop a field", { path: ["word"], do: "drop" }, { rows: rows.rows }],
    [
      "put named rows in order, others where they are",
      { path: ["rows"], do: "order", value: ["c", "a"] },
      { ...rows, rows: [rows.rows[3], rows.rows[1], rows.rows[2], rows.rows[0]] },
    ],
  ])("%s", (_name, change, after) => {
    const before = structuredClone(rows);
    expect(withChanges(rows, [change as never])).toEqual(after);
    expect(rows, "what it was made from stays as it was").toEqual(before);
  });
});

test.each([
  [
    { do: "view", label: "", changes: [{ path: ["frame", "scale"], do: "set", value: 50 }] },
    (s: Study) => s.document.desk.view.frame!.scale,
    50,
  ],
  [{ do: "put_view", label: "", view: { frame: { scale: 20 } } }, (s: Study) => s.document.desk.view.frame!.scale, 20],
  [
    { do: "sheet", label: "", changes: [{ path: ["title"], do: "set", value: "Plan" }] },
    (s: Study) => (s.document.views[0]!.sheet as { title?: string }).title,
    "Plan",
  ],
  [
    { do: "notes", label: "", changes: [{ path: ["notes", "n"], do: "set", value: { id: "n" } }] },
    (s: Study) => s.document.views[0]!.notes!.length,
    1,
  ],
  [
    { do: "boards", label: "", changes: [{ path: ["boards", "b"], do: "set", value: { id: "b" } }] },
    (s: Study) => s.document.boards!.length,
    1,
  ],
  [
    { do: "figures", label: "", changes: [{ path: ["figures", "f"], do: "set", value: { id: "f" } }] },
    (s: Study) => s.document.figures!.length,
    1,
  ],
  [
    { do: "role_rules", label: "", rules: [{}] },
    (s: Study) => (s.document as { role_rules?: unknown[] }).role_rules!.length,
    1,
  ],
  [{ do: "save_view", label: "" }, (s: Study) => s, studyOf()],
] as [Command, (s: Study) => unknown, unknown][])(
  "a command is shown before it is answered: %#",
  (command, seen, expected) => {
    expect(seen(shownAfter(studyOf(), command))).toEqual(expected);
  },
);
