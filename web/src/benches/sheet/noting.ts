import { useQuery } from "@tanstack/react-query";
import { create } from "zustand";

import { answered, http, type Note, type NoteForm, type NotePoint, type PlacedNote } from "../../api/client";
import { at, type Editing } from "../../desk/study";

type Noting = {
  /** The kind of note that is being placed; nothing while none is in the hand. */
  kind: NoteForm | null;
  spots: NotePoint[];
  /** Where the next point would fall. */
  next: NotePoint | null;
  /** Whether points lie on the paper, whatever is there. */
  paper: boolean;
  take: (kind: NoteForm | null) => void;
  set: (some: Partial<Pick<Noting, "spots" | "next" | "paper">>) => void;
};

/** A note that is being placed on the drawing, point by point. */
export const useNoting = create<Noting>((set) => ({
  kind: null,
  spots: [],
  next: null,
  paper: false,
  take: (kind) => set({ kind, spots: [], next: null }),
  set: (some) => set(some),
}));

/** What can be written, and how it is lettered. */
export function useNoteForms() {
  return useQuery({
    queryKey: ["note-kinds"],
    queryFn: () => answered(http.GET("/api/notes/kinds")),
    staleTime: Infinity,
  }).data;
}

/** Where the notes of the view on the desk stand, for a state of the study whose drawing is there; of the one before until that is known. */
export function usePlacedNotes(slug: string, drawn: number): PlacedNote[] {
  return (
    useQuery({
      queryKey: ["notes", slug, drawn],
      enabled: drawn >= 0,
      queryFn: () => answered<PlacedNote[]>(http.GET("/api/studies/{slug}/notes", { params: { path: { slug } } })),
      staleTime: Infinity,
      placeholderData: (before) => before,
    }).data ?? []
  );
}

/** What a place of the drawing offers to a note. */
export const notePoint = (slug: string, x: number, y: number, reach: number, kind: string, paper: boolean) =>
  answered<NotePoint>(
    http.POST("/api/studies/{slug}/notes/point", {
      params: { path: { slug } },
      body: { x, y, reach, panes: kind === "light", paper },
    }),
  );

const freeId = (notes: readonly Note[]) =>
  Array.from({ length: notes.length + 1 }, (_, k) => `note-${k + 1}`).find((id) => notes.every((n) => n.id !== id))!;

/** Write a fresh note of a kind on places of the drawing; its id when it is written. */
export async function writeNote(editing: Editing, kind: NoteForm, spots: NotePoint[]): Promise<string | null> {
  const made = await answered<{ note: Record<string, unknown> }>(
    http.POST("/api/studies/{slug}/notes/made", {
      params: { path: { slug: editing.study.slug } },
      body: {
        kind: kind.kind,
        spots: spots.map((s) => ({
          point: s.lies === "paper" ? null : s.point,
          x: s.x,
          y: s.y,
          part: s.part,
          layer: s.layer,
          thickness: s.thickness,
        })),
      },
    }),
  );
  const id = freeId(editing.saved.notes ?? []);
  const done = await editing.act({
    do: "notes",
    label: `Write ${kind.label.toLowerCase()}`,
    changes: [at(["notes", id], { ...made.note, id })],
  });
  return done ? id : null;
}

/** Move what a handle of a note takes hold of. */
export async function moveNote(
  editing: Editing,
  note: Note,
  index: number,
  to: [number, number],
  reach: number,
): Promise<void> {
  const body = { note_id: note.id!, index, x: to[0], y: to[1], reach, panes: note.kind === "light", paper: index < 0 };
  const moved = await answered<{ note: Record<string, unknown> }>(
    http.POST("/api/studies/{slug}/notes/moved", { params: { path: { slug: editing.study.slug } }, body }),
  );
  await editing.act({ do: "notes", label: "Move a note", changes: [at(["notes", note.id!], moved.note)] });
}
