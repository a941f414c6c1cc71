import { useEffect } from "react";

import { useScreen } from "../../desk/screen";
import type { Editing } from "../../desk/study";
import { usePouring, WIDTHS } from "../ink/pouring";
import { asTrace } from "./stock";

const WORDS = { region: "this", face: "face", part: "part", material: "material", layer: "layer" } as const;

/** While something from stock is in the hand: what a tap pours it into, and the way to lay it over all. */
export function HandStrip({ editing }: { editing: Editing }) {
  const { stock, called, trace, width, lay, set } = usePouring();
  const { everywhere, choose } = useScreen();
  useEffect(() => {
    const keys = (event: KeyboardEvent) => event.key === "Escape" && lay();
    window.addEventListener("keydown", keys);
    return () => {
      window.removeEventListener("keydown", keys);
      lay();
    };
  }, [lay]);
  if (!stock) return null;
  const over = async () => {
    const whole = asTrace(stock, editing.study.look.traces!);
    await editing.act({ do: "pour_trace", label: `Lay ${whole.name}`.slice(0, 120), trace: whole as never, everywhere: everywhere.Collage });
    choose({ kind: "trace", id: whole.id });
    lay();
  };
  return (
    <div className="absolute inset-x-0 bottom-9 z-[5] flex items-baseline gap-4 bg-desk px-6 py-1 text-xs" aria-label="In the hand" role="group">
      <span className="quiet">{trace ? `${called}: tap on to grow it, tap again to take a region out; Esc lays it back.` : `${called} is in the hand: tap the drawing; Esc lays it back.`}</span>
      {!trace && (
        <button type="button" className="plain font-semibold underline decoration-hairline underline-offset-4" onClick={() => void over()}>
          Lay it over all
        </button>
      )}
      <span className="ml-auto flex items-center gap-2.5" role="radiogroup" aria-label="How wide a tap is meant">
        <span className="quiet">into</span>
        {WIDTHS.map((w) => (
          <button key={w} type="button" role="radio" aria-checked={w === width} className={`plain border-b-2 ${w === width ? "border-sanguine font-semibold" : "border-transparent"}`} onClick={() => set({ width: w })}>
            {WORDS[w]}
          </button>
        ))}
      </span>
    </div>
  );
}
