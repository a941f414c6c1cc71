import type { Fill, Hatch, Pattern, Study } from "../../api/client";

const INK = "#2e2a27";

/** Groups of patterns that lie on what they show, in metres, rather than on the paper. */
const ON_FACES = ["walls", "timber", "roofs"];

/** The scale that swatches are drawn at: the drawing's own, or a usual one in a perspective. */
export function scaleOf(study: Study): number {
  return study.document.desk.view.frame?.scale ?? 100;
}

/** The tone of the paper that the drawing lies on. */
export function paperOf(study: Study): string | undefined {
  const paper = study.look.traces?.find((t) => t.kind === "paper" && t.on !== false);
  return paper && "colour" in paper ? (paper.colour as string) : undefined;
}

/** A fill with a pattern as it is usually laid, into what is cut or onto what is seen. */
export function usualFill(pattern: Pattern | undefined, cut: boolean): Fill {
  if (!pattern) return { kind: "flat", colour: INK, opacity: 1 };
  const onFace = !cut && (ON_FACES.includes(pattern.group) || pattern.name === "water");
  return { ...BARE, pattern: pattern.name, lies: onFace ? "face" : "paper", weight: onFace ? 0.09 : 0.12 };
}

/** A hatch with every setting as it usually is. */
export const BARE: Hatch & { kind: "hatch" } = {
  kind: "hatch",
  pattern: "parallel",
  lies: "paper",
  spacing: null,
  angle: 0,
  scale: 1,
  weight: 0.13,
  colour: INK,
  opacity: 1,
  disorder: 0,
  suggested: 0,
  least: 0.45,
  by: "even",
  steps: 3,
  tile: null,
};

/** What a fill is called. */
export function calledFill(fill: Fill, patterns: Pattern[]): string {
  return fill.kind === "hatch" ? (patterns.find((p) => p.name === fill.pattern)?.label ?? "One’s own") : "Flat";
}
