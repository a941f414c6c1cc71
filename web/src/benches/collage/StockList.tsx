import { useState } from "react";

import type { Desk, StockItem } from "../../api/client";
import { type Editing, useChoices } from "../../desk/study";
import { FigureStock } from "./figures/FigureStock";
import { Pictures } from "./Pictures";
import { StockSwatch } from "./StockSwatch";

const GROUPS = [
  "washes",
  "textures",
  "figures",
  "backdrops",
  "pictures",
  "tones",
  "adjustments",
  "gestures",
  "sheets",
] as const;
const SAYS: Record<(typeof GROUPS)[number], string> = {
  washes: "Take one, and tap what it shall be laid on.",
  textures: "At their true size, lying on the faces you tap.",
  figures: "Take one, and click what it stands on: it is right in every view.",
  backdrops: "Laid behind everything, on the horizon.",
  pictures: "Your own, at their real width.",
  tones: "Light, shadow and colour of the model.",
  adjustments: "They change what lies beneath them.",
  gestures: "Small and sparse, as a desk leaves them.",
  sheets: "Passes, papers and lines, laid over all.",
};

/** What can be laid on, as it looks at this drawing's own scale. What is taken is in the hand until it is laid back. */
export function StockList({ editing, desk }: { editing: Editing; desk: Desk | undefined }) {
  const stock = (useChoices()?.stock ?? []) as StockItem[];
  const [group, setGroup] = useState<(typeof GROUPS)[number]>("washes");
  const rows = stock.filter((item) => item.group === group);
  const sorts = [...new Set(rows.map((r) => r.sort))];
  const [dropped, setDropped] = useState<File[]>([]);
  const [over, setOver] = useState(false);
  return (
    <section
      aria-label="Stock"
      className={over ? "outline outline-1 outline-offset-4 outline-sanguine outline-dashed" : ""}
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        setGroup("pictures");
        setDropped([...e.dataTransfer.files]);
      }}
    >
      <h2>Stock</h2>
      <div className="mt-1 flex flex-wrap gap-x-2.5 gap-y-0.5 text-xs" role="radiogroup" aria-label="Sort of stock">
        {GROUPS.map((g) => (
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
      </div>
      <p className="quiet my-1.5 text-xs">{SAYS[group]}</p>
      {group === "pictures" && (
        <Pictures editing={editing} desk={desk} dropped={dropped} onTaken={() => setDropped([])} />
      )}
      {group === "figures" && <FigureStock editing={editing} />}
      {sorts.map((sort) => (
        <div key={sort}>
          {sort && <h3 className="label mt-2 mb-1">{sort}</h3>}
          <ul className="grid grid-cols-2 gap-x-2 gap-y-1.5">
            {rows
              .filter((r) => r.sort === sort)
              .map((item) => (
                <li key={item.id}>
                  <StockSwatch item={item} editing={editing} />
                </li>
              ))}
          </ul>
        </div>
      ))}
    </section>
  );
}
