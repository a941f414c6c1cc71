/** The forms of the benches say what was changed, in the trade's words, and nothing else. */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { fireEvent, render, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import type { ReactNode } from "react";
import { beforeEach, describe, expect, test, vi } from "vitest";

import type { Cut, Desk, Fill, Query, Trace } from "../src/api/client";
import { FillStack } from "../src/benches/ink/FillStack";
import { Takes } from "../src/benches/ink/Takes";
import { rangeTo } from "../src/benches/model/PartTree";
import { CutSettings } from "../src/benches/view/CutSettings";
import { FrameSettings } from "../src/benches/view/FrameSettings";
import { useScreen } from "../src/desk/screen";
import { Shelf } from "../src/desk/Shelf";
import type { Editing } from "../src/desk/study";

const PATTERNS = [
  { name: "parallel", label: "Parallel lines", group: "plain", spacing: 2, metres: 0.1 },
  { name: "bond", label: "Brick bond", group: "walls", spacing: 3, metres: 0.075 },
];
const name = (name: string, label: string) => ({ name, label, options: {}, shown: [], either: false, named: true });
const WORDS = [
  ...["sets", "layers", "materials", "roles", "storeys"].map((word) => name(word, word.slice(0, -1))),
  { ...name("parts", ""), label: "" },
  { ...name("drawn", ""), named: false, options: { soft: "softly drawn" } },
  {
    ...name("ranks", "Ranks"),
    named: false,
    options: { cut: "cut", edge: "edges", surface: "joints" },
    shown: ["lines"],
  },
  {
    ...name("hidden", "Seen or hidden"),
    named: false,
    either: true,
    options: { yes: "hidden", no: "seen" },
    shown: ["lines"],
  },
  { ...name("light", "Light"), named: false, options: { lit: "lit", shade: "shade" }, shown: ["regions"] },
  { ...name("facing", "Facing"), named: false, options: { up: "up" }, shown: ["regions"] },
];
const CHOICES = {
  words: WORDS,
  roles: ["structure", "glass"],
  ink: { patterns: PATTERNS, hatch: [] },
  papers: { A3: [420, 297], A4: [297, 210] },
  scales: [
    { scale: 50, label: "1:50", system: "metric" },
    { scale: 100, label: "1:100", system: "metric" },
    { scale: 48, label: "1/4″ = 1′", system: "imperial" },
  ],
};
const PARTS = {
  sets: { "Shell only": [0] },
  materials: [{ name: "Brick" }, { name: "Oak" }],
  layer: [0, 2, 1],
  layers: ["", "Level 10/Walls [new]", "Level 2"],
};

function shown(what: ReactNode) {
  const queries = new QueryClient({
    defaultOptions: { queries: { retry: false, queryFn: () => new Promise(() => undefined), staleTime: Infinity } },
  });
  queries.setQueryData(["choices"], CHOICES);
  queries.setQueryData(["parts", "house", "m"], PARTS);
  vi.stubGlobal("fetch", () => new Promise(() => undefined));
  return render(<QueryClientProvider client={queries}>{what}</QueryClientProvider>);
}

type Frame = Record<string, unknown>;
function editingOf({
  frame = {},
  projection = { kind: "parallel" },
  kind = "plan",
  traces = [] as Trace[],
}: { frame?: Frame; projection?: Record<string, unknown>; kind?: string; traces?: Trace[] } = {}) {
  const view = { frame: { width: 420, height: 297, scale: 50, resolution: 300, ...frame }, projection };
  const study = {
    slug: "house",
    revision: 5,
    model: { version: "m" },
    kind: { kind },
    look: { traces },
    document: { desk: { view, view_id: "v" }, views: [], finishes: [] },
  };
  return { study, saved: { view }, look: vi.fn(), view: vi.fn(), paper: vi.fn(), act: vi.fn() } as unknown as Editing &
    Record<"look" | "view" | "paper" | "act", ReturnType<typeof vi.fn>>;
}

const pick = async (list: string, option: string) => {
  screen.getByRole("combobox", { name: list }).focus();
  await userEvent.keyboard("{Enter}");
  await userEvent.click(screen.getByRole("option", { name: option }));
};
const options = async (list: string) => {
  screen.getByRole("combobox", { name: list }).focus();
  await userEvent.keyboard("{Enter}");
  const found = screen.getAllByRole("option").map((o) => o.textContent);
  await userEvent.keyboard("{Escape}");
  return found;
};

describe("fills of a rule", () => {
  const flat = { kind: "flat", colour: "#ffffff", opacity: 1 } as Fill;
  const hatch = { kind: "hatch", pattern: "bond", lies: "paper", weight: 0.12 } as Fill;
  const stack = (fills: Fill[], cut = true) => {
    const told = vi.fn();
    shown(<FillStack editing={editingOf()} fills={fills} cut={cut} onChange={told} />);
    return told;
  };
  test("are listed with the uppermost first, which is the one that is chosen", () => {
    stack([flat, hatch]);
    const rows = within(screen.getByRole("list", { name: /uppermost first/ })).getAllByRole("listitem");
    expect(rows.map((row) => row.textContent)).toEqual([
      expect.stringContaining("Brick bond"),
      expect.stringContaining("Flat"),
    ]);
    expect(rows.map((row) => row.dataset.chosen)).toEqual(["true", "false"]);
  });
  test("are laid higher and lower, not beyond the ends", async () => {
    const told = stack([flat, hatch]);
    expect((screen.getByRole("button", { name: "Lay this fill higher" }) as HTMLButtonElement).disabled).toBe(true);
    await userEvent.click(screen.getByRole("button", { name: "Lay this fill lower" }));
    expect(told).toHaveBeenCalledWith([hatch, flat], "Order of fills");
  });
  test("are added and taken out", async () => {
    const told = stack([flat]);
    await userEvent.click(screen.getByRole("button", { name: "Add a hatch" }));
    expect(told).toHaveBeenLastCalledWith(
      [flat, expect.objectContaining({ kind: "hatch", pattern: "parallel", lies: "paper" })],
      "Add Parallel lines",
    );
    await userEvent.click(screen.getByRole("button", { name: "Take this fill out" }));
    expect(told).toHaveBeenLastCalledWith([], "Take a fill out");
  });
  test("are eight at most", () => {
    stack(Array.from({ length: 8 }, () => flat));
    expect(screen.queryByRole("button", { name: "Add a flat" })).toBeNull();
  });
  test.each([
    [true, "Left void."],
    [false, "Nothing is laid here."],
  ])("that are none say what that means where it is cut: %s", (cut, words) => {
    stack([], cut);
    expect(screen.getByText(words)).toBeTruthy();
  });
  test("take another pattern at its own usual spacing", async () => {
    const told = stack([{ ...hatch, spacing: 9 } as Fill]);
    await userEvent.click(screen.getByRole("button", { name: /^Pattern/ }));
    await userEvent.click(screen.getByRole("option", { name: "Parallel lines" }));
    expect(told).toHaveBeenCalledWith(
      [expect.objectContaining({ pattern: "parallel", spacing: null, weight: 0.12 })],
      "Parallel lines",
    );
  });
  test("lie on the paper or in metres, with a spacing in its unit", async () => {
    const told = stack([hatch], false);
    expect(screen.getByRole("slider", { name: "Spacing" }).getAttribute("aria-valuenow")).toBe("3");
    await pick("It lies", "on the face");
    expect(told).toHaveBeenCalledWith([expect.objectContaining({ lies: "face", spacing: null })], "Where a hatch lies");
  });
});

describe("a cutting plane", () => {
  const cut = { point: [1, 2, 3], normal: [0, -1, 0], role: "cut", jogs: [] } as unknown as Cut;
  const plane = (some: Partial<Cut> = {}) => {
    const told = vi.fn(),
      axis = vi.fn(),
      removed = vi.fn();
    render(
      <CutSettings
        number={1}
        cut={{ ...cut, ...some }}
        low={[0, -4, 0]}
        high={[9, 6, 7]}
        levels={[{ name: "Hall", height: 3.4 }]}
        onChange={told}
        onAxis={axis}
        onRemove={removed}
      />,
    );
    return { told, axis, removed };
  };
  test("moves within the model, by what is typed", async () => {
    const { told } = plane();
    const place = screen.getByRole("slider", { name: "Place" });
    expect([place.getAttribute("aria-valuemin"), place.getAttribute("aria-valuemax")]).toEqual(["-4", "6"]);
    const field = screen.getByRole("textbox", { name: "Place" });
    await userEvent.clear(field);
    await userEvent.type(field, "3.5{Enter}");
    expect(told).toHaveBeenCalledWith(expect.objectContaining({ point: [1, 3.5, 3] }), "Move the plane");
  });
  test("flips to look the other way", async () => {
    const { told } = plane();
    await userEvent.click(screen.getByRole("button", { name: "Flip" }));
    const [flipped] = told.mock.calls[0]!;
    expect((flipped as Cut).normal.map((n: number) => n + 0)).toEqual([0, 1, 0]);
  });
  test("limits the depth in place of cutting", async () => {
    const { told } = plane();
    await pick("What it does", "limits the depth");
    expect(told).toHaveBeenCalledWith(expect.objectContaining({ role: "limit" }), "Change the plane");
  });
  test("that lies level cuts 1.20 m above a storey", async () => {
    const { told } = plane({ normal: [0, 0, 1] } as never);
    await pick("Above a storey", "1.20 m above Hall");
    expect((told.mock.calls[0]![0] as Cut).point[2]).toBeCloseTo(4.6);
  });
  test("that stands is asked of no storey", () => {
    plane();
    expect(screen.queryByText("Above a storey")).toBeNull();
  });
  test("is stepped, each step beyond the one before", async () => {
    const { told } = plane({ jogs: [{ at: 2, by: 1 }] } as never);
    await userEvent.click(screen.getByRole("button", { name: "Add a step" }));
    expect((told.mock.calls[0]![0] as Cut).jogs).toEqual([
      { at: 2, by: 1 },
      { at: 3, by: 1 },
    ]);
    await userEvent.click(screen.getByRole("button", { name: "Remove this step" }));
    expect((told.mock.calls[1]![0] as Cut).jogs).toEqual([]);
  });
});

describe("the paper", () => {
  const frame = (some: Parameters<typeof editingOf>[0] = {}, scale: number | null = 50) => {
    const editing = editingOf(some),
      set = vi.fn();
    shown(<FrameSettings editing={editing} scale={scale} set={set} />);
    return { editing, set };
  };
  test("keeps the way it lies when it is changed", async () => {
    const { set } = frame({ frame: { width: 297, height: 420 } });
    expect(screen.getByRole("combobox", { name: "Paper size" }).textContent).toContain("A3");
    await pick("Paper size", "A4");
    expect(set).toHaveBeenCalledWith(
      "Change the paper",
      ["frame"],
      expect.objectContaining({ width: 210, height: 297 }),
    );
  });
  test("is turned", async () => {
    const { set } = frame();
    await pick("Lies", "portrait");
    expect(set).toHaveBeenCalledWith(
      "Change the paper",
      ["frame"],
      expect.objectContaining({ width: 297, height: 420 }),
    );
  });
  test("of a free size says its sides", async () => {
    const { set } = frame({ frame: { width: 500, height: 300 } });
    const field = screen.getByRole("textbox", { name: "Width" });
    await userEvent.clear(field);
    await userEvent.type(field, "640{Enter}");
    expect(set).toHaveBeenCalledWith(
      "Change the paper",
      ["frame"],
      expect.objectContaining({ width: 640, height: 300 }),
    );
  });
  test("has a trade scale, one of its own, or the one that fits", async () => {
    const { set } = frame({ frame: { scale: 75 } });
    expect(await options("Scale")).toEqual(["to fit (1:50)", "1:50", "1:100", "1/4″ = 1′", "1:75"]);
    await pick("Scale", "1:100");
    expect(set).toHaveBeenLastCalledWith("Scale 1:100", ["frame", "scale"], 100);
    await pick("Scale", "to fit (1:50)");
    expect(set).toHaveBeenLastCalledWith("Scale to fit", ["frame", "scale"], null);
  });
  test("holds a scale in a perspective on the plane that it looks at", async () => {
    const { editing } = frame(
      {
        projection: { kind: "perspective", eye: [0, -3, 1], target: [0, 0, 5], upright: true },
        kind: "two-point perspective",
      },
      null,
    );
    await pick("Scale where it looks", "1:50");
    expect(editing.view).toHaveBeenCalledWith("Scale 1:50 where it looks", [
      { path: ["projection", "scale_distance"], do: "set", value: 3 },
      { path: ["frame", "scale"], do: "set", value: 50 },
    ]);
  });
  test("is drawn out on a side by what is said", async () => {
    const { editing } = frame();
    const field = screen.getByRole("textbox", { name: "Draw the paper out by" });
    fireEvent.change(field, { target: { value: "35" } });
    await userEvent.click(screen.getByRole("button", { name: "top" }));
    await userEvent.click(screen.getByRole("button", { name: "Fit the drawing" }));
    expect(editing.paper.mock.calls).toEqual([["top", 35], []]);
  });
});

describe("what a rule takes hold of", () => {
  const takes = (where: Record<string, unknown>, what: "lines" | "parts" | "seen" = "lines") => {
    const told = vi.fn();
    shown(<Takes editing={editingOf()} what={what} where={{ kind: "match", ...where } as Query} onChange={told} />);
    return told;
  };
  test("of lines are ranks, in their own order whichever was pressed first", async () => {
    const told = takes({ ranks: ["surface"] });
    await userEvent.click(screen.getByRole("button", { name: "cut" }));
    expect(told).toHaveBeenLastCalledWith(expect.objectContaining({ ranks: ["cut", "surface"] }));
    await userEvent.click(screen.getByRole("button", { name: "joints" }));
    expect(told).toHaveBeenLastCalledWith(expect.objectContaining({ ranks: [] }));
  });
  test("of lines are seen, hidden, or both", async () => {
    const told = takes({ hidden: true });
    await pick("Seen or hidden", "both");
    expect(told).toHaveBeenCalledWith(expect.objectContaining({ hidden: null }));
  });
  test("is one thing at a time: what was said before is taken back", async () => {
    const told = takes({ materials: ["Brick"] });
    expect(screen.getByRole("combobox", { name: "Of" }).textContent).toContain("material Brick");
    await pick("Of", "role glass");
    expect(told).toHaveBeenCalledWith(expect.objectContaining({ roles: ["glass"], materials: [], sets: [] }));
  });
  test("offers layers by their names, and takes one by its name alone", async () => {
    const told = takes({});
    expect((await options("Of")).filter((o) => o!.startsWith("layer"))).toEqual([
      "layer Level 2",
      "layer Level 10/Walls [new]",
    ]);
    await pick("Of", "layer Level 10/Walls [new]");
    expect(told).toHaveBeenCalledWith(expect.objectContaining({ layers: ["Level 10/Walls [[]new]"], materials: [] }));
  });
  test("says a layer by its name where a rule holds one", () => {
    takes({ layers: ["Level 10/Walls [[]new]"] });
    expect(screen.getByRole("combobox", { name: "Of" }).textContent).toContain("layer Level 10/Walls [new]");
  });
  test("that says several things is kept as it reads", async () => {
    const told = takes({ materials: ["Brick"], roles: ["glass"] });
    await pick("Of", "several, as it reads");
    expect(told).not.toHaveBeenCalled();
  });
  test("of what is seen are light and facing, any number of them", async () => {
    const told = takes({ light: ["lit"], facing: ["up"] }, "seen");
    await userEvent.click(screen.getByRole("button", { name: "shade" }));
    expect(told).toHaveBeenLastCalledWith(expect.objectContaining({ light: ["lit", "shade"] }));
    await userEvent.click(screen.getByRole("button", { name: "up" }));
    expect(told).toHaveBeenLastCalledWith(expect.objectContaining({ facing: [] }));
  });
  test("beyond a form is said, and left as it is", () => {
    shown(
      <Takes
        editing={editingOf()}
        what="lines"
        where={{ kind: "any", of: [] } as unknown as Query}
        onChange={vi.fn()}
      />,
    );
    expect(screen.getByText(/put together of several queries/)).toBeTruthy();
  });
});

describe("the shelf", () => {
  const trace = (id: string, some: Record<string, unknown> = {}) =>
    ({ id, name: `Trace ${id}`, on: true, kind: "wash", ...some }) as unknown as Trace;
  const desk = (rows: Record<string, unknown>[], some: Record<string, unknown> = {}) =>
    ({ revision: 5, fresh: true, job: null, traces: rows, ...some }) as unknown as Desk;
  beforeEach(() =>
    useScreen.setState((s) => ({
      bench: "Collage",
      opened: [],
      without: "",
      chosen: { ...s.chosen, Collage: { kind: "trace", id: "a" } },
    })),
  );
  const names = () =>
    within(screen.getByRole("region", { name: "Trace shelf" }))
      .getAllByRole("button")
      .map((b) => b.getAttribute("aria-label"));

  test("says of each trace whether it is fresh, off, or to be remarked on", () => {
    shown(
      <Shelf
        editing={editingOf({ traces: [trace("a"), trace("b", { on: false }), trace("c")] })}
        desk={desk([{ id: "c", fresh: false, remarks: ["The camera moved."] }])}
      />,
    );
    expect(names()).toEqual(["Trace a, stale", "Trace b, stale, off", "Trace c, stale. The camera moved."]);
  });
  test("says that it computes while a job runs, and nothing of another state of the study", () => {
    shown(
      <Shelf
        editing={editingOf({ traces: [trace("a")] })}
        desk={desk([{ id: "a", fresh: true, remarks: ["Old."] }], { revision: 4, job: { state: "working" } })}
      />,
    );
    expect(names()).toEqual(["Trace a, computing"]);
  });
  test("lays traces of one bundle as one, until it is opened", async () => {
    const traces = [
      trace("a"),
      trace("b", { bundle: "Sky" }),
      trace("c", { bundle: "Sky" }),
      trace("d"),
      trace("e", { bundle: "Sky" }),
    ];
    shown(<Shelf editing={editingOf({ traces })} desk={undefined} />);
    expect(names()).toEqual([
      "Trace a, stale",
      "Sky, stale, a bundle of 2",
      "Trace d, stale",
      "Sky, stale, a bundle of 1",
    ]);
    await userEvent.click(screen.getByRole("button", { name: "Sky, stale, a bundle of 2" }));
    expect(useScreen.getState().opened).toEqual(["Sky"]);
    expect(names()).toHaveLength(5);
    expect(useScreen.getState().chosen.Collage).toEqual({ kind: "trace", id: "c" });
  });
  test("holds a trace away while W is pressed", () => {
    shown(<Shelf editing={editingOf({ traces: [trace("a"), trace("b")] })} desk={undefined} />);
    const sheet = screen.getByRole("button", { name: "Trace b, stale" });
    fireEvent.keyDown(sheet, { key: "w" });
    expect(useScreen.getState().without).toBe("b");
    fireEvent.keyUp(sheet, { key: "w" });
    expect(useScreen.getState().without).toBe("");
  });
  test("goes to the Collage bench with what is pressed", async () => {
    useScreen.setState({ bench: "Ink" });
    shown(<Shelf editing={editingOf({ traces: [trace("a"), trace("b")] })} desk={undefined} />);
    await userEvent.click(screen.getByRole("button", { name: "Trace b, stale" }));
    expect([useScreen.getState().bench, useScreen.getState().chosen.Collage?.id]).toEqual(["Collage", "b"]);
  });
});

test.each([
  [[1, 2, 3, 4], 2, 4, [2, 3, 4]],
  [[1, 2, 3, 4], 4, 2, [2, 3, 4]],
  [[1, 2, 3, 4], null, 3, [3]],
  [[1, 2, 3, 4], 9, 3, [3]],
])("with Shift all rows of %j from %s to %s come along", (order, anchor, part, found) => {
  expect(rangeTo(order, anchor, part)).toEqual(found);
});
