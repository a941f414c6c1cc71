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
        [5.5, 4, 2.5].map((width) => <path key={width} d="M4 11C8 5 12 11 16 5" fill="none" stroke={ink} strokeOpacity="0.3" strokeWidth={width * 1.4} strokeLinecap="round" />)
      ) : (
        <path d={SHAPES[kind]} fill="none" stroke={ink} strokeWidth="1.3" strokeLinejoin="round" strokeLinecap="round" />
      )}
    </svg>
  );
}

/** What a point catches on: a square on a corner, a triangle on a middle, a cross on a line, two strokes along a direction. */
export function SnapSign({ sign, x, y, size }: { sign: string; x: number; y: number; size: number }) {
  const s = size;
  const d: Record<string, string> = {
    corner: `M${x - s} ${y - s}h${2 * s}v${2 * s}h${-2 * s}z`,
    middle: `M${x} ${y - s}L${x + s} ${y + s}H${x - s}z`,
    edge: `M${x - s} ${y - s}L${x + s} ${y + s}M${x + s} ${y - s}L${x - s} ${y + s}`,
    parallel: `M${x - s} ${y + s}L${x} ${y - s}M${x} ${y + s}L${x + s} ${y - s}`,
    perpendicular: `M${x - s} ${y - s}V${y + s}H${x + s}M${x - s} ${y}H${x}V${y + s}`,
    free: `M${x - s} ${y}H${x + s}M${x} ${y - s}V${y + s}`,
  };
  return (
    <path
      data-testid="snap"
      data-sign={sign}
      d={d[sign] ?? d.free}
      fill="none"
      stroke="var(--color-sanguine)"
      strokeWidth={sign === "free" ? 1 : 1.8}
      vectorEffect="non-scaling-stroke"
    />
  );
}
