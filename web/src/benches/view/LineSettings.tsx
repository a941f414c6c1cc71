import type { View } from "../../api/client";
import { useChoices } from "../../desk/study";
import { NumberField, OnOff } from "../../shared/controls";
import { DimensionLine } from "../../shared/DimensionLine";

/** Which edges are lines, and what makes one an outline. */
export function LineSettings({
  view,
  set,
}: {
  view: View;
  set: (label: string, path: string[], value: unknown, settled?: boolean) => void;
}) {
  const usual = useChoices()?.lines;
  const { lines } = view;
  return (
    <>
      <DimensionLine
        label="Bends from"
        unit="°"
        digits={0}
        min={1}
        max={90}
        step={1}
        initial={usual?.crease_angle}
        value={lines.crease_angle}
        onChange={(v, settled) => set("Bends from", ["lines", "crease_angle"], v, settled)}
      />
      <NumberField
        label="Outline where behind it lies more than"
        unit="m"
        min={0}
        max={1000}
        value={lines.outline_depth}
        onChange={(v) => set("Outline depth", ["lines", "outline_depth"], v)}
      />
      <OnOff
        label="Smooth edges of curves"
        value={lines.smooth}
        onChange={(v) => set("Smooth edges", ["lines", "smooth"], v)}
      />
      <OnOff label="Seams of one material" value={lines.seams} onChange={(v) => set("Seams", ["lines", "seams"], v)} />
      <OnOff label="Every facet" value={lines.facets} onChange={(v) => set("Facets", ["lines", "facets"], v)} />
    </>
  );
}
