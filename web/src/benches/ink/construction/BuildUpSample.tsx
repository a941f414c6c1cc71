import { useEffect, useState } from "react";

import type { BuildUp, Layer, Study } from "../../../api/client";
import { useScreen } from "../../../desk/screen";

/** Pixels of a millimetre on paper, as screens count; millimetres of paper round a sample. */
const MM = 96 / 25.4;
const ROUND = 0.6;
/** Pixels of the one picture of a build-up, which is seen from farther away where it is smaller. */
const WIDE = 216;
const HIGH = 66;

/** Metres that the layer which takes the rest is shown with. */
export const restOf = (buildUp: BuildUp): number => {
  const said = buildUp.layers.reduce((sum, l) => sum + (l.thickness ?? 0), 0);
  return Math.min(Math.max(0.12, 0.6 * said), 0.3);
};

/** Metres that a layer is shown with. */
const shown = (layer: Layer, rest: number): number => (layer.thickness == null ? rest : layer.thickness);

/** A value as it was when the desk's picture was last whole: what is drawn beside the drawing comes after it. */
function useAfterDrawing<T>(value: T, revision: number): T {
  const [held, setHeld] = useState(value);
  const drawn = useScreen((s) => s.drawn === revision);
  useEffect(() => {
    if (drawn) setHeld(value);
  }, [drawn, value]);
  return held;
}

type Props = { study: Study; buildUp: BuildUp; width: number; height: number };

/** A build-up as the drawing draws it: a little section, its outer side at the left. `width` and `height` in pixels. */
export function BuildUpSample({ study, buildUp, width, height }: Props) {
  // It is drawn anew when it changes, and not with every change of the study.
  const version = useAfterDrawing(study.samples[buildUp.id!] ?? study.samples.kit ?? "", study.revision);
  const asked = new URLSearchParams({ width: (WIDE / MM).toFixed(2), height: (HIGH / MM).toFixed(2), version });
  return (
    <img
      src={`/api/studies/${study.slug}/build-ups/${encodeURIComponent(buildUp.id!)}/sample?${asked}`}
      alt=""
      aria-hidden
      width={width}
      height={height}
      className="block bg-sheet"
      draggable={false}
    />
  );
}

/** The same, each layer of it to be chosen. */
export function LayeredSample(props: Props & { chosen: number; onChoose: (index: number) => void }) {
  const { buildUp, width, height, chosen, onChoose } = props;
  const rest = restOf(buildUp);
  const total = buildUp.layers.reduce((sum, l) => sum + shown(l, rest), 0) || 1;
  let at = 0;
  const spans = buildUp.layers.map((layer) => {
    const from = at;
    at += shown(layer, rest);
    return [from / total, at / total] as const;
  });
  const inner = width - 2 * ROUND * MM;
  return (
    <div className="relative border-y border-hairline" style={{ width, height: height + 2 }}>
      <BuildUpSample {...props} />
      {buildUp.layers.map((layer, k) => {
        const [from, to] = spans[k]!;
        // A sheet has no thickness: it is taken by a strip round its line.
        const wide = Math.max((to - from) * inner, 6);
        const left = ROUND * MM + ((from + to) / 2) * inner - wide / 2;
        return (
          <button
            key={layer.id}
            type="button"
            className="plain absolute top-0"
            style={{
              left,
              width: wide,
              height,
              background: k === chosen ? "rgb(178 71 42 / 0.12)" : undefined,
              borderBottom: k === chosen ? "3px solid var(--color-sanguine)" : undefined,
            }}
            aria-label={`${layer.name}, ${thicknessWords(layer)}`}
            aria-pressed={k === chosen}
            title={layer.name}
            onClick={() => onChoose(k)}
          />
        );
      })}
    </div>
  );
}

/** How thick a layer is, in words. */
export function thicknessWords(layer: Layer): string {
  if (layer.thickness == null) return "the rest";
  return layer.thickness === 0 ? "a sheet" : `${Math.round(layer.thickness * 1000)}`;
}
