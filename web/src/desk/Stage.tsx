import { useEffect, useLayoutEffect, useRef, useState } from "react";

import type { Desk } from "../api/client";
import { ProgressLine } from "../shared/ProgressLine";
import { ProbeLine } from "./ProbeLine";
import { RegionCard } from "./RegionCard";
import { pathOf, pointed, useKeptShape, usePointed, useRegions } from "./regions";
import { useScreen } from "./screen";
import { usePicture } from "../shared/picture";
import { useSending } from "./edits";
import { isOpen } from "../shared/jobs";
import { type Editing, useLate } from "./study";
import { linesPath, useHeldLines } from "../benches/ink/held";
import { useOutlining } from "../benches/ink/outlining";
import { MarkHandles, MarkingLayer, useMarkDrawing } from "../benches/ink/marks/MarkingLayer";
import { usePouring, widened } from "../benches/ink/pouring";
import { PouringStrip } from "../benches/ink/PouringStrip";
import { FigureHandles, FigureLayer, FigureStrip, useFigurePutting } from "../benches/collage/figures/FigureLayer";
import { NoteHandles, NotePlacingLayer, useNotePlacing } from "../benches/sheet/NoteLayer";
import { usePlacedNotes } from "../benches/sheet/noting";
import { HandStrip } from "../benches/collage/HandStrip";
import { BrushLayer, BrushStrip } from "../benches/collage/BrushLayer";
import { TraceHandles } from "../benches/collage/TraceHandles";
import { usePainting } from "../benches/collage/windows";
import { VariantRow } from "../benches/collage/VariantRow";
import { asTrace, sampleOf } from "../benches/collage/stock";
import { CompareLine } from "./CompareLine";
import { SunRow } from "./SunRow";

/** Pixels to which the window of a close picture is rounded, so that small moves ask for nothing new. */
const STEP = 256;

/** The address of the part of a picture that is seen: `address` is that of the whole. */
function closeUp(
  address: string,
  room: [number, number],
  paper: [number, number],
  scale: number,
  pan: [number, number],
  density: number,
): string {
  const across = Math.round(paper[0] * scale * density);
  const down = Math.round((across * paper[1]) / paper[0]);
  const left = (room[0] / 2 + pan[0] - (paper[0] * scale) / 2) * density;
  const top = (room[1] / 2 - 14 + pan[1] - (paper[1] * scale) / 2) * density;
  const from = (edge: number) => Math.max(0, Math.floor(-edge / STEP) * STEP);
  const to = (edge: number, seen: number, most: number) =>
    Math.min(most, Math.ceil((seen * density - edge) / STEP) * STEP);
  const [x, y] = [from(left), from(top)];
  const part = [x, y, Math.max(1, to(left, room[0], across) - x), Math.max(1, to(top, room[1], down) - y)];
  return `${address.replace(/width=\d+/, `width=${across}`)}&window=${part.join(",")}&height=${down}`;
}

/** Where a close picture lies on the paper, in hundredths of it. */
function placeOf(address: string): { left: number; top: number; width: number; height: number } {
  const asked = new URLSearchParams(address.split("?")[1]);
  const [across, down] = [Number(asked.get("width")), Number(asked.get("height"))];
  const [x, y, w, h] = asked.get("window")!.split(",").map(Number) as [number, number, number, number];
  return { left: (x / across) * 100, top: (y / down) * 100, width: (w / across) * 100, height: (h / down) * 100 };
}

/** Whether two addresses are of one drawing, whatever part of it. */
function sameDrawing(one: string | null, other: string): boolean {
  const bare = (address: string) => address.replace(/(width|height)=\d+&?|&window=[\d,]+/g, "").replace(/&$/, "");
  return !!one && bare(one) === bare(other);
}

type Props = { editing: Editing; desk: Desk | undefined; stopped: boolean; onStop: () => void; onGoOn: () => void };

/** The drawing, lying on the desk: the same at every bench, with the same zoom and place. */
export function Stage({ editing, desk, stopped, onStop, onGoOn }: Props) {
  const { study } = editing;
  const room = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState<[number, number]>([0, 0]);
  const { zoom, pan, look, without, alone, compare, bench, everywhere } = useScreen();
  const pouring = usePouring();
  const outlining = useOutlining();
  const [at, setAt] = useState<[number, number] | null>(null);
  const drag = useRef<{ x: number; y: number; pan: [number, number] } | null>(null);
  const { selection, kept, select, choose } = useRegions();
  const frame = study.document.desk.view.frame!;
  const width = frame.width ?? 420;
  const height = frame.height ?? 297;

  useLayoutEffect(() => {
    const box = room.current!;
    const watch = new ResizeObserver(() => setSize([box.clientWidth, box.clientHeight]));
    watch.observe(box);
    return () => watch.disconnect();
  }, []);

  const fit = Math.max(0.1, Math.min((size[0] - 56) / width, (size[1] - 92) / height));
  const scale = fit * zoom;
  const density = Math.min(window.devicePixelRatio, 2);
  const pixels = Math.min(4000, Math.ceil((width * fit * Math.min(zoom, 1) * density) / 160) * 160);
  useEffect(() => useScreen.getState().set({ pixels }), [pixels]);
  const ready = (desk?.fresh ?? false) && desk!.revision === study.revision;
  const address =
    size[0] && ready
      ? `/api/studies/${study.slug}/preview?width=${pixels}&revision=${study.revision}${without ? `&without=${without}` : ""}${alone ? `&alone=${alone}` : ""}`
      : null;
  const beside = usePicture(address && compare && !without && !alone ? `${address}&without=${compare.without}` : null);
  // Of a view that has not been seen yet, a coarse picture comes first; else the last good one stays until the next is whole.
  const seen = useRef<string | null>(null);
  const viewId = study.document.desk.view_id;
  const coarse =
    size[0] && !ready && desk?.sketch && seen.current !== viewId
      ? `/api/studies/${study.slug}/preview?width=${Math.min(pixels, 960)}&revision=${study.revision}&coarse=true`
      : null;
  const newest = usePicture(address ?? coarse);
  const { behind, shown } = newest;
  // Until there is a picture of this view, it lies there as it was drawn last: neither bare paper nor another view.
  const own = (ready && !behind) || seen.current === viewId || (coarse !== null && shown === coarse);
  const last = `/api/studies/${study.slug}/views/${viewId}/last?revision=${study.revision}`;
  const [never, setNever] = useState("");
  const [laid, setLaid] = useState("");
  const src = own ? newest.src : never === last ? null : last;
  // Seen closely, the part that is seen has a picture of its own over the one of the whole.
  const close = zoom > 1.2 && address && !behind ? closeUp(address, size, [width, height], scale, pan, density) : null;
  const part = usePicture(close);
  const placed = zoom > 1.2 && part.src && shown && sameDrawing(part.shown, shown) ? placeOf(part.shown!) : null;
  useEffect(() => {
    if (ready && !behind) seen.current = viewId;
  }, [ready, behind, viewId]);
  const marking = useMarkDrawing(editing, scale);
  const drawn = (ready && !behind) || desk?.problem ? study.revision : null;
  useEffect(() => {
    if (drawn !== null) useScreen.getState().set({ drawn });
  }, [drawn]);
  const drawsMark = bench === "Ink" && marking.active;
  const putting = useFigurePutting(editing, scale);
  const puts = bench === "Collage" && putting.active;
  const noting = useNotePlacing(editing, scale);
  const writes = bench === "Sheet" && noting.active;
  const written = usePlacedNotes(study.slug, bench === "Sheet" ? useScreen.getState().drawn : -1);
  const chosenFigure = useScreen((s) =>
    s.bench === "Collage" && s.chosen.Collage?.kind === "figure" ? s.chosen.Collage.id : null,
  );
  const figure = (study.document.figures ?? []).find((f) => f.id === chosenFigure);
  const chosenMark = useScreen((s) => (s.bench === "Ink" && s.chosen.Ink?.kind === "mark" ? s.chosen.Ink.id : null));
  const mark = (study.document.marks ?? []).find((m) => m.id === chosenMark);
  const chosenTrace = useScreen((s) =>
    s.bench === "Collage" && s.chosen.Collage?.kind === "trace" ? s.chosen.Collage.id : null,
  );
  const trace = (study.look.traces ?? []).find((t) => t.id === chosenTrace);
  const brushed = usePainting((s) => s.mask);
  const painted =
    bench === "Collage" ? (study.document.desk.view.masks ?? []).find((m) => m.id === brushed) : undefined;
  const placeOn = (event: { clientX: number; clientY: number }): [number, number] => {
    const box = room.current!.getBoundingClientRect();
    return [(event.clientX - box.left - left) / scale, (event.clientY - box.top - top) / scale];
  };
  const { sending } = useSending();
  const under = usePointed(
    study.slug,
    study.revision,
    ready && !drag.current && !sending && !outlining.corners && !drawsMark && !puts ? at : null,
    pouring.called ? pouring.width : null,
  );
  const keptShape = useKeptShape(study.slug, study.revision, ready ? kept : null);
  // What is selected is said of the drawing as it was: another view or another sun is another drawing.
  const view = JSON.stringify(study.document.desk.view);
  useEffect(() => select(null), [view, select]);
  const margin = editing.saved.sheet?.margin ?? 0;
  const held = useHeldLines(study.slug, study.revision);
  const widen = async (x: number, y: number, wide: number) => {
    const found = await pointed(study.slug, x, y, wide).catch(() => null);
    select(found && { x, y, wide: found.wide ?? 0, found });
  };

  const pour = async (x: number, y: number) => {
    const first = await pointed(study.slug, x, y, 0).catch(() => null);
    if (!first || !pouring.called) return;
    const wide = widened(first, pouring.width);
    const found = wide ? await pointed(study.slug, x, y, wide).catch(() => null) : first;
    if (!found) return;
    const cut = !!first.cut;
    if (pouring.buildUp) {
      await editing.act({
        do: "build",
        label: `Build ${found.called} of ${pouring.called}`.slice(0, 120),
        where: found.query as never,
        build_up: pouring.buildUp,
        outer: "auto",
        everywhere: everywhere.Ink,
      });
      return;
    }
    if (pouring.stock) return void (await pourStock(found.query, found.called ?? ""));
    if (!pouring.fill) return;
    await editing.act({
      do: "pour",
      label: `Pour ${pouring.called}: ${found.called}`.slice(0, 120),
      where: found.query as never,
      fill: pouring.fill,
      cut,
      over: !cut && pouring.over,
      everywhere: everywhere.Ink,
    });
  };

  const pourStock = async (where: unknown, called: string) => {
    const { stock, trace: growing } = usePouring.getState();
    const traces = editing.study.look.traces!;
    const known = traces.find((t) => t.id === growing);
    const trace = known ?? asTrace(stock!, traces);
    if (!known) usePouring.getState().grows(trace.id);
    useScreen.setState((s) => ({ chosen: { ...s.chosen, Collage: { kind: "trace", id: trace.id } } }));
    await editing.act({
      do: "pour_trace",
      label: `Pour ${trace.name}: ${called}`.slice(0, 120),
      trace: trace as never,
      where: where as never,
      everywhere: everywhere.Collage,
    });
  };

  useEffect(() => {
    if (!outlining.corners) return;
    const keys = (event: KeyboardEvent) =>
      event.key === "Enter" ? outlining.end(true) : event.key === "Escape" ? outlining.end(false) : undefined;
    window.addEventListener("keydown", keys);
    return () => window.removeEventListener("keydown", keys);
  }, [outlining]);

  useEffect(() => {
    const box = room.current!;
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const { zoom: z, pan: p } = useScreen.getState();
      const next = Math.min(12, Math.max(0.4, z * Math.exp(-event.deltaY * 0.0014)));
      const rect = box.getBoundingClientRect();
      const x = event.clientX - rect.left - rect.width / 2;
      const y = event.clientY - rect.top - rect.height / 2 + 14;
      useScreen.getState().look(next, [x - ((x - p[0]) * next) / z, y - ((y - p[1]) * next) / z]);
    };
    box.addEventListener("wheel", wheel, { passive: false });
    return () => box.removeEventListener("wheel", wheel);
  }, []);

  const left = size[0] / 2 + pan[0] - (width * scale) / 2;
  const top = size[1] / 2 - 14 + pan[1] - (height * scale) / 2;
  const working = isOpen(desk?.job) && !desk!.fresh;
  // Whatever it waits for: the edit, what is known of the passes, or the picture.
  const older = useLate((behind || sending || !ready) && !desk?.problem);

  return (
    <div className="relative flex h-full min-h-0 flex-col bg-desk">
      <div
        ref={room}
        aria-busy={behind || sending || !ready}
        data-revision={study.revision}
        className="relative min-h-0 flex-1 touch-none overflow-hidden"
        role="application"
        tabIndex={0}
        aria-label={`Drawing: ${study.document.desk.view.name}. Plus and minus zoom, arrows move, 0 shows all.`}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          drag.current = { x: e.clientX, y: e.clientY, pan };
          if (drawsMark && marking.free) marking.down(...placeOn(e));
        }}
        onPointerMove={(e) => {
          const box = e.currentTarget.getBoundingClientRect();
          if (drawsMark && ready) void marking.move(...placeOn(e));
          if (puts && !drag.current) void putting.move(...placeOn(e));
          if (writes && ready && !drag.current) void noting.move(...placeOn(e));
          if (drag.current && !(drawsMark && marking.free)) {
            look(zoom, [
              drag.current.pan[0] + e.clientX - drag.current.x,
              drag.current.pan[1] + e.clientY - drag.current.y,
            ]);
          }
          const x = (e.clientX - box.left - left) / scale;
          const y = (e.clientY - box.top - top) / scale;
          setAt(x >= 0 && y >= 0 && x <= width && y <= height ? [x, y] : null);
        }}
        onPointerUp={(e) => {
          const began = drag.current;
          drag.current = null;
          if (drawsMark && marking.free && began) return void marking.up(...placeOn(e));
          if (
            !began ||
            Math.hypot(e.clientX - began.x, e.clientY - began.y) > 3 ||
            !(ready || drawsMark || puts || writes)
          )
            return;
          const box = e.currentTarget.getBoundingClientRect();
          const x = (e.clientX - box.left - left) / scale;
          const y = (e.clientY - box.top - top) / scale;
          if (x < 0 || y < 0 || x > width || y > height) return choose(null);
          if (outlining.corners) {
            const first = outlining.corners[0];
            return first && Math.hypot(x - first[0], y - first[1]) * scale < 9
              ? outlining.end(true)
              : outlining.add([x, y]);
          }
          if (drawsMark) return marking.up(x, y);
          if (puts) return putting.press(x, y);
          if (writes) return noting.press(x, y);
          if ((bench === "Ink" || bench === "Collage") && pouring.called) return void pour(x, y);
          // A click in the same place again means more of it; after the widest, the narrowest.
          const again = selection && Math.hypot(x - selection.x, y - selection.y) * scale < 6;
          void widen(x, y, again ? (selection.wide + 1) % Math.max(1, selection.found.widenings?.length ?? 1) : 0);
        }}
        onPointerLeave={() => setAt(null)}
        onKeyDown={(e) => {
          const steps: Record<string, [number, number]> = {
            ArrowLeft: [60, 0],
            ArrowRight: [-60, 0],
            ArrowUp: [0, 60],
            ArrowDown: [0, -60],
          };
          const move = steps[e.key];
          if (e.altKey || e.ctrlKey || e.metaKey) return;
          if (move) look(zoom, [pan[0] + move[0], pan[1] + move[1]]);
          else if (e.key === "+" || e.key === "=") look(Math.min(12, zoom * 1.25), [pan[0] * 1.25, pan[1] * 1.25]);
          else if (e.key === "-") look(Math.max(0.4, zoom / 1.25), [pan[0] / 1.25, pan[1] / 1.25]);
          else if (e.key === "0") look(1, [0, 0]);
          else if (e.key === "Escape") choose(null);
        }}
      >
        <div
          className="absolute bg-sheet outline outline-1 outline-[#d5c9b5]"
          style={{
            left,
            top,
            width: width * scale,
            height: height * scale,
            visibility: size[0] ? "visible" : "hidden",
          }}
        >
          {src ? (
            <img
              src={src}
              alt={own ? `The drawing “${study.document.desk.view.name}”` : ""}
              className={`h-full w-full select-none ${own ? "" : "object-contain opacity-80"}`}
              draggable={false}
              onLoad={() => setLaid(src)}
              onError={() => !own && setNever(last)}
            />
          ) : null}
          {!own && src && laid === src && (
            <p
              role="status"
              className="absolute bottom-2 left-2 bg-sheet px-2 py-0.5 text-xs text-graphite outline outline-1 outline-hairline"
            >
              as it was drawn last
            </p>
          )}
          {src && placed && (
            <img
              src={part.src!}
              alt=""
              aria-hidden
              className="absolute select-none"
              draggable={false}
              style={{
                left: `${placed.left}%`,
                top: `${placed.top}%`,
                width: `${placed.width}%`,
                height: `${placed.height}%`,
              }}
            />
          )}
          {painted && <BrushLayer editing={editing} mask={painted.id} scale={scale} width={width} height={height} />}
          {src && compare && beside.src && (
            <CompareLine src={beside.src} across={compare.across} width={width * scale} />
          )}
          {src && (own || laid === src) ? null : (
            <p className="quiet absolute inset-0 flex h-full items-center justify-center text-center">
              {desk?.problem
                ? ""
                : working
                  ? "The drawing is being made for the first time …"
                  : "Laying the drawing out …"}
            </p>
          )}
        </div>
        {ready && (
          <svg
            className="pointer-events-none absolute"
            style={{ left, top, width: width * scale, height: height * scale }}
            viewBox={`0 0 ${width} ${height}`}
            aria-hidden
          >
            <clipPath id="drawn">
              <rect
                x={margin}
                y={margin}
                width={Math.max(width - 2 * margin, 1)}
                height={Math.max(height - 2 * margin, 1)}
              />
            </clipPath>
            {!selection && under.found && (
              <path
                data-testid="pointed"
                d={pathOf(under.found.rings)}
                fill="rgb(178 71 42 / 0.06)"
                fillRule="evenodd"
                stroke="var(--color-sanguine)"
                strokeWidth="1"
                vectorEffect="non-scaling-stroke"
                strokeDasharray="4 3"
              />
            )}
            {(selection?.found ?? keptShape) && (
              <path
                data-testid="selected"
                d={pathOf((selection?.found ?? keptShape)!.rings)}
                fill="rgb(178 71 42 / 0.16)"
                fillRule="evenodd"
                stroke="var(--color-sanguine)"
                strokeWidth="1.6"
                vectorEffect="non-scaling-stroke"
              />
            )}
            {outlining.corners && outlining.corners.length > 0 && (
              <path
                data-testid="outline"
                d={`M${outlining.corners.map((p) => p.join(" ")).join("L")}${at ? `L${at.join(" ")}` : ""}`}
                fill="rgb(178 71 42 / 0.08)"
                stroke="var(--color-sanguine)"
                strokeWidth="1.6"
                vectorEffect="non-scaling-stroke"
              />
            )}
            {drawsMark && <MarkingLayer scale={scale} trail={marking.trail} />}
            {mark && !drawsMark && <MarkHandles editing={editing} mark={mark} scale={scale} place={placeOn} />}
            {held.length > 0 && (
              <path
                data-testid="held"
                clipPath="url(#drawn)"
                d={linesPath(held)}
                fill="none"
                stroke="var(--color-sanguine)"
                strokeWidth="1.8"
                vectorEffect="non-scaling-stroke"
              />
            )}
          </svg>
        )}
        {bench === "Sheet" && src && (
          <svg
            className="pointer-events-none absolute overflow-visible"
            style={{ left, top, width: width * scale, height: height * scale }}
            viewBox={`0 0 ${width} ${height}`}
          >
            {writes ? (
              <NotePlacingLayer scale={scale} />
            ) : (
              <NoteHandles editing={editing} placed={written} scale={scale} place={placeOn} />
            )}
          </svg>
        )}
        {bench === "Collage" && src && (
          <svg
            className="pointer-events-none absolute overflow-visible"
            style={{ left, top, width: width * scale, height: height * scale }}
            viewBox={`0 0 ${width} ${height}`}
          >
            <FigureLayer scale={scale} revision={study.revision} />
            {figure && !puts && (
              <FigureHandles key={figure.id} editing={editing} figure={figure} scale={scale} place={placeOn} />
            )}
          </svg>
        )}
        {trace && !painted && !outlining.corners && !pouring.stock && src && (
          // Handles stay while the drawing follows them.
          <svg
            className="pointer-events-none absolute overflow-visible"
            style={{ left, top, width: width * scale, height: height * scale }}
            viewBox={`0 0 ${width} ${height}`}
          >
            <TraceHandles editing={editing} desk={desk} trace={trace} scale={scale} place={placeOn} />
          </svg>
        )}
        {pouring.stock && at && (
          <img
            src={sampleOf(pouring.stock, study)}
            alt=""
            aria-hidden
            draggable={false}
            className="pointer-events-none absolute z-[6] h-7 w-11 object-cover outline outline-1 outline-graphite"
            style={{ left: left + at[0] * scale + 12, top: top + at[1] * scale + 12 }}
          />
        )}
        {ready && selection && (
          <RegionCard
            key={`${selection.x} ${selection.y}`}
            editing={editing}
            found={selection.found}
            left={Math.max(8, Math.min(size[0] - 300, left + selection.x * scale + 14))}
            top={Math.max(8, Math.min(size[1] - 230, top + selection.y * scale + 14))}
            onWide={(wide) => void widen(selection.x, selection.y, wide)}
            onClose={() => select(null)}
          />
        )}
        {desk?.problem && (
          <p role="alert" className="absolute inset-x-10 top-6 bg-sheet px-4 py-3 text-sanguine">
            {desk.problem}
          </p>
        )}
      </div>
      {bench === "Ink" && <PouringStrip editing={editing} />}
      {bench === "Collage" &&
        (painted ? (
          <BrushStrip />
        ) : puts ? (
          <FigureStrip editing={editing} onEnd={() => void putting.end()} />
        ) : (
          <HandStrip editing={editing} />
        ))}
      <SunRow editing={editing} />
      <VariantRow editing={editing} />
      <div className="h-9 px-7 pb-2">
        {working ? (
          <ProgressLine job={desk!.job!} onStop={onStop} />
        ) : stopped && !ready ? (
          <p role="status" className="flex items-center gap-3">
            <span className="inline-block h-2 w-2 bg-ochre-mark" aria-hidden />
            Stale: the drawing is as it was before. The work was stopped.
            <button type="button" className="line-act text-xs" onClick={onGoOn}>
              Compute it now
            </button>
          </p>
        ) : desk?.job?.state === "failed" && !desk.fresh ? (
          <p role="alert" className="flex items-center gap-3 text-sanguine">
            {desk.job.message}
            <button type="button" className="line-act text-xs" onClick={onGoOn}>
              Try again
            </button>
          </p>
        ) : older && src ? (
          <p role="status" className="flex items-center gap-3">
            <span className="inline-block h-2 w-2 bg-ochre-mark" aria-hidden />
            The drawing is as it was before; the new one is being laid together …
          </p>
        ) : (
          <ProbeLine slug={study.slug} revision={study.revision} at={ready ? at : null} making={under.making} />
        )}
      </div>
    </div>
  );
}
