import type { Hand } from "../../api/client";
import { useScreen } from "../../desk/screen";
import { at, type Editing, useChoices } from "../../desk/study";
import { ColourField, OnOff } from "../../shared/controls";
import { DimensionLine } from "../../shared/DimensionLine";
import { SettingField } from "../../shared/SettingField";
import { HandSample } from "../../shared/Swatch";
import { ForWhom } from "../FinishList";

const SOFT = "#544d46";

/** The hand that draws: by name, or dial by dial, with a stroke of it. */
export function HandSettings({ editing }: { editing: Editing }) {
  const everywhere = useScreen((s) => s.everywhere.Ink);
  const ink = useChoices()?.ink;
  const hand = (editing.study.look.hand ?? {}) as Hand;
  const look = (label: string, path: string[], value: unknown) =>
    editing.look(label, [at(path, value)], everywhere, path.join("."));
  if (!ink) return null;
  const bare = (h: Hand) => JSON.stringify({ ...h, seed: 0 });
  return (
    <>
      <ForWhom editing={editing} bench="Ink" />
      <h2>The hand</h2>
      <p className="quiet mt-1 mb-2 text-xs">How all lines and hatches are drawn.</p>
      <HandSample hand={hand} weight={0.3} width={222} height={86} />
      <div className="mt-2 grid grid-cols-2 gap-1.5" role="radiogroup" aria-label="Hands to begin with">
        {Object.entries(ink.hands).map(([name, preset]) => {
          const on = bare(preset) === bare(hand);
          return (
            <button
              key={name}
              type="button"
              role="radio"
              aria-checked={on}
              className={`plain border-b-2 text-left ${on ? "border-sanguine" : "border-transparent"}`}
              onClick={() => look(name, ["hand"], { ...preset, seed: hand.seed ?? 1 })}
            >
              <HandSample hand={preset} weight={0.3} width={106} height={40} />
              <span className="text-xs font-semibold">{name}</span>
            </button>
          );
        })}
      </div>
      <div className="mt-3">
        {ink.hand
          .filter((s) => s.field !== "colour")
          .map((s) => (
            <SettingField
              key={s.field}
              setting={s}
              value={hand[s.field as keyof Hand]}
              onChange={(v) => look(s.title, ["hand", s.field], v)}
            />
          ))}
        <OnOff
          label="A graphite of its own"
          value={!!hand.colour}
          onChange={(v) => look("Graphite", ["hand", "colour"], v ? SOFT : null)}
        />
        {hand.colour && (
          <ColourField label="Graphite" value={hand.colour} onChange={(v) => look("Graphite", ["hand", "colour"], v)} />
        )}
      </div>
    </>
  );
}

/** What multiplies all weights, and whether they step with the scale. */
export function AllWeights({ editing }: { editing: Editing }) {
  const everywhere = useScreen((s) => s.everywhere.Ink);
  const { weight = 1, steps = [] } = editing.study.look;
  return (
    <>
      <DimensionLine
        label="All weights"
        unit="×"
        min={0.25}
        max={4}
        step={0.01}
        initial={1}
        value={weight}
        onChange={(v) => editing.look(`All weights × ${v.toFixed(2)}`, [at(["weight"], v)], everywhere, "weight")}
      />
      <OnOff
        label="Stepped by scale"
        value={steps.length > 0}
        onChange={(v) =>
          editing.look(`Weights ${v ? "stepped" : "the same"} by scale`, [at(["steps"], v ? STEPS : [])], everywhere)
        }
      />
    </>
  );
}

/** How much of the paper hatches of material and tones over them may cover. */
export function Darkest({ editing }: { editing: Editing }) {
  const everywhere = useScreen((s) => s.everywhere.Ink);
  const darkest = editing.study.look.darkest ?? 0.42;
  return (
    <DimensionLine
      label="Darkest"
      unit="%"
      digits={0}
      min={5}
      max={100}
      step={1}
      initial={42}
      value={darkest * 100}
      onChange={(v) =>
        editing.look(`Darkest ${Math.round(v)} %`, [at(["darkest"], Math.round(v) / 100)], everywhere, "darkest")
      }
    />
  );
}

/** Weights at 1:50 as they are said; each scale smaller the next width of a set of pens, which differ by the root of two. */
const STEPS = [
  { scale: 1, times: 1.4 },
  { scale: 50, times: 1 },
  { scale: 100, times: 0.71 },
  { scale: 200, times: 0.5 },
];
