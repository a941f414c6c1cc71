import { useState } from "react";

import { at } from "../../desk/study";
import { Grip } from "../../shared/Grip";
import type { HandleProps } from "./TraceHandles";

type Place = [number, number];

/** The horizon of a backdrop where it lies, by which it is raised and moved aside, and the height above it, by which it is made larger. */
export function BackdropHandles({
  editing,
  desk,
  trace,
  scale,
  place,
  everywhere,
}: HandleProps & { everywhere: boolean }) {
  const frame = editing.study.document.desk.view.frame!;
  const width = frame.width ?? 420;
  const own = trace as unknown as { raised: number; aside: number; scale: number };
  const places = desk?.traces.find((t) => t.id === trace.id)?.places;
  const [held, setHeld] = useState<{ what: "horizon" | "scale"; from: Place; was: typeof own; line: number } | null>(
    null,
  );
  // The place that the server told belongs to what the trace was then; what was dragged since is added.
  const [told, setTold] = useState<{ line: number; raised: number; aside: number; middle: number } | null>(null);
  if (places?.horizon !== undefined && (told?.line !== places.horizon || told.middle !== places.middle) && !held)
    setTold({ line: places.horizon, raised: own.raised, aside: own.aside, middle: places.middle ?? width / 2 });
  if (!told) return null;
  const line = told.line - (own.raised - told.raised);
  const middle = Math.min(width - 8, Math.max(8, told.middle + own.aside - told.aside));
  const height = Math.max(12 / scale, 30 * own.scale);
  const set = (label: string, field: string, value: number) =>
    editing.look(
      label,
      [at(["traces", trace.id, field], Math.round(value * 100) / 100)],
      everywhere,
      `${trace.id}.${field}`,
    );
  const drag = (to: Place) => {
    if (!held) return;
    if (held.what === "horizon") {
      editing.look(
        `Horizon of ${trace.name}`,
        [
          at(["traces", trace.id, "raised"], Math.round((held.was.raised + held.from[1] - to[1]) * 10) / 10),
          at(["traces", trace.id, "aside"], Math.round((held.was.aside + to[0] - held.from[0]) * 10) / 10),
        ],
        everywhere,
        `${trace.id}.place`,
      );
    } else
      set(
        `Scale of ${trace.name}`,
        "scale",
        Math.min(20, Math.max(0.05, ((held.line - to[1]) / Math.max(held.line - held.from[1], 1)) * held.was.scale)),
      );
  };
  const drawn = (what: "horizon" | "scale") => ({
    onHold: (from: Place) => setHeld({ what, from, was: own, line }),
    onDrag: (to: Place, done: boolean) => {
      drag(to);
      if (done) setHeld(null);
    },
  });
  return (
    <g data-testid="backdrop">
      <line
        x1={0}
        x2={width}
        y1={line}
        y2={line}
        stroke="var(--color-sanguine)"
        strokeWidth="1.2"
        strokeDasharray="7 4"
        vectorEffect="non-scaling-stroke"
      />
      <line
        x1={middle}
        x2={middle}
        y1={line}
        y2={line - height}
        stroke="var(--color-sanguine)"
        strokeWidth="1"
        vectorEffect="non-scaling-stroke"
      />
      <line
        x1={middle - 4 / scale}
        x2={middle + 4 / scale}
        y1={line - height}
        y2={line - height}
        stroke="var(--color-sanguine)"
        strokeWidth="1.2"
        vectorEffect="non-scaling-stroke"
      />
      <Grip
        at={[middle, line - height]}
        scale={scale}
        place={place}
        cursor="ns-resize"
        label={`Scale of ${trace.name}`}
        value={own.scale}
        testId="backdrop-scale"
        {...drawn("scale")}
        onNudge={([dx, dy], far) =>
          set(
            `Scale of ${trace.name}`,
            "scale",
            Math.min(20, Math.max(0.05, own.scale * (far ? 1.25 : 1.05) ** (dx - dy))),
          )
        }
      />
      <Grip
        at={[middle, line]}
        scale={scale}
        place={place}
        heavy
        label={`Horizon of ${trace.name}`}
        value={own.raised}
        testId="backdrop-horizon"
        {...drawn("horizon")}
        onNudge={([dx, dy], far) =>
          dy
            ? set(`Horizon of ${trace.name}`, "raised", own.raised - dy * (far ? 5 : 1))
            : set(`${trace.name} aside`, "aside", own.aside + dx * (far ? 5 : 1))
        }
      />
    </g>
  );
}
