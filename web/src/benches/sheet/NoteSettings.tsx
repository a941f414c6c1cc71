import { useEffect, useState } from "react";
import { toast } from "sonner";

import { answered, type Change, http, type Note } from "../../api/client";
import { useScreen } from "../../desk/screen";
import { at, type Editing } from "../../desk/study";
import { Choice, TextField } from "../../shared/controls";
import { DimensionLine } from "../../shared/DimensionLine";
import { SettingField } from "../../shared/SettingField";
import { useNoteForms, usePlacedNotes } from "./noting";
import { WordsField } from "./WordsField";

type Loose = Record<string, unknown>;
const INK = "ink";

/** A note: what it says, how it is written, and what it goes by. */
export function NoteSettings({ editing, note }: { editing: Editing; note: Note }) {
  const choose = useScreen((s) => s.choose);
  const forms = useNoteForms();
  const form = forms?.kinds.find((k) => k.kind === note.kind);
  const placed = usePlacedNotes(
    editing.study.slug,
    useScreen((s) => s.drawn),
  ).find((p) => p.id === note.id);
  const lettering = editing.study.look.lettering!;
  const own = note as unknown as Loose;
  const change = (label: string, changes: Change[]) =>
    void editing.act({ do: "notes", label: label.slice(0, 120), changes });
  const set = (label: string, field: string, value: unknown) => change(label, [at(["notes", note.id!, field], value)]);
  const size = (own.size as number | null) ?? null;
  if (!form) return null;
  const themes = lettering.themes ?? [];
  const drop = async () => {
    await editing.act({ do: "notes", label: "Take a note out", changes: [{ path: ["notes", note.id!], do: "drop" }] });
    choose({ kind: "note", id: "title" });
  };
  return (
    <section aria-label="Note">
      <h2>{form.label}</h2>
      {placed?.told && (
        <p role="status" className="flex items-start gap-2 py-1 text-xs">
          <span className="mt-1 inline-block h-2 w-2 shrink-0 bg-ochre-mark" aria-hidden />
          {placed.told}
        </p>
      )}
      {form.writes && (
        <WordsField
          value={(own.text as string) ?? ""}
          onChange={(v) => set("What a note says", "text", v)}
          hint="m^2 raises, CO_{2} lowers, {3/4} is a fraction."
        />
      )}
      {!form.writes && (
        <TextField
          label="Called"
          value={note.name ?? ""}
          placeholder={form.label}
          onChange={(v) => set("What a note is called", "name", v)}
        />
      )}
      <Choice
        label="In the colour of"
        value={note.theme || INK}
        options={[
          {
            value: INK,
            label: form.about
              ? `its own, ${themes.find((t) => t.id === form.about)?.name.toLowerCase() ?? "the ink"}`
              : "the ink",
          },
          ...themes.map((t) => ({ value: t.id, label: t.name })),
        ]}
        onChange={(v) => set("Theme of a note", "theme", v === INK ? "" : v)}
      />
      <DimensionLine
        label="Capitals"
        unit="mm"
        min={0.5}
        max={8}
        step={0.1}
        initial={lettering.size ?? 1.8}
        value={size ?? lettering.size ?? 1.8}
        onChange={(v) => set("Size of a note", "size", Math.abs(v - (lettering.size ?? 1.8)) < 1e-9 ? null : v)}
      />
      {form.settings
        .filter((s) => means(s, own))
        .map((setting) => (
          <SettingField
            key={setting.field}
            setting={setting}
            value={own[setting.field]}
            onChange={(v) => set(`${form.label}: ${setting.title.toLowerCase()}`, setting.field, v)}
          />
        ))}
      {own.put != null && (
        <button
          type="button"
          className="plain mt-2 block text-xs underline underline-offset-4"
          onClick={() => set("A note finds its place by itself", "put", null)}
        >
          Let it find its place by itself
        </button>
      )}
      {form.most > form.least && form.most > 1 && (
        <PointsLine editing={editing} note={note} least={form.least} most={form.most} />
      )}
      {note.kind === "rooms" && <RoomNames editing={editing} note={note} rooms={placed?.rooms ?? []} />}
      {note.kind === "grid" && <WallAxes editing={editing} note={note} />}
      {note.kind === "levels" && <Heights editing={editing} note={note} />}
      <button type="button" className="line-act mt-4 text-xs" onClick={() => void drop()}>
        Take it out
      </button>
    </section>
  );
}

type Conditional = { when?: Record<string, unknown[]>; unless?: Record<string, unknown[]> };
const means = (s: Conditional, own: Loose) =>
  Object.entries(s.when ?? {}).every(([f, values]) => values.includes(own[f])) &&
  !Object.entries(s.unless ?? {}).some(([f, values]) => values.includes(own[f]));

/** How many points a note has: one more at its end, or one less. */
function PointsLine({ editing, note, least, most }: { editing: Editing; note: Note; least: number; most: number }) {
  const points = ((note as unknown as Loose).points as [number, number, number][] | undefined) ?? [];
  const write = (label: string, rows: [number, number, number][]) =>
    void editing.act({ do: "notes", label, changes: [at(["notes", note.id!, "points"], rows)] });
  const more = () => {
    const [a, b] = [points.at(-2) ?? points.at(-1)!, points.at(-1)!];
    const way = b.map((v, k) => v - a[k]!);
    const step = way.some((v) => v) ? way : [1, 0, 0];
    write("One more point", [...points, b.map((v, k) => v + step[k]! * 0.6) as [number, number, number]]);
  };
  return (
    <div className="row text-xs">
      <span>{points.length} points; draw them, or move them with the arrow keys</span>
      <span className="flex gap-2">
        <button
          type="button"
          className="plain"
          aria-label="One point less"
          disabled={points.length <= least}
          onClick={() => write("One point less", points.slice(0, -1))}
        >
          −
        </button>
        <button
          type="button"
          className="plain"
          aria-label="One more point"
          disabled={!points.length || points.length >= most}
          onClick={more}
        >
          +
        </button>
      </span>
    </div>
  );
}

type Room = { name: string; number: string; area: number; point: [number, number, number] };
type Named = { at: [number, number, number]; name: string; number: string; shift?: [number, number] };

/** What the rooms are called. */
function RoomNames({ editing, note, rooms }: { editing: Editing; note: Note; rooms: Room[] }) {
  const named = ((note as unknown as Loose).named as Named[] | undefined) ?? [];
  const call = (room: Room, some: Partial<Named>) => {
    const here = (n: Named) => n.at.every((v, k) => Math.abs(v - room.point[k]!) < 1e-6);
    const before = named.find(here);
    const row = { at: room.point, name: room.name, number: room.number, shift: before?.shift ?? [0, 0], ...some };
    void editing.act({
      do: "notes",
      label: `Call a room ${some.name ?? some.number ?? ""}`.slice(0, 120),
      changes: [at(["notes", note.id!, "named"], [...named.filter((n) => !here(n)), row])],
    });
  };
  return (
    <div className="mt-3" role="group" aria-label="Rooms">
      <h3 className="label font-sans">Rooms</h3>
      {rooms.map((room, k) => (
        <div key={room.point.join(" ")} className="row gap-1">
          <Cell
            label={`Number of room ${k + 1}`}
            value={room.number}
            className="w-8"
            onChange={(number) => call(room, { number })}
          />
          <Cell
            label={`Name of room ${k + 1}`}
            value={room.name}
            className="min-w-0 flex-1"
            onChange={(name) => call(room, { name })}
          />
          <span className="quiet text-xs whitespace-nowrap">{room.area.toFixed(1)} m²</span>
        </div>
      ))}
      {!rooms.length && <p className="quiet text-xs">None is shown in this view.</p>}
    </div>
  );
}

function Cell({
  label,
  value,
  className,
  onChange,
}: {
  label: string;
  value: string;
  className: string;
  onChange: (value: string) => void;
}) {
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  return (
    <input
      aria-label={label}
      className={`field border-transparent ${className}`}
      maxLength={60}
      value={text}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => text !== value && onChange(text)}
      onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
    />
  );
}

type OwnAxis = { name: string; start: [number, number, number]; end: [number, number, number] };

/** Axes along the walls of the model, with their names. */
function WallAxes({ editing, note }: { editing: Editing; note: Note }) {
  const axes = ((note as unknown as Loose).axes as OwnAxis[] | undefined) ?? [];
  const write = (label: string, rows: OwnAxis[]) =>
    void editing.act({ do: "notes", label, changes: [at(["notes", note.id!, "axes"], rows)] });
  const find = async () => {
    const found = await answered<OwnAxis[]>(
      http.GET("/api/studies/{slug}/notes/axes", { params: { path: { slug: editing.study.slug } } }),
    ).catch((error: Error) => (toast.error(error.message), null));
    if (found) write("Axes along walls", found);
  };
  return (
    <div className="mt-3" role="group" aria-label="Axes">
      <button type="button" className="line-act text-xs" onClick={() => void find()}>
        Set axes along the walls
      </button>
      {axes.map((axis, k) => (
        <div key={k} className="row">
          <Cell
            label={`Name of axis ${k + 1}`}
            value={axis.name}
            className="w-12"
            onChange={(name) =>
              write(
                "Name of an axis",
                axes.map((a, i) => (i === k ? { ...a, name } : a)),
              )
            }
          />
          <button
            type="button"
            className="plain quiet text-xs"
            onClick={() =>
              write(
                "Take an axis out",
                axes.filter((_, i) => i !== k),
              )
            }
          >
            Take out
          </button>
        </div>
      ))}
      {!axes.length && <p className="quiet pt-1 text-xs">Those of the model, where its file has a grid.</p>}
    </div>
  );
}

type NamedHeight = { name: string; at: [number, number, number] };

/** Heights of one's own among the levels. */
function Heights({ editing, note }: { editing: Editing; note: Note }) {
  const rows = ((note as unknown as Loose).heights as NamedHeight[] | undefined) ?? [];
  const write = (label: string, next: NamedHeight[]) =>
    void editing.act({ do: "notes", label, changes: [at(["notes", note.id!, "heights"], next)] });
  return (
    <div className="mt-3" role="group" aria-label="Heights of one’s own">
      <h3 className="label font-sans">Heights of one’s own</h3>
      {rows.map((row, k) => (
        <div key={k} className="row gap-1">
          <Cell
            label={`Name of height ${k + 1}`}
            value={row.name}
            className="min-w-0 flex-1"
            onChange={(name) =>
              write(
                "Name of a height",
                rows.map((r, i) => (i === k ? { ...r, name } : r)),
              )
            }
          />
          <Cell
            label={`Height ${k + 1} in metres`}
            value={row.at[2].toFixed(2)}
            className="w-14 text-right"
            onChange={(v) =>
              Number.isFinite(Number(v.replace(",", "."))) &&
              write(
                "A height",
                rows.map((r, i) => (i === k ? { ...r, at: [r.at[0], r.at[1], Number(v.replace(",", "."))] } : r)),
              )
            }
          />
          <span className="quiet text-xs">m</span>
          <button
            type="button"
            className="plain quiet text-xs"
            aria-label={`Take height ${k + 1} out`}
            onClick={() =>
              write(
                "Take a height out",
                rows.filter((_, i) => i !== k),
              )
            }
          >
            ×
          </button>
        </div>
      ))}
      <button
        type="button"
        className="plain mt-1 text-xs underline underline-offset-4"
        onClick={() => write("One more height", [...rows, { name: "", at: [0, 0, 0] }])}
      >
        Add a height
      </button>
    </div>
  );
}
