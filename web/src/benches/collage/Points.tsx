import { useRef, useState } from "react";

type Place = [number, number];
type Props = {
  src: string;
  about: string;
  aspect: number;
  points: Place[];
  called: string[];
  closed?: boolean;
  onChange: (points: Place[]) => void;
};

/** Points that are drawn over a picture, or moved with the arrow keys; `closed` ones go round a shape. Shares of width and height. */
export function Points({ src, about, aspect, points, called, closed = false, onChange }: Props) {
  const box = useRef<SVGSVGElement>(null);
  const [now, setNow] = useState(points);
  const moved = (k: number, x: number, y: number) =>
    now.map((c, i) => (i === k ? ([Math.min(1, Math.max(0, x)), Math.min(1, Math.max(0, y))] as Place) : c));
  const [w, h] = [100, 100 * aspect];
  return (
    <div
      className="relative mx-auto max-h-[38vh] bg-desk"
      style={{ aspectRatio: `1 / ${aspect}`, maxWidth: `calc(38vh / ${aspect})` }}
    >
      <img src={src} alt={about} className="h-full w-full" draggable={false} />
      <svg ref={box} viewBox={`0 0 ${w} ${h}`} className="absolute inset-0 h-full w-full touch-none overflow-visible">
        <path
          d={`M${now.map(([x, y]) => `${x * w} ${y * h}`).join("L")}${closed ? "Z" : ""}`}
          fill="none"
          stroke="var(--color-sanguine)"
          strokeWidth="1.5"
          vectorEffect="non-scaling-stroke"
        />
        {now.map(([x, y], k) => (
          <circle
            key={called[k]}
            cx={x * w}
            cy={y * h}
            r="2.4"
            fill="var(--color-sheet)"
            stroke="var(--color-sanguine)"
            strokeWidth="2"
            vectorEffect="non-scaling-stroke"
            tabIndex={0}
            role="slider"
            aria-label={called[k]}
            aria-valuenow={Math.round(x * 100)}
            className="cursor-move"
            onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
            onPointerMove={(e) => {
              if (!e.currentTarget.hasPointerCapture(e.pointerId)) return;
              const rect = box.current!.getBoundingClientRect();
              setNow(moved(k, (e.clientX - rect.left) / rect.width, (e.clientY - rect.top) / rect.height));
            }}
            onPointerUp={() => onChange(now)}
            onKeyDown={(e) => {
              const steps: Record<string, Place> = {
                ArrowLeft: [-0.01, 0],
                ArrowRight: [0.01, 0],
                ArrowUp: [0, -0.01],
                ArrowDown: [0, 0.01],
              };
              const step = steps[e.key];
              if (!step) return;
              e.preventDefault();
              const next = moved(k, x + step[0], y + step[1]);
              setNow(next);
              onChange(next);
            }}
          />
        ))}
      </svg>
    </div>
  );
}
