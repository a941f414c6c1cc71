import { useScreen } from "../../desk/screen";
import type { Editing } from "../../desk/study";
import { usePouring } from "../ink/pouring";
import { TapWidth, useLayingBack } from "../ink/TapWidth";
import { asTrace } from "./stock";

/** While something from stock is in the hand: what a tap pours it into, and the way to lay it over all. */
export function HandStrip({ editing }: { editing: Editing }) {
  const { stock, called, trace, lay } = usePouring();
  const { everywhere, choose } = useScreen();
  useLayingBack();
  if (!stock) return null;
  const over = async () => {
    const whole = asTrace(stock, editing.study.look.traces!);
    await editing.act({
      do: "pour_trace",
      label: `Lay ${whole.name}`.slice(0, 120),
      trace: whole as never,
      everywhere: everywhere.Collage,
    });
    choose({ kind: "trace", id: whole.id });
    lay();
  };
  return (
    <div
      className="absolute inset-x-0 bottom-9 z-[5] flex items-baseline gap-4 bg-desk px-6 py-1 text-xs"
      aria-label="In the hand"
      role="group"
    >
      <span className="quiet">
        {trace
          ? `${called}: tap on to grow it, tap again to take a region out; Esc lays it back.`
          : `${called} is in the hand: tap the drawing; Esc lays it back.`}
      </span>
      {!trace && (
        <button
          type="button"
          className="plain font-semibold underline decoration-hairline underline-offset-4"
          onClick={() => void over()}
        >
          Lay it over all
        </button>
      )}
      <span className="ml-auto">
        <TapWidth />
      </span>
    </div>
  );
}
