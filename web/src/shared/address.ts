import { useSyncExternalStore } from "react";

const listeners = new Set<() => void>();
window.addEventListener("popstate", () => listeners.forEach((l) => l()));

/** Go to another page of the application without loading it anew. */
export function goTo(path: string): void {
  history.pushState(null, "", path);
  listeners.forEach((l) => l());
}

/** The path of the page, followed as it changes. */
export function useAddress(): string {
  return useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => location.pathname,
  );
}
