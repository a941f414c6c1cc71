import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useLayoutEffect, useRef, useState } from "react";

import { type Board, type BoardDrawing, http, type PlacedDrawing } from "../../../api/client";
import { useScreen } from "../../../desk/screen";
import type { Editing } from "../../../desk/study";
import { cancel, isOpen } from "../../../shared/jobs";
import { ProgressLine } from "../../../shared/ProgressLine";
import {
  caughtBy,
  type Guide,
  guidesFor,
  type Kind,
  moduleEdges,
  pictureOf,
  setOn,
  shownBox,
  type Spot,
  useBoardState,
} from "./boards";

/** Pixels within which a drawing catches on a guide. */
const REACH = 7;
const STEPS: Record<string, Spot> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

type Moving = { kind: Kind; id: string; to: Spot; by: (Guide | null)[] };

/** A page of a board as it prints, on which drawings, texts and pictures are put in their places. */
export function BoardStage({ editing, board }: { editing: Editing; board: Board }) {
  const { study } = editing;
  const { chosen, choose, page } = useScreen();
  const [zoom, setZoom] = useState(1);
  const fine = zoom * Math.min(window.devicePixelRatio, 2) > 1.6;
  // What was stopped is only looked at until it shall go on, or until the study is another.
  const [stoppedAt, setStoppedAt] = useState<number | null>(null);
  const stopped = stoppedAt === study.revision;
  const queries = useQueryClient();
  const { data: state } = useBoardState(study.slug, board.id, study.revision, { fine, begins: !stopped });
  const room = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState<Spot>([0, 0]);
  const [moving, setMoving] = useState<Moving | null>(null);
  const number = Math.min(page, board.pages ?? 1);
  useLayoutEffect(() => {
    const box = room.current!;
    const watch = new ResizeObserver(() => setSize([box.clientWidth, box.clientHeight]));
    watch.observe(box);
    return () => watch.disconnect();
  }, []);
  const [width, height] = [board.page!.width ?? 841, board.page!.height ?? 594];
  const scale = Math.max(0.05, Math.min((size[0] - 48) / width, (size[1] - 40) / height)) * zoom;
  const mine = chosen.Sheet?.kind === "placed" ? chosen.Sheet.id : null;
  const taken = useRef<{ x: number; y: number; from: Spot; guides: Guide[] } | null>(null);

  const put = async (kind: Kind, id: string, to: Spot, by: (Guide | null)[]) => {
    const rounded = to.map((v) => Math.round(v * 1000) / 1000) as Spot;
    const lines = kind === "drawings" ? { line_x: by[0]?.line ?? "", line_y: by[1]?.line ?? "" } : {};
    await setOn(editing, board, kind, id, "Move on the board", { at: rounded, ...lines });
    setMoving(null);
  };

  /** What takes hold of a thing on the page: by the pointer, and by the arrow keys. */
  const hold = (kind: Kind, id: string, here: Spot, placed?: PlacedDrawing) => ({
    tabIndex: 0,
    role: "button" as const,
    onPointerDown: (e: React.PointerEvent) => {
      e.stopPropagation();
      e.currentTarget.setPointerCapture(e.pointerId);
      (e.currentTarget as HTMLElement).focus();
      taken.current = {
        x: e.clientX,
        y: e.clientY,
        from: here,
        guides: placed && state ? guidesFor(board, state, placed) : [],
      };
      choose({ kind: "placed", id });
    },
    onPointerMove: (e: React.PointerEvent) => {
      const held = taken.current;
      if (!held) return;
      const free: Spot = [held.from[0] + (e.clientX - held.x) / scale, held.from[1] + (e.clientY - held.y) / scale];
      if (!moving && Math.hypot(e.clientX - held.x, e.clientY - held.y) < 3) return;
      setMoving({
        kind,
        id,
        ...(({ at, by }) => ({ to: at, by }))(caughtBy(e.altKey ? [] : held.guides, free, REACH / scale)),
      });
    },
    onPointerUp: () => {
      taken.current = null;
      if (moving?.id === id) void put(kind, id, moving.to, moving.by);
    },
    onKeyDown: (e: React.KeyboardEvent) => {
      const step = STEPS[e.key];
      if (step) {
        e.preventDefault();
        e.stopPropagation();
        const far = e.shiftKey ? 10 : 1;
        const to: Spot = [here[0] + step[0] * far, here[1] + step[1] * far];
        // Along a line that it keeps it stays on it; moved off it, it stands by itself.
        const kept = [placed?.line_x && !step[0] ? placed.line_x : "", placed?.line_y && !step[1] ? placed.line_y : ""];
        void put(
          kind,
          id,
          to,
          kept.map((line, way) => (line ? { way: way as 0 | 1, at: to[way]!, said: "", line } : null)),
        );
      } else if (e.key === "Delete") {
        e.preventDefault();
        void editing.act({
          do: "boards",
          label: "Take it off the board",
          changes: [{ path: ["boards", board.id!, kind, id], do: "drop" }],
        });
      }
    },
  });

  const placeOf = (row: BoardDrawing): Spot => (moving?.id === row.id ? moving.to : (row.at as Spot));
  const working = isOpen(state?.job);
  const again = async () => {
    await http.POST("/api/studies/{slug}/boards/{board_id}", {
      params: { path: { slug: study.slug, board_id: board.id! }, query: { fine, again: true } },
    });
    await queries.invalidateQueries({ queryKey: ["board", study.slug, board.id] });
  };
  return (
    <div className="relative flex h-full min-h-0 flex-col bg-desk">
      <div
        ref={room}
        className="relative min-h-0 flex-1 overflow-auto"
        data-testid="board"
        data-fresh={!!state && state.revision === study.revision && state.drawings.every((d) => d.fresh || d.problem)}
        onPointerDown={() => choose({ kind: "note", id: "board" })}
        onWheel={(e) => e.ctrlKey && setZoom((z) => Math.min(6, Math.max(0.5, z * Math.exp(-e.deltaY * 0.0014))))}
      >
        <div
          className="relative outline outline-1 outline-[#d5c9b5]"
          style={{
            width: width * scale,
            height: height * scale,
            background: board.page!.colour,
            margin: `${Math.max(20, (size[1] - height * scale) / 2)}px ${Math.max(24, (size[0] - width * scale) / 2)}px`,
            visibility: size[0] ? "visible" : "hidden",
          }}
          aria-label={`Page ${number} of ${board.name}`}
        >
          {moving && <Modules board={board} scale={scale} />}
          {(board.drawings ?? []).map((placed) => {
            const row = state?.drawings.find((d) => d.id === placed.id);
            if (!row || (placed.page ?? 1) !== number) return null;
            const here = placeOf(row);
            const box = shownBox(placed, row.size);
            const cut =
              ((placed.frame ?? []) as Spot[]).length >= 3
                ? `polygon(${(placed.frame as Spot[]).map((p) => `${p[0] * scale}px ${p[1] * scale}px`).join(",")})`
                : undefined;
            return (
              <div
                key={placed.id}
                className="absolute"
                style={{
                  left: here[0] * scale,
                  top: here[1] * scale,
                  width: row.size[0] * scale,
                  height: row.size[1] * scale,
                  mixBlendMode: row.paper ? undefined : "multiply",
                }}
              >
                <Shown
                  editing={editing}
                  board={board}
                  row={row}
                  fine={fine}
                  clip={cut}
                  at={box.map((v) => v * scale) as [number, number, number, number]}
                  said={row.problem || `${row.name} is ${working ? "being drawn …" : "not drawn"}`}
                />
                <div
                  {...hold("drawings", placed.id!, here, placed)}
                  aria-label={`${row.mark} ${row.name}, on the board; arrows move it`}
                  aria-pressed={mine === placed.id}
                  data-testid="on-board"
                  className="absolute cursor-move"
                  style={{
                    left: box[0] * scale,
                    top: box[1] * scale,
                    width: (box[2] - box[0]) * scale,
                    height: (box[3] - box[1]) * scale,
                    outline: mine === placed.id ? "1.5px solid var(--color-sanguine)" : undefined,
                  }}
                />
                {mine === placed.id && (
                  <Corners
                    key={JSON.stringify(placed.frame)}
                    placed={placed}
                    size={row.size as Spot}
                    scale={scale}
                    onChange={(frame) =>
                      void setOn(editing, board, "drawings", placed.id!, "Shape of a drawing", { frame })
                    }
                  />
                )}
              </div>
            );
          })}
          {state && (
            <img
              src={`/api/studies/${study.slug}/boards/${board.id}/pages/${number}/over?key=${state.over}`}
              alt=""
              aria-hidden
              className="pointer-events-none absolute inset-0 h-full w-full"
              draggable={false}
            />
          )}
          {(["texts", "pictures"] as const).flatMap((kind) =>
            (board[kind] ?? [])
              .filter((r) => r.page === number || r.page === 0)
              .map((thing) => {
                const here = moving?.id === thing.id ? moving.to : ((thing.at ?? [0, 0]) as Spot);
                const words = kind === "texts" ? ((thing as { text?: string }).text ?? "") : "picture";
                const high =
                  kind === "texts"
                    ? ((thing as { size?: number }).size ?? 3.5) * 1.9 * Math.max(1, words.split("\n").length)
                    : 20;
                const wide =
                  kind === "texts"
                    ? (thing as { wide?: number }).wide ||
                      Math.max(
                        20,
                        Math.max(...words.split("\n").map((l) => l.length)) *
                          ((thing as { size?: number }).size ?? 3.5) *
                          0.85,
                      )
                    : ((thing as { width?: number }).width ?? 60);
                return (
                  <div
                    key={thing.id}
                    {...hold(kind, thing.id!, here)}
                    aria-label={`${words.slice(0, 40) || "Text"}, on the board; arrows move it`}
                    aria-pressed={mine === thing.id}
                    data-testid="on-board"
                    className="absolute cursor-move"
                    style={{
                      left: here[0] * scale,
                      top: here[1] * scale,
                      width: wide * scale,
                      height: high * scale,
                      outline: mine === thing.id ? "1.5px dashed var(--color-sanguine)" : undefined,
                    }}
                  />
                );
              }),
          )}
          {moving && (
            <Guides
              moving={moving}
              width={width}
              height={height}
              scale={scale}
              lies={state?.drawings ?? []}
              board={board}
            />
          )}
        </div>
      </div>
      <div className="h-9 px-7 pb-2">
        {working ? (
          <ProgressLine
            job={state!.job!}
            onStop={() => {
              setStoppedAt(study.revision);
              cancel(state!.job!);
            }}
          />
        ) : stopped && state?.drawings.some((d) => !d.fresh && !d.problem) ? (
          <p role="status" className="flex items-center gap-3">
            <span className="inline-block h-2 w-2 bg-ochre-mark" aria-hidden />
            Stale: some drawings are as they were before, or are not there. The work was stopped.
            <button type="button" className="line-act text-xs" onClick={() => setStoppedAt(null)}>
              Draw them now
            </button>
          </p>
        ) : state?.job?.state === "failed" ? (
          <p role="alert" className="flex items-center gap-3 text-sanguine">
            {state.job.message}
            <button type="button" className="line-act text-xs" onClick={() => void again()}>
              Try again
            </button>
          </p>
        ) : (
          <p className="quiet text-xs">
            Drag drawings by guides of axes, levels, edges and modules; Alt leaves guides out. Arrows move by 1 mm, with
            Shift by 10.
          </p>
        )}
      </div>
    </div>
  );
}

/** The picture of a drawing, the last one until the next is whole; without any, what is said instead, where its frame begins. */
function Shown({
  editing,
  board,
  row,
  fine,
  clip,
  at,
  said,
}: {
  editing: Editing;
  board: Board;
  row: BoardDrawing;
  fine: boolean;
  clip: string | undefined;
  at: [number, number, number, number];
  said: string;
}) {
  const [src, setSrc] = useState<string | null>(null);
  const address = row.fresh ? pictureOf(editing.study.slug, board.id!, row, fine) : null;
  useEffect(() => {
    if (!address) return;
    let gone = false;
    const image = new Image();
    image.onload = () => !gone && setSrc(address);
    image.src = address;
    return () => {
      gone = true;
    };
  }, [address]);
  return (
    <div className="pointer-events-none absolute inset-0" style={{ clipPath: clip }}>
      {src ? (
        <img src={src} alt={`The drawing “${row.name}”`} className="h-full w-full" draggable={false} />
      ) : (
        <p className="quiet absolute p-2 text-xs" style={{ left: at[0], top: at[1], maxWidth: at[2] - at[0] }}>
          {said}
        </p>
      )}
    </div>
  );
}

/** The corners of a drawing's frame: drawn, or moved with the arrow keys. */
function Corners({
  placed,
  size,
  scale,
  onChange,
}: {
  placed: PlacedDrawing;
  size: Spot;
  scale: number;
  onChange: (frame: Spot[]) => void;
}) {
  const points = (placed.frame ?? []) as Spot[];
  const [given, setGiven] = useState<Spot[]>(points.length >= 3 ? points : [[0, 0], [size[0], 0], size, [0, size[1]]]);
  const isBox =
    given.length === 4 &&
    given.every((p, k) => {
      const q = given[(k + 1) % 4]!;
      return Math.abs(p[0] - q[0]) < 0.01 || Math.abs(p[1] - q[1]) < 0.01;
    });
  /** A corner of a rectangle takes its neighbours along, so that it stays one; with the alt key it goes alone. */
  const moved = (index: number, to: Spot, alone: boolean): Spot[] => {
    const at: Spot = [Math.min(size[0], Math.max(0, to[0])), Math.min(size[1], Math.max(0, to[1]))];
    const old = given[index]!;
    return given.map((p, k) => {
      if (k === index) return at;
      if (!isBox || alone) return p;
      return [Math.abs(p[0] - old[0]) < 0.01 ? at[0] : p[0], Math.abs(p[1] - old[1]) < 0.01 ? at[1] : p[1]];
    });
  };
  const held = useRef<{ x: number; y: number; from: Spot } | null>(null);
  return (
    <>
      {given.map((p, k) => (
        <div
          key={k}
          role="slider"
          tabIndex={0}
          aria-label={`Corner ${k + 1} of its frame`}
          aria-valuenow={Math.round(p[0] * 10) / 10}
          data-testid="frame-corner"
          className="absolute h-2.5 w-2.5 cursor-crosshair border border-sanguine bg-sheet"
          style={{ left: p[0] * scale - 5, top: p[1] * scale - 5 }}
          onPointerDown={(e) => {
            e.stopPropagation();
            e.currentTarget.setPointerCapture(e.pointerId);
            held.current = { x: e.clientX, y: e.clientY, from: p };
          }}
          onPointerMove={(e) => {
            const h = held.current;
            if (h)
              setGiven(
                moved(k, [h.from[0] + (e.clientX - h.x) / scale, h.from[1] + (e.clientY - h.y) / scale], e.altKey),
              );
          }}
          onPointerUp={() => {
            if (held.current) onChange(given.map((q) => q.map((v) => Math.round(v * 100) / 100) as Spot));
            held.current = null;
          }}
          onKeyDown={(e) => {
            const step = STEPS[e.key];
            if (!step) return;
            e.preventDefault();
            e.stopPropagation();
            const far = e.shiftKey ? 10 : 1;
            onChange(moved(k, [p[0] + step[0] * far, p[1] + step[1] * far], e.altKey));
          }}
        />
      ))}
    </>
  );
}

function Modules({ board, scale }: { board: Board; scale: number }) {
  const page = board.page!;
  const [width, height] = [page.width ?? 841, page.height ?? 594];
  const margin = page.module!.margin ?? 15;
  return (
    <svg
      className="pointer-events-none absolute inset-0"
      width={width * scale}
      height={height * scale}
      viewBox={`0 0 ${width} ${height}`}
      aria-hidden
    >
      {moduleEdges(board, 0).map((x) => (
        <line
          key={`x${x}`}
          x1={x}
          x2={x}
          y1={margin}
          y2={height - margin}
          stroke="var(--color-hairline)"
          strokeOpacity="0.55"
          strokeWidth="0.7"
          vectorEffect="non-scaling-stroke"
        />
      ))}
      {moduleEdges(board, 1).map((y) => (
        <line
          key={`y${y}`}
          x1={margin}
          x2={width - margin}
          y1={y}
          y2={y}
          stroke="var(--color-hairline)"
          strokeOpacity="0.55"
          strokeWidth="0.7"
          vectorEffect="non-scaling-stroke"
        />
      ))}
    </svg>
  );
}

/** The guides that something catches on while it is moved. */
function Guides({
  moving,
  width,
  height,
  scale,
  lies,
  board,
}: {
  moving: Moving;
  width: number;
  height: number;
  scale: number;
  lies: BoardDrawing[];
  board: Board;
}) {
  const placed = (board.drawings ?? []).find((d) => d.id === moving.id);
  const row = lies.find((d) => d.id === moving.id);
  const box = placed && row ? shownBox(placed, row.size) : [0, 0, 0, 0];
  return (
    <svg
      className="pointer-events-none absolute inset-0"
      width={width * scale}
      height={height * scale}
      viewBox={`0 0 ${width} ${height}`}
      data-testid="guides"
    >
      {moving.by.map((guide, way) => {
        if (!guide) return null;
        const at = moving.to[way]! + box[way]!;
        const line = way === 0 ? { x1: at, x2: at, y1: 0, y2: height } : { x1: 0, x2: width, y1: at, y2: at };
        return (
          <g key={way}>
            <line
              {...line}
              stroke="var(--color-sanguine)"
              strokeWidth="1"
              strokeDasharray={guide.line ? "8 3 2 3" : "3 3"}
              vectorEffect="non-scaling-stroke"
            />
            <text
              x={way === 0 ? at + 2 : 4}
              y={way === 0 ? 14 / scale : at - 2}
              fontSize={11 / scale}
              fill="var(--color-sanguine)"
            >
              {guide.said}
            </text>
          </g>
        );
      })}
    </svg>
  );
}
