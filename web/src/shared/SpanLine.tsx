import { Slider } from "radix-ui";

import { DimensionTick } from "./signs";

type Props = {
  label: string;
  unit: string;
  min: number;
  max: number;
  value: [number, number];
  onChange: (value: [number, number]) => void;
};

/** A stretch between two ticks of a dimension line, its ends written and typed. */
export function SpanLine({ label, unit, min, max, value, onChange }: Props) {
  const share = (v: number) => (max > min ? Math.min(1, Math.max(0, (v - min) / (max - min))) * 100 : 0);
  const typed = (which: 0 | 1) => (
    <input
      key={`${which}${value[which].toFixed(2)}`}
      aria-label={`${label}, ${which ? "to" : "from"}`}
      className="field w-14 border-transparent text-right text-xs"
      inputMode="decimal"
      defaultValue={value[which].toFixed(2)}
      onFocus={(e) => e.target.select()}
      onBlur={(e) => {
        const number = Number(e.target.value.replace(",", "."));
        if (!Number.isFinite(number) || e.target.value.trim() === "") return;
        onChange(which ? [value[0], Math.max(number, value[0])] : [Math.min(number, value[1]), value[1]]);
      }}
      onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
    />
  );
  return (
    <div className="py-1">
      <div className="flex items-baseline justify-between text-xs">
        <span>{label}</span>
        <span className="flex items-baseline gap-1">
          {typed(0)} – {typed(1)} <span className="quiet">{unit}</span>
        </span>
      </div>
      <Slider.Root
        className="relative flex h-5 touch-none items-center"
        value={value}
        min={min}
        max={max}
        step={(max - min) / 500 || 0.01}
        onValueChange={([a, b]) => onChange([a ?? min, b ?? max])}
      >
        <Slider.Track className="relative h-full w-full">
          <svg className="absolute inset-0 h-full w-full overflow-visible" aria-hidden>
            <line x1="0" x2="100%" y1="10" y2="10" stroke="var(--color-hairline)" />
            <line
              x1={`${share(value[0])}%`}
              x2={`${share(value[1])}%`}
              y1="10"
              y2="10"
              stroke="var(--color-graphite)"
              strokeWidth="1.4"
            />
          </svg>
        </Slider.Track>
        {(["from", "to"] as const).map((end) => (
          <Slider.Thumb key={end} aria-label={`${label}, ${end}`} className="block h-5 w-3 outline-offset-1">
            <DimensionTick />
          </Slider.Thumb>
        ))}
      </Slider.Root>
    </div>
  );
}
