import { useState } from "react";

import { at } from "../../desk/study";
import type { HandleProps } from "./TraceHandles";
import { middleOf } from "./windows";

type Place = [number, number];

/** The two points by which a picture lies, each drawn to its place on the drawing. */
export function TwoPointHandles({ editing, trace, scale, place, everywhere }: HandleProps & { everywhere: boolean }) {
  const own = trace as unknown as { onto: [Place, Place] };
  const [x, y] = middleOf(editing.study.document.desk.view);
  const [held, setHeld] = useState<{ k: number; to: Place } | null>(null);
  const points = own.onto.map((p, k) => (held?.k === k ? held.to : ([p[0] + x, p[1] + y] as Place)));
  const put = (k: number, to: Place) => {
    const onto = own.onto.map((p, i) => (i === k ? [Math.round((to[0] - x) * 100) / 100, Math.round((to[1] - y) * 100) / 100] : p));
    editing.look(`Place ${trace.name}`, [at(["traces", trace.id, "onto"], onto)], everywhere, `${trace.id}.onto`);
  };
  return (
    <g data-testid="two-points">
      <line x1={points[0]![0]} y1={points[0]![1]} x2={points[1]![0]} y2={points[1]![1]} stroke="var(--color-sanguine)" strokeWidth="1.2" strokeDasharray="6 4" vectorEffect="non-scaling-stroke" />
      {points.map((p, k) => (
        <circle
          key={k}
          cx={p[0]}
          cy={p[1]}
          r={6 / scale}
          fill="rgb(178 71 42 / 0.25)"
          stroke="var(--color-sanguine)"
          strokeWidth="1.8"
          vectorEffect="non-scaling-stroke"
          className="pointer-events-auto cursor-move"
          tabIndex={0}
          role="slider"
          aria-label={`${k ? "Second" : "First"} point of ${trace.name}`}
          aria-valuenow={Math.round(p[0])}
          data-testid="two-point"
          onPointerDown={(e) => {
            e.stopPropagation();
            e.currentTarget.setPointerCapture(e.pointerId);
            setHeld({ k, to: place(e) });
          }}
          onPointerMove={(e) => {
            if (held?.k !== k) return;
            e.stopPropagation();
            setHeld({ k, to: place(e) });
            put(k, place(e));
          }}
          onPointerUp={(e) => {
            if (held?.k !== k) return;
            e.stopPropagation();
            put(k, place(e));
            setHeld(null);
          }}
          onKeyDown={(e) => {
            const steps: Record<string, Place> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
            const step = steps[e.key];
            if (!step) return;
            e.preventDefault();
            e.stopPropagation();
            put(k, [p[0] + step[0], p[1] + step[1]]);
          }}
        />
      ))}
    </g>
  );
}
