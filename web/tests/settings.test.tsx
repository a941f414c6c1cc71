/** A form is drawn from what a kind says of its settings, and says back just what was changed. */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { fireEvent, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, test, vi } from "vitest";

import type { Setting } from "../src/api/client";
import { TraceSettings } from "../src/benches/collage/TraceSettings";
import type { Editing } from "../src/desk/study";
import { useScreen } from "../src/desk/screen";
import { SettingField } from "../src/shared/SettingField";

const setting = (some: Partial<Setting>): Setting =>
  ({
    field: "x",
    title: "Amount",
    about: "",
    sort: "share",
    unit: "",
    low: 0,
    high: 1,
    step: 0.01,
    initial: 0.5,
    options: [],
    labels: [],
    when: {},
    unless: {},
    ...some,
  }) as Setting;

describe("a setting of the sort", () => {
  test("share is a dimension line within its limits, at what it is to begin with", () => {
    const told = vi.fn();
    render(<SettingField setting={setting({ low: 0.2, high: 0.8 })} value={undefined} onChange={told} />);
    const line = screen.getByRole("slider");
    expect([
      line.getAttribute("aria-valuemin"),
      line.getAttribute("aria-valuemax"),
      line.getAttribute("aria-valuenow"),
    ]).toEqual(["0.2", "0.8", "0.5"]);
    fireEvent.keyDown(line, { key: "End" });
    expect(told).toHaveBeenCalledWith(0.8, true);
  });
  test("colour, on and choice are what they are called", async () => {
    const told = vi.fn();
    const { rerender } = render(
      <SettingField setting={setting({ sort: "colour", initial: "#cf8f72" })} value={undefined} onChange={told} />,
    );
    expect((screen.getByLabelText("Amount, in figures") as HTMLInputElement).value).toBe("#cf8f72");
    rerender(<SettingField setting={setting({ sort: "on", initial: true })} value={false} onChange={told} />);
    await userEvent.click(screen.getByRole("switch"));
    expect(told).toHaveBeenLastCalledWith(true);
    rerender(
      <SettingField
        setting={setting({ sort: "choice", initial: "a", options: ["a", "b"], labels: ["plain", "wavy"] })}
        value="b"
        onChange={told}
      />,
    );
    expect(screen.getByRole("combobox").textContent).toContain("wavy");
  });
  test("set offers what there is, and asks to choose one", async () => {
    const told = vi.fn();
    render(
      <SettingField
        setting={setting({ sort: "set", initial: "" })}
        value=""
        sets={["Shell", "People"]}
        onChange={told}
      />,
    );
    expect(screen.getByRole("combobox").textContent).toContain("choose one");
    screen.getByRole("combobox").focus();
    await userEvent.keyboard("{Enter}");
    await userEvent.click(screen.getByRole("option", { name: "Shell" }));
    expect(told).toHaveBeenCalledWith("Shell");
  });
  test("dash is told as lengths", async () => {
    const told = vi.fn();
    render(<SettingField setting={setting({ sort: "dash", initial: [] })} value={[]} onChange={told} />);
    screen.getByRole("combobox").focus();
    await userEvent.keyboard("{Enter}");
    await userEvent.click(screen.getByRole("option", { name: "dotted" }));
    expect(told).toHaveBeenCalledWith([0.2, 0.8]);
  });
});

describe("the settings of a trace", () => {
  const FORM = {
    kind: "wash",
    about: "Colour in water.",
    confines: false,
    by_tones: false,
    edges: [],
    settings: [
      setting({ field: "rim", title: "Dark rim" }),
      setting({ field: "second", title: "Second colour", sort: "colour", initial: "#aabbcc", when: { wet: [true] } }),
      setting({ field: "white", title: "White left", unless: { edge: ["torn"] } }),
    ],
  };
  function shown(trace: Record<string, unknown>, everywhere = false) {
    const queries = new QueryClient({
      defaultOptions: { queries: { retry: false, queryFn: () => new Promise(() => undefined) } },
    });
    queries.setQueryData(["choices"], { traces: [FORM], blend_modes: ["normal", "multiply"], roles: [] });
    queries.setQueryData(["pictures"], []);
    vi.stubGlobal("fetch", async () => new Response("{}", { status: 204 }));
    const look = vi.fn();
    const traces = [
      { id: "paper", kind: "paper", name: "Paper" },
      { id: "wash", kind: "wash", name: "Pond", opacity: 0.8, ...trace },
    ];
    const study = {
      slug: "house",
      revision: 3,
      model: { version: "m" },
      look: { traces },
      document: { desk: { view: { frame: {} } }, views: [], finishes: [] },
    };
    useScreen.setState((s) => ({
      bench: "Collage",
      chosen: { ...s.chosen, Collage: { kind: "trace", id: "wash" } },
      everywhere: { Ink: true, Collage: everywhere },
      alone: "",
      compare: null,
    }));
    const editing = { study, saved: { view: {} }, look, act: vi.fn() } as unknown as Editing;
    render(
      <QueryClientProvider client={queries}>
        <TraceSettings editing={editing} desk={undefined} />
      </QueryClientProvider>,
    );
    return look;
  }
  test("show what means something as the others are", () => {
    shown({ wet: false, edge: "torn" });
    expect(screen.queryByText("Dark rim")).not.toBeNull();
    expect(screen.queryByText("Second colour")).toBeNull();
    expect(screen.queryByText("White left")).toBeNull();
  });
  test("say which field was set, of this view or of all", async () => {
    const look = shown({ wet: true, edge: "clean" }, true);
    expect(screen.queryByText("White left")).not.toBeNull();
    await userEvent.click(screen.getByRole("switch", { name: "On the drawing" }));
    expect(look).toHaveBeenCalledWith(
      "Pond off",
      [{ path: ["traces", "wash", "on"], do: "set", value: false }],
      true,
      "wash.on",
    );
  });
  test("move it in the stack, and not beyond its ends", async () => {
    const look = shown({});
    expect((screen.getByRole("button", { name: "Lay Pond higher" }) as HTMLButtonElement).disabled).toBe(true);
    await userEvent.click(screen.getByRole("button", { name: "Lay Pond lower" }));
    expect(look.mock.calls[0]!.slice(0, 2)).toEqual([
      "Move Pond",
      [{ path: ["traces"], do: "order", value: ["wash", "paper"] }],
    ]);
  });
  test("remove it, and choose the one beneath", async () => {
    const look = shown({});
    await userEvent.click(screen.getByRole("button", { name: "Remove this trace" }));
    expect(look.mock.calls[0]![1]).toEqual([{ path: ["traces", "wash"], do: "drop" }]);
    expect(useScreen.getState().chosen.Collage).toEqual({ kind: "trace", id: "paper" });
  });
  test("see it alone or compare without it, one at a time", async () => {
    shown({});
    await userEvent.click(screen.getByRole("button", { name: "See it alone" }));
    expect(useScreen.getState().alone).toBe("wash");
    await userEvent.click(screen.getByRole("button", { name: "Compare without it" }));
    expect([useScreen.getState().alone, useScreen.getState().compare]).toEqual(["", { without: "wash", across: 0.5 }]);
  });
});
