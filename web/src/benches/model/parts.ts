import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useMemo } from "react";

import { answered, http, type Parts } from "../../api/client";
import type { Study } from "../../api/client";
import { useSending } from "../../desk/edits";
import { type Look, STATE } from "../../shared/look";
import type { Vec } from "../view/camera";

/** Everything said of the parts; the rows before stay until the new ones are there. */
export function useParts(study: Study) {
  const version = study.model.version;
  return useQuery({
    queryKey: ["parts", study.slug, version],
    queryFn: () =>
      answered<Parts>(
        http.GET("/api/studies/{slug}/parts", { params: { path: { slug: study.slug }, query: { version } } }),
      ),
    staleTime: Infinity,
    gcTime: 60_000,
    placeholderData: keepPreviousData,
  });
}

export const pathOf = (parts: Parts, n: number) => {
  const layer = parts.layers[parts.layer[n]!]!;
  return layer ? `${layer}/${parts.name[n]!}` : parts.name[n]!;
};
/** A name as the view file's glob for it alone. */
export const asPattern = (name: string) => name.replace(/[*?[]/g, "[$&]");
/** The part's path as such a glob. */
export const patternOf = (parts: Parts, n: number) => asPattern(pathOf(parts, n));
export const sizeOf = (parts: Parts, n: number): Vec => [
  parts.size[3 * n]!,
  parts.size[3 * n + 1]!,
  parts.size[3 * n + 2]!,
];
export const middleOf = (parts: Parts, n: number): Vec => [
  parts.middle[3 * n]!,
  parts.middle[3 * n + 1]!,
  parts.middle[3 * n + 2]!,
];
export const longestOf = (parts: Parts, n: number) => Math.max(...sizeOf(parts, n));
export const roleOf = (parts: Parts, n: number) => parts.roles[parts.role[n]!]!;

/** How a part behaves when nothing is said of it alone: as its role does, and as its material is seen through or not. */
export function usualOf(parts: Parts, n: number) {
  const usual = parts.behaviour[roleOf(parts, n)]!;
  return { ...usual, clear: usual.clear || parts.materials[parts.material[n]!]!.clear };
}

export type Filter = { words: string; role: string; material: number; least: number; most: number; problem: string };
export const NO_FILTER: Filter = { words: "", role: "", material: -1, least: 0, most: 0, problem: "" };

/** The numbers of the parts that are there and pass a filter; `troubled` are those of the problem asked for. */
export function filtered(parts: Parts, filter: Filter, troubled: ReadonlySet<number>): number[] {
  const absent = new Set(parts.absent);
  const wanted = filter.words.toLowerCase().split(/\s+/).filter(Boolean);
  const found: number[] = [];
  for (let n = 0; n < parts.name.length; n++) {
    if (absent.has(n)) continue;
    if (filter.role && roleOf(parts, n) !== filter.role) continue;
    if (filter.material >= 0 && parts.material[n] !== filter.material) continue;
    if (filter.problem && !troubled.has(n)) continue;
    if (filter.least > 0 && longestOf(parts, n) < filter.least) continue;
    if (filter.most > 0 && longestOf(parts, n) > filter.most) continue;
    if (wanted.length) {
      const text = `${pathOf(parts, n)} ${parts.materials[parts.material[n]!]!.name} ${roleOf(parts, n)}`.toLowerCase();
      if (!wanted.every((w) => text.includes(w))) continue;
    }
    found.push(n);
  }
  return found;
}

export type TreeRow =
  | { kind: "layer"; path: string; name: string; depth: number; parts: number[]; open: boolean }
  | { kind: "part"; part: number; depth: number };

/** The layers of some parts as the rows of a tree, closed ones without what is below them. */
export function treeRows(parts: Parts, numbers: readonly number[], open: ReadonlySet<string>): TreeRow[] {
  type Node = { name: string; path: string; below: Map<string, Node>; own: number[]; all: number[] };
  const root: Node = { name: "", path: "", below: new Map(), own: [], all: [] };
  for (const n of numbers) {
    let node = root;
    const layer = parts.layers[parts.layer[n]!]! || "No layer";
    for (const step of layer.split("/")) {
      let next = node.below.get(step);
      if (!next)
        node.below.set(
          step,
          (next = { name: step, path: node.path ? `${node.path}/${step}` : step, below: new Map(), own: [], all: [] }),
        );
      next.all.push(n);
      node = next;
    }
    node.own.push(n);
  }
  const rows: TreeRow[] = [];
  const walk = (node: Node, depth: number) => {
    for (const child of node.below.values()) {
      const shown = open.has(child.path);
      rows.push({ kind: "layer", path: child.path, name: child.name, depth, parts: child.all, open: shown });
      if (shown) {
        walk(child, depth + 1);
        for (const part of child.own) rows.push({ kind: "part", part, depth: depth + 1 });
      }
    }
  };
  walk(root, 0);
  return rows;
}

export type Column = "name" | "layer" | "material" | "role" | "size" | "triangles";

/** The numbers in the order of a column. */
export function sorted(parts: Parts, numbers: readonly number[], column: Column, down: boolean): number[] {
  const compare = new Intl.Collator("en", { numeric: true }).compare;
  const value: Record<Column, (n: number) => string | number> = {
    name: (n) => parts.name[n]!,
    layer: (n) => parts.layers[parts.layer[n]!]!,
    material: (n) => parts.materials[parts.material[n]!]!.name,
    role: (n) => roleOf(parts, n),
    size: (n) => longestOf(parts, n),
    triangles: (n) => parts.triangles[n]!,
  };
  const keyed = numbers.map((n) => [value[column](n), n] as const);
  keyed.sort(([a, i], [b, j]) => (typeof a === "number" ? a - (b as number) : compare(a, b as string)) || i - j);
  const found = keyed.map(([, n]) => n);
  return down ? found.reverse() : found;
}

/** What a choice grows to: all parts that share something with what is chosen. */
export function grown(
  parts: Parts,
  chosen: ReadonlySet<number>,
  by: "layer" | "material" | "shape" | "role",
): number[] {
  const keys = new Set([...chosen].map((n) => parts[by][n]));
  const absent = new Set(parts.absent);
  return parts.name.map((_, n) => n).filter((n) => !absent.has(n) && keys.has(parts[by][n]!));
}

export const COLOURINGS = ["material", "layer", "role", "problem"] as const;
export type Colouring = (typeof COLOURINGS)[number];

// Earths, greens and greys that sit together on paper; layers take them in turn.
const EARTHS = [
  "#b98b6a",
  "#8c9a78",
  "#a3897c",
  "#7f8f96",
  "#c2a878",
  "#97785c",
  "#a9b09a",
  "#8a7f8e",
  "#c09a8a",
  "#6f8577",
  "#b5a58f",
  "#8f9fa8",
];
const ROLE_TONES: Record<string, string> = {
  structure: "#9a7f6c", envelope: "#c0a98c", glass: "#a9c4c6", furniture: "#b58f4e", ground: "#a8a07c", water: "#87a5ad",
  planting: "#86996d", people: "#b3837d", context: "#c9c2b6", subject: "#a8553c",
}; // prettier-ignore
export const roleTone = (role: string) => ROLE_TONES[role] ?? "#cfc8bc";

/** The opacity of a part that is seen through, in 255ths. */
const SEEN_THROUGH = 90;

const bytes = (colour: string, share = 0): [number, number, number] =>
  [1, 3, 5].map((i, k) =>
    Math.round(parseInt(colour.slice(i, i + 2), 16) * (1 - share) + [251, 248, 241][k]! * share),
  ) as [number, number, number];

/** How a view takes the parts of the model, where that is not as usual: what it does not show, and what its planes leave whole. */
export type Taken = { hidden: readonly number[]; uncut: readonly number[] };

/** How each part looks in three dimensions. */
export function lookOf(
  parts: Parts,
  colouring: Colouring,
  chosen: ReadonlySet<number>,
  troubled: ReadonlySet<number>,
  taken: Taken,
): Look {
  const count = parts.name.length;
  const tone = new Uint8Array(4 * count);
  const state = new Uint8Array(count);
  const tops = new Map<string, number>();
  for (const layer of parts.layers) {
    const key = layer.split("/").slice(0, 2).join("/");
    if (!tops.has(key)) tops.set(key, tops.size);
  }
  for (let n = 0; n < count; n++) {
    let rgb: [number, number, number];
    if (colouring === "material") rgb = bytes(parts.materials[parts.material[n]!]!.shown, 0.36);
    else if (colouring === "role") rgb = bytes(roleTone(roleOf(parts, n)), 0.1);
    else if (colouring === "layer")
      rgb = bytes(
        EARTHS[tops.get(parts.layers[parts.layer[n]!]!.split("/").slice(0, 2).join("/"))! % EARTHS.length]!,
        0.1,
      );
    else rgb = troubled.has(n) ? bytes("#c5643f") : bytes("#ded6c8");
    tone.set([...rgb, 255], 4 * n);
    if (chosen.has(n)) state[n]! |= STATE.chosen;
  }
  // What is seen through, left whole, filled as earth: the core says so.
  for (const n of parts.clear) tone[4 * n + 3] = SEEN_THROUGH;
  for (const n of parts.earth) state[n]! |= STATE.earth;
  for (const n of taken.uncut) state[n]! |= STATE.uncut;
  for (const n of taken.hidden) state[n]! |= STATE.hidden;
  return { tone, state };
}

/** The look of the view on the desk: what it shows, and what its planes cut, is asked of the core. */
export function useViewLook(study: Study, chosen: ReadonlySet<number>): Look | null {
  const { data } = useParts(study);
  const choice = JSON.stringify(study.document.desk.view.parts ?? {});
  const { slug, model, revision } = study;
  const { sending } = useSending();
  const taken = useQuery({
    queryKey: ["shown", slug, model.version, choice],
    enabled: !sending, // until it has arrived, the core would answer for what was before
    queryFn: () =>
      answered<Taken>(
        http.GET("/api/studies/{slug}/shown", { params: { path: { slug }, query: { key: String(revision) } } }),
      ),
    staleTime: Infinity,
    gcTime: 60_000,
    placeholderData: keepPreviousData,
  }).data;
  return useMemo(
    () => (data && taken ? lookOf(data, "material", chosen, new Set(), taken) : null),
    [data, taken, chosen],
  );
}
