import { useState } from "react";

import { type Board, type PlacedDrawing } from "../../../api/client";
import { useScreen } from "../../../desk/screen";
import { at, type Editing, useChoices } from "../../../desk/study";
import { GoingOut } from "../../../out/GoingOut";
import { blackOf } from "../../../out/lifting";
import { Choice, ColourField, NumberField, OnOff, TextField } from "../../../shared/controls";
import { DimensionLine } from "../../../shared/DimensionLine";
import { WordsField } from "../WordsField";
import { alike, type Kind, setOn, shownBox, type Spot, useBoard, useBoardState } from "./boards";

const OWN = "own";
const SIDES = ["left", "right", "top", "bottom"] as const;

/** The board, or what is chosen on it. */
export function BoardSettings({ editing }: { editing: Editing }) {
  const board = useBoard(editing);
  const { chosen, choose, page } = useScreen();
  if (!board) return null;
  const id = chosen.Sheet?.kind === "placed" ? chosen.Sheet.id : "";
  const drawing = (board.drawings ?? []).find((d) => d.id === id);
  const text = (board.texts ?? []).find((t) => t.id === id);
  const picture = (board.pictures ?? []).find((p) => p.id === id);
  const drop = (kind: Kind) => {
    choose({ kind: "note", id: "board" });
    void editing.act({
      do: "boards",
      label: "Take it off the board",
      changes: [{ path: ["boards", board.id!, kind, id], do: "drop" }],
    });
  };
  const off = (kind: Kind) => (
    <button type="button" className="line-act mt-4 text-xs" onClick={() => drop(kind)}>
      Take it off the board
    </button>
  );
  const set = (kind: Kind) => (label: string, some: Record<string, unknown>) =>
    void setOn(editing, board, kind, id, label, some);
  return (
    <>
      {drawing && <DrawingSettings key={id} editing={editing} board={board} drawing={drawing} />}
      {drawing && off("drawings")}
      {text && (
        <>
          <h2>Text</h2>
          <WordsField
            value={text.text ?? ""}
            onChange={(v) => set("texts")("Text on the board", { text: v })}
            hint="{study}, {board}, {date}, {scales}, {page}, {pages} are filled in."
          />
          <Place at={(text.at ?? [0, 0]) as Spot} onChange={(v) => set("texts")("Place of a text", { at: v })} />
          <Choice
            label="Face"
            value={text.face ?? "sans"}
            options={FACES}
            onChange={(v) => set("texts")("Face of a text", { face: v })}
          />
          <NumberField
            label="Capitals"
            unit="mm"
            digits={1}
            min={0.5}
            max={200}
            value={text.size ?? 3.5}
            onChange={(v) => set("texts")("Size of a text", { size: v })}
          />
          <NumberField
            label="Broken at"
            unit="mm"
            digits={0}
            min={0}
            max={5000}
            value={text.wide ?? 0}
            onChange={(v) => set("texts")("Width of a text", { wide: v })}
          />
          <ColourField
            label="Colour"
            value={text.colour ?? "#2e2a27"}
            onChange={(v) => set("texts")("Colour of a text", { colour: v })}
          />
          <OnOff
            label="On all pages"
            value={text.page === 0}
            onChange={(v) => set("texts")("Text on all pages", { page: v ? 0 : page })}
          />
          {off("texts")}
        </>
      )}
      {picture && (
        <>
          <h2>Picture</h2>
          <Place
            at={(picture.at ?? [0, 0]) as Spot}
            onChange={(v) => set("pictures")("Place of a picture", { at: v })}
          />
          <NumberField
            label="Wide"
            unit="mm"
            digits={1}
            min={1}
            max={5000}
            value={picture.width ?? 60}
            onChange={(v) => set("pictures")("Width of a picture", { width: v })}
          />
          {off("pictures")}
        </>
      )}
      {!drawing && !text && !picture && <PageSettings editing={editing} board={board} />}
      <GoingOut editing={editing} board={board} />
    </>
  );
}

const FACES = [
  { value: "hand", label: "a hand" },
  { value: "italic", label: "an italic" },
  { value: "sans", label: "a plain face" },
  { value: "serif", label: "a serif" },
];

function Place({ at: place, onChange }: { at: Spot; onChange: (at: Spot) => void }) {
  return (
    <>
      <NumberField
        label="From the left"
        unit="mm"
        digits={1}
        min={-5000}
        max={5000}
        value={place[0]}
        onChange={(v) => onChange([v, place[1]])}
      />
      <NumberField
        label="From the top"
        unit="mm"
        digits={1}
        min={-5000}
        max={5000}
        value={place[1]}
        onChange={(v) => onChange([place[0], v])}
      />
    </>
  );
}

/** A drawing on a board: where it stands, what it keeps in line with, how it is cut, its caption. */
function DrawingSettings({ editing, board, drawing }: { editing: Editing; board: Board; drawing: PlacedDrawing }) {
  const { document } = editing.study;
  const state = useBoardState(editing.study.slug, board.id, editing.study.revision).data;
  const row = state?.drawings.find((d) => d.id === drawing.id);
  const view = document.views.find((v) => v.id === drawing.view);
  const choices = useChoices();
  const { scales = [], lifts = [] } = choices ?? {};
  const set = (label: string, some: Record<string, unknown>) =>
    void setOn(editing, board, "drawings", drawing.id!, label, some);
  const size = row?.size ?? [420, 297];
  const box = shownBox(drawing, size);
  const here = (row?.at ?? drawing.at ?? [0, 0]) as Spot;
  const others = (board.drawings ?? []).filter((d) => d.id !== drawing.id);
  const named = (id: string) => state?.drawings.find((d) => d.id === id)?.mark || id;
  const shares = (way: "across" | "down") =>
    others.filter((d) => {
      const theirs = state?.drawings.find((s) => s.id === d.id)?.lie;
      return row?.lie && theirs && alike(row.lie[way], theirs[way]);
    });
  const inset = (k: number, value: number) => {
    const next = [...box];
    next[k] = k < 2 ? value : size[k - 2]! - value;
    const [x0, y0, x1, y1] = next as [number, number, number, number];
    if (x1 - x0 > 2 && y1 - y0 > 2)
      set("Cut a drawing", {
        frame:
          x0 === 0 && y0 === 0 && x1 === size[0] && y1 === size[1]
            ? []
            : [
                [x0, y0],
                [x1, y0],
                [x1, y1],
                [x0, y1],
              ],
      });
  };
  const margins = [box[0], box[1], size[0]! - box[2], size[1]! - box[3]];
  return (
    <section aria-label="Drawing on the board">
      <h2>
        {view?.mark} {view?.view.name}
      </h2>
      {row?.problem && (
        <p role="alert" className="text-xs text-sanguine">
          {row.problem}
        </p>
      )}
      <Choice
        label="In the finish"
        value={drawing.finish || OWN}
        options={[{ value: OWN, label: "its own" }, ...document.finishes.map((f) => ({ value: f.id, label: f.name }))]}
        onChange={(v) => set("Finish on the board", { finish: v === OWN ? "" : v })}
      />
      {row?.lie && (
        <Choice
          label="At the scale"
          value={drawing.scale ? String(drawing.scale) : OWN}
          options={[
            { value: OWN, label: "its own" },
            ...scales.map((s) => ({ value: String(s.scale), label: s.label })),
          ]}
          onChange={(v) => set("Scale on the board", { scale: v === OWN ? null : Number(v) })}
        />
      )}
      <Place
        at={[here[0] + box[0], here[1] + box[1]]}
        onChange={(v) =>
          set("Place of a drawing", {
            at: [v[0] - box[0], v[1] - box[1]],
            line_x: Math.abs(v[0] - box[0] - here[0]) > 1e-6 ? "" : drawing.line_x,
            line_y: Math.abs(v[1] - box[1] - here[1]) > 1e-6 ? "" : drawing.line_y,
          })
        }
      />
      {(["x", "y"] as const).map((way) => {
        const field = way === "x" ? "line_x" : "line_y";
        const found = shares(way === "x" ? "across" : "down");
        if (!found.length && !drawing[field]) return null;
        return (
          <Choice
            key={way}
            label={way === "x" ? "Axes in line with" : "Levels in line with"}
            value={drawing[field] || OWN}
            options={[{ value: OWN, label: "none" }, ...found.map((d) => ({ value: d.id!, label: named(d.id!) }))]}
            onChange={(v) =>
              set(way === "x" ? "Axes in line" : "Levels in line", {
                [field]: v === OWN ? "" : v,
                ...(v === OWN ? { at: here } : {}),
              })
            }
          />
        );
      })}
      <h3 className="label mt-3 font-sans">Cut off</h3>
      {["At the left", "At the top", "At the right", "At the foot"].map((label, k) => (
        <NumberField
          key={label}
          label={label}
          unit="mm"
          digits={1}
          min={0}
          max={4000}
          value={margins[k]!}
          onChange={(v) => inset(k, v)}
        />
      ))}
      <Corners drawing={drawing} size={size} onChange={(frame) => set("Shape of a drawing", { frame })} />
      <Choice
        label="Its ground"
        value={drawing.paper ?? "auto"}
        options={[
          { value: "auto", label: "the page’s, or its own dark one" },
          { value: "own", label: "its own" },
          { value: "none", label: "the page’s" },
        ]}
        onChange={(v) => set("Ground of a drawing", { paper: v })}
      />
      <NumberField
        label="Line round it"
        unit="mm"
        min={0}
        max={5}
        value={drawing.outline ?? 0}
        onChange={(v) => set("Line round a drawing", { outline: v })}
      />
      <OnOff
        label="Caption"
        value={drawing.caption_on ?? true}
        onChange={(v) => set("Caption on or off", { caption_on: v })}
      />
      <TextField
        label="Caption says"
        value={drawing.caption ?? ""}
        placeholder={`${view?.mark ?? ""}  ${view?.view.name ?? ""}`}
        onChange={(v) => set("Caption", { caption: v })}
      />
      <OnOff
        label="Its notes"
        value={drawing.notes ?? true}
        onChange={(v) => set("Notes of a drawing", { notes: v })}
      />
      <OnOff
        label="Its title, scale bar and north"
        value={drawing.furniture ?? false}
        onChange={(v) => set("Title of a drawing", { furniture: v })}
      />
      <DimensionLine
        label="Lifted for print"
        min={0}
        max={1}
        step={0.05}
        initial={0}
        value={drawing.lift ?? 0}
        onChange={(v) => set("Lift for print", { lift: v, black: blackOf(v, lifts) })}
      />
      {(board.pages ?? 1) > 1 && (
        <NumberField
          label="On page"
          unit=""
          digits={0}
          min={1}
          max={board.pages ?? 1}
          value={drawing.page ?? 1}
          onChange={(v) => set("Page of a drawing", { page: v })}
        />
      )}
    </section>
  );
}

/** The corners of a frame that is no rectangle. */
function Corners({
  drawing,
  size,
  onChange,
}: {
  drawing: PlacedDrawing;
  size: readonly number[];
  onChange: (frame: Spot[]) => void;
}) {
  const points = (drawing.frame ?? []) as Spot[];
  const given: Spot[] =
    points.length >= 3
      ? points
      : [
          [0, 0],
          [size[0]!, 0],
          [size[0]!, size[1]!],
          [0, size[1]!],
        ];
  const [open, setOpen] = useState(false);
  if (!open)
    return (
      <button
        type="button"
        className="plain my-1 block text-xs underline underline-offset-4"
        onClick={() => setOpen(true)}
      >
        Corners of its shape
      </button>
    );
  return (
    <div role="group" aria-label="Corners">
      {given.map((p, k) => (
        <div key={k} className="row gap-1">
          <span className="quiet w-4 text-xs">{k + 1}</span>
          {([0, 1] as const).map((way) => (
            <input
              key={`${way} ${p[way]}`}
              aria-label={`Corner ${k + 1}, ${way ? "down" : "across"}`}
              className="field w-16 border-transparent text-right"
              inputMode="decimal"
              defaultValue={p[way].toFixed(1)}
              onBlur={(e) => {
                const v = Number(e.target.value.replace(",", "."));
                if (Number.isFinite(v) && Math.abs(v - p[way]) > 0.04)
                  onChange(given.map((q, i) => (i === k ? ((way ? [q[0], v] : [v, q[1]]) as Spot) : q)));
              }}
              onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
            />
          ))}
          <button
            type="button"
            className="plain quiet text-xs"
            aria-label={`Take corner ${k + 1} out`}
            disabled={given.length <= 3}
            onClick={() => onChange(given.filter((_, i) => i !== k))}
          >
            ×
          </button>
          <button
            type="button"
            className="plain quiet text-xs"
            aria-label={`A corner after ${k + 1}`}
            onClick={() => {
              const next = given[(k + 1) % given.length]!;
              onChange([...given.slice(0, k + 1), [(p[0] + next[0]) / 2, (p[1] + next[1]) / 2], ...given.slice(k + 1)]);
            }}
          >
            +
          </button>
        </div>
      ))}
      {points.length >= 3 && (
        <button type="button" className="plain text-xs underline underline-offset-4" onClick={() => onChange([])}>
          All of it again
        </button>
      )}
    </div>
  );
}

/** The page, its module grid, its title block. */
function PageSettings({ editing, board }: { editing: Editing; board: Board }) {
  const papers = useChoices()?.papers ?? {};
  const { choose, set: setScreen } = useScreen();
  const [room, setRoom] = useState(50);
  const page = board.page!;
  const [width, height] = [page.width ?? 841, page.height ?? 594];
  const change = (label: string, path: string[], value: unknown) =>
    void editing.act({ do: "boards", label, changes: [at(["boards", board.id!, ...path], value)] });
  const named =
    Object.entries(papers).find(([, [a, b]]) => (a === width && b === height) || (a === height && b === width))?.[0] ??
    "free";
  const sized = (w: number, h: number) =>
    void editing.act({
      do: "boards",
      label: "Size of the page",
      changes: [at(["boards", board.id!, "page", "width"], w), at(["boards", board.id!, "page", "height"], h)],
    });
  const block = board.block!;
  const rows = block.rows ?? [];
  return (
    <section aria-label="Board">
      <h2>Board</h2>
      <TextField
        label="Called"
        value={board.name ?? ""}
        onChange={(v) => v.trim() && change("Name of a board", ["name"], v)}
      />
      <Choice
        label="Paper size"
        value={named}
        options={[...Object.keys(papers).map((n) => ({ value: n, label: n })), { value: "free", label: "free" }]}
        onChange={(n) =>
          papers[n] && (width >= height ? sized(papers[n][0]!, papers[n][1]!) : sized(papers[n][1]!, papers[n][0]!))
        }
      />
      <NumberField
        label="Wide"
        unit="mm"
        digits={1}
        min={20}
        max={5000}
        value={width}
        onChange={(v) => sized(v, height)}
      />
      <NumberField
        label="High"
        unit="mm"
        digits={1}
        min={20}
        max={5000}
        value={height}
        onChange={(v) => sized(width, v)}
      />
      <button
        type="button"
        className="plain my-1 block text-xs underline underline-offset-4"
        onClick={() => sized(height, width)}
      >
        Turn the page
      </button>
      <div className="py-1" role="group" aria-label="Make room on one side">
        <NumberField label="Make room" unit="mm" digits={0} min={-2000} max={2000} value={room} onChange={setRoom} />
        <div className="flex gap-2 text-xs">
          {SIDES.map((side) => (
            <button
              key={side}
              type="button"
              className="line-act px-1.5"
              onClick={() =>
                void editing.act({
                  do: "extend_page",
                  label: "Make room on the page",
                  board_id: board.id!,
                  side,
                  millimetres: room,
                })
              }
            >
              {side === "bottom" ? "foot" : side}
            </button>
          ))}
        </div>
      </div>
      <ColourField
        label="Colour of the paper"
        value={page.colour ?? "#fbf8f1"}
        onChange={(v) => change("Paper of the board", ["page", "colour"], v)}
      />
      <NumberField
        label="Pages"
        unit=""
        digits={0}
        min={1}
        max={60}
        value={board.pages ?? 1}
        onChange={(v) => change("Pages of the board", ["pages"], v)}
      />
      <OnOff
        label="Page numbers"
        value={board.numbers ?? false}
        onChange={(v) => change("Page numbers", ["numbers"], v)}
      />
      <h3 className="label mt-3 font-sans">Module grid</h3>
      {(
        [
          ["columns", "Columns", "", 60],
          ["rows", "Rows", "", 60],
          ["gutter", "Gutter", "mm", 200],
          ["margin", "Margin", "mm", 300],
        ] as const
      ).map(([field, label, unit, most]) => (
        <NumberField
          key={field}
          label={label}
          unit={unit}
          digits={unit ? 1 : 0}
          min={unit ? 0 : 1}
          max={most}
          value={page.module![field] ?? 0}
          onChange={(v) => change("Module grid", ["page", "module", field], v)}
        />
      ))}
      <h3 className="label mt-3 font-sans">Title block</h3>
      <OnOff
        label="On all pages"
        value={block.on ?? true}
        onChange={(v) => change("Title block on or off", ["block", "on"], v)}
      />
      <Choice
        label="As"
        value={block.shape ?? "strip"}
        options={[
          { value: "strip", label: "a strip along the foot" },
          { value: "table", label: "a table in the corner" },
        ]}
        onChange={(v) => change("Shape of the title block", ["block", "shape"], v)}
      />
      <DimensionLine
        label="Capitals"
        unit="mm"
        min={0.8}
        max={8}
        step={0.1}
        initial={2.5}
        value={block.size ?? 2.5}
        onChange={(v) => change("Size of the title block", ["block", "size"], v)}
      />
      {rows.map((row, k) => (
        <div key={k} className="row gap-1">
          {(["label", "text"] as const).map((field) => (
            <input
              key={`${field} ${row[field]}`}
              aria-label={`${field === "label" ? "Heading" : "Text"} of row ${k + 1}`}
              className={`field border-transparent ${field === "label" ? "w-16" : "min-w-0 flex-1"}`}
              defaultValue={row[field]}
              maxLength={field === "label" ? 40 : 200}
              onBlur={(e) =>
                e.target.value !== row[field] &&
                change(
                  "Title block",
                  ["block", "rows"],
                  rows.map((r, i) => (i === k ? { ...r, [field]: e.target.value } : r)),
                )
              }
              onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
            />
          ))}
          <button
            type="button"
            className="plain quiet text-xs"
            aria-label={`Take row ${k + 1} out`}
            onClick={() =>
              change(
                "Title block",
                ["block", "rows"],
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
        onClick={() => change("Title block", ["block", "rows"], [...rows, { label: "Drawn by", text: "" }])}
      >
        One more row
      </button>
      <button
        type="button"
        className="line-act mt-4 block text-xs"
        onClick={() => {
          setScreen({ board: "" });
          choose({ kind: "note", id: "title" });
          void editing.act({
            do: "boards",
            label: `Remove ${board.name}`.slice(0, 120),
            changes: [{ path: ["boards", board.id!], do: "drop" }],
          });
        }}
      >
        Remove this board
      </button>
    </section>
  );
}
