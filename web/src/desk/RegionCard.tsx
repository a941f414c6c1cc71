import { useEffect, useRef } from "react";

import type { Probe } from "../api/client";
import { useParts } from "../benches/model/parts";
import { Choice } from "../shared/controls";
import type { Editing } from "./study";

const FILLS = { solid: "solid poche", earth: "earth hatch", void: "void" };

/** What fills one part where it is cut; the choice stays with the part, whatever version of the model comes. */
export function RegionFill({ editing, part, material }: { editing: Editing; part: number; material: string }) {
  const parts = useParts(editing.study).data;
  if (!parts) return null;
  const said = parts.overruled[part] ?? {};
  const usual = parts.behaviour[parts.roles[parts.role[part]!]!]!.poche as keyof typeof FILLS;
  const behave = (field: "poche" | "cut_as", value: string | null) => void editing.model({ do: "behave", parts: [part], field, value });
  return (
    <>
      <Choice
        label="Filled"
        value={String(said.poche ?? "usual")}
        options={[{ value: "usual", label: `${FILLS[usual]}, as usual` }, ...Object.entries(FILLS).map(([value, label]) => ({ value, label }))]}
        onChange={(v) => behave("poche", v === "usual" ? null : v)}
      />
      <Choice
        label="As the material"
        value={String(said.cut_as ?? "own")}
        options={[{ value: "own", label: `${material}, its own` }, ...parts.materials.filter((m) => m.name !== material).map((m) => ({ value: m.name, label: m.name }))]}
        onChange={(v) => behave("cut_as", v === "own" ? null : v)}
      />
    </>
  );
}

/** A card beside a cut region that was clicked in the drawing. */
export function RegionCard(props: { editing: Editing; found: Probe; left: number; top: number; onClose: () => void }) {
  const { editing, found } = props;
  const card = useRef<HTMLDivElement>(null);
  useEffect(() => card.current?.querySelector("button")?.focus(), []);
  const parts = useParts(editing.study).data;
  const own = parts ? (parts.materials[parts.material[found.part!]!]?.name ?? found.material) : found.material;
  return (
    <div
      ref={card}
      role="dialog"
      aria-label={`${found.name}, cut`}
      className="absolute z-10 w-72 border border-graphite bg-sheet px-4 py-3"
      style={{ left: props.left, top: props.top }}
      onPointerDown={(e) => e.stopPropagation()}
      onPointerUp={(e) => e.stopPropagation()}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === "Escape") props.onClose();
      }}
    >
      <div className="flex items-baseline justify-between gap-3">
        <span className="font-semibold">{found.name}</span>
        <button type="button" className="plain text-xs underline decoration-hairline underline-offset-4" onClick={props.onClose}>
          Close
        </button>
      </div>
      <p className="quiet mb-1 text-xs">How this part is filled where it is cut.</p>
      <RegionFill editing={editing} part={found.part!} material={own} />
    </div>
  );
}
