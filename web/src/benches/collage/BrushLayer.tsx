import { useEffect, useRef, useState } from "react";

import { answered, type Changed, http } from "../../api/client";
import { useScreen } from "../../desk/screen";
import type { Editing } from "../../desk/study";
import { DimensionLine } from "../../shared/DimensionLine";
import { middleOf, usePainting } from "./windows";

type Place = [number, number];

/** A stroke as it is being laid, in the colour of what is selected: every place once, however often the brush goes over it. */
function lay(
  canvas: HTMLCanvasElement,
  path: Place[],
  density: number,
  scale: number,
  brush: { size: number; softness: number; strength: number; erases: boolean },
) {
  const pen = canvas.getContext("2d")!;
  pen.clearRect(0, 0, canvas.width, canvas.height);
  if (!path.length) return;
  const across = density * scale;
  pen.lineCap = pen.lineJoin = "round";
  pen.strokeStyle = brush.erases ? "#fbf8f1" : "#b2472a";
  // Softness as a few strokes, each narrower than the one before.
  const rings = brush.softness < 0.05 ? 1 : 7;
  for (let k = 0; k < rings; k += 1) {
    pen.globalAlpha = (0.42 * brush.strength) / rings;
    pen.lineWidth = Math.max(1, brush.size * across * (1 - (brush.softness * k) / rings));
    pen.beginPath();
    path.forEach(([x, y], n) => (n ? pen.lineTo(x * across, y * across) : pen.moveTo(x * across, y * across)));
    if (path.length === 1) pen.lineTo(path[0]![0] * across + 0.01, path[0]![1] * across);
    pen.stroke();
  }
}

type Props = { editing: Editing; mask: string; scale: number; width: number; height: number };

/** The paper under a brush: what is painted shows under the pointer at once, and on the drawing as soon as that is laid together. */
export function BrushLayer({ editing, mask, scale, width, height }: Props) {
  const brush = usePainting();
  const canvas = useRef<HTMLCanvasElement>(null);
  const path = useRef<Place[]>([]);
  const waits = useRef<number | null>(null);
  const frame = useRef(0);
  const [over, setOver] = useState<Place | null>(null);
  const density = Math.min(window.devicePixelRatio, 2);
  const view = editing.study.document.desk.view;
  const drawn = useScreen((s) => s.drawn);
  const clear = () => canvas.current && lay(canvas.current, [], density, scale, brush);
  useEffect(() => {
    if (waits.current !== null && drawn >= waits.current) {
      waits.current = null;
      if (!path.current.length) clear();
    }
  });
  const show = () => {
    cancelAnimationFrame(frame.current);
    frame.current = requestAnimationFrame(
      () => canvas.current && lay(canvas.current, path.current, density, scale, brush),
    );
  };
  const placeOn = (e: React.PointerEvent): Place => {
    const box = canvas.current!.getBoundingClientRect();
    return [(e.clientX - box.left) / scale, (e.clientY - box.top) / scale];
  };
  const end = async () => {
    const [mx, my] = middleOf(view);
    const points = path.current.slice(0, 4000).map(([x, y]) => [x - mx, y - my] as Place);
    path.current = [];
    const { size, softness, strength, erases } = brush;
    const token = crypto.randomUUID();
    const done = await editing.replace((base) =>
      answered<Changed>(
        http.POST("/api/studies/{slug}/masks/{mask_id}/strokes", {
          params: { path: { slug: editing.study.slug, mask_id: mask } },
          body: { base, token, stroke: { points, size, softness, strength, erases } },
        }),
      ),
    );
    if (done) waits.current = done.revision;
    else if (!path.current.length) clear();
  };
  useEffect(() => {
    const keys = (e: KeyboardEvent) => {
      if ((e.target as HTMLElement).closest("input, textarea")) return;
      if (e.key === "Escape") usePainting.getState().set({ mask: null });
    };
    window.addEventListener("keydown", keys);
    return () => window.removeEventListener("keydown", keys);
  }, []);
  const ring = (size: number, dash: string) =>
    over && (
      <circle
        cx={over[0]}
        cy={over[1]}
        r={size / 2}
        fill="none"
        stroke="var(--color-graphite)"
        strokeWidth="1.1"
        strokeDasharray={dash}
        vectorEffect="non-scaling-stroke"
      />
    );
  return (
    <div
      className="absolute inset-0 z-[4] cursor-none touch-none"
      data-testid="brush"
      onPointerDown={(e) => {
        e.stopPropagation();
        e.currentTarget.setPointerCapture(e.pointerId);
        path.current = [placeOn(e)];
        show();
      }}
      onPointerMove={(e) => {
        e.stopPropagation();
        const place = placeOn(e);
        setOver(place);
        const last = path.current.at(-1);
        if (!last || Math.hypot(place[0] - last[0], place[1] - last[1]) < Math.max(0.15, brush.size * 0.04)) return;
        path.current.push(place);
        show();
      }}
      onPointerUp={(e) => {
        e.stopPropagation();
        if (path.current.length) void end();
      }}
      onPointerLeave={() => setOver(null)}
    >
      <canvas
        ref={canvas}
        width={Math.round(width * scale * density)}
        height={Math.round(height * scale * density)}
        className="h-full w-full"
      />
      <svg
        className="pointer-events-none absolute inset-0 h-full w-full overflow-visible"
        viewBox={`0 0 ${width} ${height}`}
        aria-hidden
      >
        {ring(brush.size, "")}
        {ring(brush.size * (1 - brush.softness), "2 3")}
      </svg>
    </div>
  );
}

/** How the brush paints, under the drawing while it is in the hand. */
export function BrushStrip() {
  const { mask, size, softness, strength, erases, set } = usePainting();
  if (!mask) return null;
  return (
    <div
      className="absolute inset-x-0 bottom-9 z-[5] flex items-end gap-6 bg-desk px-6 text-xs [&>div]:w-40"
      role="group"
      aria-label="Brush"
    >
      <DimensionLine
        label="Size"
        unit="mm"
        digits={0}
        min={1}
        max={120}
        step={1}
        value={size}
        onChange={(v) => set({ size: v })}
      />
      <DimensionLine
        label="Softness"
        unit="%"
        digits={0}
        min={0}
        max={100}
        step={1}
        value={softness * 100}
        onChange={(v) => set({ softness: v / 100 })}
      />
      <DimensionLine
        label="Strength"
        unit="%"
        digits={0}
        min={5}
        max={100}
        step={1}
        value={strength * 100}
        onChange={(v) => set({ strength: v / 100 })}
      />
      <button type="button" className="line-act mb-2" aria-pressed={erases} onClick={() => set({ erases: !erases })}>
        {erases ? "Takes paint off" : "Lays paint on"}
      </button>
      <span className="quiet mb-2 ml-auto">Each stroke is a step that can be undone; Esc lays the brush down.</span>
    </div>
  );
}
