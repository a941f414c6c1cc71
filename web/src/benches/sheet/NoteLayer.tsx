import { useEffect, useRef, useState } from "react";
import { toast } from "sonner";

import type { Note, PlacedNote } from "../../api/client";
import { useScreen } from "../../desk/screen";
import type { Editing } from "../../desk/study";
import { Grip } from "../../shared/Grip";
import { SnapSign } from "../ink/marks/MarkSigns";
import { moveNote, notePoint, useNoting, writeNote } from "./noting";

/** Pixels within which a point catches on something. */
const REACH = 9;

/** What pointing does while a note is placed. */
export function useNotePlacing(editing: Editing, scale: number) {
  const { kind } = useNoting();
  const { choose } = useScreen();
  const asked = useRef(0);
  const now = useRef(editing);
  useEffect(() => {
    now.current = editing;
  }, [editing]);
  // Where a point falls is answered a moment after the press; whatever is pressed next is done after it.
  const before = useRef<Promise<void>>(Promise.resolve());
  const inTurn = (work: () => Promise<void> | void) => {
    before.current = before.current.then(work).catch((error: Error) => void toast.error(error.message));
  };
  const end = async () => {
    const { kind: form, spots, set } = useNoting.getState();
    if (!form || spots.length < form.least) return set({ spots: [] });
    set({ spots: [] });
    const id = await writeNote(now.current, form, spots);
    if (id) choose({ kind: "written", id });
  };

  useEffect(() => {
    if (!kind) return;
    const keys = (event: KeyboardEvent) => {
      if ((event.target as HTMLElement).closest("input, textarea, [role=combobox]")) return;
      const { spots, set, take } = useNoting.getState();
      if (event.key === "Enter") inTurn(end);
      else if (event.key === "Backspace") inTurn(() => set({ spots: spots.slice(0, -1) }));
      else if (event.key === "Escape") inTurn(() => (spots.length ? set({ spots: [] }) : take(null)));
    };
    window.addEventListener("keydown", keys);
    return () => window.removeEventListener("keydown", keys);
  });

  const reach = REACH / scale;
  return {
    active: kind !== null,
    move: async (x: number, y: number) => {
      if (!kind) return;
      const number = ++asked.current;
      const found = await notePoint(editing.study.slug, x, y, reach, kind.kind, useNoting.getState().paper).catch(
        () => null,
      );
      if (number === asked.current) useNoting.getState().set({ next: found });
    },
    press: (x: number, y: number) =>
      inTurn(async () => {
        const { kind: form, spots, paper, set } = useNoting.getState();
        if (!form) return;
        const last = spots.at(-1);
        if (last && spots.length >= form.least && Math.hypot(last.x - x, last.y - y) * scale < 5) return end();
        const found = await notePoint(now.current.study.slug, x, y, reach, form.kind, paper);
        set({ spots: [...spots, found] });
        if (spots.length + 1 >= form.most) await end();
      }),
  };
}

/** The points of a note that is being placed. */
export function NotePlacingLayer({ scale }: { scale: number }) {
  const { spots, next } = useNoting();
  const line = [...spots, ...(next ? [next] : [])];
  return (
    <g data-testid="note-placing">
      {line.length > 1 && (
        <path
          d={`M${line.map((s) => `${s.x} ${s.y}`).join("L")}`}
          fill="none"
          stroke="var(--color-sanguine)"
          strokeWidth="1.2"
          strokeDasharray="4 3"
          vectorEffect="non-scaling-stroke"
        />
      )}
      {spots.map((s, k) => (
        <circle key={k} cx={s.x} cy={s.y} r={3 / scale} fill="var(--color-sanguine)" />
      ))}
      {next && <SnapSign sign={next.sign} x={next.x} y={next.y} size={5 / scale} />}
    </g>
  );
}

type Box = [number, number, number, number];

/** The notes of the view, to be taken hold of: texts are boxes, the chosen one has its handles. */
export function NoteHandles({
  editing,
  placed,
  scale,
  place,
}: {
  editing: Editing;
  placed: PlacedNote[];
  scale: number;
  place: (event: { clientX: number; clientY: number }) => [number, number];
}) {
  const { chosen, choose } = useScreen();
  const mine = chosen.Sheet?.kind === "written" ? chosen.Sheet.id : null;
  const notes = editing.saved.notes ?? [];
  const [moved, setMoved] = useState<{
    id: string;
    index: number;
    from: [number, number];
    to: [number, number];
  } | null>(null);
  const move = (note: Note, index: number, to: [number, number]) => {
    void moveNote(editing, note, index, to, index < 0 ? 0 : REACH / scale)
      .catch((error: Error) => void toast.error(error.message))
      .finally(() => setMoved(null));
  };
  const by = (id: string): [number, number] =>
    moved?.id === id && moved.index < 0 ? [moved.to[0] - moved.from[0], moved.to[1] - moved.from[1]] : [0, 0];
  const shown = placed.filter((p) => notes.some((n) => n.id === p.id && n.on !== false));
  return (
    <g data-testid="note-handles">
      {shown.map((row) => (
        <g key={row.id} transform={`translate(${by(row.id).join(" ")})`}>
          {row.id === mine &&
            row.lines.map((line, k) => (
              <path
                key={k}
                d={`M${line.map((p) => p.join(" ")).join("L")}`}
                fill="none"
                stroke="var(--color-sanguine)"
                strokeWidth="1.2"
                strokeOpacity="0.55"
                vectorEffect="non-scaling-stroke"
              />
            ))}
          {(row.boxes as Box[]).map((b, k) => (
            <rect
              key={k}
              x={b[0] - 0.6}
              y={b[1] - 0.6}
              width={b[2] - b[0] + 1.2}
              height={b[3] - b[1] + 1.2}
              fill={row.id === mine ? "rgb(178 71 42 / 0.06)" : "transparent"}
              stroke={row.id === mine ? "var(--color-sanguine)" : "none"}
              strokeWidth="1"
              strokeDasharray="3 2"
              vectorEffect="non-scaling-stroke"
              className="pointer-events-auto cursor-pointer"
              data-testid="note-box"
              data-note={row.id}
              onPointerDown={(e) => e.stopPropagation()}
              onPointerUp={(e) => (e.stopPropagation(), choose({ kind: "written", id: row.id }))}
            />
          ))}
        </g>
      ))}
      {shown
        .filter((row) => row.id === mine)
        .flatMap((row) => {
          const note = notes.find((n) => n.id === row.id)!;
          return row.handles.map((h) => {
            const here = moved?.id === row.id && moved.index === h.index ? moved.to : (h.at as [number, number]);
            return (
              <Grip
                key={`${row.id} ${h.index}`}
                testId={h.index < 0 ? "note-text" : "note-point"}
                label={h.index < 0 ? `${row.called}, its text` : `${row.called}, point ${h.index + 1}`}
                at={here}
                value={here[0]}
                heavy={h.index < 0}
                scale={scale}
                place={place}
                onDrag={(to, done) => {
                  const from = h.at as [number, number];
                  if (!done) setMoved({ id: row.id, index: h.index, from, to });
                  else if (Math.hypot(to[0] - from[0], to[1] - from[1]) > 0.05) move(note, h.index, to);
                  else setMoved(null);
                }}
                onNudge={([x, y], far) =>
                  move(note, h.index, [here[0] + x * (far ? 5 : 0.5), here[1] + y * (far ? 5 : 0.5)])
                }
              />
            );
          });
        })}
    </g>
  );
}
