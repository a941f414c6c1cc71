import { useEffect } from "react";
import { toast } from "sonner";

import { answered, http, type Desk, type Query, type Snap, type Trace } from "../../api/client";
import { at, type Editing } from "../../desk/study";
import { Choice } from "../../shared/controls";
import { DimensionLine } from "../../shared/DimensionLine";
import { useOutlining } from "../ink/outlining";
import {
  type Disc,
  freshName,
  middleOf,
  placeOf,
  type PaintedMask,
  usePainting,
  windowNames,
  withoutWindow,
} from "./windows";

type Props = { editing: Editing; desk: Desk | undefined; trace: Trace; onConfine: (where: Query | null) => void };

/** The discs and painted masks through which a trace shows: made here, set here or where they lie on the drawing. */
export function Windows({ editing, desk, trace, onConfine }: Props) {
  const view = editing.study.document.desk.view;
  const discs = view.discs ?? [];
  const masks = view.masks ?? [];
  const names = windowNames(trace.where);
  const through = (name: string) => {
    const query = { kind: "through", name } as Query;
    onConfine(trace.where ? ({ kind: "all", of: [trace.where, query] } as Query) : query);
  };
  const make = async (what: "disc" | "mask") => {
    const own = freshName([...discs, ...masks], what, what === "disc" ? "Disc" : "Mask");
    const made =
      what === "disc"
        ? { ...own, radius: 40, softness: 14, middle: { kind: "paper", at: [0, 0] }, outline: [] }
        : { ...own, tiles: "" };
    editing.view(`${what === "disc" ? "Cut" : "Begin"} “${own.name}”`, [at([`${what}s`, own.id], made)]);
    through(own.name);
    if (what === "mask") usePainting.getState().set({ mask: own.id });
  };
  const remove = (room: "discs" | "masks", window: { id: string; name: string }) => {
    onConfine(withoutWindow(trace.where, window.name));
    // Another trace may be seen through it.
    const shared = (editing.study.look.traces ?? []).some(
      (t) => t.id !== trace.id && windowNames(t.where).includes(window.name),
    );
    if (!shared) editing.view(`Take “${window.name}” away`, [{ path: [room, window.id], do: "drop" }]);
  };
  return (
    <section aria-label="Windows" className="my-1">
      <p className="flex flex-wrap gap-x-3 text-xs">
        <button
          type="button"
          className="plain font-semibold underline decoration-hairline underline-offset-4"
          onClick={() => void make("disc")}
        >
          Through a disc
        </button>
        <button
          type="button"
          className="plain font-semibold underline decoration-hairline underline-offset-4"
          onClick={() => void make("mask")}
        >
          Through a painted mask
        </button>
      </p>
      {discs
        .filter((d) => names.includes(d.name))
        .map((d) => (
          <DiscSettings key={d.id} editing={editing} desk={desk} disc={d} onRemove={() => remove("discs", d)} />
        ))}
      {masks
        .filter((m) => names.includes(m.name))
        .map((m) => (
          <MaskSettings key={m.id} editing={editing} mask={m} onRemove={() => remove("masks", m)} />
        ))}
    </section>
  );
}

function DiscSettings({
  editing,
  desk,
  disc,
  onRemove,
}: {
  editing: Editing;
  desk: Desk | undefined;
  disc: Disc;
  onRemove: () => void;
}) {
  const view = editing.study.document.desk.view;
  const outlining = useOutlining();
  const change = (label: string, field: string, value: unknown) =>
    editing.view(label, [at(["discs", disc.id, field], value)], `${disc.id}.${field}`);
  const place = placeOf(disc, view, desk?.world_to_frame);
  const lie = async (on: "paper" | "model") => {
    if (!place) return;
    const [x, y] = middleOf(view);
    if (on === "paper")
      return change(`Lay “${disc.name}” on the paper`, "middle", { kind: "paper", at: [place[0] - x, place[1] - y] });
    try {
      const body = {
        x: place[0],
        y: place[1],
        reach: 0,
        lies: "face" as const,
        height: 0,
        plane: null,
        on: null,
        before: null,
      };
      const found = await answered<Snap>(
        http.POST("/api/studies/{slug}/snap", { params: { path: { slug: editing.study.slug } }, body }),
      );
      change(`Tie “${disc.name}” to the model`, "middle", { kind: "model", at: found.point });
    } catch (error) {
      toast.error(
        error instanceof Error ? error.message : "There is nothing of the model under its middle; move it there first.",
      );
    }
  };
  const draw = () =>
    place &&
    outlining.begin((corners) => {
      const middle = [
        corners.reduce((s, c) => s + c[0], 0) / corners.length,
        corners.reduce((s, c) => s + c[1], 0) / corners.length,
      ] as const;
      const [x, y] = middleOf(view);
      editing.view(`Draw the shape of “${disc.name}”`, [
        at(
          ["discs", disc.id, "outline"],
          corners.map((c) => [c[0] - middle[0], c[1] - middle[1]]),
        ),
        at(["discs", disc.id, "middle"], { kind: "paper", at: [middle[0] - x, middle[1] - y] }),
      ]);
    });
  return (
    <div className="mt-2 border-l border-hairline pl-3" role="group" aria-label={disc.name}>
      <Choice
        label={disc.name}
        value={disc.middle?.kind ?? "paper"}
        options={[
          { value: "paper", label: "lies on the paper" },
          { value: "model", label: "is tied to the model" },
        ]}
        onChange={(on) => void lie(on)}
      />
      {!disc.outline?.length && (
        <DimensionLine
          label="Radius"
          unit="mm"
          digits={0}
          min={1}
          max={200}
          step={1}
          value={disc.radius ?? 30}
          onChange={(v) => change(`“${disc.name}” of ${Math.round(v)} mm`, "radius", v)}
        />
      )}
      <DimensionLine
        label="Softness"
        unit="mm"
        digits={0}
        min={0}
        max={100}
        step={1}
        value={disc.softness ?? 10}
        onChange={(v) => change(`“${disc.name}” softer`, "softness", v)}
      />
      <p className="text-xs">
        {outlining.corners ? (
          <span className="quiet">Click the corners on the drawing; Enter closes the shape.</span>
        ) : (
          <>
            <button
              type="button"
              className="plain mr-3 underline decoration-hairline underline-offset-4"
              onClick={draw}
            >
              Draw its shape
            </button>
            {!!disc.outline?.length && (
              <button
                type="button"
                className="plain mr-3 underline decoration-hairline underline-offset-4"
                onClick={() => change(`“${disc.name}” round`, "outline", [])}
              >
                Make it round
              </button>
            )}
            <button type="button" className="plain underline decoration-hairline underline-offset-4" onClick={onRemove}>
              Take it away
            </button>
          </>
        )}
      </p>
    </div>
  );
}

function MaskSettings({ editing, mask, onRemove }: { editing: Editing; mask: PaintedMask; onRemove: () => void }) {
  const painting = usePainting();
  // Whoever goes on to another trace lays the brush down.
  useEffect(
    () => () => void (usePainting.getState().mask === mask.id && usePainting.getState().set({ mask: null })),
    [mask.id],
  );
  const on = painting.mask === mask.id;
  return (
    <div className="mt-2 border-l border-hairline pl-3 text-xs" role="group" aria-label={mask.name}>
      <p className="quiet py-1">
        {mask.name}: {mask.tiles ? "painted by hand" : "nothing is painted yet, so that nothing shows"}
      </p>
      <button
        type="button"
        className="line-act"
        aria-pressed={on}
        onClick={() => painting.set({ mask: on ? null : mask.id })}
      >
        {on ? "Lay the brush down" : "Paint on it"}
      </button>
      {mask.tiles && (
        <button
          type="button"
          className="plain ml-3 underline decoration-hairline underline-offset-4"
          onClick={() => editing.view(`Clear “${mask.name}”`, [at(["masks", mask.id, "tiles"], "")])}
        >
          Clear it
        </button>
      )}
      <button type="button" className="plain ml-3 underline decoration-hairline underline-offset-4" onClick={onRemove}>
        Take it away
      </button>
    </div>
  );
}
