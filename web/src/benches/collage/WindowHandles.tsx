import { useState } from "react";

import type { Desk, Trace } from "../../api/client";
import { at, type Editing } from "../../desk/study";
import { Grip } from "../../shared/Grip";
import { type Disc, middleOf, placeOf, windowNames } from "./windows";

type Place = [number, number];
type Props = {
  editing: Editing;
  desk: Desk | undefined;
  trace: Trace;
  scale: number;
  place: (event: { clientX: number; clientY: number }) => Place;
};

/** The discs of the chosen trace where they lie: moved by the middle, made larger at the rim, softened at the outer ring. */
export function WindowHandles({ editing, desk, trace, scale, place }: Props) {
  const view = editing.study.document.desk.view;
  const names = windowNames(trace.where);
  return (
    <>
      {(view.discs ?? [])
        .filter((d) => names.includes(d.name))
        .map((disc) => {
          const middle = placeOf(disc, view, desk?.world_to_frame);
          return (
            middle && (
              <DiscHandles key={disc.id} editing={editing} disc={disc} middle={middle} scale={scale} place={place} />
            )
          );
        })}
    </>
  );
}

const ACROSS = { middle: "move", rim: "ew-resize", soft: "ew-resize" } as const;
type Held = keyof typeof ACROSS;

function DiscHandles({
  editing,
  disc,
  middle,
  scale,
  place,
}: {
  editing: Editing;
  disc: Disc;
  middle: Place;
  scale: number;
  place: Props["place"];
}) {
  const view = editing.study.document.desk.view;
  const [held, setHeld] = useState<{ what: Held; at: Place } | null>(null);
  const outline = disc.outline ?? [];
  const reach = outline.length ? Math.max(...outline.map((p) => p[0])) : (disc.radius ?? 30);
  const now = {
    middle: held?.what === "middle" ? held.at : middle,
    radius: held?.what === "rim" ? Math.max(1, Math.hypot(held.at[0] - middle[0], held.at[1] - middle[1])) : reach,
    softness:
      held?.what === "soft"
        ? Math.max(0, 2 * (Math.hypot(held.at[0] - middle[0], held.at[1] - middle[1]) - reach))
        : (disc.softness ?? 10),
  };
  const move = (to: Place) => {
    const [x, y] = middleOf(view);
    editing.view(
      `Move “${disc.name}”`,
      [at(["discs", disc.id, "middle"], { kind: "paper", at: [to[0] - x, to[1] - y] })],
      `${disc.id}.middle`,
    );
  };
  const set = (what: Held, to: Place) => {
    if (what === "middle") return move(to);
    const away = Math.hypot(to[0] - middle[0], to[1] - middle[1]);
    if (what === "soft")
      return editing.view(
        `“${disc.name}” softer`,
        [at(["discs", disc.id, "softness"], Math.round(Math.max(0, 2 * (away - reach)) * 10) / 10)],
        `${disc.id}.softness`,
      );
    if (!outline.length)
      return editing.view(
        `“${disc.name}” larger`,
        [at(["discs", disc.id, "radius"], Math.round(Math.max(1, away) * 10) / 10)],
        `${disc.id}.radius`,
      );
    const by = Math.max(0.05, away / Math.max(reach, 0.1));
    editing.view(
      `“${disc.name}” larger`,
      [
        at(
          ["discs", disc.id, "outline"],
          outline.map(([x, y]) => [x * by, y * by]),
        ),
      ],
      `${disc.id}.outline`,
    );
  };
  const nudge = (what: Held, [x, y]: Place, far: boolean) => {
    const step = far ? 5 : 1;
    if (what === "middle") return move([middle[0] + x * step, middle[1] + y * step]);
    const from = what === "rim" ? reach : reach + (disc.softness ?? 10) / 2;
    set(what, [middle[0] + from + ((x - y) * step) / (what === "soft" ? 2 : 1), middle[1]]);
  };
  const handle = (what: Held, at: Place, called: string, value: number) => (
    <Grip
      at={at}
      scale={scale}
      place={place}
      heavy={what === "middle"}
      dashed={what === "soft"}
      cursor={ACROSS[what]}
      label={`${called} of ${disc.name}`}
      value={value}
      testId={`disc-${what}`}
      onDrag={(to, done) => {
        setHeld(done ? null : { what, at: to });
        set(what, to); // of one gesture the newest counts, so that the drawing follows
      }}
      onNudge={(step, far) => nudge(what, step, far)}
    />
  );
  const ring = (radius: number, dash: string) => (
    <circle
      cx={now.middle[0]}
      cy={now.middle[1]}
      r={Math.max(0, radius)}
      fill="none"
      stroke="var(--color-sanguine)"
      strokeWidth="1.2"
      strokeDasharray={dash}
      vectorEffect="non-scaling-stroke"
    />
  );
  const shift = [now.middle[0], now.middle[1]] as const;
  const grown = outline.length ? now.radius / Math.max(reach, 0.1) : 1;
  return (
    <g data-testid="disc">
      {outline.length ? (
        <path
          d={`M${outline.map(([x, y]) => `${shift[0] + x * grown} ${shift[1] + y * grown}`).join("L")}Z`}
          fill="none"
          stroke="var(--color-sanguine)"
          strokeWidth="1.2"
          vectorEffect="non-scaling-stroke"
        />
      ) : (
        <>
          {ring(now.radius, "")}
          {ring(now.radius - now.softness / 2, "2 4")}
          {ring(now.radius + now.softness / 2, "2 4")}
        </>
      )}
      {handle("rim", [now.middle[0] + now.radius, now.middle[1]], "Size", now.radius)}
      {handle(
        "soft",
        [now.middle[0] + now.radius + now.softness / 2 + (now.softness < 14 / scale ? 14 / scale : 0), now.middle[1]],
        "Softness",
        now.softness,
      )}
      {handle("middle", now.middle, "Place", now.middle[0])}
    </g>
  );
}
