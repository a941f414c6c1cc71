import { useState } from "react";

import { at } from "../../desk/study";
import { Grip } from "../../shared/Grip";
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
    const onto = own.onto.map((p, i) =>
      i === k ? [Math.round((to[0] - x) * 100) / 100, Math.round((to[1] - y) * 100) / 100] : p,
    );
    editing.look(`Place ${trace.name}`, [at(["traces", trace.id, "onto"], onto)], everywhere, `${trace.id}.onto`);
  };
  return (
    <g data-testid="two-points">
      <line
        x1={points[0]![0]}
        y1={points[0]![1]}
        x2={points[1]![0]}
        y2={points[1]![1]}
        stroke="var(--color-sanguine)"
        strokeWidth="1.2"
        strokeDasharray="6 4"
        vectorEffect="non-scaling-stroke"
      />
      {points.map((p, k) => (
        <Grip
          key={k}
          at={p}
          scale={scale}
          place={place}
          heavy
          label={`${k ? "Second" : "First"} point of ${trace.name}`}
          value={p[0]}
          testId="two-point"
          onDrag={(to, done) => {
            setHeld(done ? null : { k, to });
            put(k, to);
          }}
          onNudge={([dx, dy], far) => put(k, [p[0] + dx * (far ? 5 : 1), p[1] + dy * (far ? 5 : 1)])}
        />
      ))}
    </g>
  );
}
