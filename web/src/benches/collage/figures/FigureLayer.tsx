import { useEffect, useRef, useState } from "react";
import { toast } from "sonner";

import { answered, type Figure, http } from "../../../api/client";
import { useScreen } from "../../../desk/screen";
import { at as changeAt, type Editing } from "../../../desk/study";
import { DimensionLine } from "../../../shared/DimensionLine";
import { Grip } from "../../../shared/Grip";
import { putMany } from "./FigureStock";
import {
  calledBy,
  freeId,
  inHand,
  patchOf,
  pathOfRings,
  useFigureStock,
  usePlaced,
  useStanding,
  type Way,
  WAYS,
} from "./standing";

type Stood = { figure: Figure; rings: [number, number][][]; foot: [number, number] | null; on: string };
type Place = [number, number];

const stand = (slug: string, figure: Figure, place: Place, distance: number | null) =>
  answered<Stood>(
    http.POST("/api/studies/{slug}/figures/stand", {
      params: { path: { slug } },
      body: { figure: figure as never, place, distance },
    }) as never,
  );

/** What pointing does while a figure is in the hand. */
export function useFigurePutting(editing: Editing, scale: number) {
  const { item, way } = useStanding();
  const asked = useRef(0);
  const busy = useRef(false);
  const now = useRef(editing);
  useEffect(() => {
    now.current = editing;
  }, [editing]);

  const end = async () => {
    const { places, apart, density, least, count, set, way: how, item: taken } = useStanding.getState();
    const enough = { row: 2, area: 3, group: 1 }[how as "row"] ?? 1;
    if (!taken || places.length < enough) return set({ places: [] });
    set({ places: [], ghost: null });
    const label = how === "row" ? "Put a row" : how === "area" ? "Strew over an area" : "Put a group";
    await putMany(now.current, label, {
      figure: inHand(),
      how,
      places,
      apart,
      density,
      least,
      count,
      seed: useStanding.getState().put + 1,
    });
    useStanding.setState((s) => ({ put: s.put + 1 }));
  };

  useEffect(() => {
    if (!item) return;
    const keys = (event: KeyboardEvent) => {
      if ((event.target as HTMLElement).closest("input, textarea, [role=combobox]")) return;
      const { places, set, take } = useStanding.getState();
      if (event.key === "Enter") void end();
      else if (event.key === "Backspace") set({ places: places.slice(0, -1) });
      else if (event.key === "Escape") places.length ? set({ places: [] }) : take(null);
    };
    window.addEventListener("keydown", keys);
    return () => window.removeEventListener("keydown", keys);
  });

  const put = async (place: Place) => {
    const figure = inHand();
    if (!figure) return;
    const { distance } = useStanding.getState();
    const { study, act } = now.current;
    try {
      const found = await stand(study.slug, figure, place, way === "paper" ? distance : null);
      const id = freeId(study.document.figures ?? []);
      useStanding.setState((s) => ({
        put: s.put + 1,
        ghost: null,
        fresh: { rings: found.rings, since: study.revision },
      }));
      const done = await act({
        do: "figures",
        label: `Put ${useStanding.getState().item?.label.toLowerCase() ?? "a figure"}`.slice(0, 120),
        changes: [changeAt(["figures", id], { ...found.figure, id })],
      });
      if (!done) return useStanding.setState({ fresh: null });
      now.current = { ...now.current, study: done };
      useStanding.setState((s) => ({ fresh: s.fresh && { ...s.fresh, since: done.revision } }));
      void patchOf(study.slug, id, scale, done.revision).then(
        (patch) =>
          patch &&
          useStanding.setState((s) => ({ fresh: s.fresh?.since === done.revision ? { ...s.fresh, patch } : s.fresh })),
      );
      useScreen.getState().choose({ kind: "figure", id });
    } catch (error) {
      toast.error((error as Error).message);
    }
  };

  return {
    active: item !== null,
    move: async (x: number, y: number) => {
      const figure = inHand();
      if (!figure || busy.current) return;
      const number = ++asked.current;
      busy.current = true;
      const { distance } = useStanding.getState();
      const found = await stand(now.current.study.slug, figure, [x, y], way === "paper" ? distance : null).catch(
        () => null,
      );
      busy.current = false;
      if (number === asked.current && useStanding.getState().item)
        useStanding.setState({ ghost: found && { rings: found.rings, on: found.on, at: [x, y] } });
    },
    press: (x: number, y: number) => {
      if (way === "one" || way === "paper") return void put([x, y]);
      const { places, set } = useStanding.getState();
      set({ places: [...places, [x, y]] });
      if (way === "group") void end();
    },
    end,
  };
}

/** The figure in the hand where it would stand, what is clicked so far, and what was just put until the drawing shows it. */
export function FigureLayer({ scale, revision }: { scale: number; revision: number }) {
  const { item, ghost, places, way, fresh } = useStanding();
  const drawn = useScreen((s) => s.drawn);
  const due = fresh && (drawn < fresh.since || revision < fresh.since) ? fresh : null;
  return (
    <g data-testid="figures">
      {due?.patch && (
        <image
          data-testid="figure-patch"
          href={due.patch.src}
          x={due.patch.x}
          y={due.patch.y}
          width={due.patch.width}
          height={due.patch.height}
        />
      )}
      {due && !due.patch && (
        <path
          data-testid="figure-fresh"
          d={pathOfRings(due.rings)}
          fill="rgb(251 248 241 / 0.72)"
          fillRule="evenodd"
          stroke="var(--color-graphite)"
          strokeWidth="1.2"
          vectorEffect="non-scaling-stroke"
        />
      )}
      {item && ghost && (
        <>
          <path
            data-testid="figure-ghost"
            d={pathOfRings(ghost.rings)}
            fill="rgb(178 71 42 / 0.16)"
            fillRule="evenodd"
            stroke="var(--color-sanguine)"
            strokeWidth="1.4"
            vectorEffect="non-scaling-stroke"
          />
          <text
            x={ghost.at[0] + 12 / scale}
            y={ghost.at[1] + 16 / scale}
            fontSize={11.5 / scale}
            fontWeight="600"
            fill="var(--color-graphite)"
            stroke="var(--color-sheet)"
            strokeWidth={3 / scale}
            paintOrder="stroke"
            style={{ fontFamily: "var(--font-sans)" }}
          >
            {ghost.on}
          </text>
        </>
      )}
      {item && places.length > 0 && (
        <path
          d={`M${places.map((p) => p.join(" ")).join("L")}${ghost ? `L${ghost.at.join(" ")}` : ""}${way === "area" ? "Z" : ""}`}
          fill={way === "area" ? "rgb(178 71 42 / 0.08)" : "none"}
          stroke="var(--color-sanguine)"
          strokeWidth="1.6"
          vectorEffect="non-scaling-stroke"
        />
      )}
    </g>
  );
}

/** The figure that is chosen: its outline, and its foot by which it is moved to where the pointer lets it go. */
export function FigureHandles({
  editing,
  figure,
  scale,
  place,
}: {
  editing: Editing;
  figure: Figure;
  scale: number;
  place: (event: { clientX: number; clientY: number }) => Place;
}) {
  const { slug, revision } = editing.study;
  const items = useFigureStock()?.items ?? [];
  const [moved, setMoved] = useState<{ to: Place; rings: Place[][] } | null>(null);
  const busy = useRef(false);
  const placed = usePlaced(editing, figure.id!);
  if (!placed?.foot) return null;
  const at = placed.foot as Place;
  const away = figure.paper ? (figure.paper.distance ?? 30) : null;
  const drag = async (to: Place) => {
    setMoved((m) => ({ to, rings: m?.rings ?? [] }));
    if (busy.current) return;
    busy.current = true;
    const found = await stand(slug, figure, to, away).catch(() => null);
    busy.current = false;
    if (found) setMoved((m) => m && { ...m, rings: found.rings });
  };
  const drop = async (to: Place) => {
    const found = await stand(slug, figure, to, away).catch((error: Error) => (toast.error(error.message), null));
    if (found) {
      useStanding.setState({ fresh: { rings: found.rings, since: revision + 1 } });
      await editing.act({
        do: "figures",
        label: `Move ${calledBy(figure, items)}`.slice(0, 120),
        changes: [changeAt(["figures", figure.id!], { ...found.figure, id: figure.id })],
      });
    }
    setMoved(null);
  };
  return (
    <g data-testid="figure-handles">
      <path
        d={pathOfRings((moved?.rings.length ? moved.rings : placed.rings) as Place[][])}
        fill="rgb(178 71 42 / 0.10)"
        fillRule="evenodd"
        stroke="var(--color-sanguine)"
        strokeWidth="1.4"
        strokeDasharray="4 3"
        vectorEffect="non-scaling-stroke"
      />
      <Grip
        testId="figure-foot"
        label={`${calledBy(figure, items)}, its foot`}
        at={moved?.to ?? at}
        value={at[0]}
        scale={scale}
        place={place}
        onDrag={(to, done) => {
          if (!done) void drag(to);
          else if (Math.hypot(to[0] - at[0], to[1] - at[1]) * scale > 3) void drop(to);
          else setMoved(null);
        }}
        onNudge={([x, y], far) => void drop([at[0] + x * (far ? 5 : 0.5), at[1] + y * (far ? 5 : 0.5)])}
      />
    </g>
  );
}

const CALLED: Record<Way, string> = {
  one: "one by one",
  row: "a row",
  area: "an area",
  group: "a group",
  paper: "on the paper",
};
const HINT: Record<Way, string> = {
  one: "Click what it stands on",
  row: "Click along the row, then Enter",
  area: "Click the corners, then Enter",
  group: "Click where they meet",
  paper: "Click where it is to be",
};

/** While a figure is in the hand: how it is put, and how far apart. */
export function FigureStrip({ editing, onEnd }: { editing: Editing; onEnd: () => void }) {
  const { item, way, apart, density, least, count, distance, places, take, set } = useStanding();
  if (!item) return null;
  const ways = WAYS.filter((w) => w !== "group" || item.figure.kind === "person");
  return (
    <div
      className="absolute inset-x-0 bottom-9 z-[5] flex items-center gap-4 bg-desk px-6 py-1 text-xs"
      aria-label="In the hand"
      role="group"
    >
      <span className="quiet shrink-0">{HINT[way]}; Esc lays it back</span>
      <span className="flex shrink-0 gap-2.5" role="radiogroup" aria-label="How it is put">
        {ways.map((w) => (
          <button
            key={w}
            type="button"
            role="radio"
            aria-checked={w === way}
            className={`plain border-b-2 ${w === way ? "border-sanguine font-semibold" : "border-transparent"}`}
            onClick={() => set({ way: w, places: [] })}
          >
            {CALLED[w]}
          </button>
        ))}
      </span>
      <span className="w-44">
        {way === "row" && (
          <DimensionLine
            label="Apart"
            unit="m"
            min={0.2}
            max={20}
            step={0.1}
            value={apart}
            onChange={(v) => set({ apart: v })}
          />
        )}
        {way === "area" && (
          <DimensionLine
            label="To the m²"
            min={0.01}
            max={3}
            step={0.01}
            value={density}
            onChange={(v) => set({ density: v })}
          />
        )}
        {way === "group" && (
          <DimensionLine
            label="How many"
            digits={0}
            min={2}
            max={8}
            step={1}
            value={count}
            onChange={(v) => set({ count: Math.round(v) })}
          />
        )}
        {way === "paper" && (
          <DimensionLine
            label="As from"
            unit="m"
            digits={0}
            min={2}
            max={200}
            step={1}
            value={distance}
            onChange={(v) => set({ distance: v })}
          />
        )}
      </span>
      {way === "area" && (
        <span className="w-44">
          <DimensionLine
            label="At least"
            unit="m"
            min={0}
            max={10}
            step={0.1}
            value={least}
            onChange={(v) => set({ least: v })}
          />
        </span>
      )}
      {places.length > 0 && (
        <button type="button" className="line-act" onClick={onEnd}>
          Put them
        </button>
      )}
      {item.figure.kind === "person" && way === "one" && (
        <button
          type="button"
          className="plain ml-auto shrink-0 underline decoration-hairline underline-offset-4"
          onClick={() =>
            void putMany(editing, "Seat people", { figure: inHand(), how: "seats" }).then(() => take(null))
          }
        >
          on all seats
        </button>
      )}
    </div>
  );
}
