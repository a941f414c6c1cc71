import { useState } from "react";

import { useScreen } from "../../../desk/screen";
import { at, type Editing } from "../../../desk/study";
import { Choice, ColourField, OnOff } from "../../../shared/controls";
import { DRAWN } from "./FigureSettings";
import { calledBy, groupOf, useFigureStock, useStanding } from "./standing";

const KINDS = [
  { kind: "person", id: "people", label: "People" },
  { kind: "plant", id: "planting", label: "Planting" },
  { kind: "thing", id: "things", label: "Things" },
];

/** How the look on the desk draws figures of each kind. */
function DrawnAs({ editing, kinds }: { editing: Editing; kinds: string[] }) {
  const everywhere = useScreen((s) => s.everywhere.Collage);
  const rules = editing.study.look.entourage ?? [];
  return (
    <>
      <h3 className="label mt-3">How this finish draws them</h3>
      {KINDS.filter((k) => kinds.includes(k.kind)).map(({ kind, id, label }) => {
        const rule = [...rules].reverse().find((r) => (r.kinds ?? []).join() === kind && !r.groups?.length && !r.sorts?.length);
        const options = DRAWN.filter((d) => d.value !== "bare" || kind === "plant").map((d) => (d.value === "" ? { value: "", label: "as usual" } : d));
        const set = (said: Record<string, unknown>, words: string) => editing.look(`${label}: ${words}`, [at(["entourage", rule?.id ?? id], { ...rule, id: rule?.id ?? id, kinds: [kind], ...said })], everywhere);
        return (
          <div key={kind}>
            <Choice label={label} value={rule?.drawn ?? ""} options={options} onChange={(v) => set({ drawn: v || null }, options.find((o) => o.value === v)!.label)} />
            {rule?.hue ? <ColourField label={`${label} in the hue`} value={rule.hue} onChange={(v) => set({ hue: v }, "hue")} /> : null}
            <OnOff label={`${label} in one hue`} value={!!rule?.hue} onChange={(v) => set({ hue: v ? "#8a7f70" : null }, v ? "in one hue" : "in their colours")} />
          </div>
        );
      })}
    </>
  );
}

/** The figures of the study by group; each, or all of a group, is hidden in this view. */
export function FigureList({ editing }: { editing: Editing }) {
  const items = useFigureStock()?.items ?? [];
  const { chosen, choose } = useScreen();
  const take = useStanding((s) => s.take);
  const [open, setOpen] = useState<string[]>([]);
  const view = editing.study.document.desk.view;
  const choice = view.figures ?? {};
  const here = (editing.study.document.figures ?? []).filter((f) => !f.paper || f.paper.view === editing.study.document.desk.view_id);
  const groups = [...new Set(here.map(groupOf))].sort();
  const mine = chosen.Collage?.kind === "figure" ? chosen.Collage.id : null;
  if (!here.length) return null;
  const hidden = new Set(choice.hidden ?? []);
  const hide = (label: string, next: string[]) => editing.view(label, [at(["figures", "hidden"], next)]);
  return (
    <section aria-label="Figures in the study" className="mt-5">
      <h2>Figures</h2>
      <OnOff label="In this view" value={choice.on ?? true} onChange={(v) => editing.view(`Figures ${v ? "on" : "off"}`, [at(["figures", "on"], v)])} />
      <ul className="mt-1">
        {groups.map((group) => {
          const rows = here.filter((f) => groupOf(f) === group);
          const shown = rows.some((f) => !hidden.has(f.id!));
          const unfolded = open.includes(group) || rows.some((f) => f.id === mine);
          return (
            <li key={group}>
              <div className="row">
                <button type="button" className="plain flex-1 text-left" aria-expanded={unfolded} onClick={() => setOpen(open.includes(group) ? open.filter((g) => g !== group) : [...open, group])}>
                  <span className="font-semibold">{group}</span> <span className="quiet">{rows.length}</span>
                </button>
                <OnOff bare label={`${group} in this view`} value={shown} onChange={(v) => hide(`${group} ${v ? "shown" : "hidden"}`, v ? [...hidden].filter((id) => !rows.some((f) => f.id === id)) : [...new Set([...hidden, ...rows.map((f) => f.id!)])])} />
              </div>
              {unfolded && (
                <ul className="ml-3 max-h-56 overflow-y-auto">
                  {rows.slice(0, 200).map((f) => (
                    <li key={f.id} className="row" data-chosen={mine === f.id}>
                      <button type="button" aria-pressed={mine === f.id} className={`plain min-w-0 flex-1 truncate text-left text-xs ${hidden.has(f.id!) ? "quiet" : ""}`} onClick={() => (take(null), choose(mine === f.id ? null : { kind: "figure", id: f.id! }))}>
                        {calledBy(f, items)}
                      </button>
                      <OnOff bare label={`${calledBy(f, items)} in this view`} value={!hidden.has(f.id!)} onChange={(v) => hide(`${calledBy(f, items)} ${v ? "shown" : "hidden"}`.slice(0, 110), v ? [...hidden].filter((id) => id !== f.id) : [...hidden, f.id!])} />
                    </li>
                  ))}
                  {rows.length > 200 && <li className="quiet text-xs">and {rows.length - 200} more</li>}
                </ul>
              )}
            </li>
          );
        })}
      </ul>
      <DrawnAs editing={editing} kinds={[...new Set(here.map((f) => String(f.kind)))]} />
    </section>
  );
}
