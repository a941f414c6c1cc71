import { useQuery } from "@tanstack/react-query";

import {
  answered,
  type Board,
  type BoardDrawing,
  type BoardState,
  http,
  type PlacedDrawing,
} from "../../../api/client";
import { useScreen } from "../../../desk/screen";
import { at, type Editing } from "../../../desk/study";
import { isOpen } from "../../../shared/jobs";

export type Spot = [number, number];
export type Kind = "drawings" | "texts" | "pictures";

/** The board that lies in the middle; nothing where the view does. */
export function useBoard(editing: Editing): Board | undefined {
  const id = useScreen((s) => s.board);
  return (editing.study.document.boards ?? []).find((b) => b.id === id);
}

/** How the drawings of a board lie, and whether their pictures are there. What is missing is begun only by who `begins` it. */
export function useBoardState(
  slug: string,
  id: string | undefined,
  revision: number,
  { fine = false, begins = false } = {},
) {
  return useQuery<BoardState>({
    queryKey: ["board", slug, id, revision, fine, begins],
    enabled: !!id,
    queryFn: () => {
      const params = { path: { slug, board_id: id! }, query: { fine } };
      return answered<BoardState>(
        begins
          ? http.POST("/api/studies/{slug}/boards/{board_id}", { params })
          : http.GET("/api/studies/{slug}/boards/{board_id}", { params }),
      );
    },
    placeholderData: (before) => before,
    refetchInterval: (query) => (isOpen(query.state.data?.job) ? 150 : false),
  });
}

export const freeId = (word: string, rows: readonly { id?: string }[]) =>
  Array.from({ length: rows.length + 1 }, (_, k) => `${word}-${k + 1}`).find((id) => rows.every((r) => r.id !== id))!;

/** Change a thing on a board. */
export const setOn = (
  editing: Editing,
  board: Board,
  kind: Kind,
  id: string,
  label: string,
  some: Record<string, unknown>,
) =>
  editing.act({
    do: "boards",
    label,
    changes: Object.entries(some).map(([field, value]) => at(["boards", board.id!, kind, id, field], value)),
  });

/** What a placed drawing shows of its frame: left, top, right, bottom in millimetres of the frame. */
export function shownBox(placed: PlacedDrawing, size: readonly number[]): [number, number, number, number] {
  const points = (placed.frame ?? []) as Spot[];
  if (points.length < 3) return [0, 0, size[0]!, size[1]!];
  const xs = points.map((p) => p[0]);
  const ys = points.map((p) => p[1]);
  return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
}

export type Guide = { way: 0 | 1; at: number; said: string; line: string };

/** Millimetres of paper by which a point may differ over so many metres of a building and be in line still: as the core has it. */
const [ALIKE, EXTENT] = [0.02, 30];
export const alike = (a: readonly number[], b: readonly number[]) =>
  a.every((v, k) => Math.abs(v - b[k]!) * EXTENT <= ALIKE);

/** Where a drawing could stand: its frame's left (way 0) or top (way 1), by axes, levels, edges and the module grid. */
export function guidesFor(board: Board, state: BoardState, moving: PlacedDrawing): Guide[] {
  const mine = state.drawings.find((d) => d.id === moving.id);
  if (!mine) return [];
  const found: Guide[] = [];
  const box = shownBox(moving, mine.size);
  for (const other of board.drawings ?? []) {
    const theirs = state.drawings.find((d) => d.id === other.id);
    if (!theirs || other.id === moving.id || other.page !== moving.page) continue;
    const name = theirs.mark || theirs.name;
    if (mine.lie && theirs.lie) {
      if (alike(mine.lie.across, theirs.lie.across))
        found.push({
          way: 0,
          at: theirs.at[0]! + theirs.lie.left - mine.lie.left,
          said: `axes of ${name}`,
          line: other.id!,
        });
      if (alike(mine.lie.down, theirs.lie.down))
        found.push({
          way: 1,
          at: theirs.at[1]! + theirs.lie.top - mine.lie.top,
          said: `levels of ${name}`,
          line: other.id!,
        });
    }
    const there = shownBox(other, theirs.size);
    for (const way of [0, 1] as const) {
      const edges = [
        theirs.at[way]! + there[way]!,
        theirs.at[way]! + there[way + 2]!,
        theirs.at[way]! + (there[way]! + there[way + 2]!) / 2,
      ];
      const own = [box[way]!, box[way + 2]!, (box[way]! + box[way + 2]!) / 2];
      edges.forEach((edge, k) =>
        own.forEach(
          (mine, i) =>
            (k === 2) === (i === 2) &&
            found.push({ way, at: edge - mine, said: k === 2 ? `middle of ${name}` : `edge of ${name}`, line: "" }),
        ),
      );
    }
  }
  for (const way of [0, 1] as const) {
    for (const edge of moduleEdges(board, way)) {
      found.push({ way, at: edge - box[way]!, said: "module", line: "" });
      found.push({ way, at: edge - box[way + 2]!, said: "module", line: "" });
    }
  }
  return found;
}

/** The edges of the modules of a page. */
export function moduleEdges(board: Board, way: 0 | 1): number[] {
  const page = board.page!;
  const grid = page.module!;
  const [long, count] = way === 0 ? [page.width ?? 841, grid.columns ?? 12] : [page.height ?? 594, grid.rows ?? 8];
  const [gutter, margin] = [grid.gutter ?? 6, grid.margin ?? 15];
  const each = (long - 2 * margin - gutter * (count - 1)) / count;
  return Array.from({ length: count }, (_, k) => [
    margin + k * (each + gutter),
    margin + k * (each + gutter) + each,
  ]).flat();
}

/** The nearest guides within a reach, of axes and levels before all others. */
export function caughtBy(guides: Guide[], at: Spot, reach: number): { at: Spot; by: (Guide | null)[] } {
  const by = ([0, 1] as const).map((way) => {
    const near = guides.filter((g) => g.way === way && Math.abs(g.at - at[way]!) <= reach * (g.line ? 1.6 : 1));
    return (
      near.sort(
        (a, b) => Number(!a.line) - Number(!b.line) || Math.abs(a.at - at[way]!) - Math.abs(b.at - at[way]!),
      )[0] ?? null
    );
  });
  return { at: [by[0]?.at ?? at[0], by[1]?.at ?? at[1]], by };
}

/** Lay a saved view on a page. */
export async function placeView(editing: Editing, board: Board, view: string, page: number): Promise<string | null> {
  const id = freeId("drawing", board.drawings ?? []);
  const count = (board.drawings ?? []).filter((d) => d.page === page).length;
  const margin = board.page!.module!.margin ?? 15;
  const row = { id, page, view, at: [margin + 12 * count, margin + 12 * count] };
  const done = await editing.act({
    do: "boards",
    label: "Lay a drawing on the board",
    changes: [at(["boards", board.id!, "drawings", id], row)],
  });
  return done ? id : null;
}

export const pictureOf = (slug: string, board: string, drawing: BoardDrawing, fine: boolean) =>
  `/api/studies/${slug}/boards/${board}/drawings/${drawing.id}/picture?fine=${fine}&key=${drawing.picture}`;
