/** The parts of a model: found, ordered, chosen, and told what they are. */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { fireEvent, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import type { ReactNode } from "react";
import { beforeEach, describe, expect, test, vi } from "vitest";

import type { Parts } from "../src/api/client";
import { useChoice } from "../src/benches/model/choice";
import {
  COLOURINGS,
  filtered,
  grown,
  lookOf,
  NO_FILTER,
  pathOf,
  patternOf,
  roleTone,
  sorted,
  treeRows,
  usualOf,
} from "../src/benches/model/parts";
import { PartSettings } from "../src/benches/model/PartSettings";
import { PartTree } from "../src/benches/model/PartTree";
import type { Editing } from "../src/desk/study";
import { STATE } from "../src/shared/look";

const solid = { cut: true, clear: false, drawn: "plain", poche: "solid" };
/** Six parts: a wall and a slab of the house, a pane, two trees of a site, and one that is gone. */
const parts = (some: Partial<Parts> = {}): Parts =>
  ({
    name: ["Wall", "Slab 10", "Pane", "Tree 2", "Tree 10", "Gone"],
    layer: [1, 1, 1, 2, 2, 0],
    layers: ["", "House/Ground floor", "Site/Planting"],
    role: [0, 0, 1, 2, 2, 0],
    roles: ["structure", "glass", "planting"],
    material: [0, 0, 1, 2, 2, 0],
    materials: [
      { name: "Brick", shown: "#a06040", clear: false },
      { name: "Float glass", shown: "#b0d0d0", clear: true },
      { name: "Leaves", shown: "#60703c", clear: false },
    ],
    shape: [1, 2, 3, 4, 4, 5],
    size: [6, 0.3, 3, 6, 8, 0.25, 1, 0.02, 2, 3, 3, 7, 4, 4, 9, 1, 1, 1],
    middle: [3, 0, 1.5, 3, 4, 0, 3, 0, 1.5, 20, 0, 3.5, 30, 0, 4.5, 0, 0, 0],
    triangles: [12, 12, 4, 900, 1200, 12],
    behaviour: { structure: solid, glass: { ...solid, drawn: "soft" }, planting: { ...solid, cut: false } },
    overruled: {},
    absent: [5],
    hidden: [],
    dropped: [],
    clear: [2],
    earth: [],
    sets: {},
    joined: [],
    rooms: [],
    contour_interval: null,
    contour_index: 5,
    ...some,
  }) as unknown as Parts;

function editingOf(view: Record<string, unknown> = {}) {
  const study = {
    slug: "house",
    revision: 3,
    model: {
      version: "m",
      low: [0, -1, 0],
      high: [12, 8, 6.5],
      parts: 6,
      triangles: 2140,
      source: "house.obj",
      origin: [0, 0, 0],
      units: "mm",
      up: "y",
    },
    document: { name: "House", desk: { view } },
  };
  return { study, model: vi.fn(), view: vi.fn(), act: vi.fn() } as unknown as Editing &
    Record<"model" | "view", ReturnType<typeof vi.fn>>;
}

function shown(what: ReactNode) {
  const queries = new QueryClient({
    defaultOptions: { queries: { retry: false, staleTime: Infinity, queryFn: () => new Promise(() => undefined) } },
  });
  queries.setQueryData(["choices"], { units: { m: 1, cm: 0.01, mm: 0.001, ft: 0.3048, in: 0.0254 } });
  vi.stubGlobal("fetch", () => new Promise(() => undefined));
  return render(<QueryClientProvider client={queries}>{what}</QueryClientProvider>);
}

beforeEach(() =>
  useChoice.setState({ chosen: new Set(), anchor: null, filter: NO_FILTER, leaf: "Parts", flight: null }),
);

describe("a filter", () => {
  const found = (some: Partial<typeof NO_FILTER>, troubled: number[] = []) =>
    filtered(parts(), { ...NO_FILTER, ...some }, new Set(troubled));
  test("of nothing finds all that are there, and never what is gone", () => expect(found({})).toEqual([0, 1, 2, 3, 4]));
  test.each([
    [{ words: "tree" }, [3, 4]],
    [{ words: "TREE 10" }, [4]],
    [{ words: "ground brick" }, [0, 1]], // each word anywhere: layer, material
    [{ words: "glass" }, [2]],
    [{ role: "structure" }, [0, 1]],
    [{ material: 0 }, [0, 1]],
    [{ least: 7 }, [1, 3, 4]],
    [{ most: 6 }, [0, 2]],
    [{ least: 5, most: 8, words: "s" }, [0, 1, 3]],
    [{ words: "nowhere" }, []],
  ])("of %o finds %o", (some, wanted) => expect(found(some)).toEqual(wanted));
  test("of a problem finds what it is about, within the rest", () =>
    expect(found({ problem: "open", words: "tree" }, [1, 4])).toEqual([4]));
});

describe("the tree of layers", () => {
  const rows = (open: string[], numbers = [0, 1, 2, 3, 4]) =>
    treeRows(parts(), numbers, new Set(open)).map((r) =>
      r.kind === "layer" ? `${r.depth}${r.path}:${r.parts.length}` : `${r.depth}#${r.part}`,
    );
  test("shows closed layers with all that is below them", () => expect(rows([])).toEqual(["0House:3", "0Site:2"]));
  test("shows what is below an open one", () =>
    expect(rows(["House", "House/Ground floor"])).toEqual([
      "0House:3",
      "1House/Ground floor:3",
      "2#0",
      "2#1",
      "2#2",
      "0Site:2",
    ]));
  test("leaves out layers of which nothing is wanted", () =>
    expect(rows(["Site"], [4])).toEqual(["0Site:1", "1Site/Planting:1"]));
  test("has a place for what has no layer", () => expect(rows(["No layer"], [5])).toEqual(["0No layer:1", "1#5"]));
});

test.each([
  ["name", false, [2, 1, 3, 4, 0]],
  ["name", true, [0, 4, 3, 1, 2]],
  ["size", false, [2, 0, 3, 1, 4]],
  ["triangles", false, [2, 0, 1, 3, 4]],
  ["layer", false, [0, 1, 2, 3, 4]],
  ["role", false, [2, 3, 4, 0, 1]],
  ["material", false, [0, 1, 2, 3, 4]],
] as const)("by %s (downwards: %s) they stand as one would count: 2 before 10", (column, down, wanted) => {
  expect(sorted(parts(), [0, 1, 2, 3, 4], column, down)).toEqual(wanted);
});

test("a path names one part alone, whatever signs are in its name", () => {
  const odd = parts({ name: ["Wall [2]*", "Slab", "Pane", "A", "B", "C"] });
  expect([pathOf(odd, 0), patternOf(odd, 0), pathOf(parts(), 5)]).toEqual([
    "House/Ground floor/Wall [2]*",
    "House/Ground floor/Wall [[]2][*]",
    "Gone",
  ]);
});

test("a part is seen through as its material is, whatever its role says", () => {
  expect([usualOf(parts(), 2).clear, usualOf(parts(), 0).clear, usualOf(parts(), 3).cut]).toEqual([true, false, false]);
});

test.each([
  ["layer", [0], [0, 1, 2]],
  ["material", [0], [0, 1]],
  ["role", [0, 2], [0, 1, 2]],
  ["shape", [3], [3, 4]],
] as const)("what shares its %s with a choice is found, but for what is gone", (by, from, wanted) =>
  expect(grown(parts(), new Set(from), by)).toEqual(wanted),
);

describe("how they look", () => {
  const of = (by: (typeof COLOURINGS)[number], some: Partial<Parts> = {}) =>
    lookOf(parts(some), by, new Set([1]), new Set([4]), { hidden: [0], uncut: [3] });
  test("chosen, hidden and left whole are told apart", () => {
    expect([...of("material", { earth: [3] }).state]).toEqual([
      STATE.hidden,
      STATE.chosen,
      0,
      STATE.uncut | STATE.earth,
      0,
      0,
    ]);
  });
  test("what is seen through is fainter than what is not", () => {
    const alpha = [...of("role").tone].filter((_, k) => k % 4 === 3);
    expect(alpha.map((a) => a < 255)).toEqual([false, false, true, false, false, false]);
  });
  test("one layer has one colour, and another another", () => {
    const tone = (n: number) => [...of("layer").tone.slice(4 * n, 4 * n + 3)].join();
    expect([tone(0) === tone(1), tone(0) === tone(3), tone(3) === tone(4)]).toEqual([true, false, true]);
  });
  test("a problem stands out, and all else is alike", () => {
    const tone = (n: number) => [...of("problem").tone.slice(4 * n, 4 * n + 3)].join();
    expect(new Set([0, 1, 2, 3].map(tone)).size).toBe(1);
    expect(tone(4)).not.toBe(tone(0));
  });
  test("a role that nobody knows has a colour, too", () => expect(roleTone("moss")).toMatch(/^#[0-9a-f]{6}$/));
});

describe("what is chosen", () => {
  const settings = (chosen: number[], some: Partial<Parts> = {}, view = {}) => {
    useChoice.setState({ chosen: new Set(chosen) });
    const editing = editingOf(view);
    shown(<PartSettings editing={editing} parts={parts(some)} />);
    return editing;
  };
  const pick = async (list: string, option: string) => {
    screen.getByRole("combobox", { name: list }).focus();
    await userEvent.keyboard("{Enter}");
    await userEvent.click(screen.getByRole("option", { name: option }));
  };
  test("one part says its name, size and triangles", () => {
    settings([0]);
    expect(screen.getByRole("heading", { name: "Wall" })).toBeTruthy();
    expect(screen.getByText(/12 triangles · 6.00 × 0.30 × 3.00 m/)).toBeTruthy();
  });
  test("many say what they share, and that they differ where they do", () => {
    settings([0, 2]);
    expect(screen.getByRole("heading", { name: "2 parts" })).toBeTruthy();
    expect(screen.getByRole("combobox", { name: "Role" }).textContent).toContain("several");
    expect((screen.getByLabelText("Layer") as HTMLInputElement).value).toBe("House/Ground floor");
    expect(screen.queryByLabelText("Name")).toBeNull();
  });
  test("several layers are no layer that one could write over by chance", () => {
    const editing = settings([0, 3]);
    const field = screen.getByLabelText("Layer");
    expect((field as HTMLInputElement).placeholder).toBe("several layers");
    fireEvent.blur(field);
    expect(editing.model).not.toHaveBeenCalled();
    fireEvent.change(field, { target: { value: "All" } });
    fireEvent.blur(field);
    expect(editing.model).toHaveBeenCalledWith({ do: "move", parts: [0, 3], layer: "All" });
  });
  test("is given a role, a material", async () => {
    const editing = settings([0, 1]);
    await pick("Role", "planting");
    expect(editing.model).toHaveBeenLastCalledWith({ do: "role", parts: [0, 1], role: "planting" });
    await pick("Material", "Leaves");
    expect(editing.model).toHaveBeenLastCalledWith({ do: "material", parts: [0, 1], material: 2 });
  });
  test("is overruled, and goes by its role again", async () => {
    const editing = settings([0], { overruled: { 0: { cut: false } } } as Partial<Parts>);
    expect(screen.getByRole("combobox", { name: "Planes" }).textContent).toContain("leave it whole (overruled)");
    await pick("Planes", "cut it");
    expect(editing.model).toHaveBeenLastCalledWith({ do: "behave", parts: [0], field: "cut", value: null });
    await pick("Where cut", "earth hatch (overruled)");
    expect(editing.model).toHaveBeenLastCalledWith({ do: "behave", parts: [0], field: "poche", value: "earth" });
  });
  test("that is overruled in part is said to be of several sorts", () => {
    settings([0, 1], { overruled: { 0: { cut: false } } } as Partial<Parts>);
    expect(screen.getByRole("combobox", { name: "Planes" }).textContent).toContain("several");
  });
  test("is left out of the view, and taken into it again", async () => {
    const editing = settings([0, 1], {}, { parts: { hidden: ["Site/*"] } });
    await userEvent.click(screen.getByRole("button", { name: "Leave out of the view on the desk" }));
    const path = ["parts", "hidden"];
    expect(editing.view).toHaveBeenCalledWith("Leave 2 parts out of the view", [
      expect.objectContaining({ path, value: ["Site/*", "House/Ground floor/Wall", "House/Ground floor/Slab 10"] }),
    ]);
  });
  test("that is out already can only come back", async () => {
    const editing = settings([0], {}, { parts: { hidden: ["House/Ground floor/Wall", "Site/*"] } });
    await userEvent.click(screen.getByRole("button", { name: "Show in the view on the desk" }));
    expect(editing.view).toHaveBeenCalledWith("Show Wall in the view", [
      expect.objectContaining({ value: ["Site/*"] }),
    ]);
  });
  test("is dropped, and chosen no more", async () => {
    const editing = settings([1]);
    await userEvent.click(screen.getByRole("button", { name: "Drop" }));
    expect(editing.model).toHaveBeenCalledWith({ do: "drop", parts: [1] });
    expect(useChoice.getState().chosen.size).toBe(0);
  });
  test("grows by what it shares, and turns to all the others", async () => {
    settings([3]);
    await userEvent.click(screen.getByRole("button", { name: "same material" }));
    expect([...useChoice.getState().chosen]).toEqual([3, 4]);
    await userEvent.click(screen.getByRole("button", { name: "all the others" }));
    expect([...useChoice.getState().chosen]).toEqual([0, 1, 2]);
  });
  test("is flown to, wide enough for all of it", async () => {
    settings([3, 4]);
    await userEvent.click(screen.getByRole("button", { name: "Fly there" }));
    const { to, reach } = useChoice.getState().flight!;
    expect(to).toEqual([25, 0, 4]);
    expect(reach).toBeGreaterThan(10);
  });
  test("trees are offered to be dressed, walls are not", () => {
    settings([3, 4]);
    expect(screen.getByRole("button", { name: "Dress with grown ones" })).toBeTruthy();
  });
  test("nothing at all shows the model: its size, its units, its contours", async () => {
    const editing = settings([]);
    expect(screen.getByText("12.00 m")).toBeTruthy();
    expect(screen.getByText("house.obj")).toBeTruthy();
    await pick("Units of the file", "feet");
    expect(editing.model).toHaveBeenLastCalledWith({ do: "remeasure", units: "ft", up: "y" });
    await pick("Up in the file", "Z");
    expect(editing.model).toHaveBeenLastCalledWith({ do: "remeasure", units: "mm", up: "z" });
  });
});

describe("the list", () => {
  const listed = (some: Partial<Parts> = {}) => {
    const editing = editingOf();
    shown(<PartTree editing={editing} parts={parts(some)} />);
    return editing;
  };
  test("opens a layer and chooses rows, many with Shift, one more with Control", async () => {
    listed();
    await userEvent.click(screen.getByRole("button", { name: "Open layer House" }));
    await userEvent.click(screen.getByRole("button", { name: "Open layer House/Ground floor" }));
    await userEvent.click(screen.getByRole("button", { name: "Wall" }));
    fireEvent.click(screen.getByRole("button", { name: "Pane" }), { shiftKey: true });
    expect([...useChoice.getState().chosen].sort()).toEqual([0, 1, 2]);
    await userEvent.click(screen.getByRole("button", { name: "Site" }));
    expect([...useChoice.getState().chosen].sort()).toEqual([3, 4]);
  });
  test("is narrowed by words, which can all be chosen, and cleared", async () => {
    listed();
    await userEvent.type(screen.getByRole("searchbox"), "tree");
    expect(screen.getByText("2 found")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Choose these" }));
    expect([...useChoice.getState().chosen]).toEqual([3, 4]);
    await userEvent.click(screen.getByRole("button", { name: "Clear the filter" }));
    expect(screen.getByText("5 parts")).toBeTruthy();
  });
  test("says so where nothing is found", async () => {
    listed();
    await userEvent.type(screen.getByRole("searchbox"), "marble");
    expect(screen.getByText("No part is like that. Widen the filter.")).toBeTruthy();
  });
  test("brings back what is hidden or was dropped", async () => {
    const editing = listed({ hidden: [0], dropped: [5] } as Partial<Parts>);
    await userEvent.click(screen.getByRole("button", { name: "Show all" }));
    expect(editing.model).toHaveBeenLastCalledWith({ do: "show", parts: [] });
    await userEvent.click(screen.getByRole("button", { name: "Bring back" }));
    expect(editing.model).toHaveBeenLastCalledWith({ do: "restore", parts: [5] });
  });
});
