import { lazy, Suspense, useCallback, useEffect, useMemo, useRef, useState } from "react";

import type { View } from "../../api/client";
import { type Editing, useModelJob } from "../../desk/study";
import { Choice } from "../../shared/controls";
import { ProgressLine } from "../../shared/ProgressLine";
import { SpanLine } from "../../shared/SpanLine";
import type { Hit, How, Span } from "../../shared/look";
import type { Vec } from "../view/camera";
import { useChoice } from "./choice";
import { useHealth, useTroubled } from "./Health";
import { type Colouring, COLOURINGS, lookOf, useParts } from "./parts";
import { Schedule } from "./Schedule";

const ModelView = lazy(() => import("../../shared/ModelView"));

const TOOLS = [
  {
    id: "look",
    words: "Look",
    about: "Drag to orbit, with Shift to move; press a part to choose it, with Shift to add, with Alt to take away",
  },
  { id: "touching", words: "Rectangle, touching", about: "Draw a rectangle: all parts that it touches are chosen" },
  {
    id: "inside",
    words: "Rectangle, inside",
    about: "Draw a rectangle: all parts that lie wholly inside it are chosen",
  },
  { id: "measure", words: "Measure", about: "Press two points; corners are caught" },
] as const;

const FAR_LOOK: Vec = [0.5, -1.9, 0.85];

function lookAt(like: View, low: Vec, high: Vec): View {
  const middle = [0, 1, 2].map((k) => (low[k]! + high[k]!) / 2) as Vec;
  const radius = Math.max(0.5, Math.hypot(high[0] - low[0], high[1] - low[1], high[2] - low[2]) / 2);
  return {
    ...like,
    name: "Model",
    projection: {
      kind: "perspective",
      eye: middle.map((c, k) => c + radius * FAR_LOOK[k]!) as Vec,
      target: middle,
      up: [0, 0, 1],
      field_of_view: 50,
      upright: false,
    },
    cuts: [],
    parts: { set: "", hidden: [], uncut: [], roles: {} },
    sun: { ...like.sun, azimuth: 200, altitude: 42 },
    frame: { width: 420, height: 297, resolution: 150, shift: [0, 0] },
    lines: { crease_angle: 24, outline_depth: 0.3, smooth: false, seams: false, facets: false },
  };
}

const metres = (n: number) => (n < 10 ? `${n.toFixed(3)} m` : `${n.toFixed(2)} m`);
const gap = (a: Vec, b: Vec) => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);

/** The model, to be looked at closely; nothing here changes a view. */
export function ModelRoom({ editing }: { editing: Editing }) {
  const { model, slug } = editing.study;
  const { data: parts } = useParts(editing.study);
  const { chosen, choose, colouring, tool, span, schedule, place, finding, flight, leaf, set } = useChoice();
  const health = useHealth(editing, leaf === "Health");
  const troubled = useTroubled(editing);
  const job = useModelJob((s) => s.job);
  const low = model.focus_low as Vec;
  const high = model.focus_high as Vec;
  const start = useMemo(() => lookAt(editing.study.document.desk.view, low, high), [low.join(), high.join()]); // eslint-disable-line react-hooks/exhaustive-deps
  const [view, setView] = useState(start);
  useEffect(() => setView(start), [start]);
  const latest = useRef(view);
  latest.current = view;

  const look = useMemo(
    () => (parts ? lookOf(parts, colouring, chosen, troubled, { hidden: parts.hidden, uncut: parts.whole }) : null),
    [parts, colouring, chosen, troubled],
  );
  const marks = useMemo(
    () =>
      leaf === "Health"
        ? (health?.findings
            ?.find((f) => f.kind === finding)
            ?.places.slice(0, 400)
            .map((p) => p.point as Vec) ?? [])
        : [],
    [leaf, health, finding],
  );

  // Fly: the eye goes over in a moment, or at once where motion is not wanted.
  useEffect(() => {
    if (!flight) return;
    const from = latest.current.projection as { eye: Vec; target: Vec };
    const away = Math.max(flight.reach, 0.4) * 1.6;
    const sight = from.eye.map((c, k) => c - from.target[k]!) as Vec;
    const n = Math.hypot(...sight) || 1;
    const eye = flight.to.map((c, k) => c + (sight[k]! / n) * away) as Vec;
    const still = matchMedia("(prefers-reduced-motion: reduce)").matches;
    const begun = performance.now();
    let asked = 0;
    const step = () => {
      const t = still ? 1 : Math.min(1, (performance.now() - begun) / 180);
      const s = t * t * (3 - 2 * t);
      const mix = (a: Vec, b: Vec) => a.map((c, k) => c + (b[k]! - c) * s) as Vec;
      setView((v) => ({
        ...v,
        projection: {
          ...v.projection,
          eye: mix(from.eye, eye),
          target: mix(from.target, flight.to),
        } as View["projection"],
      }));
      if (t < 1) asked = requestAnimationFrame(step);
    };
    step();
    return () => cancelAnimationFrame(asked);
  }, [flight]);

  const [ends, setEnds] = useState<Vec[]>([]);
  useEffect(() => setEnds([]), [tool, model.geometry]);
  const pick = useCallback(
    (hit: Hit | null, how: How) => {
      if (tool === "measure") {
        if (hit) setEnds((e) => (e.length === 2 ? [hit.corner ?? hit.point] : [...e, hit.corner ?? hit.point]));
      } else if (hit) choose([hit.part], how, hit.part);
      else if (how === "only") choose([], "only");
    },
    [tool, choose],
  );
  const measures = ends.length === 2 ? [{ from: ends[0]!, to: ends[1]!, words: metres(gap(ends[0]!, ends[1]!)) }] : [];

  return (
    <div className="flex h-full min-h-0 flex-col bg-desk">
      <div className="flex shrink-0 flex-wrap items-baseline gap-x-5 gap-y-1 border-b border-hairline bg-page px-4 py-1.5 text-[12.5px]">
        <div role="group" aria-label="What pressing and dragging does" className="flex gap-3">
          {TOOLS.map((t) => (
            <button
              key={t.id}
              type="button"
              title={t.about}
              aria-pressed={tool === t.id}
              className={`plain border-b-2 ${tool === t.id ? "border-sanguine font-semibold" : "border-transparent"}`}
              onClick={() => set({ tool: t.id })}
            >
              {t.words}
            </button>
          ))}
        </div>
        <div className="ml-auto flex gap-3">
          <span className="flex items-baseline gap-1.5">
            <span className="quiet">Coloured by</span>
            <Choice<Colouring>
              hideLabel
              label="Coloured by"
              value={colouring}
              options={COLOURINGS.map((c) => ({ value: c, label: c }))}
              onChange={(c) => set({ colouring: c })}
            />
          </span>
          <button
            type="button"
            aria-pressed={span !== null}
            className={`plain border-b-2 ${span ? "border-sanguine font-semibold" : "border-transparent"}`}
            onClick={() => set({ span: span ? null : { low: [...model.low] as Vec, high: [...model.high] as Vec } })}
          >
            Look within
          </button>
          <button
            type="button"
            aria-pressed={schedule}
            className={`plain border-b-2 ${schedule ? "border-sanguine font-semibold" : "border-transparent"}`}
            onClick={() => set({ schedule: !schedule })}
          >
            List of parts
          </button>
        </div>
      </div>
      <div className="relative min-h-0 flex-1">
        <Suspense fallback={<p className="quiet flex h-full items-center justify-center">Bringing the model …</p>}>
          <ModelView
            slug={slug}
            geometry={model.geometry}
            look={look}
            view={view}
            scale={100}
            centre={[0, 0, 0]}
            framed={false}
            drag={tool === "touching" || tool === "inside" ? "rectangle" : "look"}
            span={span}
            marks={marks}
            marked={place}
            measures={measures}
            onPick={pick}
            onRectangle={(inside, how) => choose(inside(tool === "inside"), how)}
            onView={setView}
          />
        </Suspense>
        {span && (
          <LookWithin
            span={span}
            low={model.low as Vec}
            high={model.high as Vec}
            onChange={(next) => set({ span: next })}
          />
        )}
        {tool === "measure" && (
          <p className="quiet pointer-events-none absolute bottom-4 left-5 bg-page/95 px-2 py-1 text-xs" role="status">
            {ends.length === 2
              ? `${metres(gap(ends[0]!, ends[1]!))}  ·  ${["X", "Y", "Z"].map((a, k) => `${a} ${metres(Math.abs(ends[0]![k]! - ends[1]![k]!))}`).join("  ")}`
              : ends.length === 1
                ? "Press the other point."
                : "Press the first point; a corner nearby is caught."}
          </p>
        )}
        {job && (
          <div className="absolute inset-x-16 bottom-4 bg-page/95 px-4 py-2">
            <ProgressLine job={job} />
          </div>
        )}
        <button
          type="button"
          className="line-act absolute right-5 bottom-4 bg-page/95 text-xs"
          onClick={() => setView(start)}
        >
          Show all
        </button>
      </div>
      {schedule && parts && <Schedule editing={editing} parts={parts} />}
    </div>
  );
}

/** Three spans, one for each axis: only what lies within all of them is shown. */
function LookWithin({
  span,
  low,
  high,
  onChange,
}: {
  span: Span;
  low: Vec;
  high: Vec;
  onChange: (span: Span) => void;
}) {
  return (
    <div className="absolute top-3 right-4 w-60 bg-page/95 px-3 py-2">
      {["Along X", "Along Y", "Height"].map((label, k) => (
        <SpanLine
          key={label}
          label={label}
          unit="m"
          min={Math.floor(low[k]! * 10) / 10}
          max={Math.ceil(high[k]! * 10) / 10}
          value={[span.low[k]!, span.high[k]!]}
          onChange={([a, b]) => {
            const next: Span = { low: [...span.low], high: [...span.high] };
            next.low[k] = a;
            next.high[k] = b;
            onChange(next);
          }}
        />
      ))}
    </div>
  );
}
