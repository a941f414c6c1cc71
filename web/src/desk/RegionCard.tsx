import { useEffect, useRef } from "react";

import type { Pointed } from "../api/client";
import { useParts } from "../benches/model/parts";
import { Choice } from "../shared/controls";
import { useRegions } from "./regions";
import type { Editing } from "./study";

const FILLS = { solid: "solid poche", earth: "earth hatch", void: "void" };

/** What fills one part where it is cut; the choice stays with the part, whatever version of the model comes. */
export function RegionFill({ editing, part, material }: { editing: Editing; part: number; material: string }) {
  const parts = useParts(editing.study).data;
  if (!parts) return null;
  const said = parts.overruled[part] ?? {};
  const usual = parts.behaviour[parts.roles[parts.role[part]!]!]!.poche as keyof typeof FILLS;
  const behave = (field: "poche" | "cut_as", value: string | null) =>
    void editing.model({ do: "behave", parts: [part], field, value });
  return (
    <>
      <Choice
        label="Filled"
        value={String(said.poche ?? "usual")}
        options={[
          { value: "usual", label: `${FILLS[usual]}, as usual` },
          ...Object.entries(FILLS).map(([value, label]) => ({ value, label })),
        ]}
        onChange={(v) => behave("poche", v === "usual" ? null : v)}
      />
      <Choice
        label="As the material"
        value={String(said.cut_as ?? "own")}
        options={[
          { value: "own", label: `${material}, its own` },
          ...parts.materials.filter((m) => m.name !== material).map((m) => ({ value: m.name, label: m.name })),
        ]}
        onChange={(v) => behave("cut_as", v === "own" ? null : v)}
      />
    </>
  );
}

/** A card beside a region that was clicked in the drawing: how wide it is meant, and the name to keep it under. */
export function RegionCard(props: {
  editing: Editing;
  found: Pointed;
  left: number;
  top: number;
  onWide: (wide: number) => void;
  onClose: () => void;
}) {
  const { editing, found } = props;
  const card = useRef<HTMLDivElement>(null);
  const name = useRef<HTMLInputElement>(null);
  const { choose } = useRegions();
  useEffect(() => card.current?.focus(), []);
  const widths = found.widenings ?? [];
  const parts = useParts(editing.study).data;
  const keep = async () => {
    const words = name.current!.value.trim();
    if (!words) return name.current!.focus();
    const study = await editing.act({
      do: "keep_region",
      label: `Keep region “${words}”`,
      name: words,
      query: found.query as never,
    });
    const fresh = study?.document.regions?.find((r) => r.name === words);
    if (fresh) choose(fresh.id);
  };
  return (
    <div
      ref={card}
      role="dialog"
      tabIndex={-1}
      aria-label={found.called}
      className="absolute z-10 w-72 border border-graphite bg-sheet px-4 py-3 outline-none"
      style={{ left: props.left, top: props.top }}
      onPointerDown={(e) => e.stopPropagation()}
      onPointerMove={(e) => e.stopPropagation()}
      onPointerUp={(e) => e.stopPropagation()}
      onKeyDown={(e) => {
        e.stopPropagation();
        if (e.key === "Escape") props.onClose();
      }}
    >
      <div className="flex items-baseline justify-between gap-3">
        <span className="font-semibold">{found.called}</span>
        <button
          type="button"
          className="plain text-xs underline decoration-hairline underline-offset-4"
          onClick={props.onClose}
        >
          Close
        </button>
      </div>
      <p className="quiet mb-1 text-xs">
        {((found.share ?? 0) * 100).toFixed((found.share ?? 0) < 0.1 ? 2 : 0)} % of the sheet
        {found.from_pixels ? "; part of its edge is taken from pixels, because lines do not close there" : ""}
      </p>
      <div className="flex flex-wrap gap-x-3 gap-y-1 py-1" role="radiogroup" aria-label="How wide the region is meant">
        {widths.map((w, i) => (
          <button
            key={w.word}
            type="button"
            role="radio"
            aria-checked={i === found.wide}
            title={w.called}
            className={`plain border-b-2 text-xs ${i === found.wide ? "border-sanguine font-semibold" : "border-transparent"}`}
            onClick={() => props.onWide(i)}
          >
            {WIDTHS[w.word] ?? w.word}
          </button>
        ))}
      </div>
      <div className="flex items-end gap-3 pt-1">
        <label className="flex-1">
          <span className="label block">Keep it as</span>
          <input
            ref={name}
            className="field w-full"
            maxLength={100}
            placeholder="a name"
            onKeyDown={(e) => e.key === "Enter" && void keep()}
          />
        </label>
        <button type="button" className="line-act" onClick={() => void keep()}>
          Keep
        </button>
      </div>
      {found.cut && found.part !== null && found.part !== undefined && found.wide === 0 && parts && (
        <div className="mt-2 border-t border-hairline pt-1">
          <p className="quiet text-xs">How this part is filled where it is cut.</p>
          <RegionFill
            editing={editing}
            part={found.part}
            material={parts.materials[parts.material[found.part]!]?.name ?? found.material ?? ""}
          />
        </div>
      )}
    </div>
  );
}

const WIDTHS: Record<string, string> = { region: "this", glass: "behind glass", cut: "cut alike" };
