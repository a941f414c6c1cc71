import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";

import type { Cut, View } from "../api/client";
import { add, dollied, dot, frameMatrix, orbited, panned, unit, type Vec } from "../benches/view/camera";
import { type Hit, type How, howOf, type Look, type Span } from "./look";
import { ModelStage } from "./stage";

type Props = {
  slug: string;
  /** Names the triangles: they are fetched anew only when it changes. */
  geometry: string;
  look: Look | null;
  view: View;
  /** The scale and middle in force where the view leaves them to the model. */
  scale: number;
  centre: Vec;
  /** Draw the paper's frame over the model; without it the view only looks. */
  framed: boolean;
  /** What a drag does: it looks about, or draws a rectangle that chooses. */
  drag?: "look" | "rectangle";
  span?: Span | null;
  marks?: readonly Vec[];
  marked?: number | null;
  /** Lines drawn over the model, between points in metres, with words at their middle. */
  measures?: readonly { from: Vec; to: Vec; words: string }[];
  onPick: (hit: Hit | null, how: How) => void;
  onRectangle?: (parts: (wholly: boolean) => number[], how: How) => void;
  onView: (view: View, settled: boolean) => void;
  onScale?: (larger: boolean) => void;
  /** Move a cutting plane of the view; without it planes are only shown. */
  onCut?: (index: number, cut: Cut, settled: boolean) => void;
  /** Where the faces are that close the cuts of the view; `null` while they are not known. */
  caps?: string | null;
  /** Heights of storeys, in metres, that level planes snap to. */
  levels?: readonly number[];
};

/** The model in three dimensions, seen through the very frame that the drawing has. */
export default function ModelView(props: Props) {
  const room = useRef<HTMLDivElement>(null);
  const stage = useRef<ModelStage | null>(null);
  const [state, setState] = useState("loading");
  const [problem, setProblem] = useState("");
  const [size, setSize] = useState<[number, number]>([0, 0]);
  const latest = useRef(props);
  latest.current = props;

  // The model before stays until the new one is there whole.
  useEffect(() => {
    let current = true;
    if (!stage.current) setState("loading");
    (async () => {
      try {
        const answer = await fetch(`/api/studies/${props.slug}/mesh?geometry=${props.geometry}`);
        if (!answer.ok) throw new Error(`the server answered ${answer.status}`);
        const data = await answer.arrayBuffer();
        if (!current) return;
        stage.current?.dispose();
        stage.current = new ModelStage(room.current!, data);
        (room.current as HTMLDivElement & { stage?: ModelStage }).stage = stage.current;
        setState(props.geometry);
        setProblem("");
      } catch (error) {
        if (current)
          setProblem(
            `The model cannot be shown in 3D: ${error instanceof Error ? error.message : "unknown cause"}. The drawing still works.`,
          );
      }
    })();
    return () => {
      current = false;
    };
  }, [props.slug, props.geometry]);
  useEffect(() => {
    const watch = new ResizeObserver(() => setSize([room.current!.clientWidth, room.current!.clientHeight]));
    watch.observe(room.current!);
    return () => {
      watch.disconnect();
      stage.current?.dispose();
      stage.current = null;
    };
  }, []);

  useEffect(() => {
    stage.current?.show(props.view, props.scale, props.centre);
    setSeen((n) => n + 1);
  }, [props.view, props.scale, props.centre, state, size]);
  useEffect(() => {
    if (props.look) stage.current?.look(props.look);
  }, [props.look, state]);
  useEffect(() => stage.current?.within(props.span ?? null), [props.span, state]);
  const caps = useQuery({
    queryKey: ["caps", props.caps],
    enabled: !!props.caps,
    queryFn: async () => {
      const answer = await fetch(props.caps!);
      return answer.status === 200 ? answer.arrayBuffer() : null;
    },
    staleTime: Infinity,
    gcTime: 30_000,
  }).data;
  useEffect(() => stage.current?.close((props.caps && caps) || null), [props.caps, caps, state]);
  useEffect(() => stage.current?.mark(props.marks ?? [], props.marked ?? null), [props.marks, props.marked, state]);
  // A new model, or the same after a mend, is laid in without a blank in between; measures follow the view.
  const [, setSeen] = useState(0);

  const matrix = frameMatrix(props.view, props.scale, props.centre);
  const frame = { w: props.view.frame?.width ?? 420, h: props.view.frame?.height ?? 297 };
  const perMm = Math.min((size[0] - 48) / frame.w, (size[1] - 48) / frame.h) || 1;
  const drag = useRef<{ x: number; y: number; moved: number; view: View; pan: boolean } | null>(null);
  const wheelEnd = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);

  const [rectangle, setRectangle] = useState<[number, number, number, number] | null>(null);

  const moved = (event: React.PointerEvent): View | null => {
    const held = drag.current;
    if (!held) return null;
    const dx = event.clientX - held.x;
    const dy = event.clientY - held.y;
    const { scale, centre } = latest.current;
    const projection = held.pan
      ? panned(held.view.projection, [dx / perMm, dy / perMm], held.view.frame?.scale ?? scale, centre, frame.w)
      : orbited(held.view.projection, -dx * 0.006, -dy * 0.006, centre);
    return { ...held.view, projection } as View;
  };

  useEffect(() => {
    const box = room.current!;
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const { view, onView, onScale } = latest.current;
      if (view.projection.kind === "perspective") {
        const next = { ...view, projection: dollied(view.projection, Math.exp(event.deltaY * 0.001)) } as View;
        onView(next, false);
        clearTimeout(wheelEnd.current);
        wheelEnd.current = setTimeout(() => latest.current.onView(latest.current.view, true), 350);
      } else if (onScale) {
        clearTimeout(wheelEnd.current);
        wheelEnd.current = setTimeout(() => onScale(event.deltaY < 0), 60);
      }
    };
    box.addEventListener("wheel", wheel, { passive: false });
    return () => box.removeEventListener("wheel", wheel);
  }, []);

  const keys = (event: React.KeyboardEvent) => {
    const { view, centre, onView, onScale } = props;
    const turn: Record<string, [number, number]> = {
      ArrowLeft: [0.09, 0],
      ArrowRight: [-0.09, 0],
      ArrowUp: [0, 0.09],
      ArrowDown: [0, -0.09],
    };
    const by = turn[event.key];
    if (event.altKey || event.ctrlKey || event.metaKey) return;
    if (by) onView({ ...view, projection: orbited(view.projection, by[0], by[1], centre) } as View, true);
    else if (event.key === "+" || event.key === "-") {
      if (view.projection.kind === "perspective")
        onView({ ...view, projection: dollied(view.projection, event.key === "+" ? 0.85 : 1.18) } as View, true);
      else onScale?.(event.key === "+");
    }
  };

  return (
    <div
      ref={room}
      className="relative h-full min-h-0 cursor-grab touch-none overflow-hidden bg-desk active:cursor-grabbing"
      role="application"
      tabIndex={0}
      data-frame={JSON.stringify(matrix)}
      aria-label="Model in three dimensions. Drag to orbit, with Shift to move, wheel to come nearer; arrows turn it, plus and minus come nearer."
      onContextMenu={(e) => e.preventDefault()}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        drag.current = { x: e.clientX, y: e.clientY, moved: 0, view: props.view, pan: e.shiftKey || e.button !== 0 };
      }}
      onPointerMove={(e) => {
        if (drag.current && props.drag === "rectangle" && e.buttons === 1) {
          drag.current.moved += Math.abs(e.movementX) + Math.abs(e.movementY);
          const box = e.currentTarget.getBoundingClientRect();
          setRectangle([
            drag.current.x - box.left,
            drag.current.y - box.top,
            e.clientX - box.left,
            e.clientY - box.top,
          ]);
          return;
        }
        const next = moved(e);
        if (!next) return;
        drag.current!.moved += Math.abs(e.movementX) + Math.abs(e.movementY);
        if (drag.current!.moved > 3) props.onView(next, false);
      }}
      onPointerUp={(e) => {
        const next = moved(e);
        const held = drag.current;
        drag.current = null;
        setRectangle(null);
        if (!held) return;
        if (rectangle && held.moved > 3) {
          const [x0, y0, x1, y1] = rectangle;
          props.onRectangle?.((wholly) => stage.current?.inside(x0, y0, x1, y1, wholly) ?? [], howOf(e));
        } else if (held.moved > 3 && next) props.onView(next, true);
        else {
          const box = e.currentTarget.getBoundingClientRect();
          props.onPick(stage.current?.pick(e.clientX - box.left, e.clientY - box.top) ?? null, howOf(e));
        }
      }}
      onKeyDown={keys}
    >
      {state === "loading" && !problem && (
        <p className="quiet absolute inset-0 flex items-center justify-center">Bringing the model …</p>
      )}
      {problem && (
        <p role="alert" className="absolute inset-x-10 top-8 bg-sheet px-4 py-3 text-sanguine">
          {problem}
        </p>
      )}
      {rectangle && (
        <svg className="pointer-events-none absolute inset-0 h-full w-full" aria-hidden>
          <rect
            x={Math.min(rectangle[0], rectangle[2])}
            y={Math.min(rectangle[1], rectangle[3])}
            width={Math.abs(rectangle[2] - rectangle[0])}
            height={Math.abs(rectangle[3] - rectangle[1])}
            fill="var(--color-sanguine)"
            fillOpacity="0.08"
            stroke="var(--color-sanguine)"
          />
        </svg>
      )}
      {(props.measures?.length ?? 0) > 0 && stage.current && <Measures stage={stage.current} rows={props.measures!} />}
      {props.onCut &&
        stage.current &&
        (props.view.cuts ?? []).map((cut, i) => (
          <PlaneHandle
            key={i}
            stage={stage.current!}
            cut={cut}
            number={i + 1}
            levels={props.levels ?? []}
            onMove={(next, settled) => props.onCut!(i, next, settled)}
          />
        ))}
      {props.framed && size[0] > 0 && (
        <svg className="pointer-events-none absolute inset-0 h-full w-full" aria-hidden>
          <path
            fillRule="evenodd"
            fill="var(--color-desk)"
            fillOpacity="0.72"
            d={`M0 0H${size[0]}V${size[1]}H0Z M${(size[0] - frame.w * perMm) / 2} ${(size[1] - frame.h * perMm) / 2}h${frame.w * perMm}v${frame.h * perMm}h${-frame.w * perMm}Z`}
          />
          <rect
            x={(size[0] - frame.w * perMm) / 2}
            y={(size[1] - frame.h * perMm) / 2}
            width={frame.w * perMm}
            height={frame.h * perMm}
            fill="none"
            stroke="var(--color-graphite)"
          />
          <text
            x={(size[0] - frame.w * perMm) / 2 + 8}
            y={(size[1] + frame.h * perMm) / 2 - 8}
            fontSize="12"
            fill="var(--color-soft)"
          >
            {frame.w} × {frame.h} mm
            {props.view.projection.kind !== "perspective" && ` · 1:${props.view.frame?.scale ?? props.scale}`}
          </text>
        </svg>
      )}
    </div>
  );
}

/** Pixels within which a plane that is dragged is caught by a face or a storey. */
const CATCH = 7;

/** A knob on a cutting plane: dragged, it moves the plane along its normal, and the cut with it. With Alt nothing catches it. */
function PlaneHandle(props: {
  stage: ModelStage;
  cut: Cut;
  number: number;
  levels: readonly number[];
  onMove: (cut: Cut, settled: boolean) => void;
}) {
  const { stage, cut } = props;
  const held = useRef<{ x: number; y: number; cut: Cut; at: number; faces: number[] } | null>(null);
  const [caught, setCaught] = useState<string | null>(null);
  const n = unit(cut.normal as Vec);
  const offset = dot(n, cut.point as Vec);
  const at = stage.handle(cut);
  const here = stage.onScreen(at);
  const there = stage.onScreen(add(at, n));
  if (!here || !there) return null;
  const [dx, dy] = [there[0] - here[0], there[1] - here[1]];
  const perMetre = Math.hypot(dx, dy);
  if (perMetre < 0.5) return null; // looked at straight, a plane cannot be drawn along the screen
  const axis = [0, 1, 2].find((k) => Math.abs(n[k]!) > 0.99999);
  const shown = axis === undefined ? offset : (cut.point as Vec)[axis]!;
  const moved = (from: Cut, by: number): Cut => ({ ...from, point: add(from.point as Vec, n, by) });

  const drag = (e: React.PointerEvent, settled: boolean) => {
    const h = held.current;
    if (!h) return;
    let by = ((e.clientX - h.x) * dx + (e.clientY - h.y) * dy) / perMetre ** 2;
    let word: string | null = null;
    if (!e.altKey) {
      const storeys = axis === 2 ? props.levels.map((z) => z * n[2]!) : [];
      const near = (rows: readonly number[]) =>
        rows.reduce<number | null>(
          (best, v) => (best === null || Math.abs(v - h.at - by) < Math.abs(best - h.at - by) ? v : best),
          null,
        );
      for (const [rows, name] of [
        [storeys, "storey"],
        [h.faces, "face"],
      ] as const) {
        const found = near(rows);
        if (word === null && found !== null && Math.abs(found - h.at - by) * perMetre < CATCH) {
          by = found - h.at;
          word = name;
        }
      }
    }
    if (word === null) by = Math.round((h.at + by) * 1000) / 1000 - h.at;
    setCaught(settled ? null : (word ?? ""));
    props.onMove(moved(h.cut, by), settled);
  };

  const slant = (Math.atan2(dy, dx) * 180) / Math.PI;
  return (
    <button
      type="button"
      className="absolute h-8 w-8 -translate-x-1/2 -translate-y-1/2 cursor-move touch-none"
      style={{ left: here[0], top: here[1] }}
      aria-label={`Cutting plane ${props.number} at ${shown.toFixed(2)} m. Drag it, or move it with the arrow keys.`}
      onPointerDown={(e) => {
        e.stopPropagation();
        e.currentTarget.setPointerCapture(e.pointerId);
        held.current = { x: e.clientX, y: e.clientY, cut, at: offset, faces: stage.faces(n) };
      }}
      onPointerMove={(e) => {
        e.stopPropagation();
        drag(e, false);
      }}
      onPointerUp={(e) => {
        e.stopPropagation();
        drag(e, true);
        held.current = null;
      }}
      onKeyDown={(e) => {
        const by = { ArrowUp: 0.05, ArrowRight: 0.05, ArrowDown: -0.05, ArrowLeft: -0.05 }[e.key];
        if (by === undefined) return;
        e.stopPropagation();
        e.preventDefault();
        props.onMove(moved(cut, by), true);
      }}
    >
      <svg width="32" height="32" viewBox="-16 -16 32 32" aria-hidden>
        <g transform={`rotate(${slant})`} stroke="var(--color-sanguine)" strokeWidth="1.8" fill="none">
          <circle r="5" fill="var(--color-sheet)" />
          <path d="M6 0H14M11 -3L14 0L11 3M-6 0H-14M-11 -3L-14 0L-11 3" />
        </g>
      </svg>
      {caught !== null && (
        <span className="absolute left-9 top-1 bg-sheet px-1.5 text-xs font-semibold whitespace-nowrap text-graphite">
          {shown.toFixed(2)} m{caught && `, on a ${caught}`}
        </span>
      )}
    </button>
  );
}

/** Measures as the trade draws them: a line between oblique ticks, the figure above it. */
function Measures({ stage, rows }: { stage: ModelStage; rows: readonly { from: Vec; to: Vec; words: string }[] }) {
  return (
    <svg className="pointer-events-none absolute inset-0 h-full w-full" aria-hidden>
      {rows.map((row, i) => {
        const a = stage.onScreen(row.from);
        const b = stage.onScreen(row.to);
        if (!a || !b) return null;
        const turn = Math.atan2(b[1] - a[1], b[0] - a[0]);
        const upright = Math.abs(turn) > Math.PI / 2 ? turn + Math.PI : turn;
        const middle = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];
        return (
          <g key={i} stroke="var(--color-sanguine)" strokeWidth="1.4">
            <line x1={a[0]} y1={a[1]} x2={b[0]} y2={b[1]} />
            {[a, b].map((p, k) => (
              <line key={k} x1={p[0] - 5} y1={p[1] + 5} x2={p[0] + 5} y2={p[1] - 5} strokeWidth="2.4" />
            ))}
            <g transform={`translate(${middle[0]} ${middle[1]}) rotate(${(upright * 180) / Math.PI})`}>
              <text
                y="-6"
                textAnchor="middle"
                fontSize="13"
                fontWeight="600"
                fill="var(--color-graphite)"
                stroke="var(--color-desk)"
                strokeWidth="4"
                paintOrder="stroke"
              >
                {row.words}
              </text>
            </g>
          </g>
        );
      })}
    </svg>
  );
}
