/** What is in the hand: marks drawn point by point, fills and stock that are poured, outlines, and what the screen keeps. */
import { beforeEach, describe, expect, test, vi } from "vitest";

import type { Mark, Pattern, Plane, Pointed, Snap, StockItem, Study, Trace } from "../src/api/client";
import { asTrace, free, sampleOf, versionOf } from "../src/benches/collage/stock";
import { BARE, calledFill, paperOf, scaleOf, usualFill } from "../src/benches/ink/fills";
import { linesPath } from "../src/benches/ink/held";
import { canEnd, isEnded, isFree, KINDS, markOf, snapped, useMarking } from "../src/benches/ink/marks/marking";
import { useOutlining } from "../src/benches/ink/outlining";
import { usePouring, widened, WIDTHS } from "../src/benches/ink/pouring";
import { calledBy, groupOf, pathOfRings } from "../src/benches/collage/figures/standing";
import { useScreen } from "../src/desk/screen";

const PLANE = { lies: "face", origin: [0, 0, 0], normal: [0, -1, 0] } as unknown as Plane;
const snap = (x: number, y: number, called = ""): Snap =>
  ({ x, y, point: [x / 10, 0, y / 10], plane: PLANE, called }) as unknown as Snap;

describe("a mark", () => {
  beforeEach(() => useMarking.getState().take(null));

  test("keeps the plane of its first point, and asks for the next upon it", async () => {
    const asked = vi.fn(async (request: Request) =>
      asked.mock.calls.length
        ? new Response(await request.text(), { headers: { "Content-Type": "application/json" } })
        : new Response(),
    );
    vi.stubGlobal("fetch", asked);
    useMarking.getState().take("polyline");
    useMarking.getState().add(snap(10, 20, "corner of Wall"));
    const body = (await snapped("house", 30, 40, 2)) as unknown as Record<string, unknown>;
    expect(body).toMatchObject({
      x: 30,
      y: 40,
      reach: 2,
      lies: "face",
      plane: { lies: "face" },
      on: [1, 0, 2],
      before: [10, 20],
    });
    expect(useMarking.getState().called).toBe("corner of Wall");
  });

  test("of the ground is drawn on the cut, whatever was chosen", async () => {
    vi.stubGlobal(
      "fetch",
      async (request: Request) =>
        new Response(await request.text(), { headers: { "Content-Type": "application/json" } }),
    );
    useMarking.getState().take("ground");
    useMarking.getState().set({ lies: "paper" });
    expect(await snapped("house", 1, 2, 3)).toMatchObject({ lies: "cut", plane: null, on: null });
  });

  test("that nothing can catch says why, and waits", async () => {
    vi.stubGlobal(
      "fetch",
      async () =>
        new Response(JSON.stringify({ message: "Nothing lies there." }), {
          status: 422,
          headers: { "Content-Type": "application/json" },
        }),
    );
    const said = vi.fn();
    expect(await snapped("house", 1, 2, 3, said)).toBeNull();
    expect(said).toHaveBeenCalledWith("Nothing lies there.");
  });

  test("is ended by its last point, or by Enter once it has enough", () => {
    expect(KINDS.filter((k) => isEnded(k, 2))).toEqual(["line", "rectangle", "circle"]);
    expect(KINDS.filter((k) => isEnded(k, 3))).toEqual(["arc"]);
    expect(KINDS.filter((k) => !canEnd(k, 2) && canEnd(k, 3))).toEqual(["polygon", "arc"]);
    expect(KINDS.filter(isFree)).toEqual(["stroke", "brush", "ground"]);
  });

  test("has a name and an id that no other has", () => {
    const taken = [
      { id: "mark-1", kind: "line", name: "Line" },
      { id: "mark-3", kind: "line", name: "Line 2" },
    ] as Mark[];
    const mark = markOf(
      "line",
      [
        [0, 0, 0],
        [1, 0, 0],
      ],
      PLANE,
      taken,
      50,
    );
    expect([mark.id, mark.name]).toEqual(["mark-2", "Line 3"]);
  });

  test("of a brush is as wide on the model as it is on the paper", () => {
    const width = (lies: string, scale: number) =>
      (markOf("brush", [[0, 0, 0]], { ...PLANE, lies } as Plane, [], scale) as { width: number }).width;
    expect(width("face", 50)).toBeCloseTo(0.7);
    expect(width("face", 100)).toBeCloseTo(1.4);
    expect(width("paper", 100)).toBe(14);
  });

  test("of the ground is earth with a depth and an edge", () => {
    expect(markOf("ground", [[0, 0, 0]], PLANE, [], 50)).toMatchObject({
      depth: 2,
      edge: "fading",
      fills: [{ kind: "hatch", pattern: "earth" }],
    });
  });
});

describe("an outline", () => {
  test("is handed on once it is closed with three corners or more", () => {
    const then = vi.fn();
    const draw = (corners: number, done: boolean) => {
      useOutlining.getState().begin(then);
      for (let k = 0; k < corners; k++) useOutlining.getState().add([k, k * k]);
      useOutlining.getState().end(done);
    };
    draw(2, true);
    draw(4, false);
    expect(then).not.toHaveBeenCalled();
    draw(3, true);
    expect(then).toHaveBeenCalledWith([
      [0, 0],
      [1, 1],
      [2, 4],
    ]);
    expect(useOutlining.getState().corners).toBeNull();
  });
  test("takes no corner while none is drawn", () => {
    useOutlining.getState().add([1, 1]);
    expect(useOutlining.getState().corners).toBeNull();
  });
});

describe("the hand", () => {
  test("holds one thing at a time, and nothing once it is laid back", () => {
    const { take, takeBuildUp, takeStock, grows, lay } = usePouring.getState();
    const held = () => {
      const { fill, buildUp, stock, trace, called } = usePouring.getState();
      return [fill && "fill", buildUp, stock?.id ?? null, trace, called];
    };
    takeStock({ id: "texture-brick", label: "Brick" } as StockItem);
    grows("brick-1");
    expect(held()).toEqual([null, "", "texture-brick", "brick-1", "Brick"]);
    take({ kind: "flat", colour: "#000000", opacity: 1 } as never, "Black");
    expect(held()).toEqual(["fill", "", null, "", "Black"]);
    takeBuildUp("wall", "Outer wall");
    expect(held()).toEqual([null, "wall", null, "", "Outer wall"]);
    lay();
    expect(held()).toEqual([null, "", null, "", ""]);
  });
  const pointed = (...words: string[]) => ({ widenings: words.map((word) => ({ word })) }) as unknown as Pointed;
  test.each([
    ["part", pointed("region", "face", "part", "layer"), 2],
    ["material", pointed("region", "face", "part", "layer"), 2],
    ["layer", pointed("region", "face", "part", "layer"), 3],
    ["layer", pointed("region"), 0],
    ["face", pointed(), 0],
  ] as [(typeof WIDTHS)[number], Pointed, number][])(
    "taps a %s, or the nearest narrower one that there is",
    (width, found, at) => {
      expect(widened(found, width)).toBe(at);
    },
  );
});

describe("fills", () => {
  const pattern = (name: string, group: string) => ({ name, group, label: `${name}!` }) as Pattern;
  test.each([
    [pattern("bond", "walls"), false, "face", 0.09],
    [pattern("bond", "walls"), true, "paper", 0.12],
    [pattern("water", "ground"), false, "face", 0.09],
    [pattern("dots", "plain"), false, "paper", 0.12],
  ])("lie in metres on what they show and on the paper in what is cut: %#", (found, cut, lies, weight) => {
    expect(usualFill(found, cut)).toMatchObject({ kind: "hatch", pattern: found.name, lies, weight });
  });
  test("without a pattern are flat", () =>
    expect(usualFill(undefined, true)).toMatchObject({ kind: "flat", opacity: 1 }));
  test("are called after their pattern", () => {
    const known = [pattern("bond", "walls")];
    expect(
      [{ ...BARE, pattern: "bond" }, { ...BARE, pattern: "mine" }, { kind: "flat" }].map((f) =>
        calledFill(f as never, known),
      ),
    ).toEqual(["bond!", "One’s own", "Flat"]);
  });
  test("are drawn at the drawing's scale on its own paper", () => {
    const study = (scale: number | null, on = true) =>
      ({
        document: { desk: { view: { frame: { scale } } } },
        look: { traces: [{ kind: "wash" }, { kind: "paper", on, colour: "#eeddcc" }] },
      }) as unknown as Study;
    expect([scaleOf(study(20)), scaleOf(study(null))]).toEqual([20, 100]);
    expect([paperOf(study(20)), paperOf(study(20, false))]).toEqual(["#eeddcc", undefined]);
  });
});

describe("stock", () => {
  const item = {
    id: "texture-standing_seam",
    label: "Standing seam",
    trace: { kind: "texture", texture: "standing seam" },
  } as unknown as StockItem;
  test("has one scale with patterns where the drawing has none", () => {
    const study = { document: { desk: { view: { frame: { scale: null } } } } } as unknown as Study;
    expect(new URLSearchParams(sampleOf(item, study).split("?")[1]).get("scale")).toBe(String(scaleOf(study)));
  });
  test.each([
    [{ lay: "in rows" }, { lay: "patches" }], // words of one length
    [{ real_width: 0.5 }, { real_width: 0.7 }],
    [
      { a: 1, b: 2 },
      { a: 2, b: 1 },
    ],
    [[], {}],
  ])("%o and %o have not one picture", (one, other) => {
    expect(versionOf(one)).toBe(versionOf(structuredClone(one)));
    expect(versionOf(one)).not.toBe(versionOf(other));
  });
  test("becomes a trace with an id and a name of its own", () => {
    const first = asTrace(item, []),
      again = asTrace(item, [first, { id: "standing-seam-2", name: "x" } as Trace]);
    expect([first.id, first.name, again.id, again.name]).toEqual([
      "standing-seam",
      "Standing seam",
      "standing-seam-3",
      "Standing seam 2",
    ]);
  });
  test("free words are the first with a number that is not taken", () => {
    expect([free("a", []), free("a", ["a"]), free("a", ["a", "a-2"]), free("a", ["a"], " ")]).toEqual([
      "a",
      "a-2",
      "a-3",
      "a 2",
    ]);
  });
  test("is shown as it lies at the drawing's own scale", () => {
    const study = { document: { desk: { view: { frame: { scale: 20 } } } } } as unknown as Study;
    const asked = new URL(sampleOf(item, study, "v7"), "http://desk.test");
    expect([asked.pathname, asked.searchParams.get("scale"), asked.searchParams.get("version")]).toEqual([
      "/api/stock/texture-standing_seam/sample",
      "20",
      "v7",
    ]);
  });
});

describe("figures", () => {
  test("are grouped by what was said, or by their kind", () => {
    expect(groupOf({ kind: "person", group: "Visitors" } as never)).toBe("Visitors");
    expect(groupOf({ kind: "person", group: "" } as never)).not.toBe("");
  });
  test("are called after what they are of the stock", () => {
    expect(calledBy({ kind: "person", pose: "walking", name: "" } as never, [])).toBeTruthy();
  });
});

test("lines and rings become paths", () => {
  expect(
    linesPath([
      [
        [0, 0],
        [1, 2],
      ],
      [
        [3, 4],
        [5, 6],
      ],
    ]),
  ).toBe("M0 0L1 2M3 4L5 6");
  expect(
    pathOfRings([
      [
        [0, 0],
        [1, 0],
        [1, 1],
      ],
    ] as never),
  ).toBe("M0 0L1 0L1 1Z");
});

describe("the screen", () => {
  test("chooses at each bench by itself", () => {
    const { go, choose } = useScreen.getState();
    go("Ink");
    choose({ kind: "pen", id: "p" });
    go("Sheet");
    choose({ kind: "note", id: "n" });
    expect([useScreen.getState().chosen.Ink?.id, useScreen.getState().chosen.Sheet?.id]).toEqual(["p", "n"]);
  });
  test("looks at a trace alone at the Collage bench only", () => {
    useScreen.getState().go("Collage");
    useScreen.getState().set({ alone: "wash", compare: { without: "wash", across: 0.3 } });
    useScreen.getState().go("Collage");
    expect(useScreen.getState().alone).toBe("wash");
    useScreen.getState().go("Ink");
    expect([useScreen.getState().alone, useScreen.getState().compare]).toEqual(["", null]);
  });
});
