import { useState } from "react";

import { Choice, Leaf } from "../shared/controls";
import { DimensionLine } from "../shared/DimensionLine";
import { CARD, RULER, useScreenSize } from "./screenSize";

/** Measure the screen once: a card, or a ruler, is held against it, and what is drawn is pulled until it is as large. */
export function ScreenMeasure({ open, onClose }: { open: boolean; onClose: () => void }) {
  const { perMm, set } = useScreenSize();
  const [by, setBy] = useState<"card" | "ruler">("card");
  const [now, setNow] = useState(perMm);
  const wide = (by === "card" ? CARD[0] : RULER) * now;
  return (
    <Leaf
      wide
      open={open}
      onClose={onClose}
      title="Measure this screen"
      about="Hold a bank card or a ruler against the screen, and pull the line until both are as large. It is kept for this screen."
    >
      <Choice
        label="Against"
        value={by}
        options={[
          { value: "card", label: "a bank card, 85.6 mm" },
          { value: "ruler", label: `${RULER} mm of a ruler` },
        ]}
        onChange={setBy}
      />
      <div className="my-5 overflow-x-auto">
        {by === "card" ? (
          <svg width={wide} height={CARD[1] * now} role="img" aria-label="The size of a bank card" className="block">
            <rect
              x="0.75"
              y="0.75"
              width={wide - 1.5}
              height={CARD[1] * now - 1.5}
              rx={3.18 * now}
              fill="var(--color-desk)"
              stroke="var(--color-graphite)"
              strokeWidth="1.5"
            />
          </svg>
        ) : (
          <svg width={wide + 2} height="34" role="img" aria-label="A length of a ruler" className="block">
            {Array.from({ length: RULER + 1 }, (_, k) => (
              <line
                key={k}
                x1={1 + k * now}
                x2={1 + k * now}
                y1="0"
                y2={k % 10 ? (k % 5 ? 8 : 13) : 22}
                stroke="var(--color-graphite)"
              />
            ))}
          </svg>
        )}
      </div>
      <DimensionLine
        label="Pixels to a millimetre"
        unit="px"
        digits={2}
        min={2}
        max={12}
        step={0.01}
        initial={96 / 25.4}
        value={now}
        onChange={setNow}
      />
      <div className="mt-5 flex justify-end gap-3">
        <button type="button" className="line-act" onClick={onClose}>
          Leave it
        </button>
        <button
          type="button"
          className="act"
          onClick={() => {
            set(now);
            onClose();
          }}
        >
          It is as large
        </button>
      </div>
    </Leaf>
  );
}
