import { useState } from "react";

import type { Hatch } from "../../api/client";
import { type Editing, useChoices } from "../../desk/study";
import { FillSwatch } from "../../shared/Swatch";
import { BuildUpSample } from "./construction/BuildUpSample";
import { scaleOf, usualFill } from "./fills";
import { usePouring } from "./pouring";
import { TapWidth, useLayingBack } from "./TapWidth";

const BUILT = "build-ups";

/** Fills in a row under the drawing, as they are drawn: one is taken into the hand and poured where the drawing is tapped. */
export function PouringStrip({ editing }: { editing: Editing }) {
  const patterns = useChoices()?.ink.patterns ?? [];
  const kit = useChoices()?.ink.build_ups ?? [];
  const { called, buildUp, over, take, takeBuildUp, lay, set } = usePouring();
  const groups = [...new Set(patterns.map((p) => p.group)), BUILT];
  const [group, setGroup] = useState("lines");
  useLayingBack();
  const scale = scaleOf(editing.study);
  const known = editing.study.look.build_ups ?? [];
  const buildUps = [...known, ...kit.filter((b) => known.every((k) => k.id !== b.id))];
  const rows =
    group === BUILT
      ? []
      : [
          { called: "Flat", fill: usualFill(undefined, false) },
          ...patterns.filter((p) => p.group === group).map((p) => ({ called: p.label, fill: usualFill(p, false) })),
        ];
  return (
    <div className="absolute inset-x-0 bottom-9 z-[5] bg-desk px-6" aria-label="Pour a fill" role="group">
      <div className="flex items-baseline gap-3 text-xs">
        <span className="quiet">
          {called
            ? `${called} is in the hand: tap the drawing; Esc lays it back.`
            : group === BUILT
              ? "Take a build-up, and tap a wall, a roof, a floor."
              : "Take a fill, and tap what it shall fill."}
        </span>
        <span className="ml-auto flex gap-2.5" role="radiogroup" aria-label="Sort of fill">
          {groups.map((g) => (
            <button
              key={g}
              type="button"
              role="radio"
              aria-checked={g === group}
              className={`plain border-b-2 ${g === group ? "border-sanguine font-semibold" : "border-transparent"}`}
              onClick={() => setGroup(g)}
            >
              {g}
            </button>
          ))}
        </span>
      </div>
      <div className="flex items-center gap-2 pt-0.5">
        {group === BUILT && (
          <span className="flex min-w-0 flex-1 gap-2 overflow-x-auto p-0.5">
            {buildUps.map((b) => (
              <button
                key={b.id}
                type="button"
                aria-pressed={buildUp === b.id}
                aria-label={b.name}
                title={b.name}
                className={`plain shrink-0 outline ${buildUp === b.id ? "outline-2 outline-sanguine" : "outline-0"}`}
                onClick={() => (buildUp === b.id ? lay() : takeBuildUp(b.id!, b.name))}
              >
                <BuildUpSample study={editing.study} buildUp={b} width={84} height={26} />
              </button>
            ))}
          </span>
        )}
        {rows.map((row) => {
          const taken = called === row.called;
          return (
            <button
              key={row.called}
              type="button"
              aria-pressed={taken}
              aria-label={row.called}
              title={row.called}
              className={`plain outline ${taken ? "outline-2 outline-sanguine" : "outline-0"}`}
              onClick={() => (taken ? lay() : take(row.fill, row.called))}
            >
              <FillSwatch
                fill={row.fill.kind === "hatch" ? ({ ...row.fill, lies: "paper" } as Hatch) : row.fill}
                scale={scale}
                width={54}
                height={26}
              />
            </button>
          );
        })}
        <span className="ml-auto flex items-center gap-2.5 text-xs">
          <TapWidth />
          {group !== BUILT && (
            <button
              type="button"
              aria-pressed={over}
              className={`plain border-b-2 ${over ? "border-sanguine font-semibold" : "border-transparent"}`}
              onClick={() => set({ over: !over })}
            >
              over what lies there
            </button>
          )}
        </span>
      </div>
    </div>
  );
}
