import { useRef, useState } from "react";
import { toast } from "sonner";

import { answered, type Hatch, http } from "../../api/client";

export type Tile = NonNullable<Hatch["tile"]>;
type Place = [number, number];

/** Pixels of the board on which a tile is drawn. */
const BOARD = 150;
/** Pixels up to which a drag is a click, which is a dot. */
const CLICK = 4;

/** A tile of one's own: lines are drawn by dragging, dots by clicking; or it is taken from an SVG. Around it lie its neighbours. */
export function OwnTile({ tile, onChange }: { tile: Tile; onChange: (tile: Tile, label: string) => void }) {
  const [line, setLine] = useState<[Place, Place] | null>(null);
  const board = useRef<SVGSVGElement>(null);
  const file = useRef<HTMLInputElement>(null);
  const height = tile.height ?? 1;
  const marks = (tile.marks ?? []) as Place[][];
  const at = (e: React.PointerEvent): Place => {
    const box = board.current!.getBoundingClientRect();
    const snap = (n: number) => Math.round(n * 40) / 40;
    return [snap((e.clientX - box.left) / BOARD), snap(height - (e.clientY - box.top) / BOARD)];
  };
  const fromSvg = async (chosen: File) => {
    try {
      onChange(
        await answered<Tile>(http.POST("/api/samples/tile", { body: { text: await chosen.text() } })),
        `Tile from ${chosen.name}`,
      );
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  const path = (mark: Place[]) =>
    mark.map((p, k) => `${k ? "L" : "M"}${p[0] * BOARD} ${(height - p[1]) * BOARD}`).join("");
  const shown = (faint: boolean) =>
    marks.map((mark, k) =>
      mark.length > 1 ? (
        <path
          key={k}
          d={path(mark)}
          fill="none"
          stroke="var(--color-graphite)"
          strokeWidth={faint ? 0.6 : 1.2}
          opacity={faint ? 0.35 : 1}
        />
      ) : (
        <circle
          key={k}
          cx={mark[0]![0] * BOARD}
          cy={(height - mark[0]![1]) * BOARD}
          r={faint ? 1.4 : 2}
          fill="var(--color-graphite)"
          opacity={faint ? 0.35 : 1}
        />
      ),
    );
  return (
    <div className="py-2">
      <p className="quiet mb-1 text-xs">Drag to draw a line, click to set a dot. The tile is laid edge to edge.</p>
      <div className="overflow-hidden border border-hairline bg-sheet p-6">
        <svg
          ref={board}
          role="application"
          aria-label={`The tile, ${marks.length} marks`}
          width={BOARD}
          height={BOARD * height}
          className="block cursor-crosshair touch-none overflow-visible"
          onPointerDown={(e) => {
            e.currentTarget.setPointerCapture(e.pointerId);
            setLine([at(e), at(e)]);
          }}
          onPointerMove={(e) => line && setLine([line[0], at(e)])}
          onPointerUp={() => {
            if (!line) return;
            const far = Math.hypot(line[1][0] - line[0][0], line[1][1] - line[0][1]) * BOARD > CLICK;
            setLine(null);
            onChange(
              { ...tile, marks: [...marks, far ? line : [line[0]]] } as Tile,
              far ? "Draw a line in a tile" : "Set a dot in a tile",
            );
          }}
        >
          {[-1, 0, 1].flatMap((x) =>
            [-1, 0, 1].map((y) =>
              x || y ? (
                <g key={`${x} ${y}`} transform={`translate(${x * BOARD} ${y * BOARD * height})`}>
                  {shown(true)}
                </g>
              ) : null,
            ),
          )}
          <rect
            width={BOARD}
            height={BOARD * height}
            fill="none"
            stroke="var(--color-sanguine)"
            strokeDasharray="3 3"
          />
          {shown(false)}
          {line && <path d={path(line)} stroke="var(--color-sanguine)" strokeWidth="1.4" fill="none" />}
        </svg>
      </div>
      <p className="mt-1 flex gap-3 text-xs font-semibold">
        <button
          type="button"
          className="plain underline decoration-hairline underline-offset-4"
          disabled={!marks.length}
          onClick={() => onChange({ ...tile, marks: marks.slice(0, -1) } as Tile, "Take a mark out of a tile")}
        >
          Take the last out
        </button>
        <button
          type="button"
          className="plain underline decoration-hairline underline-offset-4"
          onClick={() => file.current!.click()}
        >
          From SVG …
        </button>
      </p>
      <input
        ref={file}
        type="file"
        accept=".svg,image/svg+xml"
        className="sr-only"
        aria-label="An SVG to take the tile from"
        tabIndex={-1}
        onChange={(e) => {
          const chosen = e.target.files?.[0];
          e.target.value = "";
          if (chosen) void fromSvg(chosen);
        }}
      />
    </div>
  );
}
