import { useState } from "react";

import type { BuildUp, BuildUpRule, Change, Layer, Rhythm } from "../../../api/client";
import { useScreen } from "../../../desk/screen";
import { at, type Editing } from "../../../desk/study";
import { Choice, OnOff, TextField } from "../../../shared/controls";
import { DashField } from "../../../shared/DashField";
import { DimensionLine } from "../../../shared/DimensionLine";
import { ForWhom } from "../../FinishList";
import { FillStack } from "../FillStack";
import { LayeredSample, thicknessWords } from "./BuildUpSample";

const SIDES = [
  { value: "auto", label: "what sees the sky" },
  { value: "turned", label: "the other one" },
  { value: "up", label: "the upper one" },
  { value: "down", label: "the lower one" },
  { value: "north", label: "the north" },
  { value: "east", label: "the east" },
  { value: "south", label: "the south" },
  { value: "west", label: "the west" },
] as const;

const PROFILES = [
  { value: "rectangle", label: "rectangle" },
  { value: "i", label: "I beam" },
  { value: "channel", label: "channel" },
  { value: "angle", label: "angle" },
  { value: "tube", label: "tube" },
  { value: "round", label: "round" },
  { value: "anchor", label: "a line" },
] as const;

const RUNS = [
  { value: "any", label: "any way" },
  { value: "up", label: "upright" },
  { value: "level", label: "level" },
  { value: "north", label: "north and south" },
  { value: "east", label: "east and west" },
] as const;

/** Which build-up a rule builds of, and which side is the outer one. */
export function BuiltFields({
  rule,
  known,
  set,
}: {
  rule: BuildUpRule;
  known: BuildUp[];
  set: (label: string, path: string[], value: unknown) => void;
}) {
  return (
    <>
      <Choice
        label="Built of"
        value={rule.build_up || "none"}
        options={[{ value: "none", label: "no layers" }, ...known.map((b) => ({ value: b.id!, label: b.name }))]}
        onChange={(v) => set("What is built of", ["build_up"], v === "none" ? "" : v)}
      />
      <Choice
        label="Outer side"
        value={rule.outer ?? "auto"}
        options={SIDES}
        onChange={(v) => set("The outer side", ["outer"], v)}
      />
      <p className="quiet mt-1 text-xs">Layers run from the outer side in.</p>
    </>
  );
}

/** A build-up, drawn as a little section while it is edited; the layer that is chosen with its settings. */
export function BuildUpSettings({ editing, buildUp }: { editing: Editing; buildUp: BuildUp }) {
  const everywhere = useScreen((s) => s.everywhere.Ink);
  const choose = useScreen((s) => s.choose);
  const thickest = buildUp.layers.reduce(
    (best, l, k) => ((l.thickness ?? 1) > (buildUp.layers[best]!.thickness ?? 1) ? k : best),
    0,
  );
  const [picked, setPicked] = useState(thickest);
  const index = Math.min(picked, buildUp.layers.length - 1);
  const layer = buildUp.layers[index]!;
  const { look } = editing.study;
  const change = (label: string, changes: Change[], gesture = "") => editing.look(label, changes, everywhere, gesture);
  const set = (label: string, path: string[], value: unknown) =>
    change(label, [at(["build_ups", buildUp.id!, ...path], value)], ["build_ups", buildUp.id!, ...path].join("."));
  const put = (layers: Layer[], label: string) => change(label, [at(["build_ups", buildUp.id!, "layers"], layers)]);
  const move = (by: number) => {
    const next = [...buildUp.layers];
    next.splice(index + by, 0, ...next.splice(index, 1));
    setPicked(index + by);
    put(next, `Move ${layer.name}`);
  };
  const add = () => {
    const id = Array.from({ length: buildUp.layers.length + 1 }, (_, k) => `layer-${k + 1}`).find((name) =>
      buildUp.layers.every((l) => l.id !== name),
    )!;
    const next = [...buildUp.layers];
    next.splice(index + 1, 0, {
      id,
      name: "New layer",
      thickness: 0.05,
      fills: [{ kind: "flat", colour: "#ffffff" }],
    } as Layer);
    setPicked(index + 1);
    put(next, "Add a layer");
  };
  const users = (look.construction ?? []).filter((r) => r.build_up === buildUp.id);
  const remove = () => {
    change(`Take out “${buildUp.name}”`, [
      ...users.map((r): Change => ({ path: ["construction", r.id!], do: "drop" })),
      { path: ["build_ups", buildUp.id!], do: "drop" },
    ]);
    choose(null);
  };
  return (
    <>
      <ForWhom editing={editing} bench="Ink" />
      <h2>{buildUp.name}</h2>
      <p className="quiet mb-1 flex justify-between text-xs">
        <span>outside</span>
        <span>inside</span>
      </p>
      <LayeredSample
        study={editing.study}
        buildUp={buildUp}
        width={216}
        height={66}
        chosen={index}
        onChoose={setPicked}
      />
      <p className="mt-1.5 text-xs leading-relaxed">
        {buildUp.layers.map((l, k) => (
          <span key={l.id}>
            {k > 0 && <span className="quiet"> · </span>}
            <button
              type="button"
              className={`plain ${k === index ? "font-semibold text-sanguine" : ""}`}
              onClick={() => setPicked(k)}
            >
              {l.name.toLowerCase()} {thicknessWords(l)}
            </button>
          </span>
        ))}
      </p>
      <p className="mt-1 flex flex-wrap gap-x-3 text-xs font-semibold">
        <button
          type="button"
          className="plain"
          aria-label={`${layer.name} farther out`}
          disabled={index === 0}
          onClick={() => move(-1)}
        >
          ←
        </button>
        <button
          type="button"
          className="plain"
          aria-label={`${layer.name} farther in`}
          disabled={index === buildUp.layers.length - 1}
          onClick={() => move(1)}
        >
          →
        </button>
        <button
          type="button"
          className="plain underline decoration-hairline underline-offset-4"
          disabled={buildUp.layers.length > 15}
          onClick={add}
        >
          Add a layer
        </button>
        <button
          type="button"
          className="plain underline decoration-hairline underline-offset-4"
          disabled={buildUp.layers.length < 2}
          onClick={() =>
            put(
              buildUp.layers.filter((_, k) => k !== index),
              `Take out ${layer.name}`,
            )
          }
        >
          Take it out
        </button>
      </p>
      <LayerFields
        key={layer.id}
        editing={editing}
        buildUp={buildUp}
        layer={layer}
        index={index}
        set={(label, path, value) => set(label, ["layers", layer.id!, ...path], value)}
        change={change}
      />
      <h2 className="mt-6">The whole</h2>
      <TextField
        label="Called"
        value={buildUp.name}
        onChange={(v) => v.trim() && set("Name of a build-up", ["name"], v.trim())}
      />
      <DimensionLine
        label="Nothing thinner than"
        unit="mm"
        min={0}
        max={2}
        step={0.05}
        initial={0.3}
        value={buildUp.least ?? 0.3}
        onChange={(v) => set(`Nothing thinner than ${v.toFixed(2)} mm`, ["least"], Math.round(v * 100) / 100)}
      />
      <button
        type="button"
        className="plain mt-1 text-xs font-semibold underline decoration-hairline underline-offset-4"
        onClick={remove}
      >
        Take out of the finish
        {users.length
          ? `, and from ${users.length === 1 ? "what is" : `${users.length} rules of what is`} built of it`
          : ""}
      </button>
    </>
  );
}

type FieldsProps = {
  editing: Editing;
  buildUp: BuildUp;
  layer: Layer;
  index: number;
  set: (label: string, path: string[], value: unknown) => void;
  change: (label: string, changes: Change[]) => void;
};

function LayerFields({ editing, buildUp, layer, index, set, change }: FieldsProps) {
  const sort = layer.thickness == null ? "rest" : layer.thickness === 0 ? "sheet" : "thick";
  const thick = layer.thickness || 0.1;
  const bedAllowed =
    buildUp.layers.slice(0, index).every((l) => l.bed) &&
    sort === "thick" &&
    buildUp.layers.some((l, k) => k !== index && !l.bed);
  const place = (k: number, value: unknown): Change =>
    at(["build_ups", buildUp.id!, "layers", buildUp.layers[k]!.id!, "thickness"], value);
  const be = (to: string) => {
    // Only one layer takes the rest: who took it before is as thick as this one was.
    const before = buildUp.layers.findIndex((l, k) => k !== index && l.thickness == null);
    const others = to === "rest" && before >= 0 ? [place(before, thick)] : [];
    change(`${layer.name}: ${to === "thick" ? "so thick" : to === "rest" ? "the rest" : "a sheet"}`, [
      ...others,
      place(index, to === "rest" ? null : to === "sheet" ? 0 : thick),
    ]);
  };
  return (
    <>
      <TextField
        label="Layer"
        value={layer.name}
        onChange={(v) => v.trim() && set("Name of a layer", ["name"], v.trim())}
      />
      <Choice
        label="It takes"
        value={sort}
        options={[
          { value: "thick", label: "so much" },
          { value: "rest", label: "the rest" },
          { value: "sheet", label: "a line, as a sheet" },
        ]}
        onChange={be}
      />
      {sort === "thick" && (
        <DimensionLine
          label="Thickness"
          unit="mm"
          digits={0}
          min={1}
          max={600}
          step={1}
          value={thick * 1000}
          onChange={(v) => set(`${layer.name} ${Math.round(v)} mm`, ["thickness"], Math.round(v) / 1000)}
        />
      )}
      <DimensionLine
        label="Importance"
        digits={0}
        min={1}
        max={9}
        step={1}
        initial={5}
        value={layer.importance ?? 5}
        onChange={(v) => set(`Importance of ${layer.name}`, ["importance"], Math.round(v))}
      />
      <p className="quiet text-xs">Where there is no room for all, the least important go first.</p>
      <OnOff
        label="Goes on past other parts"
        value={layer.goes_on ?? false}
        onChange={(v) => set(v ? `${layer.name} goes on` : `${layer.name} ends`, ["goes_on"], v)}
      />
      {(bedAllowed || layer.bed) && (
        <OnOff
          label="Lies outside, in the earth"
          value={layer.bed ?? false}
          onChange={(v) => set(v ? "A bed in the earth" : "Within what is cut", ["bed"], v)}
        />
      )}
      <TextField
        label="Material"
        value={layer.material ?? ""}
        placeholder="as it is called"
        onChange={(v) => set("Material of a layer", ["material"], v)}
      />
      <DimensionLine
        label="Line round it"
        unit="mm"
        min={0}
        max={0.7}
        step={0.01}
        initial={0.13}
        value={layer.boundary?.weight ?? 0.13}
        onChange={(v) => set(`Line ${v.toFixed(2)} mm`, ["boundary", "weight"], Math.round(v * 100) / 100)}
      />
      {(layer.boundary?.weight ?? 0.13) > 0 && (
        <DashField
          label="Dash"
          value={layer.boundary?.dash ?? []}
          onChange={(dash) => set("Dash of a layer", ["boundary", "dash"], dash)}
        />
      )}
      {sort !== "sheet" && (
        <>
          <h2 className="mt-5">Its fills</h2>
          <FillStack
            editing={editing}
            fills={layer.fills ?? []}
            cut
            onChange={(fills, label) => set(label, ["fills"], fills)}
          />
          <RhythmFields editing={editing} layer={layer} set={set} />
        </>
      )}
    </>
  );
}

/** What stands in a layer at a rhythm. */
function RhythmFields({ editing, layer, set }: { editing: Editing; layer: Layer; set: FieldsProps["set"] }) {
  const rows = layer.rhythms ?? [];
  const [picked, setPicked] = useState(0);
  const rhythm = rows[Math.min(picked, rows.length - 1)];
  const put = (next: Partial<Rhythm>[], label: string) => set(label, ["rhythms"], next);
  const one = (label: string, path: string[], value: unknown) => set(label, ["rhythms", rhythm!.id!, ...path], value);
  const metres = (label: string, field: "spacing" | "width" | "depth" | "at", most: number, initial?: number) => (
    <DimensionLine
      label={label}
      unit="mm"
      digits={0}
      min={field === "at" ? 0 : 1}
      max={most}
      step={1}
      initial={initial}
      value={(rhythm![field] ?? 0) * 1000}
      onChange={(v) => one(`${label} ${Math.round(v)} mm`, [field], Math.round(v) / 1000)}
    />
  );
  return (
    <>
      <h2 className="mt-5">What stands in it</h2>
      {rows.length === 0 && <p className="quiet text-xs">Nothing: no studs, battens or anchors.</p>}
      <ul>
        {rows.map((r, k) => (
          <li key={r.id} className="row" data-chosen={r === rhythm}>
            <button
              type="button"
              className="plain min-w-0 flex-1 text-left"
              aria-pressed={r === rhythm}
              onClick={() => setPicked(k)}
            >
              {r.name} <span className="quiet text-xs">every {Math.round((r.spacing ?? 0.625) * 1000)} mm</span>
            </button>
            <button
              type="button"
              className="plain px-1 text-xs"
              aria-label={`Take ${r.name} out`}
              onClick={() =>
                put(
                  rows.filter((_, n) => n !== k),
                  `Take ${r.name} out`,
                )
              }
            >
              ×
            </button>
          </li>
        ))}
      </ul>
      {rows.length < 4 && (
        <button
          type="button"
          className="plain text-xs font-semibold underline decoration-hairline underline-offset-4"
          onClick={() => {
            setPicked(rows.length);
            put(
              [
                ...rows,
                {
                  name: "Studs",
                  profile: "rectangle",
                  spacing: 0.6,
                  width: 0.06,
                  depth: null,
                  runs: "any",
                  fills: [{ kind: "flat", colour: "#ffffff", opacity: 1 }],
                },
              ],
              "Add members",
            );
          }}
        >
          Add members
        </button>
      )}
      {rhythm && (
        <>
          <TextField
            label="Called"
            value={rhythm.name ?? ""}
            onChange={(v) => v.trim() && one("Name of members", ["name"], v.trim())}
          />
          <Choice
            label="Profile"
            value={rhythm.profile ?? "rectangle"}
            options={PROFILES}
            onChange={(v) => one("Profile", ["profile"], v)}
          />
          {metres("Every", "spacing", 3000, 625)}
          {metres("Wide", "width", 400)}
          <OnOff
            label="Through the whole layer"
            value={rhythm.depth == null}
            onChange={(v) => one(v ? "Through the whole layer" : "As deep as said", ["depth"], v ? null : 0.05)}
          />
          {rhythm.depth != null && metres("Deep", "depth", 600)}
          {rhythm.depth != null && (
            <Choice
              label="It lies"
              value={rhythm.seat ?? "middle"}
              options={[
                { value: "outer", label: "at the outer side" },
                { value: "middle", label: "in the middle" },
                { value: "inner", label: "at the inner side" },
              ]}
              onChange={(v) => one("Where members lie", ["seat"], v)}
            />
          )}
          {metres("First at", "at", 3000, 0)}
          <Choice
            label="They run"
            value={rhythm.runs ?? "any"}
            options={RUNS}
            onChange={(v) => one("Which way members run", ["runs"], v)}
          />
          <p className="quiet text-xs">Only a cut across them shows them.</p>
          <FillStack
            editing={editing}
            fills={rhythm.fills ?? []}
            cut
            onChange={(fills, label) => one(label, ["fills"], fills)}
          />
        </>
      )}
    </>
  );
}
