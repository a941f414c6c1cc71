import { useVirtualizer } from "@tanstack/react-virtual";
import { useMemo, useRef, useState } from "react";

import type { Parts } from "../../api/client";
import type { Editing } from "../../desk/study";
import { Choice, NumberField } from "../../shared/controls";
import { howOf } from "../../shared/look";
import { useChoice } from "./choice";
import { useHealth, useTroubled } from "./Health";
import { filtered, NO_FILTER, treeRows } from "./parts";

/** The parts that pass the filter. */
export function useFound(editing: Editing, parts: Parts): number[] {
  const filter = useChoice((s) => s.filter);
  const troubled = useTroubled(editing);
  return useMemo(() => filtered(parts, filter, troubled), [parts, filter, troubled]);
}

/** The part a range of rows ends at: with Shift all rows between come along. */
export function rangeTo(order: readonly number[], anchor: number | null, part: number): number[] {
  const from = anchor === null ? -1 : order.indexOf(anchor);
  const to = order.indexOf(part);
  if (from < 0 || to < 0) return [part];
  return order.slice(Math.min(from, to), Math.max(from, to) + 1);
}

/** Layers with their parts; what is chosen here is chosen in the model. */
export function PartTree({ editing, parts }: { editing: Editing; parts: Parts }) {
  const { chosen, anchor, choose, filter, set, fly } = useChoice();
  const [open, setOpen] = useState<ReadonlySet<string>>(new Set());
  const found = useFound(editing, parts);
  const narrowed = filter !== NO_FILTER && JSON.stringify(filter) !== JSON.stringify(NO_FILTER);
  const rows = useMemo(() => treeRows(parts, found, open), [parts, found, open]);
  const dropped = parts.dropped;
  const hidden = useMemo(() => new Set(parts.hidden), [parts.hidden]);
  const room = useRef<HTMLDivElement>(null);
  const list = useVirtualizer({
    count: rows.length,
    getScrollElement: () => room.current,
    estimateSize: () => 26,
    overscan: 12,
  });
  const order = useMemo(() => rows.flatMap((r) => (r.kind === "part" ? [r.part] : [])), [rows]);
  const toggle = (path: string) =>
    setOpen((s) => new Set(s.has(path) ? [...s].filter((p) => p !== path) : [...s, path]));
  return (
    <>
      <Filters editing={editing} parts={parts} />
      <p className="flex items-baseline justify-between py-1 text-xs">
        <span className="quiet" aria-live="polite">
          {found.length.toLocaleString("en")} {narrowed ? "found" : "parts"}
        </span>
        {narrowed && found.length > 0 && (
          <button
            type="button"
            className="plain font-semibold underline decoration-hairline underline-offset-4"
            onClick={() => choose(found, "only")}
          >
            Choose these
          </button>
        )}
      </p>
      {found.length === 0 && <p className="quiet py-2">No part is like that. Widen the filter.</p>}
      <div
        ref={room}
        className="-mx-1 min-h-0 flex-1 overflow-x-hidden overflow-y-auto px-1"
        tabIndex={0}
        aria-label="Layers and parts"
        role="group"
      >
        <div className="relative" style={{ height: list.getTotalSize() }}>
          {list.getVirtualItems().map((item) => {
            const row = rows[item.index]!;
            const style = { transform: `translateY(${item.start}px)`, paddingLeft: row.depth * 12 };
            if (row.kind === "layer") {
              const taken = row.parts.filter((n) => chosen.has(n)).length;
              return (
                <div
                  key={`l${row.path}`}
                  className="absolute inset-x-0 flex h-[26px] items-center gap-1 border-b border-hairline"
                  style={style}
                >
                  <button
                    type="button"
                    className="plain w-4 shrink-0"
                    aria-label={`${row.open ? "Close" : "Open"} layer ${row.path}`}
                    aria-expanded={row.open}
                    onClick={() => toggle(row.path)}
                  >
                    <svg width="10" height="10" aria-hidden>
                      <path d={row.open ? "M1 3l4 4 4-4" : "M3 1l4 4-4 4"} fill="none" stroke="currentColor" />
                    </svg>
                  </button>
                  <button
                    type="button"
                    className={`plain min-w-0 flex-1 truncate ${taken === row.parts.length ? "font-semibold text-sanguine" : taken ? "text-sanguine" : ""}`}
                    aria-pressed={taken === row.parts.length}
                    onClick={(e) => choose(row.parts, howOf(e))}
                    onDoubleClick={() => toggle(row.path)}
                  >
                    {row.name}
                  </button>
                  <span className="quiet text-xs">{row.parts.length.toLocaleString("en")}</span>
                </div>
              );
            }
            const is = chosen.has(row.part);
            return (
              <button
                key={row.part}
                type="button"
                className={`plain absolute inset-x-0 block h-[26px] truncate ${is ? "font-semibold text-sanguine" : hidden.has(row.part) ? "text-soft line-through" : ""}`}
                style={{ ...style, paddingLeft: row.depth * 12 + 8 }}
                aria-pressed={is}
                title={parts.name[row.part]}
                onClick={(e) =>
                  e.shiftKey ? choose(rangeTo(order, anchor, row.part), "add", row.part) : choose([row.part], howOf(e))
                }
                onDoubleClick={() =>
                  fly(
                    [0, 1, 2].map((k) => parts.middle[3 * row.part + k]!) as [number, number, number],
                    Math.max(...[0, 1, 2].map((k) => parts.size[3 * row.part + k]!)),
                  )
                }
              >
                {parts.name[row.part]}
              </button>
            );
          })}
        </div>
      </div>
      {parts.hidden.length > 0 && (
        <p className="flex shrink-0 items-baseline justify-between border-t border-hairline pt-1.5 text-xs">
          <span className="text-ochre">{parts.hidden.length.toLocaleString("en")} hidden here</span>
          <button
            type="button"
            className="plain font-semibold underline decoration-hairline underline-offset-4"
            onClick={() => void editing.model({ do: "show", parts: [] })}
          >
            Show all
          </button>
        </p>
      )}
      {dropped.length > 0 && (
        <p className="flex shrink-0 items-baseline justify-between border-t border-hairline pt-1.5 text-xs">
          <span className="quiet">{dropped.length.toLocaleString("en")} dropped</span>
          <button
            type="button"
            className="plain font-semibold underline decoration-hairline underline-offset-4"
            onClick={() => void editing.model({ do: "restore", parts: dropped })}
          >
            Bring back
          </button>
        </p>
      )}
      <span className="sr-only" aria-live="polite">{`${chosen.size} chosen`}</span>
      {narrowed && (
        <button type="button" className="plain quiet shrink-0 pt-1 text-xs" onClick={() => set({ filter: NO_FILTER })}>
          Clear the filter
        </button>
      )}
    </>
  );
}

/** Words, and what else narrows the list: role, material, size, problem. */
function Filters({ editing, parts }: { editing: Editing; parts: Parts }) {
  const { filter, set } = useChoice();
  const [more, setMore] = useState(false);
  const health = useHealth(editing, more);
  const change = (some: Partial<typeof filter>) => set({ filter: { ...filter, ...some } });
  return (
    <div className="shrink-0">
      <div className="flex items-baseline gap-2">
        <input
          className="field min-w-0 flex-1"
          type="search"
          aria-label="Search parts by name, layer, material or role"
          placeholder="Name, layer, material, role"
          value={filter.words}
          onChange={(e) => change({ words: e.target.value })}
        />
        <button type="button" className="plain quiet text-xs" aria-expanded={more} onClick={() => setMore(!more)}>
          {more ? "less" : "more"}
        </button>
      </div>
      {more && (
        <div className="pt-1">
          <Choice
            label="Role"
            value={filter.role || "any"}
            options={[{ value: "any", label: "any" }, ...parts.roles.map((r) => ({ value: r, label: r }))]}
            onChange={(r) => change({ role: r === "any" ? "" : r })}
          />
          <Choice
            label="Material"
            value={String(filter.material)}
            options={[
              { value: "-1", label: "any" },
              ...parts.materials.map((m, i) => ({ value: String(i), label: m.name })),
            ]}
            onChange={(m) => change({ material: Number(m) })}
          />
          <NumberField
            label="Length from"
            unit="m"
            value={filter.least}
            min={0}
            onChange={(least) => change({ least })}
          />
          <NumberField label="Length to" unit="m" value={filter.most} min={0} onChange={(most) => change({ most })} />
          <Choice
            label="Problem"
            value={filter.problem || "any"}
            options={[
              { value: "any", label: "any" },
              ...(health?.findings ?? []).map((f) => ({ value: f.kind, label: f.title })),
            ]}
            onChange={(p) => {
              change({ problem: p === "any" ? "" : p });
              if (p !== "any") set({ finding: p, place: null });
            }}
          />
        </div>
      )}
    </div>
  );
}
