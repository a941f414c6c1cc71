import { useState } from "react";

import type { Trace } from "../api/client";
import { useRegions } from "../desk/regions";
import { useScreen } from "../desk/screen";
import { at, type Editing, useChoices } from "../desk/study";
import { Choice, ColourField, OnOff } from "../shared/controls";
import { DimensionLine } from "../shared/DimensionLine";
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
      <FinishList editing={editing} />
      <RegionList editing={editing} />
    </>
  );
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

/** Opacity, blend mode and tone of the selected trace. */
export function CollageSettings({ editing }: { editing: Editing }) {
  const { chosen, everywhere } = useScreen();
  const choices = useChoices();
  const sets = Object.keys(useParts(editing.study).data?.sets ?? {});
  const trace = editing.study.look.traces!.find((t) => t.id === chosen.Collage?.id);
  if (!trace) return <p className="quiet">Choose a trace on the shelf or in the list.</p>;
  const set = (label: string, field: keyof Trace, value: unknown) =>
    editing.look(label, [at(["traces", trace.id, field], value)], everywhere.Collage, `${trace.id}.${field}`);
  const toned = !["poche", "lines", "tint"].includes(trace.source);
  return (
    <>
      <ForWhom editing={editing} bench="Collage" />
      <h2>{trace.name}</h2>
      <p className="quiet mt-1 mb-2">{choices?.about_sources[trace.source]}</p>
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
      {trace.source !== "paper" && trace.source !== "sky" && (sets.length > 0 || trace.part_set) && (
        <Choice
          label="Confined to"
          value={trace.part_set || "all"}
          options={[{ value: "all", label: "all parts" }, ...[...new Set([...sets, ...(trace.part_set ? [trace.part_set] : [])])].map((n) => ({ value: n, label: n }))]}
          onChange={(v) => set(`${trace.name} confined`, "part_set", v === "all" ? "" : v)}
        />
      )}
      {toned && <ColourField label={trace.source === "sky" ? "Zenith" : "Tone"} value={trace.colour ?? "#fbf8f1"} onChange={(v) => set(`Tone of ${trace.name}`, "colour", v)} />}
      {trace.source === "sky" && <ColourField label="Horizon" value={trace.horizon ?? "#f0e6d2"} onChange={(v) => set("Tone at the horizon", "horizon", v)} />}
      {["sky", "shade", "shadow", "occlusion"].includes(trace.source) && (
        <DimensionLine label="Mottle" min={0} max={1} initial={0.4} value={trace.mottle ?? 0.4} onChange={(v) => set(`Mottle of ${trace.name}`, "mottle", v)} />
      )}
      {trace.source === "paper" && <DimensionLine label="Grain" min={0} max={1} initial={0.4} value={trace.grain ?? 0.4} onChange={(v) => set("Grain of the paper", "grain", v)} />}
    </>
  );
}
