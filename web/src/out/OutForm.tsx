import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { create } from "zustand";
import { persist } from "zustand/middleware";

import { answered, http, type OutFormat, type OutSettings } from "../api/client";
import { Choice, NumberField, OnOff } from "../shared/controls";

/** What is said of a file that is asked for. */
export interface Asked {
  format: string;
  out: OutSettings;
}

const LAYERS: { value: string; label: string }[] = [
  { value: "traces", label: "by trace" },
  { value: "traces,ranks", label: "by trace and rank" },
  { value: "ranks", label: "by rank" },
  { value: "traces,model", label: "by trace and layer of the model" },
  { value: "model", label: "by layer of the model" },
  { value: "traces,model,ranks", label: "by all three" },
  { value: "", label: "none, tones as one picture" },
];

/** The formats that drawings are written in. */
export function useFormats(): OutFormat[] {
  return (
    useQuery({
      queryKey: ["formats"],
      staleTime: Infinity,
      queryFn: () => answered<OutFormat[]>(http.GET("/api/formats")),
    }).data ?? []
  );
}

type Said = { format?: string; out?: Partial<OutSettings> };

/** What was said last of the files of a place; kept through reloads. */
const useSaid = create<{ places: Record<string, Said> }>()(
  persist(() => ({ places: {} as Record<string, Said> }), { name: "asked" }),
);

/** What is asked for at a place, as it was the last time; which traces have layers only while the page stands. */
export function useAsked(
  place: string,
  resolution: number,
): [Asked, (changes: Partial<OutSettings>, format?: string) => void] {
  const said = useSaid((s) => s.places[place]);
  const [only, setOnly] = useState<string[]>([]);
  const usual: Omit<OutSettings, "only"> = {
    resolution,
    paper: true,
    layers: ["traces"],
    archival: false,
    text: "fonts",
    quality: 92,
  };
  const change = ({ only: named, ...changes }: Partial<OutSettings>, format?: string) => {
    if (named) setOnly(named);
    useSaid.setState(({ places }) => {
      const was = places[place];
      return { places: { ...places, [place]: { format: format ?? was?.format, out: { ...was?.out, ...changes } } } };
    });
  };
  return [{ format: said?.format ?? "pdf", out: { ...usual, ...said?.out, only } }, change];
}

/** The format and all that it has to say. `traces` can have layers of their own. */
export function OutForm({
  asked,
  change,
  traces = [],
  paper = true,
}: {
  asked: Asked;
  change: (changes: Partial<OutSettings>, format?: string) => void;
  traces?: string[];
  paper?: boolean;
}) {
  const formats = useFormats();
  const format = formats.find((f) => f.ending === asked.format);
  const { out } = asked;
  const has = (option: string) => format?.options.includes(option) ?? false;
  const only = out.only ?? [];
  const byTraces = (out.layers ?? []).includes("traces");
  return (
    <>
      <Choice
        label="As"
        value={asked.format}
        options={formats.map((f) => ({ value: f.ending, label: f.label }))}
        onChange={(v) => change({}, v)}
      />
      {format && <p className="quiet py-1 text-xs">{format.about}</p>}
      <NumberField
        label={format?.is_pixels ? "Resolution" : "Resolution of tones"}
        unit="dpi"
        digits={0}
        min={30}
        max={1200}
        value={out.resolution ?? 150}
        onChange={(v) => change({ resolution: v })}
      />
      {paper && has("paper") && (
        <OnOff label="With the paper" value={out.paper ?? true} onChange={(v) => change({ paper: v })} />
      )}
      {has("layers") && (
        <Choice
          label="Groups in the file"
          value={(out.layers ?? []).join(",")}
          options={LAYERS}
          onChange={(v) => change({ layers: (v ? v.split(",") : []) as OutSettings["layers"] })}
        />
      )}
      {has("layers") && byTraces && traces.length > 1 && (
        <details className="py-1">
          <summary className="quiet cursor-pointer text-xs">
            {only.length ? `${only.length} of ${traces.length} traces have a layer` : "Every trace has a layer"}
          </summary>
          {traces.map((name) => (
            <OnOff
              key={name}
              label={name}
              value={!only.length || only.includes(name)}
              onChange={(v) => {
                const kept = (only.length ? only : traces).filter((n) => n !== name);
                const next = v ? [...kept, name] : kept;
                change({ only: next.length === traces.length ? [] : next });
              }}
            />
          ))}
        </details>
      )}
      {has("text") && (
        <Choice
          label="Letters"
          value={out.text ?? "fonts"}
          options={[
            { value: "fonts", label: "as fonts" },
            { value: "outlines", label: "as outlines" },
          ]}
          onChange={(v) => change({ text: v })}
        />
      )}
      {has("archival") && (
        <OnOff label="To be kept (PDF/A-2b)" value={out.archival ?? false} onChange={(v) => change({ archival: v })} />
      )}
      {has("quality") && (
        <NumberField
          label={format?.is_pixels ? "Quality" : "Quality of tones"}
          unit="%"
          digits={0}
          min={30}
          max={100}
          value={out.quality ?? 92}
          onChange={(v) => change({ quality: Math.round(v) })}
        />
      )}
      {has("quality") && asked.format !== "jpg" && (
        <p className="quiet py-1 text-xs">At 100 every pixel is kept as it is; the file is larger.</p>
      )}
    </>
  );
}
