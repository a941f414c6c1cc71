import type { Fill, Hand } from "../api/client";

/** Pixels of a millimetre on paper, as screens count. */
const MM = 96 / 25.4;

type Props = { fill: Fill; hand?: Hand; scale: number; width: number; height: number; paper?: string };

/** A fill as it is drawn, at true size and at the drawing's own scale; `width` and `height` in pixels. */
export function FillSwatch({ fill, hand, scale, width, height, paper }: Props) {
  const asked = new URLSearchParams({
    width: String(width / MM),
    height: String(height / MM),
    scale: String(scale),
    fill: JSON.stringify(fill),
  });
  if (hand) asked.set("hand", JSON.stringify(hand));
  return (
    <img
      src={`/api/samples/fill?${asked}`}
      alt=""
      aria-hidden
      width={width}
      height={height}
      className="block border border-soft bg-sheet"
      style={{ backgroundColor: paper }}
      draggable={false}
    />
  );
}

/** Strokes of a hand as they are drawn, at true size. */
export function HandSample({
  hand,
  weight,
  width,
  height,
}: {
  hand: Hand;
  weight: number;
  width: number;
  height: number;
}) {
  const asked = new URLSearchParams({
    width: String(width / MM),
    height: String(height / MM),
    weight: String(weight),
    hand: JSON.stringify(hand),
  });
  return (
    <img
      data-testid="hand-sample"
      src={`/api/samples/hand?${asked}`}
      alt="A sample of the hand: a corner, a line and a curve"
      width={width}
      height={height}
      className="block border border-hairline bg-sheet"
      draggable={false}
    />
  );
}
