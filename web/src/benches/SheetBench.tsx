import { useScreen } from "../desk/screen";
import { at, type Editing } from "../desk/study";
import { GoingOut } from "../out/GoingOut";
import { OnOff, TextField } from "../shared/controls";
import { DimensionLine } from "../shared/DimensionLine";
import { BoardList, PageChoice } from "./sheet/board/BoardList";
import { BoardSettings } from "./sheet/board/BoardSettings";
import { useBoard } from "./sheet/board/boards";
import { LetteringSettings } from "./sheet/LetteringSettings";
import { NoteList } from "./sheet/NoteList";
import { NoteSettings } from "./sheet/NoteSettings";

const NOTES = [
  { id: "title", name: "Title", field: "title_on" },
  { id: "scale-bar", name: "Scale bar", field: "scale_bar_on" },
  { id: "north", name: "North point", field: "north_on" },
  { id: "margin", name: "Margin", field: "" },
] as const;

/** What stands on the page beside the drawing. */
export function SheetList({ editing }: { editing: Editing }) {
  const { chosen, choose } = useScreen();
  const sheet = editing.saved.sheet!;
  const board = useBoard(editing);
  if (board)
    return (
      <>
        <PageChoice editing={editing} />
        <BoardList editing={editing} />
      </>
    );
  return (
    <>
      <PageChoice editing={editing} />
      <h2>Sheet</h2>
      <ul className="mt-1">
        {NOTES.map((note) => (
          <li key={note.id} className="row" data-chosen={chosen.Sheet?.id === note.id}>
            <button
              type="button"
              className="plain flex-1 py-1"
              aria-pressed={chosen.Sheet?.id === note.id}
              onClick={() => choose({ kind: "note", id: note.id })}
            >
              {note.name}
            </button>
            {note.field ? (
              <OnOff
                bare
                label={`${note.name} on or off`}
                value={sheet[note.field] ?? true}
                onChange={(v) => editing.sheet(`${note.name} ${v ? "on" : "off"}`, [at([note.field], v)])}
              />
            ) : (
              <span className="quiet">{sheet.margin ?? 12} mm</span>
            )}
          </li>
        ))}
        <li className="row" data-chosen={chosen.Sheet?.id === "lettering"}>
          <button
            type="button"
            className="plain flex-1 py-1"
            aria-pressed={chosen.Sheet?.id === "lettering"}
            onClick={() => choose({ kind: "note", id: "lettering" })}
          >
            Lettering
          </button>
          <span className="quiet">{(editing.study.look.lettering?.size ?? 1.8).toFixed(1)} mm</span>
        </li>
      </ul>
      <NoteList editing={editing} />
    </>
  );
}

/** The selected note, and the way out. */
export function SheetSettings({ editing }: { editing: Editing }) {
  const { chosen } = useScreen();
  const board = useBoard(editing);
  const sheet = editing.saved.sheet!;
  const view = editing.study.document.desk.view;
  const set = (label: string, field: string, value: unknown) =>
    editing.sheet(label, [at([field], value)], `sheet.${field}`);
  const note =
    chosen.Sheet?.kind === "written" ? (editing.saved.notes ?? []).find((n) => n.id === chosen.Sheet!.id) : undefined;
  const id = chosen.Sheet?.kind === "written" ? (note ? "" : "title") : (chosen.Sheet?.id ?? "title");
  if (board) return <BoardSettings editing={editing} />;
  return (
    <>
      {note && <NoteSettings key={note.id} editing={editing} note={note} />}
      {id === "lettering" && <LetteringSettings editing={editing} />}
      {id === "title" && (
        <>
          <h2>Title</h2>
          <TextField
            label="Title"
            value={sheet.title ?? ""}
            placeholder={view.name}
            onChange={(v) => set("Title", "title", v)}
          />
          <TextField
            label="Line below"
            value={sheet.subtitle ?? ""}
            placeholder={editing.study.document.name}
            onChange={(v) => set("Line below the title", "subtitle", v)}
          />
        </>
      )}
      {id === "scale-bar" && (
        <>
          <h2>Scale bar</h2>
          <p className="quiet mt-1">
            {view.projection.kind === "perspective"
              ? "A perspective has no one scale, so it carries no bar. Choose an axonometric or a straight view to have one."
              : "Its length is the longest round measure that suits the sheet, at the drawing's own scale."}
          </p>
        </>
      )}
      {id === "north" && (
        <>
          <h2>North point</h2>
          <p className="quiet mt-1">
            On a drawing that shows the ground it points to north as it lies there. Else north is up and the small arrow
            is the direction of sight.
          </p>
        </>
      )}
      {id === "margin" && (
        <>
          <h2>Margin</h2>
          <DimensionLine
            label="Bare paper around the drawing"
            unit="mm"
            digits={0}
            min={0}
            max={40}
            step={1}
            initial={12}
            value={sheet.margin ?? 12}
            onChange={(v) => set("Margin", "margin", v)}
          />
        </>
      )}
      <GoingOut editing={editing} />
    </>
  );
}
