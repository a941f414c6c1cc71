import { useRef } from "react";

type Place = [number, number];
type Props = {
  at: Place;
  /** Pixels of the screen for a unit of the drawing. */
  scale: number;
  place: (event: { clientX: number; clientY: number }) => Place;
  label: string;
  value: number;
  testId: string;
  cursor?: string;
  /** Whether it moves a whole thing, and is seen as more than a point. */
  heavy?: boolean;
  dashed?: boolean;
  onHold?: (at: Place) => void;
  /** Where it is drawn to, as it goes, and where it is left. */
  onDrag: (to: Place, done: boolean) => void;
  /** An arrow key, as a step to the right and down; far with the shift key. */
  onNudge: (step: Place, far: boolean) => void;
};

const STEPS: Record<string, Place> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

/** A point of a drawing that is dragged, or moved with the arrow keys; it stands in an SVG in the drawing's own units. */
export function Grip({
  at,
  scale,
  place,
  label,
  value,
  testId,
  cursor = "move",
  heavy = false,
  dashed = false,
  onHold,
  onDrag,
  onNudge,
}: Props) {
  const held = useRef(false);
  return (
    <circle
      cx={at[0]}
      cy={at[1]}
      r={(heavy ? 6.5 : 5) / scale}
      fill={heavy ? "rgb(178 71 42 / 0.3)" : "var(--color-sheet)"}
      stroke="var(--color-sanguine)"
      strokeWidth="1.8"
      strokeDasharray={dashed ? "2.5 2" : undefined}
      vectorEffect="non-scaling-stroke"
      className="pointer-events-auto"
      style={{ cursor }}
      tabIndex={0}
      role="slider"
      aria-label={label}
      aria-valuenow={Math.round(value * 100) / 100}
      data-testid={testId}
      onPointerDown={(e) => {
        e.stopPropagation();
        e.currentTarget.setPointerCapture(e.pointerId);
        held.current = true;
        onHold?.(place(e));
      }}
      onPointerMove={(e) => {
        if (!held.current) return;
        e.stopPropagation();
        onDrag(place(e), false);
      }}
      onPointerUp={(e) => {
        if (!held.current) return;
        e.stopPropagation();
        held.current = false;
        onDrag(place(e), true);
      }}
      onKeyDown={(e) => {
        const step = STEPS[e.key];
        if (!step) return;
        e.preventDefault();
        e.stopPropagation();
        onNudge(step, e.shiftKey);
      }}
    />
  );
}
