import type { StockItem, Study, Trace } from "../../api/client";
import { scaleOf } from "../ink/fills";

/** Millimetres of the drawing that a swatch in the list shows. */
export const SHOWN = { width: 20, height: 12.5 };

/** A short name for what something shows: another for whatever else it would show. */
export function versionOf(shown: unknown): string {
  let [a, b] = [0x811c9dc5, 0x9dc5811c];
  for (const sign of JSON.stringify(shown)) {
    const code = sign.codePointAt(0)!;
    a = Math.imul(a ^ code, 0x01000193);
    b = Math.imul(b ^ (code + 0x61), 0x01000193) ^ (a >>> 13);
  }
  return ((a >>> 0).toString(36) + (b >>> 0).toString(36)).slice(0, 14);
}

/** The address of a stock item as it lies at the drawing's own scale. */
export function sampleOf(item: StockItem, study: Study, version = ""): string {
  const asked = new URLSearchParams({
    width: String(SHOWN.width),
    height: String(SHOWN.height),
    scale: String(scaleOf(study)),
    pixels: "184",
    version,
  });
  return `/api/stock/${item.id}/sample?${asked}`;
}

/** Words, or the same with a number, that are not taken yet. */
export const free = (words: string, taken: string[], by = "-"): string =>
  [words, ...taken.map((_, k) => `${words}${by}${k + 2}`)].find((w) => !taken.includes(w))!;

/** A stock item as a trace of its own in a look. */
export function asTrace(item: StockItem, traces: Trace[]): Trace {
  const word = item.id
    .replace(/^[a-z]+-/, "")
    .replace(/_/g, "-")
    .slice(0, 34);
  return {
    ...item.trace,
    id: free(
      word,
      traces.map((t) => t.id),
    ),
    name: free(
      item.label,
      traces.map((t) => t.name),
      " ",
    ),
  } as Trace;
}
