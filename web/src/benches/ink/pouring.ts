import { create } from "zustand";

import type { Fill, Pointed, StockItem } from "../../api/client";

/** How wide a tap is meant. */
export const WIDTHS = ["region", "face", "part", "material", "layer"] as const;
export type Width = (typeof WIDTHS)[number];

type Pouring = {
  /** The fill in the hand, and what it is called. */
  fill: Fill | null;
  called: string;
  /** The build-up in the hand, by its id. */
  buildUp: string;
  /** What of the stock is in the hand, and the trace that grows by the next tap; none before the first. */
  stock: StockItem | null;
  trace: string;
  width: Width;
  over: boolean;
  takeStock: (item: StockItem, trace?: string) => void;
  grows: (trace: string) => void;
  take: (fill: Fill, called: string) => void;
  takeBuildUp: (id: string, called: string) => void;
  lay: () => void;
  set: (some: Partial<Pick<Pouring, "width" | "over">>) => void;
};

/** What is poured: chosen from the strip of the Ink bench or from the stock, it is in the hand until it is laid back. */
export const usePouring = create<Pouring>((set) => ({
  fill: null,
  called: "",
  buildUp: "",
  stock: null,
  trace: "",
  width: "part",
  over: false,
  takeStock: (stock, trace = "") => set({ stock, trace, called: stock.label, fill: null, buildUp: "" }),
  grows: (trace) => set({ trace }),
  take: (fill, called) => set({ fill, called, buildUp: "", stock: null, trace: "" }),
  takeBuildUp: (buildUp, called) => set({ buildUp, called, fill: null, stock: null, trace: "" }),
  lay: () => set({ fill: null, called: "", buildUp: "", stock: null, trace: "" }),
  set: (some) => set(some),
}));

/** The widening of what was pointed at that a width means: itself, or the nearest narrower one that there is. */
export function widened(found: Pointed, width: Width): number {
  const words = (found.widenings ?? []).map((w) => w.word);
  for (let k = WIDTHS.indexOf(width); k >= 0; k--) {
    const at = words.indexOf(WIDTHS[k]!);
    if (at >= 0) return at;
  }
  return 0;
}
