import { useRef } from "react";

import { useScreen } from "./screen";

/** The drawing without a trace, left of a line that is drawn across it by its handle or with the arrow keys. */
export function CompareLine({ src, across, width }: { src: string; across: number; width: number }) {
  const box = useRef<HTMLDivElement>(null);
  const { compare, set } = useScreen();
  const move = (share: number) => compare && set({ compare: { ...compare, across: Math.min(1, Math.max(0, share)) } });
  return (
    <div ref={box} className="absolute inset-0">
      <img
        src={src}
        alt="The drawing without the trace"
        className="absolute inset-0 h-full w-full select-none"
        draggable={false}
        style={{ clipPath: `inset(0 ${(1 - across) * 100}% 0 0)` }}
      />
      <span
        className="absolute top-2 bg-sheet/85 px-1.5 text-xs"
        style={{ right: `calc(${(1 - across) * 100}% + 8px)` }}
      >
        without
      </span>
      <span className="absolute top-2 bg-sheet/85 px-1.5 text-xs" style={{ left: `calc(${across * 100}% + 8px)` }}>
        with
      </span>
      <button
        type="button"
        role="slider"
        aria-label="Where the drawing is divided"
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={Math.round(across * 100)}
        className="plain absolute inset-y-0 w-5 -translate-x-1/2 cursor-ew-resize touch-none"
        style={{ left: `${across * 100}%` }}
        onPointerDown={(e) => {
          e.stopPropagation();
          e.currentTarget.setPointerCapture(e.pointerId);
        }}
        onPointerMove={(e) => {
          e.stopPropagation();
          if (e.currentTarget.hasPointerCapture(e.pointerId))
            move((e.clientX - box.current!.getBoundingClientRect().left) / width);
        }}
        onPointerUp={(e) => e.stopPropagation()}
        onKeyDown={(e) => {
          if (e.key !== "ArrowLeft" && e.key !== "ArrowRight") return;
          e.stopPropagation();
          move(across + (e.key === "ArrowLeft" ? -0.02 : 0.02));
        }}
      >
        <svg className="h-full w-full" aria-hidden preserveAspectRatio="none">
          <line
            x1="50%"
            x2="50%"
            y1="0"
            y2="100%"
            stroke="var(--color-sanguine)"
            strokeWidth="1.5"
            strokeDasharray="14 4 3 4"
          />
        </svg>
      </button>
    </div>
  );
}
