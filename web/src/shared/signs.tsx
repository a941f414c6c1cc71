/** Signs of the trade's drawings, drawn for this application. */

/** A section mark: a circle with a letter, and an arrow head for the direction of sight (degrees, 0 = up). */
export function SectionMark({ mark, sight, chosen }: { mark: string; sight?: number; chosen?: boolean }) {
  const ink = chosen ? "var(--color-sanguine)" : "var(--color-graphite)";
  return (
    <svg width="28" height="28" viewBox="-14 -14 28 28" aria-hidden className="shrink-0">
      {sight !== undefined && (
        <path d="M0 -13 L7.6 -5.4 A9.4 9.4 0 0 0 -7.6 -5.4 Z" fill={ink} transform={`rotate(${sight})`} />
      )}
      <circle r="9" fill="var(--color-sheet)" stroke={ink} strokeWidth={chosen ? 1.8 : 1} />
      <text textAnchor="middle" y="4" fontSize="11" fontWeight="600" fill={ink} fontFamily="var(--font-sans)">
        {mark}
      </text>
    </svg>
  );
}

/** The heavier oblique tick of a dimension line, by which it is drawn along. */
export function DimensionTick() {
  return (
    <svg width="12" height="20" aria-hidden>
      <line x1="0.5" x2="11.5" y1="16" y2="4" stroke="var(--color-sanguine)" strokeWidth="3" />
    </svg>
  );
}

/** A level mark: a triangle standing on its line. */
export function LevelMark() {
  return (
    <svg width="20" height="14" viewBox="0 0 20 14" aria-hidden className="shrink-0">
      <path d="M5 3h10l-5 8z" fill="none" stroke="var(--color-graphite)" />
      <path d="M1 11.5h18" stroke="var(--color-graphite)" />
    </svg>
  );
}

/** The chain line of a cutting plane, with its arrows to the side that stays. */
export function CutSign({ limit }: { limit?: boolean }) {
  return (
    <svg width="34" height="16" viewBox="0 0 34 16" aria-hidden className="shrink-0">
      <path
        d="M3 11h28"
        stroke="var(--color-graphite)"
        strokeWidth={limit ? 1 : 1.8}
        strokeDasharray={limit ? "2 3" : "8 3 2 3"}
      />
      {!limit && (
        <path d="M3 11V3M0.5 6L3 2.4 5.5 6M31 11V3M28.5 6L31 2.4 33.5 6" fill="none" stroke="var(--color-graphite)" />
      )}
    </svg>
  );
}

/** A pen's line at its true weight (a paper millimetre is 3.78 pixels on screen), with its dash. */
export function PenLine({
  weight,
  colour,
  dash,
  width = 64,
}: {
  weight: number;
  colour: string;
  dash: number[];
  width?: number;
}) {
  const mm = 96 / 25.4;
  return (
    <svg width={width} height="14" aria-hidden className="shrink-0">
      <line
        x1="0"
        x2={width}
        y1="7"
        y2="7"
        stroke={colour}
        strokeWidth={Math.max(weight * mm, 0.3)}
        strokeDasharray={dash.map((d) => d * mm).join(" ") || undefined}
      />
    </svg>
  );
}

/** Fresh, stale, computing: a word and a mark, never colour alone. */
export function StateMark({ state }: { state: "fresh" | "stale" | "computing" }) {
  if (state === "fresh")
    return <span className="inline-block h-2 w-2 shrink-0 rounded-full bg-moss" role="img" aria-label="fresh" />;
  if (state === "stale")
    return <span className="inline-block h-2 w-2 shrink-0 bg-ochre-mark" role="img" aria-label="stale" />;
  return (
    <svg width="10" height="10" className="shrink-0" role="img" aria-label="computing">
      <circle
        cx="5"
        cy="5"
        r="3.6"
        fill="none"
        stroke="var(--color-ochre-mark)"
        strokeWidth="2"
        strokeDasharray="4 2"
        className="walking"
      />
    </svg>
  );
}
