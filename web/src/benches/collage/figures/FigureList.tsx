import { useState } from "react";

import type { Figure } from "../../../api/client";
import { useScreen } from "../../../desk/screen";
import { at, type Editing } from "../../../desk/study";
import { Choice, ColourField, OnOff } from "../../../shared/controls";
import { waysOf } from "./FigureSettings";
import { calledBy, groupOf, useFigureStock, useStanding } from "./standing";

const KINDS = [
  { kind: "person", id: "people", label: "People" },
  { kind: "plant", id: "planting", label: "Planting" },
  { kind: "thing", id: "things", label: "Things" },
  { kind: "cut-out", id: "cut-outs", label: "Cut-outs" },
  { kind: "body", id: "bodies", label: "Own bodies" },
];

/** How the look on the desk draws figures of each kind. */
function DrawnAs({ editing, kinds }: { editing: Editing; kinds: string[] }) {
  const everywhere = useScreen((s) => s.everywhere.Collage);
  const rules = editing.study.look.entourage ?? [];
  return (
    <>
      <h3 className="label mt-3">How this finish draws them</h3>
      {KINDS.filter((k) => kinds.includes(k.kind)).map(({ kind, id, label }) => {
        const rule = [...rules]
          .reverse()
          .find((r) => (r.kinds ?? []).join() === kind && !r.groups?.length && !r.sorts?.length);
        const options = waysOf(kind).map((d) => (d.value === "" ? { value: "", label: "as usual" } : d));
        const set = (said: Record<string, unknown>, words: string) =>
          editing.look(
            `${label}: ${words}`,
            [at(["entourage", rule?.id ?? id], { ...rule, id: rule?.id ?? id, kinds: [kind], ...said })],
            everywhere,
          );
        return (
          <div key={kind}>
            <Choice
              label={label}
              value={rule?.drawn ?? ""}
              options={options}
              onChange={(v) => set({ drawn: v || null }, options.find((o) => o.value === v)!.label)}
            />
            {rule?.hue ? (
              <ColourField label={`${label} in the hue`} value={rule.hue} onChange={(v) => set({ hue: v }, "hue")} />
            ) : null}
            <OnOff
              label={`${label} in one hue`}
              value={!!rule?.hue}
              onChange={(v) => set({ hue: v ? "#8a7f70" : null }, v ? "in one hue" : "in their colours")}
            />
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
  const here = (editing.study.document.figures ?? []).filter(
    (f) => !f.paper || f.paper.view === editing.study.document.desk.view_id,
  );
  const groups = [...new Set(here.map(groupOf))].sort();
  const mine = chosen.Collage?.kind === "figure" ? chosen.Collage.id : null;
  if (!here.length) return null;
  const hidden = new Set(choice.hidden ?? []);
  const hide = (label: string, next: string[]) => editing.view(label, [at(["figures", "hidden"], next)]);
  return (
    <section aria-label="Figures in the study" className="mt-5">
      <h2>Figures</h2>
      <OnOff
        label="In this view"
        value={choice.on ?? true}
        onChange={(v) => editing.view(`Figures ${v ? "on" : "off"}`, [at(["figures", "on"], v)])}
      />
      <ul className="mt-1">
        {groups.map((group) => {
          const rows = here.filter((f) => groupOf(f) === group);
          const shown = rows.some((f) => !hidden.has(f.id!));
          const unfolded = open.includes(group) || rows.some((f) => f.id === mine);
          return (
            <li key={group}>
              <div className="row">
                <button
                  type="button"
                  className="plain flex-1 text-left"
                  aria-expanded={unfolded}
                  onClick={() => setOpen(open.includes(group) ? open.filter((g) => g !== group) : [...open, group])}
                >
                  <span className="font-semibold">{group}</span> <span className="quiet">{rows.length}</span>
                </button>
                <OnOff
                  bare
                  label={`${group} in this view`}
                  value={shown}
                  onChange={(v) =>
                    hide(
                      `${group} ${v ? "shown" : "hidden"}`,
                      v
                        ? [...hidden].filter((id) => !rows.some((f) => f.id === id))
                        : [...new Set([...hidden, ...rows.map((f) => f.id!)])],
                    )
                  }
                />
              </div>
              {unfolded && <AllOf editing={editing} group={group} rows={rows} />}
              {unfolded && (
                <ul className="ml-3 max-h-56 overflow-y-auto">
                  {rows.slice(0, 200).map((f) => (
                    <li key={f.id} className="row" data-chosen={mine === f.id}>
                      <button
                        type="button"
                        aria-pressed={mine === f.id}
                        className={`plain min-w-0 flex-1 truncate text-left text-xs ${hidden.has(f.id!) ? "quiet" : ""}`}
                        onClick={() => (take(null), choose(mine === f.id ? null : { kind: "figure", id: f.id! }))}
                      >
                        {calledBy(f, items)}
                      </button>
                      <OnOff
                        bare
                        label={`${calledBy(f, items)} in this view`}
                        value={!hidden.has(f.id!)}
                        onChange={(v) =>
                          hide(
                            `${calledBy(f, items)} ${v ? "shown" : "hidden"}`.slice(0, 110),
                            v ? [...hidden].filter((id) => id !== f.id) : [...hidden, f.id!],
                          )
                        }
                      />
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

const SEASONS = ["bare", "spring", "summer", "autumn"];

/** What is said to all figures of a group at once; one step of undo. */
function AllOf({ editing, group, rows }: { editing: Editing; group: string; rows: Figure[] }) {
  const say = (words: string, field: string, value: unknown) =>
    void editing.act({
      do: "figures",
      label: `${group}: ${words}`.slice(0, 120),
      changes: rows.map((f) => at(["figures", f.id!, field], value)),
    });
  const shared = (field: string, initial: unknown) => {
    const said = new Set(rows.map((f) => (f as Figure & Record<string, unknown>)[field] ?? initial));
    return said.size === 1 ? String([...said][0]) : "";
  };
  const several = { value: "", label: "several" };
  const seasons = SEASONS.map((s) => ({ value: s, label: s }));
  const season = shared("season", "summer");
  const drawn = rows.every((f) => (f.drawn ?? null) === (rows[0]!.drawn ?? null));
  return (
    <div className="mb-1 ml-3 border-l border-hairline pl-2">
      {rows.every((f) => f.kind === "plant") && (
        <Choice
          label="Season"
          value={season}
          options={season ? seasons : [several, ...seasons]}
          onChange={(v) => v && say(v, "season", v)}
        />
      )}
      <Choice
        label="Drawn"
        value={drawn ? (rows[0]!.drawn ?? "") : "several"}
        options={[
          ...(drawn ? [] : [{ value: "several", label: "in several ways" }]),
          ...waysOf(rows.every((f) => f.kind === rows[0]!.kind) ? rows[0]!.kind : "thing"),
        ]}
        onChange={(v) => v !== "several" && say(waysOf("plant").find((w) => w.value === v)!.label, "drawn", v || null)}
      />
      <OnOff
        label="Casting shadows"
        value={rows.every((f) => f.casts ?? true)}
        onChange={(v) => say(v ? "cast shadows" : "cast no shadow", "casts", v)}
      />
      <button
        type="button"
        className="plain text-xs underline decoration-hairline underline-offset-4"
        onClick={() =>
          void editing.act({
            do: "figures",
            label: `Take out ${group}: ${rows.length}`.slice(0, 120),
            changes: rows.map((f) => ({ path: ["figures", f.id!], do: "drop" as const })),
          })
        }
      >
        take all out
      </button>
    </div>
  );
}
