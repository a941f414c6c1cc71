import type { Vec } from "../benches/view/camera";

/** How each part looks: four bytes of colour (the last its opacity), and one byte of {@link STATE} bits. */
export type Look = { tone: Uint8Array; state: Uint8Array };
export const STATE = { hidden: 1, chosen: 2, uncut: 4, earth: 8, gone: 16 } as const;

/** What a press in the model met. */
export type Hit = { part: number; point: Vec; corner: Vec | null };
export type Span = { low: Vec; high: Vec };

/** Whether a choice adds to what is chosen, takes from it, or stands alone. */
export type How = "only" | "add" | "remove";

export const howOf = (event: { shiftKey: boolean; altKey: boolean }): How =>
  event.altKey ? "remove" : event.shiftKey ? "add" : "only";
