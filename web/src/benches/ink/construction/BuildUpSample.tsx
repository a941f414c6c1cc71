import type { BuildUp, Layer } from "../../../api/client";

/** Pixels of a millimetre on paper, as screens count; millimetres of paper round a sample. */
const MM = 96 / 25.4;
const ROUND = 0.6;
const LOWEST = 10.5;

/** Metres that the layer which takes the rest is shown with. */
export const restOf = (buildUp: BuildUp): number => {
  const said = buildUp.layers.reduce((sum, l) => sum + (l.thickness ?? 0), 0);
  return Math.min(Math.max(0.12, 0.6 * said), 0.3);
};

/** Metres that a layer is shown with. */
const shown = (layer: Layer, rest: number): number => (layer.thickness == null ? rest : layer.thickness);

type Props = { slug: string; revision: number; buildUp: BuildUp; width: number; height: number };

/** A build-up as the drawing draws it: a little section, its outer side at the left. `width` and `height` in pixels. */
export function BuildUpSample({ slug, revision, buildUp, width, height }: Props) {
  // No drawing is lower than a centimetre: a smaller one is seen from farther away.
  const times = Math.max(1, (LOWEST * MM) / height);
  const asked = new URLSearchParams({ width: ((width / MM) * times).toFixed(2), height: ((height / MM) * times).toFixed(2), rest: restOf(buildUp).toFixed(4), revision: String(revision) });
  return (
    <img
      src={`/api/studies/${slug}/build-ups/${encodeURIComponent(buildUp.id!)}/sample?${asked}`}
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
            style={{ left, width: wide, height, background: k === chosen ? "rgb(178 71 42 / 0.12)" : undefined, borderBottom: k === chosen ? "3px solid var(--color-sanguine)" : undefined }}
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
