import type { Kind } from "./marking";

const SHAPES: Record<Kind, string> = {
  line: "M3 13L17 3",
  polyline: "M2 13L7 4 12 11 18 3",
  arrow: "M3 13L16 4M16 4L10.6 5.2M16 4L13.6 9",
  rectangle: "M3 4h14v9H3z",
  polygon: "M10 2L18 8 14.5 14H5.5L2 8z",
  circle: "M10 2.5a5.6 5.6 0 1 0 .01 0z",
  arc: "M3 13A9 9 0 0 1 17 8",
  stroke: "M2 10C6 2 8 14 11 8S15 4 18 8",
  brush: "",
  ground: "M1 6h6l3-2h9M3 9l-2 3M8 8l-2 3M13 8l-2 3M18 8l-2 3",
};

/** What a kind of mark looks like, drawn as it is drawn. */
export function MarkSign({ kind, chosen }: { kind: Kind; chosen?: boolean }) {
  const ink = chosen ? "var(--color-sanguine)" : "var(--color-graphite)";
  return (
    <svg width="20" height="16" viewBox="0 0 20 16" aria-hidden className="shrink-0">
      {kind === "brush" ? (
        [5.5, 4, 2.5].map((width) => (
          <path
            key={width}
            d="M4 11C8 5 12 11 16 5"
            fill="none"
            stroke={ink}
            strokeOpacity="0.3"
            strokeWidth={width * 1.4}
            strokeLinecap="round"
          />
        ))
      ) : (
        <path
          d={SHAPES[kind]}
          fill="none"
          stroke={ink}
          strokeWidth="1.3"
          strokeLinejoin="round"
          strokeLinecap="round"
        />
      )}
    </svg>
  );
}

/**
 * What a point catches on, by the habits of the drawing board: on a corner two strokes that run on past each other, on a middle the oblique
 * tick of a dimension, on a line a heavy dash, along a direction a line that is carried on, across one a quarter arc.
 */
export function SnapSign({ sign, x, y, size }: { sign: string; x: number; y: number; size: number }) {
  const s = size;
  const d: Record<string, string> = {
    corner: `M${x - 0.5 * s} ${y}H${x + 1.5 * s}M${x} ${y + 0.5 * s}V${y - 1.5 * s}`,
    middle: `M${x - s} ${y + s}L${x + s} ${y - s}`,
    edge: `M${x - 1.2 * s} ${y}H${x + 1.2 * s}`,
    parallel: `M${x - 1.6 * s} ${y}h${0.8 * s}m${0.4 * s} 0h${0.8 * s}m${0.4 * s} 0h${0.8 * s}`,
    perpendicular: `M${x + 1.3 * s} ${y}A${1.3 * s} ${1.3 * s} 0 0 0 ${x} ${y - 1.3 * s}`,
    free: `M${x - 0.6 * s} ${y}H${x + 0.6 * s}M${x} ${y - 0.6 * s}V${y + 0.6 * s}`,
  };
  return (
    <path
      data-testid="snap"
      data-sign={sign}
      d={d[sign] ?? d.free}
      fill="none"
      stroke="var(--color-sanguine)"
      strokeWidth={sign === "free" ? 1 : sign === "edge" ? 4 : 1.8}
      vectorEffect="non-scaling-stroke"
    />
  );
}
