/** Which action a key means. What is typed into a field is left alone. */
import { type Bench, BENCHES } from "./screen";
import type { Action } from "./Finder";

type Pressed = Pick<KeyboardEvent, "key" | "ctrlKey" | "metaKey" | "altKey" | "shiftKey" | "target">;
type Hands = {
  bench: Bench;
  actions: readonly Action[];
  /** Take the last step back, or do it again. */
  step: (back: boolean) => void;
  go: (bench: Bench) => void;
  find: () => void;
};

/** What a key does; nothing for one that means nothing here. `keeps` leaves what the browser would do with it. */
export function meant(event: Pressed, { bench, actions, step, go, find }: Hands): { run: () => void; keeps?: boolean } | null {
  const typing = (event.target as Element | null)?.closest?.("input, textarea, [role=dialog], [role=listbox]");
  const mod = event.ctrlKey || event.metaKey;
  if (typing) return null;
  if (mod) return event.key.toLowerCase() === "z" ? { run: () => step(!event.shiftKey) } : null;
  if (event.altKey && /^[a-z]$/i.test(event.key)) return actions.find((a) => a.keys === `Alt ${event.key.toUpperCase()}`) ?? null;
  const named = bench === "Model" && !event.altKey ? actions.find((a) => a.keys === event.key && !a.off) : undefined;
  if (named) return named;
  if (/^[1-5]$/.test(event.key)) return { run: () => go(BENCHES[Number(event.key) - 1]!), keeps: true };
  return event.key === "." ? { run: find } : null;
}
