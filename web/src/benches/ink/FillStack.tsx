import { useState } from "react";

import type { Fill, Hatch, Pattern } from "../../api/client";
import { type Editing, useChoices } from "../../desk/study";
import { Choice, ColourField } from "../../shared/controls";
import { DimensionLine } from "../../shared/DimensionLine";
import { SettingField } from "../../shared/SettingField";
import { FillSwatch } from "../../shared/Swatch";
import { calledFill, paperOf, scaleOf, usualFill } from "./fills";
import { OwnTile } from "./OwnTile";

/** The fills of a rule, the uppermost first; the one that is chosen with its settings. */
export function FillStack({
  editing,
  fills,
  cut,
  onChange,
}: {
  editing: Editing;
  fills: Fill[];
  cut: boolean;
  onChange: (fills: Fill[], label: string) => void;
}) {
  const patterns = useChoices()?.ink.patterns ?? [];
  const [picked, setPicked] = useState(fills.length - 1);
  const chosen = Math.min(Math.max(picked, 0), fills.length - 1);
  const scale = scaleOf(editing.study);
  const move = (from: number, by: number) => {
    const next = [...fills];
    const [taken] = next.splice(from, 1);
    next.splice(from + by, 0, taken!);
    setPicked(from + by);
    onChange(next, "Order of fills");
  };
  const add = (fill: Fill) => {
    setPicked(fills.length);
    onChange([...fills, fill], `Add ${calledFill(fill, patterns)}`);
  };
  const fill = fills[chosen];
  return (
    <>
      {fills.length === 0 && <p className="quiet text-xs">{cut ? "Left void." : "Nothing is laid here."}</p>}
      <ol aria-label="Fills, the uppermost first">
        {fills
          .map((row, index) => (
            <li key={index} className="row" data-chosen={index === chosen}>
              <button
                type="button"
                className="plain flex min-w-0 flex-1 items-center gap-2 text-left"
                aria-pressed={index === chosen}
                onClick={() => setPicked(index)}
              >
                <FillSwatch fill={row} scale={scale} width={58} height={22} paper={paperOf(editing.study)} />
                <span className="min-w-0 truncate">{calledFill(row, patterns)}</span>
              </button>
              {index === chosen && (
                <span className="flex gap-1 text-xs">
                  <button
                    type="button"
                    className="plain px-0.5"
                    aria-label="Lay this fill higher"
                    disabled={index === fills.length - 1}
                    onClick={() => move(index, 1)}
                  >
                    ↑
                  </button>
                  <button
                    type="button"
                    className="plain px-0.5"
                    aria-label="Lay this fill lower"
                    disabled={index === 0}
                    onClick={() => move(index, -1)}
                  >
                    ↓
                  </button>
                  <button
                    type="button"
                    className="plain px-0.5"
                    aria-label="Take this fill out"
                    onClick={() =>
                      onChange(
                        fills.filter((_, k) => k !== index),
                        "Take a fill out",
                      )
                    }
                  >
                    ×
                  </button>
                </span>
              )}
            </li>
          ))
          .reverse()}
      </ol>
      {fills.length < 8 && (
        <p className="mt-1 flex gap-3 text-xs font-semibold">
          <button
            type="button"
            className="plain underline decoration-hairline underline-offset-4"
            onClick={() => add(usualFill(undefined, cut))}
          >
            Add a flat
          </button>
          <button
            type="button"
            className="plain underline decoration-hairline underline-offset-4"
            onClick={() =>
              add(
                usualFill(
                  patterns.find((p) => p.name === "parallel"),
                  cut,
                ),
              )
            }
          >
            Add a hatch
          </button>
        </p>
      )}
      {fill && (
        <FillForm
          key={chosen}
          fill={fill}
          cut={cut}
          scale={scale}
          patterns={patterns}
          onChange={(next, label) =>
            onChange(
              fills.map((f, k) => (k === chosen ? next : f)),
              label,
            )
          }
        />
      )}
    </>
  );
}

type FormProps = {
  fill: Fill;
  cut: boolean;
  scale: number;
  patterns: Pattern[];
  onChange: (fill: Fill, label: string) => void;
};

function FillForm(props: FormProps) {
  const { fill, onChange } = props;
  if (fill.kind === "hatch") return <HatchForm {...props} fill={fill} />;
  return (
    <div className="mt-3">
      <ColourField
        label="Colour"
        value={fill.colour ?? "#2e2a27"}
        onChange={(v) => onChange({ ...fill, colour: v }, "Colour of a fill")}
      />
      <DimensionLine
        label="Opacity"
        unit="%"
        digits={0}
        min={0}
        max={100}
        step={1}
        initial={100}
        value={(fill.opacity ?? 1) * 100}
        onChange={(v) => onChange({ ...fill, opacity: Math.round(v) / 100 }, "Opacity of a fill")}
      />
    </div>
  );
}

function HatchForm({ fill, cut, scale, patterns, onChange }: FormProps & { fill: Hatch }) {
  const settings = useChoices()?.ink.hatch ?? [];
  const [open, setOpen] = useState(false);
  const pattern = patterns.find((p) => p.name === fill.pattern);
  const set = (some: Partial<Hatch>, label: string) => onChange({ ...fill, ...some } as Fill, label);
  const lies = cut && fill.lies === "face" ? "cut" : (fill.lies ?? "paper");
  const paper = lies === "paper";
  const own = fill.pattern === "own";
  const usual = paper ? (pattern?.spacing ?? 10) : (pattern?.metres ?? 0.5);
  const shown = settings.filter((s) => {
    if (s.field === "steps") return fill.by !== "even" && !cut;
    if (s.field === "by" || s.field === "suggested") return !cut;
    return s.field !== "least" || !paper;
  });
  const lying = cut
    ? [
        ["paper", "on the paper"],
        ["cut", "in the cut’s plane"],
      ]
    : [
        ["paper", "on the paper"],
        ["face", "on the face"],
      ];
  return (
    <div className="mt-3">
      <button type="button" className="plain row w-full" aria-expanded={open} onClick={() => setOpen(!open)}>
        <span>Pattern</span>
        <span className="font-semibold">
          {own ? "one’s own" : (pattern?.label ?? fill.pattern)} {open ? "▴" : "▾"}
        </span>
      </button>
      {open && (
        <div className="grid grid-cols-4 gap-1 py-1" role="listbox" aria-label="Patterns">
          {patterns.map((p) => (
            <button
              key={p.name}
              type="button"
              role="option"
              aria-selected={p.name === fill.pattern}
              aria-label={p.label}
              title={p.label}
              className={`plain outline ${p.name === fill.pattern ? "outline-2 outline-sanguine" : "outline-0"}`}
              onClick={() => set({ pattern: p.name, spacing: null, tile: null }, p.label)}
            >
              <FillSwatch
                fill={{ ...(usualFill(p, cut) as Hatch), lies: "paper", weight: 0.1 }}
                scale={scale}
                width={50}
                height={34}
              />
            </button>
          ))}
          <button
            type="button"
            role="option"
            aria-selected={own}
            className={`plain flex items-center justify-center text-xs font-semibold outline ${own ? "outline-2 outline-sanguine" : "outline-0"}`}
            onClick={() =>
              set(
                { pattern: "own", tile: fill.tile ?? { height: 1, marks: [] }, spacing: null },
                "A pattern of one’s own",
              )
            }
          >
            own …
          </button>
        </div>
      )}
      {own && <OwnTile tile={fill.tile ?? { height: 1, marks: [] }} onChange={(tile, label) => set({ tile }, label)} />}
      <Choice
        label="It lies"
        value={lies}
        options={lying.map(([value, label]) => ({ value: value!, label: label! }))}
        onChange={(v) => set({ lies: v as Hatch["lies"], spacing: null }, "Where a hatch lies")}
      />
      <DimensionLine
        label={own ? "Width of the tile" : "Spacing"}
        unit={paper ? "mm" : "m"}
        digits={paper ? 2 : 3}
        min={paper ? 0.2 : 0.01}
        max={paper ? (own ? 60 : 12) : own ? 6 : 2}
        step={paper ? 0.01 : 0.005}
        initial={usual}
        value={fill.spacing ?? usual}
        onChange={(v) => set({ spacing: v }, `Spacing ${v.toFixed(paper ? 2 : 3)} ${paper ? "mm" : "m"}`)}
      />
      {shown.map((s) => (
        <SettingField
          key={s.field}
          setting={s}
          value={fill[s.field as keyof Hatch]}
          onChange={(v) => set({ [s.field]: v } as Partial<Hatch>, `${s.title} of a hatch`)}
        />
      ))}
    </div>
  );
}
