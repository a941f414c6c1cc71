/** What a browser has and the test's stand-in for one lacks. */
import { cleanup } from "@testing-library/react";
import { afterEach } from "vitest";

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

afterEach(cleanup);
