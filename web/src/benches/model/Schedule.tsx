import { useVirtualizer } from "@tanstack/react-virtual";
import { useMemo, useRef, useState } from "react";

import type { Parts } from "../../api/client";
import type { Editing } from "../../desk/study";
import { howOf } from "../../shared/look";
import { useChoice } from "./choice";
import { type Column, roleOf, sizeOf, sorted } from "./parts";
import { rangeTo, useFound } from "./PartTree";

const COLUMNS: { id: Column; title: string; wide: string }[] = [
  { id: "name", title: "Part", wide: "minmax(0,2.2fr)" },
  { id: "layer", title: "Layer", wide: "minmax(0,2fr)" },
  { id: "material", title: "Material", wide: "minmax(0,1.4fr)" },
  { id: "role", title: "Role", wide: "78px" },
  { id: "size", title: "Size, m", wide: "124px" },
  { id: "triangles", title: "Triangles", wide: "70px" },
];
const GRID = { gridTemplateColumns: COLUMNS.map((c) => c.wide).join(" ") };

/** The list of parts: a row for each that the filter lets through, in the order of any column. */
export function Schedule({ editing, parts }: { editing: Editing; parts: Parts }) {
  const { chosen, anchor, choose } = useChoice();
  const [column, setColumn] = useState<Column>("layer");
  const [down, setDown] = useState(false);
  const found = useFound(editing, parts);
  const order = useMemo(() => sorted(parts, found, column, down), [parts, found, column, down]);
  const room = useRef<HTMLDivElement>(null);
  const list = useVirtualizer({
    count: order.length,
    getScrollElement: () => room.current,
    estimateSize: () => 24,
    overscan: 10,
  });
  const keys = (e: React.KeyboardEvent) => {
    const by = e.key === "ArrowDown" ? 1 : e.key === "ArrowUp" ? -1 : 0;
    if (!by) return;
    e.preventDefault();
    e.stopPropagation();
    const at = Math.min(order.length - 1, Math.max(0, (anchor === null ? -1 : order.indexOf(anchor)) + by));
    choose([order[at]!], e.shiftKey ? "add" : "only", order[at]);
    list.scrollToIndex(at);
  };
  return (
    <section
      aria-label="List of parts"
      className="flex h-[230px] shrink-0 flex-col border-t border-hairline bg-page text-[12.5px]"
    >
      <div className="grid shrink-0 gap-x-3 border-b border-soft px-4 py-1" style={GRID}>
        {COLUMNS.map((c) => (
          <button
            key={c.id}
            type="button"
            className={`plain label truncate ${column === c.id ? "text-graphite" : ""} ${c.id === "triangles" || c.id === "size" ? "text-right" : ""}`}
            aria-label={`Order by ${c.title}${column === c.id ? (down ? ", falling" : ", rising") : ""}`}
            onClick={() => (column === c.id ? setDown(!down) : (setColumn(c.id), setDown(false)))}
          >
            {c.title} {column === c.id ? (down ? "↓" : "↑") : ""}
          </button>
        ))}
      </div>
      <div
        ref={room}
        className="min-h-0 flex-1 overflow-y-auto"
        tabIndex={0}
        role="group"
        aria-label="Rows; arrows move the choice"
        onKeyDown={keys}
      >
        <div className="relative" style={{ height: list.getTotalSize() }}>
          {list.getVirtualItems().map((item) => {
            const n = order[item.index]!;
            const is = chosen.has(n);
            const material = parts.materials[parts.material[n]!]!;
            return (
              <button
                key={n}
                type="button"
                tabIndex={-1}
                aria-pressed={is}
                className={`plain absolute inset-x-0 grid h-[24px] items-center gap-x-3 border-b border-hairline px-4 ${is ? "font-semibold text-sanguine" : ""}`}
                style={{ ...GRID, transform: `translateY(${item.start}px)` }}
                onClick={(e) => (e.shiftKey ? choose(rangeTo(order, anchor, n), "add", n) : choose([n], howOf(e)))}
              >
                <span className="truncate">{parts.name[n]}</span>
                <span className="truncate">{parts.layers[parts.layer[n]!] || "–"}</span>
                <span className="flex min-w-0 items-center gap-1.5">
                  <i
                    className="inline-block h-2.5 w-3.5 shrink-0 border border-soft"
                    style={{ background: material.shown }}
                    aria-hidden
                  />
                  <span className="truncate">{material.name}</span>
                </span>
                <span>{roleOf(parts, n)}</span>
                <span className="text-right tabular-nums">
                  {sizeOf(parts, n)
                    .map((v) => (v >= 100 ? v.toFixed(0) : v.toFixed(2)))
                    .join(" · ")}
                </span>
                <span className="text-right tabular-nums">{parts.triangles[n]!.toLocaleString("en")}</span>
              </button>
            );
          })}
        </div>
      </div>
    </section>
  );
}
