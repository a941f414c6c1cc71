import { create } from "zustand";

import type { Query, View } from "../../api/client";

export type Disc = NonNullable<View["discs"]>[number];
export type PaintedMask = NonNullable<View["masks"]>[number];

type Painting = {
  /** The mask that the brush is on; `null` while none is painted. */
  mask: string | null;
  size: number;
  softness: number;
  strength: number;
  erases: boolean;
  set: (some: Partial<Omit<Painting, "set">>) => void;
};

/** The brush: what it paints on, and how. */
export const usePainting = create<Painting>((set) => ({
  mask: null,
  size: 20,
  softness: 0.6,
  strength: 1,
  erases: false,
  set: (some) => set(some),
}));

/** The names of discs and masks through which a query shows something. */
export function windowNames(query: Query | null | undefined): string[] {
  if (!query) return [];
  if (query.kind === "through") return [query.name];
  if (query.kind === "all" || query.kind === "any") return (query.of as Query[]).flatMap(windowNames);
  return query.kind === "not" ? windowNames(query.of as Query) : [];
}

/** What is left of a query without what is shown through a window; `null` for all of the drawing. */
export function withoutWindow(query: Query | null | undefined, name: string): Query | null {
  if (!query) return null;
  if (query.kind === "through") return query.name === name ? null : query;
  if (query.kind === "not") {
    const of = withoutWindow(query.of as Query, name);
    return of && ({ ...query, of } as Query);
  }
  if (query.kind !== "all" && query.kind !== "any") return query;
  const left = (query.of as Query[]).map((q) => withoutWindow(q, name)).filter((q): q is Query => q !== null);
  return left.length === 0 ? null : left.length === 1 ? left[0]! : ({ ...query, of: left } as Query);
}

/** An id and a name that no other of a list has. */
export function freshName(
  taken: readonly { id: string; name: string }[],
  id: string,
  name: string,
): { id: string; name: string } {
  let number = taken.length + 1;
  while (taken.some((t) => t.id === `${id}-${number}` || t.name === `${name} ${number}`)) number += 1;
  return { id: `${id}-${number}`, name: `${name} ${number}` };
}

/** The middle of the drawing on the paper, in frame millimetres. */
export const middleOf = (view: View): [number, number] => {
  const frame = view.frame!;
  return [(frame.width ?? 420) / 2 + (frame.shift?.[0] ?? 0), (frame.height ?? 297) / 2 + (frame.shift?.[1] ?? 0)];
};

/** Where a disc lies, in frame millimetres; `null` where its point of the model lies behind the viewer, or is not known yet. */
export function placeOf(disc: Disc, view: View, matrix: number[][] | null | undefined): [number, number] | null {
  const middle = disc.middle ?? { kind: "paper", at: [0, 0] };
  if (middle.kind === "paper") {
    const [x, y] = middleOf(view);
    return [x + (middle.at?.[0] ?? 0), y + (middle.at?.[1] ?? 0)];
  }
  if (!matrix) return null;
  const [x, y, , w] = matrix.map(
    (row) => row[0]! * middle.at[0] + row[1]! * middle.at[1] + row[2]! * middle.at[2] + row[3]!,
  );
  return w! > 1e-9 ? [x! / w!, y! / w!] : null;
}
