/** Keys do what stands beside the actions, and never reach into a field that is typed in. */
import { describe, expect, test, vi } from "vitest";

import type { Action } from "../src/desk/Finder";
import { meant } from "../src/desk/keys";
import { BENCHES } from "../src/desk/screen";

const action = (name: string, keys: string, off = false): Action => ({ name, keys, off, run: vi.fn() });
const pressed = (key: string, some: Partial<KeyboardEvent> = {}) =>
  ({ key, ctrlKey: false, metaKey: false, altKey: false, shiftKey: false, target: document.body, ...some }) as KeyboardEvent;

function hands(actions: Action[] = [], bench: (typeof BENCHES)[number] = "Ink") {
  return { bench, actions, step: vi.fn(), go: vi.fn(), find: vi.fn() };
}

test.each(BENCHES.map((bench, k) => [String(k + 1), bench]))("%s goes to the bench %s", (key, bench) => {
  const found = hands();
  meant(pressed(key), found)!.run();
  expect(found.go).toHaveBeenCalledWith(bench);
});

test.each([
  [{ ctrlKey: true }, true],
  [{ metaKey: true }, true],
  [{ ctrlKey: true, shiftKey: true }, false],
] as [Partial<KeyboardEvent>, boolean][])("z with %o steps", (some, back) => {
  const found = hands();
  meant(pressed(some.shiftKey ? "Z" : "z", some), found)!.run();
  expect(found.step).toHaveBeenCalledWith(back);
});

test("a letter with Alt opens the view that it stands beside, whichever way it is written", () => {
  const open = action("Open view B", "Alt B");
  for (const key of ["b", "B"]) meant(pressed(key, { altKey: true }), hands([action("Open view A", "Alt A"), open]))!.run();
  expect(open.run).toHaveBeenCalledTimes(2);
  expect(meant(pressed("q", { altKey: true }), hands([open]))).toBeNull();
});

test("signs act on the model at its bench alone, and not while they are off", () => {
  const hide = action("Hide", "["),
    off = action("Show all", "\\", true);
  meant(pressed("["), hands([hide, off], "Model"))!.run();
  expect(hide.run).toHaveBeenCalledOnce();
  expect(meant(pressed("["), hands([hide, off], "View"))).toBeNull();
  expect(meant(pressed("\\"), hands([hide, off], "Model"))).toBeNull();
});

test("a point opens the list of actions", () => {
  const found = hands();
  meant(pressed("."), found)!.run();
  expect(found.find).toHaveBeenCalledOnce();
});

describe.each(["input", "textarea", "div role=dialog", "div role=listbox"])("within <%s>", (tag) => {
  test.each(["1", ".", "z", "b"])("%s is left alone", (key) => {
    document.body.innerHTML = `<${tag}></${tag.split(" ")[0]}>`;
    const target = document.body.firstElementChild!;
    for (const some of [{}, { ctrlKey: true }, { altKey: true }]) expect(meant(pressed(key, { ...some, target }), hands([action("Open view B", "Alt B")]))).toBeNull();
  });
});
