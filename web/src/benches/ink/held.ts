import { useQuery } from "@tanstack/react-query";
import { create } from "zustand";

import { answered, http } from "../../api/client";

type Held = { room: "pens" | "poche" | "surfaces" | "construction"; id: string } | null;

/** The rule that is rested on, whose hold is shown in the drawing. */
export const useHeld = create<{ held: Held; show: (held: Held) => void }>((set) => ({
  held: null,
  show: (held) => set({ held }),
}));

/** What the rule that is rested on takes hold of, as lines in frame millimetres. */
export function useHeldLines(slug: string, revision: number): [number, number][][] {
  const held = useHeld((s) => s.held);
  const found = useQuery({
    queryKey: ["held", slug, revision, held?.room, held?.id],
    enabled: !!held,
    queryFn: () =>
      answered<[number, number][][]>(
        http.GET("/api/studies/{slug}/{room}/{rule_id}/lines", {
          params: { path: { slug, room: held!.room, rule_id: held!.id } },
        }),
      ),
    staleTime: 60_000,
  }).data;
  return held && found ? found : [];
}

/** Lines as a path, in frame millimetres. */
export function linesPath(lines: [number, number][][]): string {
  return lines.map((line) => `M${line.map((p) => p.join(" ")).join("L")}`).join("");
}
