import { create } from "zustand";

import { BARE } from "../fills";
import { answered, http, type Mark, type Plane, Refused, type Snap } from "../../../api/client";

export const KINDS = [
  "line",
  "polyline",
  "arrow",
  "rectangle",
  "polygon",
  "circle",
  "arc",
  "stroke",
  "brush",
  "ground",
] as const;
export type Kind = (typeof KINDS)[number];
export type Lies = "face" | "cut" | "level" | "paper";
export type Spot = { x: number; y: number; point: [number, number, number] };

/** How many points end a mark; others are ended by Enter. */
const ENDS: Partial<Record<Kind, number>> = { line: 2, rectangle: 2, circle: 2, arc: 3 };
const LEAST: Record<Kind, number> = {
  line: 2,
  polyline: 2,
  arrow: 2,
  rectangle: 2,
  polygon: 3,
  circle: 2,
  arc: 3,
  stroke: 2,
  brush: 1,
  ground: 1,
};

/** Whether a kind is drawn with the button held down; a ground may be, or by points. */
export const isFree = (kind: Kind | null): boolean => kind === "stroke" || kind === "brush" || kind === "ground";

type Marking = {
  /** What is being drawn; nothing while no tool is in the hand. */
  kind: Kind | null;
  lies: Lies;
  /** Metres of the level that a mark is laid on. */
  height: number;
  spots: Spot[];
  plane: Plane | null;
  called: string;
  /** Where the next point will fall. */
  next: Snap | null;
  take: (kind: Kind | null) => void;
  set: (some: Partial<Pick<Marking, "lies" | "height" | "next" | "spots">>) => void;
  add: (snap: Snap) => void;
  clear: () => void;
};

/** A mark that is being drawn on the drawing, point by point. */
export const useMarking = create<Marking>((set) => ({
  kind: null,
  lies: "face",
  height: 0,
  spots: [],
  plane: null,
  called: "",
  next: null,
  take: (kind) => set({ kind, spots: [], plane: null, called: "", next: null }),
  set: (some) => set(some),
  add: (snap) =>
    set((s) => ({
      spots: [...s.spots, { x: snap.x, y: snap.y, point: snap.point as Spot["point"] }],
      plane: snap.plane,
      called: snap.called,
    })),
  clear: () => set({ spots: [], plane: null, called: "", next: null }),
}));

export const isEnded = (kind: Kind, spots: number): boolean => ENDS[kind] === spots;
export const canEnd = (kind: Kind, spots: number): boolean => spots >= LEAST[kind];

/** Where a point would fall; nothing where it cannot be told now. `said` is told why. */
export async function snapped(
  slug: string,
  x: number,
  y: number,
  reach: number,
  said?: (words: string) => void,
): Promise<Snap | null> {
  const { kind, lies, height, plane, spots } = useMarking.getState();
  const last = spots.at(-1);
  const body = {
    x,
    y,
    reach,
    height,
    lies: kind === "ground" ? ("cut" as const) : lies,
    plane: plane ?? null,
    on: last ? last.point : null,
    before: last ? ([last.x, last.y] as [number, number]) : null,
  };
  try {
    return await answered<Snap>(http.POST("/api/studies/{slug}/snap", { params: { path: { slug } }, body }));
  } catch (error) {
    if (error instanceof Refused) said?.(error.message);
    return null;
  }
}

/** Places of the drawing as points of a mark. */
export const laid = (slug: string, places: [number, number][], plane: Plane, on: Spot["point"]) =>
  answered<Spot["point"][]>(
    http.POST("/api/studies/{slug}/laid", { params: { path: { slug } }, body: { places, plane, on } }),
  );

const INK = "#2e2a27";

/** A mark of what was drawn. `scale` is 1:n, by which a brush is as wide on the model as it is on the paper. */
export function markOf(kind: Kind, points: Spot["point"][], plane: Plane, taken: Mark[], scale: number): Mark {
  const id = Array.from({ length: taken.length + 1 }, (_, k) => `mark-${k + 1}`).find((name) =>
    taken.every((m) => m.id !== name),
  )!;
  const count = taken.filter((m) => m.kind === kind).length + 1;
  const name = `${CALLED[kind]}${count > 1 ? ` ${count}` : ""}`;
  const pen = (weight: number, opacity = 1) => ({ weight, colour: INK, dash: [], opacity });
  if (kind === "ground")
    return {
      kind,
      id,
      name,
      on: true,
      points,
      depth: 2,
      edge: "fading",
      pen: pen(0.5),
      fills: [{ ...BARE, pattern: "earth", weight: 0.11, colour: "#5d5145" }],
    };
  const wide = plane.lies === "paper" ? 14 : (14 * scale) / 1000;
  return {
    kind,
    id,
    name,
    on: true,
    points,
    plane,
    lift: 0,
    fills: [],
    width: wide,
    softness: 0.7,
    where: null,
    pen: kind === "brush" ? pen(0, 0.35) : pen(0.25),
  } as Mark;
}

export const CALLED: Record<Kind, string> = {
  line: "Line",
  polyline: "Lines",
  arrow: "Arrow",
  rectangle: "Rectangle",
  polygon: "Polygon",
  circle: "Circle",
  arc: "Arc",
  stroke: "Free stroke",
  brush: "Brush of tone",
  ground: "Ground",
};
