import { useQuery } from "@tanstack/react-query";
import { create } from "zustand";

import { answered, type Figure, type FigureItem, http } from "../../../api/client";
import type { Editing } from "../../../desk/study";

/** How a figure in the hand is put: one by one, many along or over what is clicked, or on the paper alone. */
export const WAYS = ["one", "row", "area", "group", "paper"] as const;
export type Way = (typeof WAYS)[number];

type Rings = [number, number][][];
/** A picture of what was just put, and where it lies in frame millimetres. */
type Patch = { src: string; x: number; y: number; width: number; height: number };
type Ghost = { rings: Rings; on: string; at: [number, number] };

type Standing = {
  /** What is in the hand; nothing while nothing is. */
  item: FigureItem | null;
  way: Way;
  apart: number;
  density: number;
  least: number;
  count: number;
  distance: number;
  /** Places clicked so far, in frame millimetres. */
  places: [number, number][];
  ghost: Ghost | null;
  /** Outlines of what was just put, and the revision from which the drawing shows it. */
  fresh: { rings: Rings; since: number; patch?: Patch } | null;
  put: number;
  take: (item: FigureItem | null) => void;
  set: (some: Partial<Omit<Standing, "take" | "set">>) => void;
};

/** The figure in the hand. */
export const useStanding = create<Standing>((set) => ({
  item: null,
  way: "one",
  apart: 2,
  density: 0.1,
  least: 1,
  count: 3,
  distance: 30,
  places: [],
  ghost: null,
  fresh: null,
  put: 0,
  take: (item) =>
    set({ item, places: [], ghost: null, put: 0, ...(item && fliesAlone(item) ? { way: "paper" as const } : {}) }),
  set: (some) => set(some),
}));

/** What needs nothing to stand on. */
const fliesAlone = (item: FigureItem): boolean => ["bird in flight", "flock"].includes(String(item.figure.thing ?? ""));

/** A picture of one's own as a figure to take, a person's height until it is told another; a body of one's own as it is. */
export const ownFigure = ({ digest, name, tall }: { digest: string; name: string; tall: number }): FigureItem => {
  const said = { name: name.slice(0, 60), picture: digest };
  return {
    id: `picture-${digest}`,
    label: name,
    sort: "one's own",
    figure: tall ? { kind: "body", ...said, height: tall } : { kind: "cut-out", ...said, height: 1.75 },
  };
};

/** What figures there are to take, and the settings of each kind. */
export function useFigureStock() {
  return useQuery({ queryKey: ["figures"], queryFn: () => answered(http.GET("/api/figures")), staleTime: Infinity })
    .data;
}

/** Where a figure is in the view on the desk, and how tall. */
export function usePlaced(editing: Editing, figure_id: string) {
  const { slug, revision } = editing.study;
  return useQuery({
    queryKey: ["figure", slug, revision, figure_id],
    queryFn: () =>
      answered(http.GET("/api/studies/{slug}/figures/{figure_id}/outline", { params: { path: { slug, figure_id } } })),
    // While it is asked anew, what was so holds; of another figure nothing does.
    placeholderData: (before, query) => (query?.queryKey[3] === figure_id ? before : undefined),
    retry: false,
  }).data;
}

/** What is in the hand as a figure, no two alike. */
export function inHand(): Figure | null {
  const { item, put } = useStanding.getState();
  if (!item) return null;
  if (item.figure.picture) return item.figure as Figure;
  const seed = Number(item.figure.seed ?? 1) + 7 * put;
  return { ...item.figure, seed } as Figure;
}

/** The figure alone in its window of the drawing: what is shown until all passes know it. */
export async function patchOf(slug: string, id: string, density: number, revision: number): Promise<Patch | undefined> {
  const answer = await fetch(
    `/api/studies/${slug}/figures/${id}/patch?density=${density.toFixed(2)}&key=${revision}`,
  ).catch(() => null);
  const place = answer?.status === 200 ? answer.headers.get("X-Place")?.split(",").map(Number) : null;
  if (!place) return undefined;
  const [x, y, width, height] = place as [number, number, number, number];
  return { src: URL.createObjectURL(await answer!.blob()), x, y, width, height };
}

/** An id for a figure that no other has. */
export const freeId = (figures: Figure[]): string => {
  const taken = new Set(figures.map((f) => f.id));
  let n = figures.length + 1;
  while (taken.has(`figure-${n}`)) n += 1;
  return `figure-${n}`;
};

/** What a figure is called: its name, or what it is. */
export function calledBy(figure: Figure, items: FigureItem[]): string {
  const own = figure as Figure & Record<string, unknown>;
  const sort = String(own.pose ?? own.habit ?? own.thing ?? "");
  return (
    figure.name ||
    items.find((i) => [i.figure.pose, i.figure.habit, i.figure.thing].includes(sort))?.label ||
    sort ||
    figure.kind
  );
}

const GROUPS: Record<string, string> = {
  person: "People",
  plant: "Planting",
  thing: "Things",
  "cut-out": "Cut-outs",
  body: "Own bodies",
};

/** What a figure is listed under. */
export const groupOf = (figure: Figure): string => figure.group || GROUPS[figure.kind as string] || "Figures";

export const pathOfRings = (rings: Rings): string =>
  rings.map((r) => `M${r.map((p) => p.join(" ")).join("L")}Z`).join("");
