import { Slider } from "radix-ui";
import { useEffect, useId, useState } from "react";

import { DimensionTick } from "./signs";

type Props = {
  label: string;
  value: number;
  min: number;
  max: number;
  step?: number;
  unit?: string;
  digits?: number;
  /** What the reset puts back; without it there is nothing to put back to. */
  initial?: number;
  onChange: (value: number, settled: boolean) => void;
};

const clamp = (value: number, low: number, high: number) => Math.min(high, Math.max(low, value));

/** A slider drawn as the trade draws a measure: a hairline between oblique ticks, the value a heavier one. */
export function DimensionLine({
  label,
  value,
  min,
  max,
  step = 0.01,
  unit = "",
  digits = 2,
  initial,
  onChange,
}: Props) {
  const id = useId();
  const [shown, setShown] = useState(value);
  const [typed, setTyped] = useState<string | null>(null);
  useEffect(() => setShown(value), [value]);
  const share = max > min ? clamp((shown - min) / (max - min), 0, 1) : 0;

  const take = (text: string) => {
    setTyped(null);
    const figures = text.replace(",", ".").replace(/[^\d.+-]/g, "");
    const number = Number(figures);
    if (figures === "" || !Number.isFinite(number)) return;
    const next = clamp(number, min, max);
    setShown(next);
    if (next !== value) onChange(next, true);
  };

  return (
    <div className="py-2">
      <div className="flex items-baseline justify-between">
        <label htmlFor={`${id}-number`} id={id}>
          {label}
        </label>
        <span className="flex items-baseline gap-1">
          {initial !== undefined && Math.abs(initial - shown) > step / 2 && (
            <button
              type="button"
              className="plain quiet mr-1 text-xs"
              aria-label={`Put ${label} back to ${initial} ${unit}`}
              title={`Back to ${initial} ${unit}`}
              onClick={() => onChange(initial, true)}
            >
              ↺
            </button>
          )}
          <input
            id={`${id}-number`}
            className="field w-16 border-transparent text-right"
            inputMode="decimal"
            value={typed ?? shown.toFixed(digits)}
            onChange={(e) => setTyped(e.target.value)}
            onFocus={(e) => e.target.select()}
            onBlur={(e) => typed !== null && take(e.target.value)}
            onKeyDown={(e) => e.key === "Enter" && take(e.currentTarget.value)}
          />
          {unit && <span className="quiet">{unit}</span>}
        </span>
      </div>
      <Slider.Root
        className="relative mt-0.5 flex h-5 touch-none items-center"
        value={[clamp(shown, min, max)]}
        min={min}
        max={max}
        step={step}
        onValueChange={([next]) => {
          if (next === undefined) return;
          setShown(next);
          onChange(next, false);
        }}
        onValueCommit={([next]) => next !== undefined && onChange(next, true)}
      >
        <Slider.Track className="relative h-full w-full">
          <svg className="absolute inset-0 h-full w-full overflow-visible" aria-hidden>
            <line x1="0" x2="100%" y1="10" y2="10" stroke="var(--color-soft)" strokeWidth="1" />
            <line x1="0" x2={`${share * 100}%`} y1="10" y2="10" stroke="var(--color-graphite)" strokeWidth="1.4" />
            <line x1="-4" x2="4" y1="14" y2="6" stroke="var(--color-graphite)" />
            <svg x="100%" overflow="visible">
              <line x1="-4" x2="4" y1="14" y2="6" stroke="var(--color-graphite)" />
            </svg>
          </svg>
        </Slider.Track>
        <Slider.Thumb aria-labelledby={id} className="block h-5 w-3 outline-offset-1">
          <DimensionTick />
        </Slider.Thumb>
      </Slider.Root>
    </div>
  );
}
