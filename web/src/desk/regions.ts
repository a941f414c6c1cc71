import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { create } from "zustand";

import { answered, http, type Pointed } from "../api/client";
import { type Width, widened } from "../benches/ink/pouring";
import { isOpen } from "../shared/jobs";

/** The region that is selected in the drawing: where it was pointed at, how wide it is meant, and what was found. */
type Selection = { x: number; y: number; wide: number; found: Pointed } | null;

/** What of the regions is shown on the drawing. A selection is made at a place; a kept region is chosen in the list. */
export const useRegions = create<{
  selection: Selection;
  kept: string | null;
  select: (s: Selection) => void;
  choose: (id: string | null) => void;
}>((set) => ({
  selection: null,
  kept: null,
  // A kept region stays shown when the view changes under it: it is in every view.
  select: (selection) => set(selection ? { selection, kept: null } : { selection }),
  choose: (kept) => set({ kept, selection: null }),
}));

/** The region at a place of the drawing; waits for the map where it has to be made. */
export async function pointed(
  slug: string,
  x: number,
  y: number,
  wide: number,
  signal?: AbortSignal,
  waits?: () => void,
): Promise<Pointed | null> {
  for (;;) {
    const got = await http.POST("/api/studies/{slug}/pointed", {
      params: { path: { slug } },
      body: { x, y, wide },
      signal,
    });
    if (got.response.status !== 200 || !got.data) return null;
    if (!got.data.job) return got.data as Pointed;
    if (!isOpen(got.data.job)) return null;
    waits?.();
    await new Promise((r) => setTimeout(r, 300));
    if (signal?.aborted) return null;
  }
}

/** The region under the pointer, a moment after it came to rest, and whether its map is still being made. */
export function usePointed(
  slug: string,
  revision: number,
  at: [number, number] | null,
  width: Width | null = null,
): { found: Pointed | null; making: boolean } {
  const [found, setFound] = useState<Pointed | null>(null);
  const [making, setMaking] = useState(false);
  const x = at?.[0];
  const y = at?.[1];
  useEffect(() => setFound(null), [revision]);
  useEffect(() => {
    if (x === undefined || y === undefined) {
      setFound(null);
      setMaking(false);
      return;
    }
    const stop = new AbortController();
    const later = setTimeout(async () => {
      try {
        let got = await pointed(slug, x, y, 0, stop.signal, () => setMaking(true));
        const wide = got && width ? widened(got, width) : 0;
        if (wide) got = await pointed(slug, x, y, wide, stop.signal);
        if (!stop.signal.aborted) {
          setFound(got);
          setMaking(false);
        }
      } catch {
        // The pointer moved on: the next place is asked for.
      }
    }, 90);
    return () => {
      clearTimeout(later);
      stop.abort();
    };
  }, [slug, revision, x, y, width]);
  return { found, making };
}

/** The shape of a kept region in the view on the desk. */
export function useKeptShape(slug: string, revision: number, id: string | null): Pointed | null {
  const found = useQuery({
    queryKey: ["region", slug, revision, id],
    enabled: !!id,
    queryFn: () =>
      answered<Pointed>(
        http.POST("/api/studies/{slug}/regions/{region_id}/shape", { params: { path: { slug, region_id: id! } } }),
      ),
    refetchInterval: (query) => (isOpen(query.state.data?.job) ? 300 : false),
  }).data;
  return id && found && !found.job ? found : null;
}

/** The rings of a shape as a path, in frame millimetres. */
export function pathOf(rings: Pointed["rings"]): string {
  return (rings ?? []).map((ring) => `M${ring.map((p) => p.join(" ")).join("L")}Z`).join("");
}
