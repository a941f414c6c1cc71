import { useState } from "react";

import { http, type ModelEdit, type Parts } from "../../api/client";
import { answered } from "../../api/client";
import { at, type Editing, finished, useChoices, useModelJob } from "../../desk/study";
import { Choice, NumberField, OnOff, TextField } from "../../shared/controls";
import { UNITS, type Units } from "../../studies/Bring";
import type { Vec } from "../view/camera";
import { putMany } from "../collage/figures/FigureStock";
import { useChoice } from "./choice";
import { grown, middleOf, patternOf, roleOf, sizeOf, usualOf } from "./parts";

const MIXED = "several";

/** The one value that all have, or nothing. */
function shared<T>(numbers: readonly number[], value: (n: number) => T): T | undefined {
  const first = value(numbers[0]!);
  return numbers.every((n) => value(n) === first) ? first : undefined;
}

const options = (all: readonly string[], mixed: boolean) => [
  ...(mixed ? [{ value: MIXED, label: MIXED }] : []),
  ...all.map((v) => ({ value: v, label: v })),
];

/** What is said of the chosen parts, one or many; of the model as a whole when none is chosen. */
export function PartSettings({ editing, parts }: { editing: Editing; parts: Parts }) {
  const { chosen, choose, set } = useChoice();
  const numbers = [...chosen].filter((n) => n < parts.name.length && !parts.absent.includes(n));
  if (!numbers.length) return <ModelFacts editing={editing} parts={parts} />;
  const one = numbers.length === 1 ? numbers[0]! : null;
  const role = shared(numbers, (n) => roleOf(parts, n));
  const material = shared(numbers, (n) => parts.material[n]!);
  const layer = shared(numbers, (n) => parts.layers[parts.layer[n]!]!);
  const size = one !== null ? sizeOf(parts, one) : null;
  const hidden = new Set(parts.hidden);
  const allHidden = numbers.every((n) => hidden.has(n));
  const everyone = parts.name.map((_, n) => n).filter((n) => !parts.absent.includes(n));
  const act = (edit: ModelEdit) => void editing.model(edit);
  const grow = (by: "layer" | "material" | "shape" | "role") => choose(grown(parts, chosen, by), "add");
  return (
    <>
      <h2 className="break-words">{one !== null ? parts.name[one] : `${numbers.length.toLocaleString("en")} parts`}</h2>
      <p className="quiet text-xs">
        {numbers.reduce((sum, n) => sum + parts.triangles[n]!, 0).toLocaleString("en")} triangles
        {size && ` · ${size.map((v) => v.toFixed(2)).join(" × ")} m`}
      </p>
      <div className="mt-2 flex flex-wrap gap-1.5 text-xs">
        <button
          type="button"
          className="line-act"
          onClick={() => act(allHidden ? { do: "show", parts: numbers } : { do: "hide", parts: numbers })}
        >
          {allHidden ? "Show" : "Hide"}
        </button>
        <button type="button" className="line-act" onClick={() => act({ do: "isolate", parts: numbers })}>
          Show alone
        </button>
        {(role === "planting" || role === "people") && (
          <button
            type="button"
            className="line-act"
            title="Grown ones stand in their place, at the same foot and height; Undo brings these back"
            onClick={() => void putMany(editing, "Dress what is modelled", { how: "parts", parts: numbers })}
          >
            Dress with grown ones
          </button>
        )}
        <button
          type="button"
          className="line-act"
          title="Take them out of the study; Undo brings them back"
          onClick={() => {
            act({ do: "drop", parts: numbers });
            choose([], "only");
          }}
        >
          Drop
        </button>
        <button type="button" className="line-act" onClick={() => choose([], "only")}>
          Choose none
        </button>
      </div>
      {one !== null && (
        <TextField label="Name" value={parts.name[one]!} onChange={(name) => act({ do: "rename", part: one, name })} />
      )}
      <LayerField
        key={layer ?? MIXED}
        parts={parts}
        value={layer}
        onChange={(to) => act({ do: "move", parts: numbers, layer: to })}
      />
      <Choice
        label="Role"
        value={role ?? MIXED}
        options={options(parts.roles, role === undefined)}
        onChange={(r) => r !== MIXED && act({ do: "role", parts: numbers, role: r as never })}
      />
      <Choice
        label="Material"
        value={material === undefined ? MIXED : String(material)}
        options={[
          ...(material === undefined ? [{ value: MIXED, label: MIXED }] : []),
          ...parts.materials.map((m, i) => ({ value: String(i), label: m.name })),
        ]}
        onChange={(m) => m !== MIXED && act({ do: "material", parts: numbers, material: Number(m) })}
      />
      <h2 className="mt-5">Behaviour</h2>
      <p className="quiet text-xs">As the role says, unless it is overruled here.</p>
      <Overruling
        parts={parts}
        numbers={numbers}
        field="cut"
        label="Planes"
        words={{ true: "cut it", false: "leave it whole" }}
        act={act}
      />
      <Overruling
        parts={parts}
        numbers={numbers}
        field="clear"
        label="Sight"
        words={{ true: "goes through", false: "stops at it" }}
        act={act}
      />
      <Overruling
        parts={parts}
        numbers={numbers}
        field="drawn"
        label="Drawn"
        words={{ soft: "softly", plain: "plainly", strong: "strongly" }}
        act={act}
      />
      <Overruling
        parts={parts}
        numbers={numbers}
        field="poche"
        label="Where cut"
        words={{ solid: "solid poche", earth: "earth hatch" }}
        act={act}
      />
      <LeaveOut editing={editing} parts={parts} numbers={numbers} />
      <h2 className="mt-5">Choose more</h2>
      <div className="mt-1 flex flex-wrap gap-x-3 gap-y-1 text-xs font-semibold">
        {(["layer", "material", "shape", "role"] as const).map((by) => (
          <button
            key={by}
            type="button"
            className="plain underline decoration-hairline underline-offset-4"
            onClick={() => grow(by)}
          >
            same {by}
          </button>
        ))}
        <button
          type="button"
          className="plain underline decoration-hairline underline-offset-4"
          onClick={() =>
            choose(
              everyone.filter((n) => !chosen.has(n)),
              "only",
            )
          }
        >
          all the others
        </button>
      </div>
      <button
        type="button"
        className="line-act mt-4 text-xs"
        onClick={() => {
          const at = numbers.map((n) => middleOf(parts, n));
          const middle = [0, 1, 2].map((k) => at.reduce((s, p) => s + p[k]!, 0) / at.length) as Vec;
          const reach = Math.max(
            ...numbers.map((n) => Math.hypot(...sizeOf(parts, n))),
            ...at.map((p) => 2 * Math.hypot(p[0] - middle[0], p[1] - middle[1], p[2] - middle[2])),
          );
          useChoice.getState().fly(middle, reach);
        }}
      >
        Fly there
      </button>{" "}
      <button type="button" className="line-act mt-4 text-xs" onClick={() => set({ leaf: "Sets" })}>
        Keep as a set …
      </button>
    </>
  );
}

/** Leave the chosen parts out of the view on the desk, or take them into it again. */
function LeaveOut({ editing, parts, numbers }: { editing: Editing; parts: Parts; numbers: number[] }) {
  const hidden = editing.study.document.desk.view.parts?.hidden ?? [];
  const paths = [...new Set(numbers.map((n) => patternOf(parts, n)))];
  const out = paths.every((p) => hidden.includes(p));
  const what = paths.length === 1 ? parts.name[numbers[0]!]! : `${paths.length.toLocaleString("en")} parts`;
  if (paths.length > 200) return null; // a part set is the way for so many
  return (
    <button
      type="button"
      className="line-act mt-4 text-xs"
      onClick={() =>
        editing.view(out ? `Show ${what} in the view` : `Leave ${what} out of the view`, [
          at(
            ["parts", "hidden"],
            out ? hidden.filter((h) => !paths.includes(h)) : [...hidden, ...paths.filter((p) => !hidden.includes(p))],
          ),
        ])
      }
    >
      {out ? "Show in the view on the desk" : "Leave out of the view on the desk"}
    </button>
  );
}

function LayerField({
  parts,
  value,
  onChange,
}: {
  parts: Parts;
  value: string | undefined;
  onChange: (layer: string) => void;
}) {
  const [text, setText] = useState(value ?? "");
  const take = () => text !== (value ?? "") && onChange(text);
  return (
    <div className="py-2">
      <label htmlFor="part-layer" className="label block">
        Layer
      </label>
      <input
        id="part-layer"
        list="layers-known"
        className="field w-full"
        value={text}
        placeholder={value === undefined ? "several layers" : "no layer"}
        onChange={(e) => setText(e.target.value)}
        onBlur={take}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
      />
      <datalist id="layers-known">
        {parts.layers.slice(0, 400).map((l) => (
          <option key={l} value={l} />
        ))}
      </datalist>
    </div>
  );
}

function Overruling(props: {
  parts: Parts;
  numbers: number[];
  field: "cut" | "clear" | "drawn" | "poche";
  label: string;
  words: Record<string, string>;
  act: (edit: ModelEdit) => void;
}) {
  const { parts, numbers, field, words } = props;
  const said = shared(numbers, (n) => parts.overruled[n]?.[field]);
  const mixed = said === undefined && numbers.some((n) => parts.overruled[n]?.[field] !== undefined);
  const usual = shared(numbers, (n) => String(usualOf(parts, n)[field]));
  const role = usual === undefined ? "as the role says" : words[usual]!;
  return (
    <Choice
      label={props.label}
      value={mixed ? MIXED : said === undefined ? "role" : String(said)}
      options={[
        ...(mixed ? [{ value: MIXED, label: MIXED }] : []),
        { value: "role", label: role },
        ...Object.entries(words)
          .filter(([v]) => v !== usual || String(said) === v)
          .map(([value, label]) => ({ value, label: `${label} (overruled)` })),
      ]}
      onChange={(v) => {
        if (v === MIXED) return;
        const value = v === "role" ? null : v === "true" ? true : v === "false" ? false : v;
        props.act({ do: "behave", parts: numbers, field, value: value as never });
      }}
    />
  );
}

/** The model as a whole: its size and units, where it came from, its contours, and how to write it. */
function ModelFacts({ editing, parts }: { editing: Editing; parts: Parts }) {
  const { model, document } = editing.study;
  const { low, high } = model as { low: Vec; high: Vec };
  const choices = useChoices();
  const [written, setWritten] = useState<{ id: number; file: string } | null>(null);
  const [said, setSaid] = useState("");
  const [set, setSet] = useState("");
  const [figures, setFigures] = useState(true);
  const size = [0, 1, 2].map((k) => high[k]! - low[k]!);
  const far = model.origin.some((v) => v !== 0);
  const write = async (format: "glb" | "obj") => {
    setWritten(null);
    setSaid("");
    try {
      const params = { path: { slug: editing.study.slug } };
      const job = await answered(
        http.POST("/api/studies/{slug}/model/write", { params, body: { format, part_set: set, figures } }),
      );
      const done = await finished(job, (now) => useModelJob.setState({ job: now }));
      setWritten({ id: done.id, file: (done.result as { file: string }).file });
    } catch (error) {
      setSaid((error as Error).message);
    }
  };
  return (
    <>
      <h2>{document.name}</h2>
      <dl className="mt-2">
        {(
          [
            ["Length (X)", `${size[0]!.toFixed(2)} m`],
            ["Depth (Y)", `${size[1]!.toFixed(2)} m`],
            ["Height (Z)", `${size[2]!.toFixed(2)} m`],
            ["Parts", model.parts.toLocaleString("en")],
            ["Triangles", model.triangles.toLocaleString("en")],
            ["Rooms", parts.rooms.length.toLocaleString("en")],
            ["From file", model.source || "this application"],
          ] as const
        ).map(([name, value]) => (
          <div key={name} className="row">
            <dt>{name}</dt>
            <dd className="truncate text-right" title={value}>
              {value}
            </dd>
          </div>
        ))}
      </dl>
      {far && (
        <p className="quiet py-2 text-xs">
          The file lies far from zero. Here its zero is at{" "}
          {model.origin.map((v) => v.toLocaleString("en", { maximumFractionDigits: 3 })).join(" / ")} m of the file's
          own coordinates.
        </p>
      )}
      <Choice
        label="Units of the file"
        value={model.units as Units}
        options={(Object.keys(choices?.units ?? UNITS) as Units[]).map((u) => ({ value: u, label: UNITS[u] }))}
        onChange={(units) => void editing.model({ do: "remeasure", units, up: model.up as "z" | "y" })}
      />
      <Choice
        label="Up in the file"
        value={model.up as "z" | "y"}
        options={[
          { value: "z", label: "Z" },
          { value: "y", label: "Y" },
        ]}
        onChange={(up) => void editing.model({ do: "remeasure", units: model.units as Units, up })}
      />

      <h2 className="mt-5">Contours</h2>
      <p className="quiet text-xs">Level lines on the parts whose role is ground.</p>
      <NumberField
        label="Every"
        unit="m"
        value={parts.contour_interval ?? 0}
        min={0}
        max={1000}
        onChange={(interval) =>
          void editing.model({
            do: "contours",
            interval: interval > 0.001 ? interval : null,
            index: parts.contour_index,
          })
        }
      />
      <NumberField
        label="Index line every"
        unit="th"
        digits={0}
        value={parts.contour_index}
        min={1}
        max={100}
        onChange={(index) =>
          void editing.model({ do: "contours", interval: parts.contour_interval, index: Math.round(index) })
        }
      />

      <h2 className="mt-5">Write the model</h2>
      <Choice
        label="What"
        value={set || "all"}
        options={[
          { value: "all", label: "all parts" },
          ...Object.keys(parts.sets).map((n) => ({ value: n, label: n })),
        ]}
        onChange={(s) => setSet(s === "all" ? "" : s)}
      />
      <OnOff label="With the figures of this view" value={figures} onChange={setFigures} />
      <div className="mt-2 flex gap-2 text-xs">
        <button type="button" className="line-act" onClick={() => void write("glb")}>
          Write GLB
        </button>
        <button type="button" className="line-act" onClick={() => void write("obj")}>
          Write OBJ
        </button>
      </div>
      {written && (
        <a className="mt-2 block text-xs font-semibold text-sanguine underline" href={`/api/jobs/${written.id}/file`}>
          {written.file}
        </a>
      )}
      {said && (
        <p role="alert" className="mt-2 text-sanguine">
          {said}
        </p>
      )}
    </>
  );
}
