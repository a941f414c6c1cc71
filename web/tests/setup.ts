/** What a browser has and the test's stand-in for one lacks. */
import { cleanup, configure } from "@testing-library/react";
import { afterEach, vi } from "vitest";

const Bare = globalThis.Request;
/** Addresses of the application begin at its own root. */
globalThis.Request = class extends Bare {
  constructor(input: RequestInfo | URL, init?: RequestInit) {
    super(typeof input === "string" ? new URL(input, "http://desk.test") : input, init);
  }
};
globalThis.ResizeObserver ??= class {
  observe() {}
  unobserve() {}
  disconnect() {}
};
Element.prototype.hasPointerCapture ??= () => false;
Element.prototype.setPointerCapture ??= () => undefined;
Element.prototype.releasePointerCapture ??= () => undefined;
Element.prototype.scrollIntoView ??= () => undefined;

// Nothing is laid out here, and rows are made for what is within a list's height: all of them are.
vi.mock("@tanstack/react-virtual", () => ({
  useVirtualizer: ({ count }: { count: number }) => ({
    getTotalSize: () => 26 * count,
    getVirtualItems: () => Array.from({ length: count }, (_, index) => ({ index, start: 26 * index })),
  }),
}));

// What is waited for comes, however busy the machine is.
configure({ asyncUtilTimeout: 30_000 });

// The stand-in works out an element's style anew each time it is asked for, which it is thousands of times for one question by role.
const computed = globalThis.getComputedStyle;
let styles = new WeakMap<Element, CSSStyleDeclaration>();
const changes = new MutationObserver(() => (styles = new WeakMap()));
changes.observe(document, { attributes: true, characterData: true, childList: true, subtree: true });
const kept: typeof computed = (element, pseudo) => {
  if (pseudo) return computed(element, pseudo);
  if (changes.takeRecords().length) styles = new WeakMap();
  const found = styles.get(element) ?? computed(element);
  styles.set(element, found);
  return found;
};
for (const window of [globalThis, document.defaultView!]) window.getComputedStyle = kept;

afterEach(cleanup);
