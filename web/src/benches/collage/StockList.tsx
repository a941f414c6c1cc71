import { useState } from "react";

import type { StockItem } from "../../api/client";
import { useScreen } from "../../desk/screen";
import { type Editing, useChoices } from "../../desk/study";
import { usePouring } from "../ink/pouring";
import { asTrace, sampleOf } from "./stock";

const GROUPS = ["washes", "textures", "tones", "adjustments", "sheets"] as const;
const SAYS: Record<(typeof GROUPS)[number], string> = {
  washes: "Take one, and tap what it shall be laid on.",
  textures: "At their true size, lying on the faces you tap.",
  tones: "Light, shadow and colour of the model.",
  adjustments: "They change what lies beneath them.",
  sheets: "Passes, papers and lines, laid over all.",
};

/** What can be laid on, as it looks at this drawing's own scale. What is taken is in the hand until it is laid back. */
export function StockList({ editing }: { editing: Editing }) {
  const stock = (useChoices()?.stock ?? []) as StockItem[];
  const [group, setGroup] = useState<(typeof GROUPS)[number]>("washes");
  const rows = stock.filter((item) => item.group === group);
  const sorts = [...new Set(rows.map((r) => r.sort))];
  return (
    <section aria-label="Stock">
      <h2>Stock</h2>
      <div className="mt-1 flex flex-wrap gap-x-2.5 gap-y-0.5 text-xs" role="radiogroup" aria-label="Sort of stock">
        {GROUPS.map((g) => (
          <button key={g} type="button" role="radio" aria-checked={g === group} className={`plain border-b-2 ${g === group ? "border-sanguine font-semibold" : "border-transparent"}`} onClick={() => setGroup(g)}>
            {g}
          </button>
        ))}
      </div>
      <p className="quiet my-1.5 text-xs">{SAYS[group]}</p>
      {sorts.map((sort) => (
        <div key={sort}>
          {sort && <h3 className="label mt-2 mb-1">{sort}</h3>}
          <ul className="grid grid-cols-2 gap-x-2 gap-y-1.5">
            {rows.filter((r) => r.sort === sort).map((item) => (
              <li key={item.id}>
                <Swatch item={item} editing={editing} />
              </li>
            ))}
          </ul>
        </div>
      ))}
    </section>
  );
}

function Swatch({ item, editing }: { item: StockItem; editing: Editing }) {
  const { stock, takeStock, lay } = usePouring();
  const { everywhere, choose } = useScreen();
  const held = stock?.id === item.id;
  const press = async () => {
    if (held) return lay();
    if (item.pours) return takeStock(item);
    const trace = asTrace(item, editing.study.look.traces!);
    await editing.act({ do: "pour_trace", label: `Lay ${trace.name}`.slice(0, 120), trace: trace as never, everywhere: everywhere.Collage });
    choose({ kind: "trace", id: trace.id });
  };
  return (
    <button type="button" aria-pressed={held} aria-label={`${item.label} from stock`} title={item.pours ? `${item.label}: take it, and tap the drawing` : `${item.label}: lay it over all`} className="plain block w-full" onClick={() => void press()}>
      <img
        src={sampleOf(item, editing.study)}
        alt=""
        loading="lazy"
        draggable={false}
        className={`block aspect-[1.6] w-full bg-sheet object-cover outline ${held ? "outline-2 outline-sanguine" : "outline-1 outline-[#d5c9b5]"}`}
      />
      <span className={`block truncate pt-0.5 text-[11px] ${held ? "font-semibold text-sanguine" : ""}`}>{item.label}</span>
    </button>
  );
}
