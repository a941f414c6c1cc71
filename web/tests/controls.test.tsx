/** Fields take what can be meant, put back what cannot, and never say the same twice. */
import { fireEvent, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { describe, expect, test, vi } from "vitest";

import { Choice, ColourField, DateField, Leaf, NumberField, OnOff, TextField } from "../src/shared/controls";
import { DashField } from "../src/shared/DashField";
import { DimensionLine } from "../src/shared/DimensionLine";

/** A field that keeps what it is told. */
function Kept<T>({
  first,
  told,
  children,
}: {
  first: T;
  told: (value: T) => void;
  children: (value: T, take: (value: T) => void) => React.ReactNode;
}) {
  const [value, setValue] = useState(first);
  return children(value, (next) => {
    told(next);
    setValue(next);
  });
}

const typed = async (label: string, words: string) => {
  const field = screen.getByRole("textbox", { name: label }) as HTMLInputElement;
  await userEvent.clear(field);
  if (words) await userEvent.type(field, words);
  await userEvent.type(field, "{Enter}");
  return field;
};

describe("a number", () => {
  const shown = (told: (n: number) => void, some = {}) =>
    render(
      <Kept first={1.5} told={told}>
        {(value, take) => (
          <NumberField label="Height" unit="m" value={value} min={0} max={9} onChange={take} {...some} />
        )}
      </Kept>,
    );

  test.each([
    ["2.75", [2.75], "2.75"],
    ["2,5", [2.5], "2.50"],
    ["40", [9], "9.00"],
    ["-3", [0], "0.00"],
    ["1.5", [], "1.50"],
    ["", [], "1.50"],
    ["high", [], "1.50"],
  ])("typed as “%s” is told as %j", async (words, values, text) => {
    const told = vi.fn();
    shown(told);
    const field = await typed("Height", words);
    expect(told.mock.calls.flat()).toEqual(values);
    expect(field.value).toBe(text);
  });

  test("a hair below zero is zero", () => {
    render(<NumberField label="Level" unit="m" value={-0.001} onChange={vi.fn()} />);
    expect((screen.getByLabelText("Level") as HTMLInputElement).value).toBe("0.00");
  });

  test("that another window changes is shown", () => {
    const field = <NumberField label="Level" unit="m" value={1} digits={1} onChange={vi.fn()} />;
    const { rerender } = render(field);
    rerender(<NumberField label="Level" unit="m" value={4} digits={1} onChange={vi.fn()} />);
    expect((screen.getByLabelText("Level") as HTMLInputElement).value).toBe("4.0");
  });
});

describe("a dimension line", () => {
  const shown = (told: (value: number, settled: boolean) => void) =>
    render(
      <DimensionLine
        label="Opacity"
        unit="%"
        digits={0}
        min={0}
        max={100}
        step={1}
        value={40}
        initial={60}
        onChange={told}
      />,
    );

  test.each([
    ["75", [[75, true]]],
    ["75 %", [[75, true]]],
    ["400", [[100, true]]],
    ["40", []],
    ["much", []],
  ])("typed as “%s” is %j", async (words, calls) => {
    const told = vi.fn();
    shown(told);
    await typed("Opacity", words);
    expect(told.mock.calls).toEqual(calls);
  });

  test("steps with the arrows, and is settled with each", () => {
    const told = vi.fn();
    shown(told);
    fireEvent.keyDown(screen.getByRole("slider"), { key: "ArrowRight" });
    expect(told.mock.calls).toContainEqual([41, false]);
    expect(told.mock.calls).toContainEqual([41, true]);
    expect(screen.getByRole("slider").getAttribute("aria-valuenow")).toBe("41");
  });

  test("goes back to what it was to begin with", async () => {
    const told = vi.fn();
    shown(told);
    await userEvent.click(screen.getByLabelText("Put Opacity back to 60 %"));
    expect(told).toHaveBeenCalledWith(60, true);
  });
});

describe("a colour", () => {
  const shown = (told: (value: string, settled: boolean) => void) =>
    render(<ColourField label="Ink" value="#2e2a27" onChange={told} />);

  test("typed in figures is taken when it is one", async () => {
    const told = vi.fn();
    shown(told);
    const field = await typed("Ink, in figures", "#AA3311");
    expect(told).toHaveBeenCalledWith("#aa3311", true);
    expect(field.getAttribute("aria-invalid")).toBe("false");
  });

  test("that is none is put back", async () => {
    const told = vi.fn();
    shown(told);
    const field = screen.getByLabelText("Ink, in figures") as HTMLInputElement;
    await userEvent.clear(field);
    await userEvent.type(field, "red");
    expect(field.getAttribute("aria-invalid")).toBe("true");
    fireEvent.blur(field);
    expect([told.mock.calls.length, field.value]).toEqual([0, "#2e2a27"]);
  });

  test("picked is told while it is picked", () => {
    const told = vi.fn();
    shown(told);
    fireEvent.change(screen.getByLabelText("Ink"), { target: { value: "#102030" } });
    expect(told).toHaveBeenCalledWith("#102030", false);
  });
});

describe("a choice", () => {
  const OPTIONS = [
    { value: "", label: "none" },
    { value: "torn", label: "torn edge" },
  ];
  test("from the keyboard, an empty value among them", async () => {
    const told = vi.fn();
    render(
      <Kept first="torn" told={told}>
        {(value, take) => <Choice label="Edge" value={value} options={OPTIONS} onChange={take} />}
      </Kept>,
    );
    const list = screen.getByRole("combobox", { name: "Edge" });
    expect(list.textContent).toContain("torn edge");
    list.focus();
    await userEvent.keyboard("{Enter}");
    await userEvent.click(screen.getByRole("option", { name: "none" }));
    expect(told).toHaveBeenCalledWith("");
    expect(list.textContent).toContain("none");
  });
});

test("on and off are said in words", async () => {
  const told = vi.fn();
  render(
    <Kept first={false} told={told}>
      {(value, take) => <OnOff label="Shadow" value={value} onChange={take} />}
    </Kept>,
  );
  const switched = screen.getByRole("switch", { name: "Shadow" });
  expect(switched.textContent).toBe("off");
  await userEvent.click(switched);
  expect([told.mock.calls, switched.textContent, switched.getAttribute("aria-checked")]).toEqual([
    [[true]],
    "on",
    "true",
  ]);
});

test("text is taken when it is left, and only when it is another one", async () => {
  const told = vi.fn();
  render(<TextField label="Name" value="Plan" onChange={told} />);
  await typed("Name", "Plan");
  expect(told).not.toHaveBeenCalled();
  await typed("Name", "Ground floor");
  expect(told.mock.calls).toEqual([["Ground floor"]]);
});

test.each([
  ["2026-06-21", [["2026-06-21"]]],
  ["21.6.2026", []],
  ["tomorrow", []],
])("a day typed as “%s” is told as %j", async (words, calls) => {
  const told = vi.fn();
  render(<DateField label="Day" value="2026-03-01" onChange={told} />);
  await typed("Day", words);
  expect(told.mock.calls.slice(0, 1)).toEqual(calls);
});

test.each([
  [[], "unbroken"],
  [[1.6, 0.9], "dashed"],
  [[4, 2], "4,2"],
])("a dash of %j reads %s", (dash, words) => {
  render(<DashField label="Dash" value={dash} onChange={vi.fn()} />);
  expect(screen.getByRole("combobox", { name: "Dash" }).textContent).toContain(words);
});

test("a leaf asks one question, says what it is about, and closes with Esc", async () => {
  const closed = vi.fn();
  render(
    <Leaf open onClose={closed} title="Remove the study?" about="It cannot be had back.">
      <button type="button">Remove</button>
    </Leaf>,
  );
  const leaf = screen.getByRole("dialog", { name: "Remove the study?" });
  expect(leaf.textContent).toContain("It cannot be had back.");
  await userEvent.keyboard("{Escape}");
  expect(closed).toHaveBeenCalledOnce();
});
