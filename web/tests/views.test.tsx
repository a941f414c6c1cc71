/** Saved views and versions of the model, as their lists tell them. */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { fireEvent, render, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import type { ReactNode } from "react";
import { toast } from "sonner";
import { beforeEach, describe, expect, test, vi } from "vitest";

import type { ModelFile } from "../src/api/client";
import { useChoice } from "../src/benches/model/choice";
import { ReportSettings, VersionList } from "../src/benches/model/Versions";
import { bearing, dollied, orbited, panned, pivot, type Vec } from "../src/benches/view/camera";
import { ViewList } from "../src/benches/view/ViewList";
import type { Editing } from "../src/desk/study";

const json = (body: unknown, status = 200) =>
  new Response(status === 204 ? null : JSON.stringify(body), {
    status,
    headers: { "Content-Type": "application/json" },
  });
const asked: string[] = [];
let answers: Record<string, () => Response> = {};
beforeEach(() => {
  asked.length = 0;
  answers = {};
  vi.stubGlobal("fetch", async (request: Request | string, init?: RequestInit) => {
    const [method, url] =
      typeof request === "string" ? [init?.method ?? "GET", request] : [request.method, request.url];
    const what = `${method} ${new URL(url, "http://desk.test").pathname.replace("/api/studies/house/", "")}`;
    asked.push(what);
    return answers[what]?.() ?? json({}, 204);
  });
});

function shown(what: ReactNode, known: [unknown[], unknown][] = []) {
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false, staleTime: Infinity } } });
  queries.setQueryData(["choices"], { formats: ["OBJ"], units: { m: 1 } });
  for (const [key, value] of known) queries.setQueryData(key, value);
  return render(<QueryClientProvider client={queries}>{what}</QueryClientProvider>);
}

const SIDE = { kind: "parallel", direction: [0, 1, 0], centre: [0, 0, 0] };
const view = (id: string, mark: string, name: string, some = {}) => ({
  id,
  mark,
  group: "",
  locked: false,
  finish: "f",
  view: { name, projection: SIDE, cuts: [] },
  ...some,
});

function editingOf(
  views = [view("a", "A", "Long section"), view("b", "B", "Street"), view("c", "C", "Plan", { group: "Plans" })],
  desk: unknown = views[0]!.view,
) {
  const study = {
    slug: "house",
    revision: 6,
    unsaved: desk !== views[0]!.view,
    model: { version: "m", source: "house.obj", low: [0, 0, 0], high: [12, 8, 6] },
    document: { name: "House", views, finishes: [{ id: "f" }], desk: { view: desk, view_id: "a" } },
  };
  return {
    study,
    saved: views[0],
    act: vi.fn(),
    model: vi.fn(),
    replace: vi.fn(),
    refresh: vi.fn(),
  } as unknown as Editing & Record<"act" | "model" | "replace", ReturnType<typeof vi.fn>>;
}
const off = (name: string | RegExp) => (screen.getByRole("button", { name }) as HTMLButtonElement).disabled;
const menu = async (of: string, item: string) => {
  await userEvent.click(screen.getByRole("button", { name: `More for ${of}` }));
  await userEvent.click(screen.getByRole("menuitem", { name: item }));
};

describe("saved views", () => {
  test("are opened, and the one on the desk is told", async () => {
    const editing = editingOf();
    shown(<ViewList editing={editing} />);
    const pressed = (name: RegExp) => screen.getByRole("button", { name, pressed: true });
    expect(pressed(/^Long section/)).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: /^Street/ }));
    expect(editing.act).toHaveBeenCalledWith(expect.objectContaining({ do: "open_view", view_id: "b" }));
  });
  test("that are as they were saved cannot be saved again or gone back to", () => {
    shown(<ViewList editing={editingOf()} />);
    expect([off("Save again"), off("Back to saved"), screen.queryByText("changed, not saved")]).toEqual([
      true,
      true,
      null,
    ]);
  });
  test("that were changed can be both", async () => {
    const editing = editingOf(undefined, {
      name: "Long section",
      projection: { ...SIDE, direction: [1, 0, 0] },
      cuts: [],
    });
    shown(<ViewList editing={editing} />);
    expect(screen.getByText("changed, not saved")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Save again" }));
    expect(editing.act).toHaveBeenLastCalledWith(expect.objectContaining({ do: "save_view" }));
    await userEvent.click(screen.getByRole("button", { name: "Back to saved" }));
    expect(editing.act).toHaveBeenLastCalledWith(expect.objectContaining({ do: "open_view", view_id: "a" }));
  });
  test("that are locked are neither saved over nor removed", () => {
    const views = [view("a", "A", "Long section", { locked: true }), view("b", "B", "Street")];
    shown(<ViewList editing={editingOf(views, { name: "Other", projection: SIDE, cuts: [] })} />);
    expect([off("Save again"), off("Remove")]).toEqual([true, true]);
    expect(screen.getByText("locked")).toBeTruthy();
  });
  test("the last of them stays", () => {
    shown(<ViewList editing={editingOf([view("a", "A", "Long section")])} />);
    expect(off("Remove")).toBe(true);
  });
  test("stand under the names of their groups, and what has none first after them", () => {
    shown(<ViewList editing={editingOf()} />);
    const rows = (group: string) => within(screen.getByRole("region", { name: group })).getAllByRole("listitem").length;
    expect([rows("Plans"), rows("Views of no group")]).toEqual([1, 2]);
  });
  test("are kept as new under a name", async () => {
    const editing = editingOf();
    shown(<ViewList editing={editing} />);
    await userEvent.click(screen.getByRole("button", { name: "Keep as new …" }));
    const field = screen.getByLabelText("Name");
    expect((field as HTMLInputElement).value).toBe("Long section 2");
    await userEvent.clear(field);
    expect(off("Keep view")).toBe(true);
    await userEvent.type(field, "Evening{Enter}");
    expect(editing.act).toHaveBeenCalledWith({ do: "keep_view", label: "Keep view “Evening”", name: "Evening" });
    expect(screen.queryByLabelText("Name")).toBeNull();
  });
  test.each([
    ["Duplicate", { do: "duplicate_view", view_id: "b" }],
    ["Move up", { do: "order_view", view_id: "b", place: 0 }],
    ["Move down", { do: "order_view", view_id: "b", place: 2 }],
    ["Lock", { do: "lock_view", view_id: "b", locked: true }],
  ])("%s does what it says", async (item, wanted) => {
    const editing = editingOf();
    shown(<ViewList editing={editing} />);
    await menu("Street", item);
    expect(editing.act).toHaveBeenCalledWith(expect.objectContaining(wanted));
  });
  test("are put into a group, and out of it by an empty name", async () => {
    const editing = editingOf();
    shown(<ViewList editing={editing} />);
    await menu("Plan", "Group …");
    await userEvent.clear(screen.getByLabelText("Group"));
    await userEvent.click(screen.getByRole("button", { name: "Group it" }));
    expect(editing.act).toHaveBeenCalledWith({ do: "group_view", label: "Group view", view_id: "c", name: "" });
  });
  test("are copied as text that can be pasted again", async () => {
    const written = vi
      .spyOn(
        navigator.clipboard ??
          (Object.assign(navigator, { clipboard: { writeText: async () => undefined } }), navigator.clipboard),
        "writeText",
      )
      .mockResolvedValue();
    const editing = editingOf();
    shown(<ViewList editing={editing} />);
    await menu("Street", "Copy view");
    await waitFor(() => expect(written).toHaveBeenCalled());
    expect(JSON.parse(written.mock.calls[0]![0])).toEqual(editing.study.document.views[1]!.view);
  });
  test("that cannot be copied say so", async () => {
    const told = vi.spyOn(toast, "error");
    answers["GET views/b/drawing"] = () => json({}, 500);
    shown(<ViewList editing={editingOf()} />);
    await menu("Street", "Copy drawing");
    await waitFor(() => expect(told).toHaveBeenCalledWith("The drawing could not be read; try again."));
  });
  test.each([
    ['{"name": "From afar"}', "paste_view"],
    ['{"format": "drawing", "view": {}}', "paste_drawing"],
  ])("%s is pasted as what it is", async (text, wanted) => {
    const editing = editingOf();
    shown(<ViewList editing={editing} />);
    await userEvent.click(screen.getByRole("button", { name: "Paste a view …" }));
    expect(off("Keep view")).toBe(true);
    fireEvent.change(screen.getByLabelText("The copied view or drawing"), { target: { value: text } });
    await userEvent.click(screen.getByRole("button", { name: "Keep view" }));
    expect(editing.act).toHaveBeenCalledWith(expect.objectContaining({ do: wanted, text }));
  });
  test("are compared with the desk, row by row", async () => {
    answers["GET views/b/differences/desk"] = () => json([{ what: "Scale", first: "1:50", second: "1:100" }]);
    shown(<ViewList editing={editingOf()} />);
    await menu("Street", "Compare with the desk");
    expect((await screen.findByRole("row", { name: "Scale 1:50 1:100" })).textContent).toBeTruthy();
  });
  test("that draw the same say so", async () => {
    answers["GET views/b/differences/desk"] = () => json([]);
    shown(<ViewList editing={editingOf()} />);
    await menu("Street", "Compare with the desk");
    expect(await screen.findByText("Nothing: the two draw the same.")).toBeTruthy();
  });
  test("show where they cut on a key plan, but for planes that lie level", () => {
    const cuts = [
      { normal: [0, 1, 0], point: [0, 3, 0] },
      { normal: [0, 0, 1], point: [0, 0, 1.2] },
      { normal: [1, 0, 0], point: [2, 0, 0], role: "limit" },
    ];
    shown(<ViewList editing={editingOf(undefined, { name: "Long section", projection: SIDE, cuts })} />);
    expect(
      screen.getByRole("img", { name: "Key plan: Long section" }).querySelectorAll("line[stroke-dasharray]").length,
    ).toBe(2);
  });
});

describe("looking", () => {
  const up: Vec = [0, 0, 1];
  const aside = {
    kind: "parallel" as const,
    direction: [0, 1, 0] as Vec,
    centre: [4, 2, 1] as Vec,
    mirrored: false,
    up,
  };
  const inside = {
    kind: "perspective" as const,
    eye: [0, -10, 2] as Vec,
    target: [0, 0, 2] as Vec,
    field_of_view: 60,
    upright: true,
    up,
  };
  const far = (a: Vec, b: Vec) => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
  test.each([
    [[0, 1, 0], 0],
    [[1, 0, 0], 90],
    [[0, -1, -0.4], 180],
    [[-1, 0, 2], 270],
  ] as [Vec, number][])("along %o has a bearing of %i°", (direction, wanted) =>
    expect(bearing({ ...aside, direction })).toBeCloseTo(wanted),
  );
  test("straight down has none", () => expect(bearing({ ...aside, direction: [0, 0, -1] })).toBeUndefined());
  test("turns about the point that is looked at, and keeps its distance", () => {
    const turned = orbited(inside, Math.PI / 2, 0, [9, 9, 9]) as typeof inside;
    expect(turned.target).toEqual(inside.target);
    expect(far(turned.eye, turned.target)).toBeCloseTo(10);
    expect(bearing(turned)).toBeCloseTo(270);
  });
  test("turned there and back is as it was", () => {
    const there = orbited(aside, 0.7, 0, [0, 0, 0]);
    expect(bearing(orbited(there, -0.7, 0, [0, 0, 0]))! % 360).toBeCloseTo(0);
  });
  test("never tips over the top, from wherever it comes", () => {
    let projection = aside as Parameters<typeof orbited>[0];
    for (let n = 0; n < 60; n++) projection = orbited(projection, 0.05, 0.2, [0, 0, 0]);
    const d = (projection as typeof aside).direction;
    expect(Math.abs(d[2]) / Math.hypot(...d)).toBeLessThanOrEqual(0.9851);
  });
  test("from a plan tips towards the top of the paper", () => {
    const tipped = orbited({ ...aside, direction: [0, 0, -1], up: [0, 1, 0] }, 0, 0, [0, 0, 0]);
    expect(bearing(tipped)).toBeCloseTo(0);
  });
  test("moves with the paper: a hundred millimetres at 1:50 are five metres", () => {
    const moved = panned(aside, [100, 0], 50, [0, 0, 0], 420) as typeof aside;
    expect(far(moved.centre, aside.centre)).toBeCloseTo(5);
    expect(moved.centre[0]).toBeCloseTo(-1);
    expect((panned(aside, [0, 100], 50, [0, 0, 0], 420) as typeof aside).centre[2]).toBeCloseTo(6);
  });
  test("moves eye and target alike in a perspective", () => {
    const moved = panned(inside, [30, -20], 50, [0, 0, 0], 420) as typeof inside;
    expect(far(moved.eye, moved.target)).toBeCloseTo(10);
    expect(far(moved.eye, inside.eye)).toBeCloseTo(far(moved.target, inside.target));
  });
  test("goes nearer to the target, and a parallel view has no nearer", () => {
    expect(far((dollied(inside, 0.5) as typeof inside).eye, inside.target)).toBeCloseTo(5);
    expect(dollied(aside, 0.5)).toBe(aside);
  });
  test("turns about the model's middle where the view names none", () =>
    expect(pivot({ ...aside, centre: null }, [1, 2, 3])).toEqual([1, 2, 3]));
});

describe("versions of the model", () => {
  const file = (number: number, some: Partial<ModelFile> = {}): ModelFile =>
    ({
      number,
      name: `house ${number}.ifc`,
      format: "IFC",
      source: "",
      current: false,
      received: "2026-03-01T10:00:00Z",
      notes: [],
      report: {},
      ...some,
    }) as ModelFile;
  const key = ["files", "house", "m", "house.obj"];
  beforeEach(() => useChoice.setState({ file: null }));
  const report = (files: ModelFile[], parts: unknown = { joined: [] }) => {
    const editing = editingOf();
    shown(<ReportSettings editing={editing} />, [
      [key, files],
      [["parts", "house", "m"], parts],
    ]);
    return editing;
  };
  test("are brought back with a press; the one on the desk is told", async () => {
    const editing = editingOf();
    shown(<VersionList editing={editing} />, [[key, [file(1), file(2, { current: true })]]]);
    expect(screen.getByText("✓ on the desk")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "bring back" }));
    answers["POST files/1/back"] = () => json({});
    await (editing.replace.mock.calls[0]![0] as (base: number) => Promise<unknown>)(6);
    expect(asked).toContain("POST files/1/back");
  });
  test("tell what lost its part first, then what is new, gone, moved", () => {
    report([
      file(2, {
        current: true,
        report: {
          counts: { same: 1200, lost: 1, new: 2, moved: 130 },
          lost: [["House/Wall", "role"]],
          new: ["A", "B"],
          moved: Array.from({ length: 120 }, (_, k) => [`P${k}`, 0.25]),
        } as never,
      }),
    ]);
    const told = screen.getByRole("group", { name: "What the newer version changed" });
    expect([...told.querySelectorAll("summary")].map((line) => line.textContent)).toEqual([
      "Assignments that lost their part 1",
      "New 2",
      "Moved 130",
    ]);
    expect(screen.getByText("House/Wall: role")).toBeTruthy();
    expect(screen.getByText("P99, 0.25 m")).toBeTruthy();
    expect(screen.queryByText("P100, 0.25 m")).toBeNull();
    expect(screen.getByText("and 30 more")).toBeTruthy();
    expect(screen.getByText("1,200 parts are as they were.")).toBeTruthy();
  });
  test("in which nothing changed say so", () => {
    report([file(2, { current: true, report: { counts: { same: 3 } } as never })]);
    expect(screen.getByText("Nothing else changed.")).toBeTruthy();
  });
  test("the first says what will be listed", () => {
    report([file(1, { current: true, notes: ["No units were named."] })]);
    expect(screen.getByText(/the first version/)).toBeTruthy();
    expect(screen.getByText("No units were named.")).toBeTruthy();
    expect(screen.getByText(/When a newer version is brought/)).toBeTruthy();
  });
  test("a joined file is moved, turned and taken out", async () => {
    const editing = report([file(3, { current: true, source: "site" })], {
      joined: [{ id: "site", name: "Hillside", by: [1, 2, 0], turn: 15, shared: false }],
    });
    const type = (label: string, text: string) => {
      const field = screen.getByLabelText(label);
      fireEvent.change(field, { target: { value: text } });
      fireEvent.blur(field);
    };
    type("North", "-4.5");
    expect(editing.model).toHaveBeenLastCalledWith({ do: "place_joined", source: "site", by: [1, -4.5, 0], turn: 15 });
    type("Turned", "30");
    expect(editing.model).toHaveBeenLastCalledWith({ do: "place_joined", source: "site", by: [1, 2, 0], turn: 30 });
    await userEvent.click(screen.getByRole("button", { name: "Take it out" }));
    expect(editing.model).toHaveBeenLastCalledWith({ do: "take_out_joined", source: "site" });
  });
});
