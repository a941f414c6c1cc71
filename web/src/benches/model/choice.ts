import { create } from "zustand";

import type { How, Span } from "../../shared/look";
import type { Vec } from "../view/camera";
import { type Colouring, type Filter, NO_FILTER } from "./parts";

export const LEAVES = ["Parts", "Sets", "Materials", "Roles", "Health", "Versions"] as const;
export type Leaf = (typeof LEAVES)[number];

type Choice = {
  leaf: Leaf;
  /** The parts that are chosen, in the model and in the lists alike. */
  chosen: ReadonlySet<number>;
  /** Where a range of rows begins. */
  anchor: number | null;
  filter: Filter;
  colouring: Colouring;
  tool: "look" | "touching" | "inside" | "measure";
  span: Span | null;
  schedule: boolean;
  materials: ReadonlySet<number>;
  finding: string;
  place: number | null;
  tolerance: number;
  file: number | null;
  /** A point to fly to, and how wide the look there is, in metres; the number makes each wish a new one. */
  flight: { to: Vec; reach: number; wish: number } | null;
  choose: (parts: readonly number[], how: How, anchor?: number) => void;
  set: (some: Partial<Omit<Choice, "choose" | "set" | "fly">>) => void;
  fly: (to: Vec, reach: number) => void;
};

const NOTHING = {
  chosen: new Set<number>(),
  anchor: null,
  filter: NO_FILTER,
  span: null,
  materials: new Set<number>(),
  finding: "",
  place: null,
  file: null,
  flight: null,
};

/** The state of the Model bench's screen: what is chosen and how it is looked at. */
export const useChoice = create<Choice>((set) => ({
  ...NOTHING,
  leaf: "Parts",
  colouring: "material",
  tool: "look",
  schedule: false,
  tolerance: 0.005,
  choose: (parts, how, anchor) =>
    set((s) => {
      const next = how === "only" ? new Set<number>() : new Set(s.chosen);
      // Pressing the one thing that is chosen lays it down again.
      if (how === "only" && parts.length === 1 && s.chosen.size === 1 && s.chosen.has(parts[0]!))
        return { chosen: next, anchor: null };
      for (const part of parts)
        if (how === "remove") next.delete(part);
        else next.add(part);
      return { chosen: next, anchor: anchor ?? parts[0] ?? s.anchor };
    }),
  set: (some) => set(some),
  fly: (to, reach) => set((s) => ({ flight: { to, reach, wish: (s.flight?.wish ?? 0) + 1 } })),
}));
