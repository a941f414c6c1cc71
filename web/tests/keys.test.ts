/** Keys do what stands beside the actions, and never reach into a field that is typed in. */
import { fireEvent, render, screen } from "@testing-library/react";
import { createElement } from "react";
import { describe, expect, test, vi } from "vitest";

import type { Action } from "../src/desk/Finder";
import { meant, spoken, useSingleKeys } from "../src/desk/keys";
import { KeySheet } from "../src/desk/KeySheet";
import { BENCHES, useScreen } from "../src/desk/screen";

const action = (name: string, keys: string, some: Partial<Action> = {}): Action => ({
  name,
  keys,
  run: vi.fn(),
  ...some,
});
const CODES: Record<string, string> = { ".": "Period", "?": "Slash" };
/** A key as a keyboard of the Latin script says it, unless another is told. */
const pressed = (key: string, some: Partial<KeyboardEvent> = {}) =>
  ({
    key,
    code: /^[a-z]$/i.test(key) ? `Key${key.toUpperCase()}` : /^\d$/.test(key) ? `Digit${key}` : (CODES[key] ?? key),
    ctrlKey: false,
    metaKey: false,
    altKey: false,
    shiftKey: false,
    target: document.body,
    ...some,
  }) as KeyboardEvent;

function hands(actions: Action[] = [], single = true) {
  return { actions, single, go: vi.fn(), find: vi.fn(), show: vi.fn() };
}

test.each(BENCHES.map((bench, k) => [String(k + 1), bench]))("%s goes to the bench %s", (key, bench) => {
  const found = hands();
  meant(pressed(key), found)!.run();
  expect(found.go).toHaveBeenCalledWith(bench);
});

test.each([
  ["z", { ctrlKey: true }, "undo"],
  ["z", { metaKey: true }, "undo"],
  ["Z", { ctrlKey: true, shiftKey: true }, "redo"],
  ["y", { ctrlKey: true }, "redo"],
] as [string, Partial<KeyboardEvent>, string][])("%s with %o steps: %s", (key, some, wanted) => {
  const undo = action("undo", "Ctrl Z"),
    redo = action("redo", "Ctrl Shift Z", { also: "Ctrl Y" });
  meant(pressed(key, some), hands([undo, redo]))!.run();
  expect([vi.mocked(undo.run).mock.calls.length, vi.mocked(redo.run).mock.calls.length]).toEqual(
    wanted === "undo" ? [1, 0] : [0, 1],
  );
});

test.each("ABCDEFGHIJKLMNOPQRSTUVWXYZ".split(""))(
  "Alt %s opens the view of that mark, whatever else there is",
  (mark) => {
    const views = "ABCDEFGHIJKLMNOPQRSTUVWXYZ".split("").map((m) => action(`Open view ${m}`, `Alt ${m}`));
    const others = [action("Save", "Ctrl S"), action("Model", "M"), action("Export", "E")];
    // As one machine writes it, as another does, and as one with another script.
    for (const some of [{}, { key: "\u00e5" }, { key: "\u0444" }, { key: "Dead" }]) {
      expect(
        (
          meant(
            pressed(mark.toLowerCase(), { altKey: true, code: `Key${mark}`, ...some }),
            hands([...others, ...views]),
          ) as Action
        ).name,
      ).toBe(`Open view ${mark}`);
    }
  },
);

test.each([
  ["x", "KeyX", "X"],
  ["w", "KeyZ", "W"], // a letter is the one that is written on the key
  ["\u0447", "KeyX", "X"], // and where that is none of ours, the one that stands there
  ["&", "Digit1", "1"],
  ["3", "Numpad3", "3"],
  [".", "Comma", "."],
  ["?", "Minus", "?"],
])("%s at %s is %s", (key, code, wanted) => expect(spoken(pressed(key, { code }))).toBe(wanted));

test("a sign that is being written with a third level means nothing", () => {
  const view = action("Open view Q", "Alt Q");
  const third = pressed("@", {
    code: "KeyQ",
    altKey: true,
    ctrlKey: true,
    getModifierState: (name: string) => name === "AltGraph",
  });
  expect(meant(third, hands([view, action("Ctrl Alt", "Ctrl Alt Q")]))).toBeNull();
});

test("a letter does what stands beside it, and not while that is off", () => {
  const hide = action("Hide", "X"),
    off = action("Show all", "A", { off: true });
  meant(pressed("x"), hands([hide, off]))!.run();
  expect(hide.run).toHaveBeenCalledOnce();
  expect(meant(pressed("a"), hands([hide, off]))).toBeNull();
  expect(meant(pressed("x", { shiftKey: true }), hands([hide]))).toBeNull();
});

test("a point opens the list of actions, a question mark that of keys", () => {
  const found = hands();
  meant(pressed("."), found)!.run();
  meant(pressed("?", { shiftKey: true }), found)!.run();
  expect([found.find.mock.calls.length, found.show.mock.calls.length]).toEqual([1, 1]);
});

test("single keys that are switched off mean nothing; with Ctrl or Alt they do", () => {
  const hide = action("Hide", "X"),
    view = action("Open view B", "Alt B");
  for (const key of ["x", "1", ".", "?"]) expect(meant(pressed(key), hands([hide, view], false))).toBeNull();
  expect(meant(pressed("b", { altKey: true }), hands([hide, view], false))).toBe(view);
});

describe("the sheet of keys", () => {
  const actions = [
    action("Undo: Poche", "Ctrl Z", { calls: "Undo" }),
    action("Redo", "Ctrl Shift Z", { also: "Ctrl Y" }),
    action("Open view A: Section", "Alt A"),
    action("Nameless", ""),
  ];
  const opened = () => {
    useScreen.setState({ keys: true });
    render(createElement(KeySheet, { actions }));
  };
  test("says every key once, by what it always does", () => {
    opened();
    const rows = screen.getAllByRole("row").map((row) => row.textContent);
    expect(rows).toContain("Ctrl ZUndo");
    expect(rows).toContain("Ctrl Shift Z, Ctrl YRedo");
    expect(rows).toContain("Alt AOpen view A: Section");
    expect(rows.some((row) => row!.includes("Nameless"))).toBe(false);
  });
  test("switches single keys off, and remembers it", () => {
    opened();
    fireEvent.click(screen.getByRole("switch", { name: "Keys that are one letter, figure or sign" }));
    expect([useSingleKeys.getState().on, localStorage.getItem("single keys")]).toEqual([false, "off"]);
    fireEvent.click(screen.getByRole("switch", { name: "Keys that are one letter, figure or sign" }));
    expect(useSingleKeys.getState().on).toBe(true);
  });
});

describe.each(["input", "textarea", "div role=dialog", "div role=listbox"])("within <%s>", (tag) => {
  test.each(["1", ".", "z", "b"])("%s is left alone", (key) => {
    document.body.innerHTML = `<${tag}></${tag.split(" ")[0]}>`;
    const target = document.body.firstElementChild!;
    for (const some of [{}, { ctrlKey: true }, { altKey: true }])
      expect(meant(pressed(key, { ...some, target }), hands([action("Open view B", "Alt B")]))).toBeNull();
  });
});
