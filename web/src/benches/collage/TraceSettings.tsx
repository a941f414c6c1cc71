import { Fragment } from "react";

import type { Desk, Setting, StockItem, Trace } from "../../api/client";
import { useScreen } from "../../desk/screen";
import { at, type Editing, useChoices, useRemarks } from "../../desk/study";
import { Choice, OnOff, TextField } from "../../shared/controls";
import { DimensionLine } from "../../shared/DimensionLine";
import { SettingField } from "../../shared/SettingField";
import { ForWhom } from "../FinishList";
import { usePouring } from "../ink/pouring";
import { useParts } from "../model/parts";
import { Confined } from "./Confined";
import { HistogramLine } from "./HistogramLine";
import { PictureOfTrace } from "./OfPicture";
import { usePictures } from "./Pictures";
import { Windows } from "./Windows";

/** Whether a setting means something as the others are. */
const asked = (setting: Setting, trace: Record<string, unknown>) =>
  Object.entries(setting.when ?? {}).every(([field, values]) => values.includes(trace[field])) &&
  !Object.entries(setting.unless ?? {}).some(([field, values]) => values.includes(trace[field]));

/** How the selected trace is laid down, and the settings of its kind, as the kind itself says them. */
export function TraceSettings({ editing, desk }: { editing: Editing; desk: Desk | undefined }) {
  const { chosen, choose, everywhere, alone, compare, set: put } = useScreen();
  const { takeStock } = usePouring();
  const choices = useChoices();
  const traces = editing.study.look.traces!;
  const trace = traces.find((t) => t.id === chosen.Collage?.id);
  const sets = Object.keys(useParts(editing.study).data?.sets ?? {});
  const pictures = usePictures() ?? [];
  const remarks = useRemarks(editing.study, trace?.id);
  const form = choices?.traces.find((k) => k.kind === trace?.kind);
  if (!trace) return <p className="quiet">Choose a trace on the shelf, or take something from the stock.</p>;
  const own = trace as Trace & Record<string, unknown>;
  const set = (label: string, field: string, value: unknown) =>
    editing.look(label, [at(["traces", trace.id, field], value)], everywhere.Collage, `${trace.id}.${field}`);
  const place = traces.indexOf(trace);
  const remove = () => {
    editing.look(`Remove ${trace.name}`, [{ path: ["traces", trace.id], do: "drop" }], everywhere.Collage);
    const next = traces[place + 1] ?? traces[place - 1];
    choose(next ? { kind: "trace", id: next.id } : null);
  };
  const move = (by: number) => {
    const order = traces.map((t) => t.id);
    const [taken] = order.splice(place, 1);
    order.splice(place + by, 0, taken!);
    editing.look(`Move ${trace.name}`, [{ path: ["traces"], do: "order", value: order }], everywhere.Collage);
  };
  const takeUp = () => {
    const item: StockItem = {
      id: `trace-${trace.id}`,
      group: "sheets",
      sort: "",
      label: trace.name,
      trace: trace as never,
      pours: true,
    };
    takeStock(item, trace.id);
  };
  const toggle = (on: boolean, what: "alone" | "compare") =>
    put({
      alone: "",
      compare: null,
      [what]: on
        ? what === "alone"
          ? trace.id
          : { without: trace.id, across: compare?.across ?? 0.5 }
        : what === "alone"
          ? ""
          : null,
    });
  const fields = (settings: Setting[]) =>
    settings
      .filter((s) => asked(s, own))
      .map((setting) => (
        <SettingField
          key={`${trace.id} ${setting.field}`}
          setting={setting}
          sets={sets}
          value={own[setting.field]}
          onChange={(v) => set(`${trace.name}: ${setting.title.toLowerCase()}`, setting.field, v)}
        />
      ));
  return (
    <>
      <ForWhom editing={editing} bench="Collage" />
      <h2>{trace.name}</h2>
      <p className="quiet mt-1 mb-2">{form?.about}</p>
      {remarks.map((remark) => (
        <p key={remark} role="status" className="mb-2 flex gap-2 text-xs">
          <span className="mt-1 inline-block h-2 w-2 shrink-0 bg-ochre-mark" aria-hidden />
          {remark}
        </p>
      ))}
      <OnOff
        label="On the drawing"
        value={trace.on ?? true}
        onChange={(v) => set(`${trace.name} ${v ? "on" : "off"}`, "on", v)}
      />
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
      {!("acts_on" in own) && (
        <Choice
          label="Blend"
          value={trace.blend ?? "normal"}
          options={(choices?.blend_modes ?? [trace.blend ?? "normal"]).map((m) => ({
            value: m,
            label: m.replaceAll("-", " ").replace("color", "colour"),
          }))}
          onChange={(v) => set(`${trace.name}: ${v}`, "blend", v)}
        />
      )}
      {form?.confines && (
        <Confined
          editing={editing}
          trace={trace}
          onChange={(where) => set(where ? `${trace.name} confined` : `${trace.name} on all`, "where", where)}
        />
      )}
      {form?.confines && (
        <Windows
          editing={editing}
          desk={desk}
          trace={trace}
          onConfine={(where) => set(`${trace.name} confined`, "where", where)}
        />
      )}
      {trace.where && form && fields(form.edges)}
      {form?.by_tones && <HistogramLine editing={editing} />}
      {form && <Fragment key={trace.kind}>{fields(form.settings)}</Fragment>}
      <PictureOfTrace editing={editing} trace={trace} pictures={pictures} everywhere={everywhere.Collage} />
      <TextField
        label="Bundle"
        value={trace.bundle ?? ""}
        placeholder="none"
        onChange={(v) => set(v ? `${trace.name} into “${v}”` : `${trace.name} by itself`, "bundle", v.slice(0, 60))}
      />
      <div
        className="mt-4 flex flex-wrap gap-x-3 gap-y-2 text-xs"
        role="group"
        aria-label={`What to do with ${trace.name}`}
      >
        {form?.confines && (
          <button type="button" className="line-act" onClick={takeUp}>
            Take it up and pour on
          </button>
        )}
        <button
          type="button"
          className="line-act"
          aria-pressed={alone === trace.id}
          onClick={() => toggle(alone !== trace.id, "alone")}
        >
          {alone === trace.id ? "Seen alone" : "See it alone"}
        </button>
        <button
          type="button"
          className="line-act"
          aria-pressed={compare?.without === trace.id}
          onClick={() => toggle(compare?.without !== trace.id, "compare")}
        >
          {compare?.without === trace.id ? "Comparing" : "Compare without it"}
        </button>
        <button
          type="button"
          className="line-act"
          aria-label={`Lay ${trace.name} higher`}
          disabled={place === traces.length - 1}
          onClick={() => move(1)}
        >
          Higher
        </button>
        <button
          type="button"
          className="line-act"
          aria-label={`Lay ${trace.name} lower`}
          disabled={place === 0}
          onClick={() => move(-1)}
        >
          Lower
        </button>
        <button type="button" className="line-act" onClick={remove}>
          Remove this trace
        </button>
      </div>
    </>
  );
}
