import { useState } from "react";

import type { Parts } from "../../api/client";
import type { Editing } from "../../desk/study";
import { ColourField, NumberField, OnOff, TextField } from "../../shared/controls";
import { DimensionLine } from "../../shared/DimensionLine";
import { useChoice } from "./choice";

/** The model's materials, to choose, to count as one, and one white card for all. */
export function MaterialList({ editing, parts }: { editing: Editing; parts: Parts }) {
  const { materials, set, choose } = useChoice();
  const [name, setName] = useState("");
  const pick = (index: number, more: boolean) => {
    const next = new Set(more ? materials : []);
    if (materials.has(index) && more) next.delete(index);
    else next.add(index);
    set({ materials: next });
    choose(
      parts.material.flatMap((m, n) => (next.has(m) && !parts.absent.includes(n) ? [n] : [])),
      "only",
    );
  };
  const first = [...materials][0];
  return (
    <div className="min-h-0 flex-1 overflow-y-auto">
      <OnOff
        label="White card for all"
        value={parts.white_card}
        onChange={(on) => void editing.model({ do: "white_card", on })}
      />
      <ul>
        {parts.materials.map((m, i) => (
          <li key={i}>
            <button
              type="button"
              aria-pressed={materials.has(i)}
              className={`plain row w-full ${materials.has(i) ? "font-semibold text-sanguine" : ""}`}
              onClick={(e) => pick(i, e.shiftKey || e.ctrlKey || e.metaKey)}
            >
              <span className="flex min-w-0 items-center gap-2">
                <i
                  className="inline-block h-3.5 w-5 shrink-0 border border-soft"
                  style={{ background: m.colour, opacity: Math.max(0.25, m.opacity) }}
                  aria-hidden
                />
                <span className="truncate">{m.name}</span>
              </span>
              <span className="quiet text-xs">{m.parts.toLocaleString("en")}</span>
            </button>
          </li>
        ))}
      </ul>
      {materials.size > 1 && first !== undefined && (
        <button
          type="button"
          className="line-act mt-3 text-xs"
          onClick={() => {
            void editing.model({ do: "merge", materials: [...materials], into: first });
            set({ materials: new Set() });
          }}
        >
          Count {materials.size} as {parts.materials[first]?.name}
        </button>
      )}
      <p className="quiet mt-3 text-xs">With Shift several are chosen; all of them can be counted as the first.</p>
      <div className="mt-3 flex items-end gap-2">
        <input
          className="field min-w-0 flex-1"
          aria-label="Name of a new material"
          placeholder="new material"
          maxLength={120}
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <button
          type="button"
          className="line-act text-xs"
          disabled={!name.trim()}
          onClick={() =>
            void editing
              .model({ do: "add_material", name: name.trim(), colour: "#cfc8bc", opacity: 1 })
              .then((ok) => ok && setName(""))
          }
        >
          Add
        </button>
      </div>
    </div>
  );
}

/** Colour, opacity and texture of the chosen material. */
export function MaterialSettings({ editing, parts }: { editing: Editing; parts: Parts }) {
  const materials = useChoice((s) => s.materials);
  const index = [...materials][0];
  const material = index === undefined ? undefined : parts.materials[index];
  if (index === undefined || !material)
    return <p className="quiet">Choose a material in the list to see and change it.</p>;
  const change = (some: {
    name?: string;
    colour?: string;
    opacity?: number;
    size?: [number, number];
    plain?: boolean;
  }) => void editing.model({ do: "edit_material", material: index, plain: false, ...some });
  const [w, h] = material.size;
  return (
    <div key={index}>
      <h2>{material.name}</h2>
      <p className="quiet text-xs">
        {material.parts.toLocaleString("en")} {material.parts === 1 ? "part" : "parts"}
        {material.was.length > 1 && ` · stands for ${material.was.join(", ")}`}
      </p>
      <TextField label="Name" value={material.name} onChange={(name) => name.trim() && change({ name: name.trim() })} />
      <ColourField
        label="Colour"
        value={material.colour}
        onChange={(colour, settled) => settled && change({ colour })}
      />
      <DimensionLine
        label="Opacity"
        unit="%"
        digits={0}
        min={0}
        max={100}
        step={1}
        initial={100}
        value={material.opacity * 100}
        onChange={(v, settled) => settled && change({ opacity: Math.round(v) / 100 })}
      />
      {material.clear && <p className="quiet text-xs">Seen through: its parts are panes, and hide nothing.</p>}
      {material.texture ? (
        <>
          <h2 className="mt-5">Texture</h2>
          <img
            src={`/api/studies/${editing.study.slug}/textures/${material.texture}`}
            alt={`Texture of ${material.name}`}
            className="my-2 max-h-40 w-full border border-hairline object-contain"
          />
          <NumberField
            label="Real width"
            unit="m"
            value={w}
            digits={3}
            min={0.0001}
            onChange={(v) => change({ size: [v, h] })}
          />
          <NumberField
            label="Real height"
            unit="m"
            value={h}
            digits={3}
            min={0.0001}
            onChange={(v) => change({ size: [w, v] })}
          />
          <button type="button" className="line-act mt-2 text-xs" onClick={() => change({ plain: true })}>
            Take the texture off
          </button>
        </>
      ) : (
        <p className="quiet mt-3 text-xs">It came without a texture.</p>
      )}
    </div>
  );
}
