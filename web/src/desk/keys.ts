/** Which action a key means. What is typed into a field is left alone. */
import { create } from "zustand";

import type { Action } from "./Finder";
import { type Bench, BENCHES } from "./screen";

type Pressed = Pick<KeyboardEvent, "key" | "code" | "ctrlKey" | "metaKey" | "altKey" | "shiftKey" | "target"> &
  Partial<Pick<KeyboardEvent, "getModifierState">>;
type Hands = {
  actions: readonly Action[];
  go: (bench: Bench) => void;
  find: () => void;
  /** Show all keys. */
  show: () => void;
  /** Whether a single letter, figure or sign does anything. */
  single: boolean;
};

const KEPT = "single keys";

/** Whether keys without Ctrl or Alt do anything: they are switched off by who speaks to the machine, or rests hands on it. */
export const useSingleKeys = create<{ on: boolean; set: (on: boolean) => void }>((set) => ({
  on: localStorage.getItem(KEPT) !== "off",
  set: (on) => {
    localStorage.setItem(KEPT, on ? "on" : "off");
    set({ on });
  },
}));

/**
 * What is pressed, as it stands beside an action: "Ctrl Shift Z", "Alt B", "X", "3", ".".
 *
 * A letter is the one that the key writes; where it writes none, as Alt makes it do on some machines and other scripts do on all, it is
 * the one that stands there on a keyboard of the Latin script.
 */
export function spoken(event: Pressed): string {
  const letter = /^[a-z]$/i.test(event.key) ? event.key.toUpperCase() : (/^Key([A-Z])$/.exec(event.code)?.[1] ?? "");
  const figure = /^(?:Digit|Numpad)(\d)$/.exec(event.code)?.[1] ?? (/^\d$/.test(event.key) ? event.key : "");
  // A sign may need Shift on one keyboard and none on another: it is what it is.
  if (!letter && !figure) return event.ctrlKey || event.metaKey || event.altKey ? "" : event.key;
  const held = [
    event.ctrlKey || event.metaKey ? "Ctrl" : "",
    event.altKey ? "Alt" : "",
    event.shiftKey && letter ? "Shift" : "",
  ];
  return [...held.filter(Boolean), letter || figure].join(" ");
}

/** What a key does; nothing for one that means nothing here. `keeps` leaves what the browser would do with it. */
export function meant(
  event: Pressed,
  { actions, go, find, show, single }: Hands,
): { run: () => void; keeps?: boolean } | null {
  if ((event.target as Element | null)?.closest?.("input, textarea, [role=dialog], [role=listbox]")) return null;
  if (event.getModifierState?.("AltGraph")) return null; // a sign is being written
  const words = spoken(event);
  if (!words.includes(" ") && !single) return null;
  if (words === ".") return { run: find };
  if (words === "?") return { run: show };
  if (/^[1-5]$/.test(words)) return { run: () => go(BENCHES[Number(words) - 1]!), keeps: true };
  return actions.find((a) => !a.off && words !== "" && (a.keys === words || a.also === words)) ?? null;
}
