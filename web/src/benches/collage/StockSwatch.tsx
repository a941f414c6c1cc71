import type { StockItem } from "../../api/client";
import { useScreen } from "../../desk/screen";
import type { Editing } from "../../desk/study";
import { usePouring } from "../ink/pouring";
import { asTrace, sampleOf } from "./stock";

/** What lies in the stock as it looks at the drawing's own scale; pressed it is in the hand, or laid over all. */
export function StockSwatch({ item, editing, version }: { item: StockItem; editing: Editing; version?: string }) {
  const { stock, takeStock, lay } = usePouring();
  const { everywhere, choose } = useScreen();
  const held = stock?.id === item.id;
  const press = async () => {
    if (held) return lay();
    if (item.pours) return takeStock(item);
    const trace = asTrace(item, editing.study.look.traces!);
    await editing.act({
      do: "pour_trace",
      label: `Lay ${trace.name}`.slice(0, 120),
      trace: trace as never,
      everywhere: everywhere.Collage,
    });
    choose({ kind: "trace", id: trace.id });
  };
  return (
    <button
      type="button"
      aria-pressed={held}
      aria-label={`${item.label} from stock`}
      title={item.pours ? `${item.label}: take it, and tap the drawing` : `${item.label}: lay it over all`}
      className="plain block w-full"
      onClick={() => void press()}
    >
      <img
        src={sampleOf(item, editing.study, version)}
        alt=""
        loading="lazy"
        draggable={false}
        className={`block aspect-[1.6] w-full bg-sheet object-cover outline ${held ? "outline-2 outline-sanguine" : "outline-1 outline-[#d5c9b5]"}`}
      />
      <span className={`block truncate pt-0.5 text-[11px] ${held ? "font-semibold text-sanguine" : ""}`}>
        {item.label}
      </span>
    </button>
  );
}
