import { create } from "zustand";

export const BENCHES = ["Model", "View", "Ink", "Collage", "Sheet"] as const;
export type Bench = (typeof BENCHES)[number];

/** What is selected: one thing at a time, in the drawing or in a list. */
export type Chosen = {
  kind:
    | "trace"
    | "pen"
    | "poche"
    | "surface"
    | "construction"
    | "build-up"
    | "mark"
    | "hand"
    | "part"
    | "note"
    | "written"
    | "placed"
    | "cut"
    | "figure";
  id: string;
};

type Screen = {
  bench: Bench;
  chosen: Record<Bench, Chosen | null>;
  /** The trace that is held away, to see the drawing without it. */
  without: string;
  /** The trace that is seen alone on the paper. */
  alone: string;
  /** The drawing beside itself without a trace, left of a line across it at a share of its width. */
  compare: { without: string; across: number } | null;
  /** Bundles of traces that lie open on the shelf. */
  opened: string[];
  zoom: number;
  pan: [number, number];
  /** Pixels across of the picture that the desk asks for. */
  pixels: number;
  /** The state of the study whose picture lies on the desk, whole. */
  drawn: number;
  viewStage: "drawing" | "model";
  /** The board that lies in the middle at the Sheet bench, none where the view does; and which of its pages. */
  board: string;
  page: number;
  finding: boolean;
  /** Whether all keys are shown. */
  keys: boolean;
  /** Whether a change of the look is made for every view that wears the finish, or for the view on the desk. */
  everywhere: { Ink: boolean; Collage: boolean };
  /** The row of suns that lies under the drawing. */
  sunRow: "day" | "year" | null;
  /** Whether the view hangs under the drawing in each finish. */
  variants: boolean;
  go: (bench: Bench) => void;
  choose: (chosen: Chosen | null) => void;
  look: (zoom: number, pan: [number, number]) => void;
  set: (
    some: Partial<
      Pick<
        Screen,
        | "without"
        | "alone"
        | "compare"
        | "opened"
        | "pixels"
        | "drawn"
        | "viewStage"
        | "board"
        | "page"
        | "finding"
        | "keys"
        | "sunRow"
        | "variants"
        | "everywhere"
      >
    >,
  ) => void;
};

/** The state of the screen. What belongs to the study lives on the server and is not kept here. */
export const useScreen = create<Screen>((set) => ({
  bench: "View",
  chosen: {
    Model: null,
    View: null,
    Ink: { kind: "pen", id: "cut" },
    Collage: { kind: "trace", id: "shadow" },
    Sheet: { kind: "note", id: "title" },
  },
  without: "",
  alone: "",
  compare: null,
  opened: [],
  zoom: 1,
  pan: [0, 0],
  pixels: 960,
  drawn: -1,
  viewStage: "drawing",
  board: "",
  page: 1,
  finding: false,
  keys: false,
  sunRow: null,
  variants: false,
  everywhere: { Ink: true, Collage: false },
  go: (bench) => set(bench === "Collage" ? { bench } : { bench, alone: "", compare: null }),
  choose: (chosen) => set((s) => ({ chosen: { ...s.chosen, [s.bench]: chosen } })),
  look: (zoom, pan) => set({ zoom, pan }),
  set: (some) => set(some),
}));
