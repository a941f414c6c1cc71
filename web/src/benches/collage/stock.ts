import type { StockItem, Study, Trace } from "../../api/client";

/** Millimetres of the drawing that a swatch in the list shows. */
export const SHOWN = { width: 20, height: 12.5 };

/** The scale that swatches are drawn at: the drawing's own, or a usual one in a perspective. */
const scaleOf = (study: Study): number => study.document.desk.view.frame?.scale ?? 50;

/** The address of a stock item as it lies at the drawing's own scale. */
export function sampleOf(item: StockItem, study: Study, version = ""): string {
  const asked = new URLSearchParams({ width: String(SHOWN.width), height: String(SHOWN.height), scale: String(scaleOf(study)), pixels: "184", version });
  return `/api/stock/${item.id}/sample?${asked}`;
}

/** Words, or the same with a number, that are not taken yet. */
export const free = (words: string, taken: string[], by = "-"): string => [words, ...taken.map((_, k) => `${words}${by}${k + 2}`)].find((w) => !taken.includes(w))!;

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
