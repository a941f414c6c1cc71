import { useQuery } from "@tanstack/react-query";

import { answered, type Board, http, type OwnPicture } from "../../../api/client";
import { useScreen } from "../../../desk/screen";
import { at, type Editing, useChoices } from "../../../desk/study";
import { freeId, placeView, useBoard } from "./boards";

/** What lies in the middle: the sheet of the view, or one of the boards. */
export function PageChoice({ editing }: { editing: Editing }) {
  const { board, set, choose } = useScreen();
  const boards = editing.study.document.boards ?? [];
  const blank = useChoices()?.board;
  const lay = (id: string) => {
    set({ board: id, page: 1 });
    choose({ kind: "note", id: id ? "board" : "title" });
  };
  const make = async () => {
    const id = freeId("board", boards);
    const done = await editing.act({
      do: "boards",
      label: "New board",
      changes: [at(["boards", id], { ...blank, id, name: `Board ${boards.length + 1}` })],
    });
    if (done) lay(id);
  };
  return (
    <nav aria-label="Pages" className="mb-4">
      <button type="button" className="row w-full" aria-pressed={!board} data-chosen={!board} onClick={() => lay("")}>
        <span>View {editing.saved.mark}, its sheet</span>
      </button>
      {boards.map((b) => (
        <button
          key={b.id}
          type="button"
          className="row w-full"
          aria-pressed={board === b.id}
          data-chosen={board === b.id}
          onClick={() => lay(b.id!)}
        >
          <span className="min-w-0 truncate">{b.name}</span>
          <span className="quiet shrink-0 text-xs">{called(b)}</span>
        </button>
      ))}
      <button
        type="button"
        className="plain mt-1.5 text-xs underline underline-offset-4"
        disabled={!blank}
        onClick={() => void make()}
      >
        Begin a board
      </button>
    </nav>
  );
}

const called = (board: Board) => `${Math.round(board.page!.width ?? 841)} × ${Math.round(board.page!.height ?? 594)}`;

/** What stands on a board, and what can be laid on it. */
export function BoardList({ editing }: { editing: Editing }) {
  const board = useBoard(editing);
  const { chosen, choose, page, set } = useScreen();
  if (!board) return null;
  const mine = chosen.Sheet?.kind === "placed" ? chosen.Sheet.id : null;
  const views = editing.study.document.views;
  const number = Math.min(page, board.pages ?? 1);
  const pick = (id: string) => choose({ kind: "placed", id });
  const add = async (kind: "texts", row: Record<string, unknown>, label: string) => {
    const id = freeId("text", board[kind] ?? []);
    if (
      await editing.act({
        do: "boards",
        label,
        changes: [at(["boards", board.id!, kind, id], { id, page: number, ...row })],
      })
    )
      pick(id);
  };
  const margin = board.page!.module!.margin ?? 15;
  return (
    <>
      {(board.pages ?? 1) > 1 && (
        <div className="mb-2 flex gap-2" role="group" aria-label="Page">
          {Array.from({ length: board.pages ?? 1 }, (_, k) => k + 1).map((n) => (
            <button
              key={n}
              type="button"
              aria-pressed={n === number}
              className={`plain border-b-2 px-1 ${n === number ? "border-sanguine font-semibold" : "border-transparent"}`}
              onClick={() => set({ page: n })}
            >
              {n}
            </button>
          ))}
        </div>
      )}
      <h2>On this page</h2>
      <ul className="mt-1" aria-label="On this page">
        {(board.drawings ?? [])
          .filter((d) => (d.page ?? 1) === number)
          .map((d) => {
            const view = views.find((v) => v.id === d.view);
            return (
              <li key={d.id} className="row" data-chosen={mine === d.id}>
                <button
                  type="button"
                  className="plain min-w-0 flex-1 truncate text-left"
                  aria-pressed={mine === d.id}
                  onClick={() => pick(d.id!)}
                >
                  <b>{view?.mark}</b> {view?.view.name}
                </button>
                {(d.line_x || d.line_y) && <span className="quiet text-xs">in line</span>}
              </li>
            );
          })}
        {(board.texts ?? [])
          .filter((t) => t.page === number || t.page === 0)
          .map((t) => (
            <li key={t.id} className="row" data-chosen={mine === t.id}>
              <button
                type="button"
                className="plain min-w-0 flex-1 truncate text-left"
                aria-pressed={mine === t.id}
                onClick={() => pick(t.id!)}
              >
                “{t.text?.split("\n")[0]}”
              </button>
              {t.page === 0 && <span className="quiet text-xs">all pages</span>}
            </li>
          ))}
        {(board.pictures ?? [])
          .filter((p) => p.page === number || p.page === 0)
          .map((p) => (
            <li key={p.id} className="row" data-chosen={mine === p.id}>
              <button
                type="button"
                className="plain min-w-0 flex-1 truncate text-left"
                aria-pressed={mine === p.id}
                onClick={() => pick(p.id!)}
              >
                Picture
              </button>
            </li>
          ))}
      </ul>
      <h2 className="mt-5">Lay on it</h2>
      <ul className="mt-1" aria-label="Lay on it">
        {views.map((v) => (
          <li key={v.id} className="row">
            <button
              type="button"
              className="plain min-w-0 flex-1 truncate text-left"
              title={`Lay ${v.view.name} on the page`}
              onClick={() => void placeView(editing, board, v.id, number).then((id) => id && pick(id))}
            >
              <b>{v.mark}</b> {v.view.name}
            </button>
          </li>
        ))}
        <li className="row">
          <button
            type="button"
            className="plain flex-1 text-left"
            onClick={() => void add("texts", { at: [margin, margin], text: "Text" }, "Text on the board")}
          >
            A text
          </button>
        </li>
      </ul>
      <BoardPictures editing={editing} board={board} page={number} onDone={pick} />
    </>
  );
}

/** Pictures of the stock, to be laid on a page. */
function BoardPictures({
  editing,
  board,
  page,
  onDone,
}: {
  editing: Editing;
  board: Board;
  page: number;
  onDone: (id: string) => void;
}) {
  const { data: pictures = [] } = useQuery({
    queryKey: ["pictures"],
    queryFn: () => answered<OwnPicture[]>(http.GET("/api/pictures")),
  });
  const lay = async (digest: string) => {
    const id = freeId("picture", board.pictures ?? []);
    const margin = board.page!.module!.margin ?? 15;
    if (
      await editing.act({
        do: "boards",
        label: "Picture on the board",
        changes: [
          at(["boards", board.id!, "pictures", id], { id, page, picture: digest, at: [margin, margin], width: 80 }),
        ],
      })
    )
      onDone(id);
  };
  if (!pictures.length)
    return <p className="quiet mt-2 text-xs">Pictures are laid on from the stock of the Collage bench; it is empty.</p>;
  return (
    <ul aria-label="Pictures to lay on">
      {pictures.map((p) => (
        <li key={p.digest} className="row">
          <button type="button" className="plain min-w-0 flex-1 truncate text-left" onClick={() => void lay(p.digest)}>
            {p.name}
          </button>
        </li>
      ))}
    </ul>
  );
}
