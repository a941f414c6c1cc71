import { toast } from "sonner";

import type { NoteForm } from "../../api/client";
import { useScreen } from "../../desk/screen";
import { at, type Editing } from "../../desk/study";
import { OnOff } from "../../shared/controls";
import { NoteSign } from "./NoteSign";
import { useNoteForms, useNoting, usePlacedNotes, writeNote } from "./noting";

/** What can be written on the drawing, and what is. */
export function NoteList({ editing }: { editing: Editing }) {
  const { chosen, choose } = useScreen();
  const forms = useNoteForms();
  const { kind, paper, take, set } = useNoting();
  const notes = editing.saved.notes ?? [];
  const placed = usePlacedNotes(
    editing.study.slug,
    useScreen((s) => s.drawn),
  );
  const mine = chosen.Sheet?.kind === "written" ? chosen.Sheet.id : null;
  const groups = [...new Set((forms?.kinds ?? []).map((k) => k.group))].sort(
    (a, b) => ORDER.indexOf(a) - ORDER.indexOf(b),
  );
  const press = async (form: NoteForm) => {
    if (form.most) return take(kind?.kind === form.kind ? null : form);
    take(null);
    const id = await writeNote(editing, form, []).catch((error: Error) => (toast.error(error.message), null));
    if (id) choose({ kind: "written", id });
  };
  return (
    <>
      <h2 className="mt-6">Notes</h2>
      {groups.map((group) => (
        <div key={group} className="mt-1.5">
          <h3 className="label font-sans">{group}</h3>
          <div className="flex flex-wrap gap-x-1 gap-y-0.5" role="group" aria-label={`Write: ${group}`}>
            {forms!.kinds
              .filter((k) => k.group === group)
              .map((form) => (
                <button
                  key={form.kind}
                  type="button"
                  aria-pressed={kind?.kind === form.kind}
                  aria-label={form.label}
                  title={form.label}
                  className={`plain border-b-2 p-1 ${kind?.kind === form.kind ? "border-sanguine" : "border-transparent"}`}
                  onClick={() => void press(form)}
                >
                  <NoteSign path={form.sign} chosen={kind?.kind === form.kind} />
                </button>
              ))}
          </div>
        </div>
      ))}
      {kind && (
        <div className="mt-1 text-xs">
          <p>
            <b>{kind.label}.</b> {kind.hint} Esc leaves off.
          </p>
          <OnOff label="On the paper, whatever is there" value={paper} onChange={(v) => set({ paper: v })} />
        </div>
      )}
      <ul className="mt-2" aria-label="Notes">
        {notes.map((note) => {
          const form = forms?.kinds.find((k) => k.kind === note.kind);
          const shown = placed.find((p) => p.id === note.id);
          const name = shown?.called ?? (note.name || form?.label || note.kind!);
          return (
            <li key={note.id} className="row" data-chosen={mine === note.id}>
              <button
                type="button"
                className={`plain flex min-w-0 flex-1 items-center gap-2 text-left leading-tight ${note.on === false ? "quiet" : ""}`}
                aria-pressed={mine === note.id}
                onClick={() => (take(null), choose({ kind: "written", id: note.id! }))}
              >
                <NoteSign path={form?.sign ?? "M3 8H17"} chosen={mine === note.id} />
                <span className="min-w-0 truncate">{name}</span>
                {shown?.told && (
                  <span
                    className="ml-auto h-2 w-2 shrink-0 bg-ochre-mark"
                    role="img"
                    aria-label={`To be seen to: ${shown.told}`}
                    title={shown.told}
                  />
                )}
              </button>
              <OnOff
                bare
                label={`${name}, on or off`}
                value={note.on ?? true}
                onChange={(v) =>
                  void editing.act({
                    do: "notes",
                    label: `${name.slice(0, 60)} ${v ? "on" : "off"}`,
                    changes: [at(["notes", note.id!, "on"], v)],
                  })
                }
              />
            </li>
          );
        })}
        {!notes.length && (
          <li className="quiet py-1 text-xs">
            Nothing is written on this view yet: press a sign, then click on the drawing.
          </li>
        )}
      </ul>
    </>
  );
}

const ORDER = ["Written", "From the model", "Environment"];
