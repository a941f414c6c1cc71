import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { toast } from "sonner";

import { answered, http, type Mark, type Plane, type Snap, type SnapAsked } from "../../../api/client";
import { useScreen } from "../../../desk/screen";
import { at as changeAt, type Editing } from "../../../desk/study";
import { Grip } from "../../../shared/Grip";
import { scaleOf } from "../fills";
import { canEnd, isEnded, isFree, type Kind, laid, markOf, snapped, type Spot, useMarking } from "./marking";
import { SnapSign } from "./MarkSigns";

/** Pixels within which a point catches on something, and milliseconds that a press waits for the drawing. */
const REACH = 9;
const PATIENCE = 8000;

/** What pointing does while a mark is drawn. */
export function useMarkDrawing(editing: Editing, scale: number) {
  const { kind } = useMarking();
  const { choose } = useScreen();
  const slug = editing.study.slug;
  const asked = useRef(0);
  const free = useRef<[number, number][]>([]);
  const [trail, setTrail] = useState<[number, number][]>([]);
  const reach = REACH / scale;
  const now = useRef(editing);
  useEffect(() => {
    now.current = editing;
  }, [editing]);
  /** The drawing as it is, to which a point is pressed while the mark before it is still being drawn. */
  const drawn = () =>
    new Promise<void>((go) => {
      const there = () => useScreen.getState().drawn === now.current.study.revision;
      if (there()) return go();
      const stop = useScreen.subscribe(() => there() && leave());
      const late = setTimeout(() => leave(), PATIENCE);
      const leave = () => (stop(), clearTimeout(late), go());
    });
  // Where a point falls is answered a moment after the press; whatever is pressed next is done after it.
  const before = useRef<Promise<void>>(Promise.resolve());
  const inTurn = (work: () => Promise<void> | void) => {
    before.current = before.current.then(work).catch((error: Error) => void toast.error(error.message));
  };

  const lay = async (drawing: Kind, points: Spot["point"][], on: Plane) => {
    const { study, act } = now.current;
    const made = markOf(drawing, points, on, study.document.marks ?? [], scaleOf(study));
    useMarking.getState().clear();
    const done = await act({
      do: "marks",
      label: `Draw ${made.name!.toLowerCase()}`,
      changes: [changeAt(["marks", made.id!], made)],
    });
    if (!done) return;
    now.current = { ...now.current, study: done }; // what is drawn next may come before this was shown
    choose({ kind: "mark", id: made.id! });
  };
  const end = async () => {
    const { kind: drawing, plane, spots, clear } = useMarking.getState();
    if (drawing && plane && canEnd(drawing, spots.length))
      await lay(
        drawing,
        spots.map((s) => s.point),
        plane,
      );
    else clear();
  };
  const finish = () => inTurn(end);

  useEffect(() => {
    if (!kind) return;
    const keys = (event: KeyboardEvent) => {
      if ((event.target as HTMLElement).closest("input, textarea, [role=combobox]")) return;
      const { set, take, clear } = useMarking.getState();
      if (event.key === "Enter") finish();
      else if (event.key === "Backspace") inTurn(() => set({ spots: useMarking.getState().spots.slice(0, -1) }));
      else if (event.key === "Escape") inTurn(() => (useMarking.getState().spots.length ? clear() : take(null)));
    };
    window.addEventListener("keydown", keys);
    return () => window.removeEventListener("keydown", keys);
  });

  const swept = async (drawing: Kind, path: [number, number][]) => {
    const first = await snapped(slug, path[0]![0], path[0]![1], 0, toast.error);
    if (!first || path.length < 2) return;
    const few = drawing === "ground" ? path.filter((_, k) => k % Math.ceil(path.length / 200) === 0) : path;
    await lay(drawing, await laid(slug, few, first.plane, first.point as Spot["point"]), first.plane);
  };
  const pressed = async (drawing: Kind, x: number, y: number) => {
    const { spots, add } = useMarking.getState();
    const last = spots.at(-1);
    if (last && Math.hypot(last.x - x, last.y - y) * scale < 5 && !isEnded(drawing, spots.length)) return end();
    const found = await snapped(slug, x, y, reach, toast.error);
    if (!found || useMarking.getState().kind !== drawing) return;
    add(found);
    if (isEnded(drawing, spots.length + 1)) await end();
  };

  return {
    active: kind !== null,
    free: isFree(kind),
    trail,
    /** The pointer moved: what the next point would catch on is shown; of moves that come faster than answers the last is asked. */
    move: async (x: number, y: number) => {
      if (!kind) return;
      if (free.current.length) {
        free.current.push([x, y]);
        setTrail([...free.current]);
        return;
      }
      const number = ++asked.current;
      const found = await snapped(slug, x, y, reach);
      if (number === asked.current) useMarking.getState().set({ next: found });
    },
    down: (x: number, y: number) => {
      if (isFree(kind)) {
        free.current = [[x, y]];
        setTrail([[x, y]]);
      }
    },
    up: (x: number, y: number) => {
      if (!kind) return;
      const path = free.current;
      free.current = [];
      setTrail([]);
      const far = path.length > 0 && Math.max(...path.map((p) => Math.hypot(p[0] - x, p[1] - y))) * scale > 4;
      const sweep = path.length > 0 && (kind !== "ground" || far); // a ground may be laid by clicks, too
      inTurn(async () => {
        await drawn();
        await (sweep ? swept(kind, thinned([...path, [x, y]], 0.35 / scale)) : pressed(kind, x, y));
      });
    },
    finish,
  };
}

/** A path without places that say nothing. */
function thinned(path: [number, number][], least: number): [number, number][] {
  const out = [path[0]!];
  for (const place of path)
    if (Math.hypot(place[0] - out.at(-1)![0], place[1] - out.at(-1)![1]) >= least * 3) out.push(place);
  return out.slice(0, 3900);
}

/** What is drawn so far, and what the next point catches on. */
export function MarkingLayer({ scale, trail }: { scale: number; trail: [number, number][] }) {
  const { kind, spots, next } = useMarking();
  if (!kind) return null;
  const path = [
    ...spots.map((s) => [s.x, s.y] as [number, number]),
    ...(next && spots.length ? [[next.x, next.y] as [number, number]] : []),
  ];
  const drawn = trail.length ? trail : path;
  const circle = kind === "circle" && drawn.length === 2;
  const box = kind === "rectangle" && drawn.length === 2;
  const [a, b] = drawn;
  const stroke = {
    fill: "none",
    stroke: "var(--color-sanguine)",
    strokeWidth: 1.6,
    vectorEffect: "non-scaling-stroke" as const,
  };
  return (
    <g data-testid="marking">
      {circle ? (
        <circle cx={a![0]} cy={a![1]} r={Math.hypot(b![0] - a![0], b![1] - a![1])} {...stroke} strokeDasharray="5 4" />
      ) : box ? (
        <path d={`M${a![0]} ${a![1]}L${b![0]} ${b![1]}`} {...stroke} strokeDasharray="5 4" />
      ) : (
        drawn.length > 1 && (
          <path
            d={`M${drawn.map((p) => p.join(" ")).join("L")}${kind === "polygon" ? "Z" : ""}`}
            {...stroke}
            strokeOpacity={kind === "brush" ? 0.4 : 1}
          />
        )
      )}
      {next && !trail.length && (
        <>
          <SnapSign sign={next.sign} x={next.x} y={next.y} size={5 / scale} />
          <text
            x={next.x + 10 / scale}
            y={next.y - 9 / scale}
            fontSize={11.5 / scale}
            fontWeight="600"
            fill="var(--color-graphite)"
            stroke="var(--color-sheet)"
            strokeWidth={3 / scale}
            paintOrder="stroke"
            style={{ fontFamily: "var(--font-sans)" }}
          >
            {[next.called, ...(next.caught ? [`${next.sign}, ${next.caught}`] : [])].join(" · ")}
          </text>
        </>
      )}
    </g>
  );
}

type Placed = {
  points: [number, number][];
  line: [number, number][];
  called: string;
  on: [number, number, number] | null;
};

/** Where a mark is in the view on the desk. */
export function usePlaced(editing: Editing, id: string | null): Placed | null {
  const { slug, revision } = editing.study;
  return (
    useQuery({
      queryKey: ["mark", slug, revision, id],
      enabled: !!id,
      queryFn: () =>
        answered<Placed>(http.GET("/api/studies/{slug}/marks/{mark_id}", { params: { path: { slug, mark_id: id! } } })),
      placeholderData: (before) => before,
      retry: false,
    }).data ?? null
  );
}

/** The mark that is chosen: its line, its points to be dragged, and a handle by which all of it is moved. */
export function MarkHandles({
  editing,
  mark,
  scale,
  place,
}: {
  editing: Editing;
  mark: Mark;
  scale: number;
  place: (event: { clientX: number; clientY: number }) => [number, number];
}) {
  const placed = usePlaced(editing, mark.id!);
  const [moved, setMoved] = useState<{ index: number; to: [number, number] } | null>(null);
  if (!placed || !placed.points.length || !placed.on) return null;
  const many = placed.points.length > 24;
  const middle: [number, number] = [
    placed.points.reduce((s, p) => s + p[0], 0) / placed.points.length,
    placed.points.reduce((s, p) => s + p[1], 0) / placed.points.length,
  ];
  const plane = mark.kind === "ground" ? null : mark.plane!;
  const end = async (index: number, to: [number, number]) => {
    setMoved(null);
    const by = index < 0 ? [to[0] - middle[0], to[1] - middle[1]] : [0, 0];
    let places = placed.points.map(([x, y], k) => (k === index ? to : ([x + by[0]!, y + by[1]!] as [number, number])));
    const on = placed.on!;
    const ask = (body: Partial<SnapAsked>) =>
      answered<Snap>(
        http.POST("/api/studies/{slug}/snap", {
          params: { path: { slug: editing.study.slug } },
          body: {
            x: to[0],
            y: to[1],
            reach: REACH / scale,
            lies: "cut",
            height: 0,
            plane: null,
            on: null,
            before: null,
            ...body,
          },
        }),
      );
    if (index >= 0 && plane) {
      const found = await ask({ plane, on }).catch(() => null);
      if (found) places = places.map((p, k) => (k === index ? [found.x, found.y] : p));
    }
    // The line of the ground is moved in the cut that it was drawn in.
    const lies = plane ?? (await ask({ reach: 0 }).catch((error: Error) => (toast.error(error.message), null)))?.plane;
    if (!lies) return;
    const points = await laid(editing.study.slug, places, lies, on).catch(
      (error: Error) => (toast.error(error.message), null),
    );
    if (points)
      await editing.act({
        do: "marks",
        label: index < 0 ? `Move ${mark.name}` : `Move a point of ${mark.name}`,
        changes: [changeAt(["marks", mark.id!, "points"], points)],
      });
  };
  const handle = (index: number, at: [number, number]) => (
    <Grip
      key={index}
      testId={index < 0 ? "mark-middle" : "mark-point"}
      label={index < 0 ? `${mark.name}, all of it` : `${mark.name}, point ${index + 1}`}
      at={moved?.index === index ? moved.to : at}
      value={at[0]}
      heavy={index < 0}
      scale={scale}
      place={place}
      onDrag={(to, done) => {
        if (!done) setMoved({ index, to });
        else if (Math.hypot(to[0] - at[0], to[1] - at[1]) > 0.05) void end(index, to);
        else setMoved(null);
      }}
      onNudge={([x, y], far) => void end(index, [at[0] + x * (far ? 5 : 0.5), at[1] + y * (far ? 5 : 0.5)])}
    />
  );
  return (
    <g data-testid="mark-handles">
      <path
        d={`M${placed.line.map((p) => p.join(" ")).join("L")}`}
        fill="none"
        stroke="var(--color-sanguine)"
        strokeWidth="1.4"
        strokeDasharray="4 3"
        vectorEffect="non-scaling-stroke"
      />
      {!many && placed.points.map((p, k) => handle(k, p))}
      {placed.points.length > 1 && handle(-1, middle)}
    </g>
  );
}
