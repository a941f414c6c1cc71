import { useState } from "react";

import type { Query, Trace } from "../api/client";
import { useRegions } from "../desk/regions";
import { useScreen } from "../desk/screen";
import { at, type Editing, useChoices } from "../desk/study";
import { Choice, OnOff } from "../shared/controls";
import { DimensionLine } from "../shared/DimensionLine";
import { SettingField } from "../shared/SettingField";
import { FinishList, ForWhom } from "./FinishList";
import { useParts } from "./model/parts";

/** The traces from the top sheet down, each on or off, movable by keyboard. */
export function CollageList({ editing }: { editing: Editing }) {
  const { chosen, choose, everywhere } = useScreen();
  const traces = editing.study.look.traces!;
  const move = (index: number, by: number) => {
    const to = index + by;
    if (to < 0 || to >= traces.length) return;
    const next = traces.map((t) => t.id);
    const [taken] = next.splice(index, 1);
    next.splice(to, 0, taken!);
    editing.look(`Move ${traces[index]!.name}`, [{ path: ["traces"], do: "order", value: next }], everywhere.Collage);
  };
  return (
    <>
      <h2>Traces</h2>
      <p className="quiet mb-1 text-xs">From the top sheet down to the paper.</p>
      <ol>
        {[...traces].reverse().map((trace, back) => {
          const index = traces.length - 1 - back;
          const picked = chosen.Collage?.kind === "trace" && chosen.Collage.id === trace.id;
          return (
            <li key={trace.id} className="row" data-chosen={picked}>
              <button type="button" className="plain min-w-0 flex-1 truncate py-1" aria-pressed={picked} onClick={() => choose({ kind: "trace", id: trace.id })}>
                {trace.name}
              </button>
              {picked && (
                <span className="flex gap-1">
                  <button type="button" className="plain px-1" aria-label={`Lay ${trace.name} higher`} disabled={index === traces.length - 1} onClick={() => move(index, 1)}>
                    ↑
                  </button>
                  <button type="button" className="plain px-1" aria-label={`Lay ${trace.name} lower`} disabled={index === 0} onClick={() => move(index, -1)}>
                    ↓
                  </button>
                </span>
              )}
              <OnOff
                bare
                label={`${trace.name} on or off`}
                value={trace.on ?? true}
                onChange={(v) => editing.look(`${trace.name} ${v ? "on" : "off"}`, [at(["traces", trace.id, "on"], v)], everywhere.Collage)}
              />
            </li>
          );
        })}
      </ol>
      <AddTrace editing={editing} />
      <FinishList editing={editing} />
      <RegionList editing={editing} />
    </>
  );
}

/** Lays another trace of any kind on top. */
function AddTrace({ editing }: { editing: Editing }) {
  const { choose, everywhere } = useScreen();
  const kinds = useChoices()?.traces ?? [];
  const traces = editing.study.look.traces!;
  const add = (kind: string) => {
    const form = kinds.find((k) => k.kind === kind);
    if (!form) return;
    const free = (words: string, taken: string[]) => [words, ...taken.map((_, k) => `${words}-${k + 2}`)].find((w) => !taken.includes(w))!;
    const id = free(kind, traces.map((t) => t.id));
    const name = free(form.label, traces.map((t) => t.name)).replace(/-(\d+)$/, " $1");
    editing.look(`Add ${name}`, [at(["traces", id], { kind, id, name, ...Object.fromEntries(form.settings.map((s) => [s.field, s.initial])) })], everywhere.Collage);
    choose({ kind: "trace", id });
  };
  return <Choice label="Lay on top" value="none" options={[{ value: "none", label: "a trace …" }, ...kinds.map((k) => ({ value: k.kind, label: k.label }))]} onChange={add} />;
}

/** The kept regions. Each is a query, so it is there in every view; choosing one shows it on the drawing. */
function RegionList({ editing }: { editing: Editing }) {
  const { kept, choose } = useRegions();
  const [naming, setNaming] = useState<string | null>(null);
  const regions = editing.study.document.regions ?? [];
  const act = (action: "rename" | "remove", region_id: string, name = "") =>
    void editing.act(action === "rename" ? { do: "rename_region", label: "Rename region", region_id, name } : { do: "remove_region", label: "Remove region", region_id });
  return (
    <>
      <h2 className="mt-6">Regions</h2>
      {regions.length === 0 && <p className="quiet mt-1 text-xs">Click in the drawing to select a region; more clicks mean more of it. Keep one under a name and it is found again in every view.</p>}
      <ul>
        {regions.map((region) => {
          const picked = kept === region.id;
          return (
            <li key={region.id} className="row" data-chosen={picked}>
              {naming === region.id ? (
                <input
                  autoFocus
                  aria-label={`New name for ${region.name}`}
                  className="field min-w-0 flex-1"
                  defaultValue={region.name}
                  maxLength={100}
                  onBlur={() => setNaming(null)}
                  onKeyDown={(e) => {
                    if (e.key === "Escape") setNaming(null);
                    if (e.key !== "Enter") return;
                    const words = e.currentTarget.value.trim();
                    if (words && words !== region.name) act("rename", region.id, words);
                    setNaming(null);
                  }}
                />
              ) : (
                <button type="button" className="plain min-w-0 flex-1 truncate py-1" aria-pressed={picked} onClick={() => choose(picked ? null : region.id)}>
                  {region.name}
                </button>
              )}
              {picked && naming !== region.id && (
                <span className="flex gap-2 text-xs">
                  <button type="button" className="plain underline decoration-hairline underline-offset-4" aria-label={`Rename ${region.name}`} onClick={() => setNaming(region.id)}>
                    Rename
                  </button>
                  <button
                    type="button"
                    className="plain underline decoration-hairline underline-offset-4"
                    aria-label={`Remove ${region.name}`}
                    onClick={() => {
                      choose(null);
                      act("remove", region.id);
                    }}
                  >
                    Remove
                  </button>
                </span>
              )}
            </li>
          );
        })}
      </ul>
    </>
  );
}

/** What a trace is confined to: all, a kept region by its name, a part set, or what is selected in the drawing. */
function Confined({ editing, trace, onChange }: { editing: Editing; trace: Trace; onChange: (where: Query | null) => void }) {
  const selection = useRegions((s) => s.selection);
  const sets = Object.keys(useParts(editing.study).data?.sets ?? {});
  const regions = editing.study.document.regions ?? [];
  const where = trace.where;
  const words = editing.study.sentences.traces?.[trace.id];
  const only = where?.kind === "match" ? where : null;
  const bare = only && Object.entries(only).every(([k, v]) => k === "kind" || k === "sets" || v == null || (Array.isArray(v) && v.length === 0));
  const now = !where ? "all" : where.kind === "kept" ? `region:${where.name}` : bare && only?.sets?.length === 1 ? `set:${only.sets[0]}` : "said";
  const options = [
    { value: "all", label: "all of the drawing" },
    ...regions.map((r) => ({ value: `region:${r.name}`, label: `region ${r.name}` })),
    ...sets.map((n) => ({ value: `set:${n}`, label: `set ${n}` })),
  ];
  if (!options.some((o) => o.value === now)) options.push({ value: now, label: words ?? "what it says" });
  const choose = (value: string) => {
    if (value === "said") return;
    if (value === "all") return onChange(null);
    const name = value.slice(value.indexOf(":") + 1);
    onChange(value.startsWith("region:") ? { kind: "kept", name } : ({ kind: "match", sets: [name] } as Query));
  };
  return (
    <>
      <Choice label="Confined to" value={now} options={options} onChange={choose} />
      {selection?.found.query && (
        <button type="button" className="plain text-xs font-semibold underline decoration-hairline underline-offset-4" onClick={() => onChange(selection.found.query as Query)}>
          Confine to what is selected: {selection.found.called}
        </button>
      )}
    </>
  );
}

/** How the selected trace is laid down, and the settings of its kind, as the kind itself says them. */
export function CollageSettings({ editing }: { editing: Editing }) {
  const { chosen, choose, everywhere } = useScreen();
  const choices = useChoices();
  const traces = editing.study.look.traces!;
  const trace = traces.find((t) => t.id === chosen.Collage?.id);
  const form = choices?.traces.find((k) => k.kind === trace?.kind);
  if (!trace) return <p className="quiet">Choose a trace on the shelf or in the list.</p>;
  const set = (label: string, field: string, value: unknown) => editing.look(label, [at(["traces", trace.id, field], value)], everywhere.Collage, `${trace.id}.${field}`);
  const remove = () => {
    const place = traces.indexOf(trace);
    editing.look(`Remove ${trace.name}`, [{ path: ["traces", trace.id], do: "drop" }], everywhere.Collage);
    const next = traces[place + 1] ?? traces[place - 1];
    choose(next ? { kind: "trace", id: next.id } : null);
  };
  return (
    <>
      <ForWhom editing={editing} bench="Collage" />
      <h2>{trace.name}</h2>
      <p className="quiet mt-1 mb-2">{form?.about}</p>
      <OnOff label="On the drawing" value={trace.on ?? true} onChange={(v) => set(`${trace.name} ${v ? "on" : "off"}`, "on", v)} />
      <DimensionLine
        label="Opacity"
        unit="%"
        digits={0}
        min={0}
        max={100}
        step={1}
        value={(trace.opacity ?? 1) * 100}
        onChange={(v) => set(`${trace.name} at ${Math.round(v)} %`, "opacity", Math.round(v) / 100)}
      />
      <Choice
        label="Blend"
        value={trace.blend ?? "normal"}
        options={(choices?.blend_modes ?? [trace.blend ?? "normal"]).map((m) => ({ value: m, label: m }))}
        onChange={(v) => set(`${trace.name}: ${v}`, "blend", v)}
      />
      {form?.confines && <Confined editing={editing} trace={trace} onChange={(where) => set(where ? `${trace.name} confined` : `${trace.name} on all`, "where", where)} />}
      {form?.settings.map((setting) => (
        <SettingField
          key={`${trace.id} ${setting.field}`}
          setting={setting}
          value={(trace as Record<string, unknown>)[setting.field]}
          onChange={(v) => set(`${trace.name}: ${setting.title.toLowerCase()}`, setting.field, v)}
        />
      ))}
      <button type="button" className="line-act mt-6 text-xs" onClick={remove}>
        Remove this trace
      </button>
    </>
  );
}
