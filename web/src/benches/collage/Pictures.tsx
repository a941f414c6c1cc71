import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { toast } from "sonner";

import { answered, http, type Job, type OwnPicture, Refused } from "../../api/client";
import { type Editing, finished } from "../../desk/study";
import { Choice, Leaf, NumberField, TextField } from "../../shared/controls";
import { DimensionLine } from "../../shared/DimensionLine";
import { ProgressLine } from "../../shared/ProgressLine";
import { StockSwatch } from "./StockSwatch";

type Said = { name?: string; real_width?: number; endless?: "in rows" | "strewn" | "patches"; evened?: number; corners?: [number, number][] };

const GOES_ON = [
  { value: "strewn", label: "strewn, without order" },
  { value: "patches", label: "in patches, with its order" },
  { value: "in rows", label: "in rows, as it is" },
] as const;

/** The pictures of one's own that lie in stock; nothing until they are known. */
export function usePictures(): OwnPicture[] | undefined {
  return useQuery({ queryKey: ["pictures"], queryFn: () => answered<OwnPicture[]>(http.GET("/api/pictures")) }).data;
}

/** Pictures of one's own: dropped in, given their real width, taken into the hand like all of the stock. */
export function Pictures({ editing, dropped, onTaken }: { editing: Editing; dropped: File[]; onTaken: () => void }) {
  const input = useRef<HTMLInputElement>(null);
  const queries = useQueryClient();
  const [taking, setTaking] = useState("");
  const [job, setJob] = useState<Job | null>(null);
  const [said, setSaid] = useState("");
  const [setting, setSetting] = useState<string | null>(null);
  const pictures = usePictures() ?? [];
  const fresh = () => queries.invalidateQueries({ queryKey: ["pictures"] });
  const take = async (files: Iterable<File>) => {
    setSaid("");
    for (const file of files) {
      setTaking(file.name);
      const body = new FormData();
      body.append("file", file);
      try {
        const answer = await fetch("/api/pictures", { method: "POST", body });
        const sent = (await answer.json()) as Job;
        if (!answer.ok) throw new Refused(sent.message, answer.status);
        const { digest, notes } = (await finished(sent, setJob)).result as { digest: string; notes: string[] };
        notes.forEach((note) => toast(`${file.name}: ${note}`));
        await fresh();
        setSetting(digest);
      } catch (error) {
        setSaid(error instanceof Refused ? error.message : `“${file.name}” could not be sent; see whether ./run demo is still running.`);
      }
    }
    setTaking("");
    if (input.current) input.current.value = "";
  };
  useEffect(() => {
    if (!dropped.length) return;
    onTaken();
    void take(dropped);
  });
  const chosen = pictures.find((p) => p.digest === setting);
  return (
    <div>
      {pictures.length === 0 && !taking && <p className="quiet mb-2 text-xs">None yet. Drop one here: PNG, JPEG, WebP, SVG or PDF, of brick, bark, plaster, grass …</p>}
      <ul className="grid grid-cols-2 gap-x-2 gap-y-1.5">
        {pictures.map((p) => (
          <li key={p.digest}>
            <StockSwatch item={p.item} editing={editing} version={JSON.stringify(p.item.trace).length + String((p.item.trace as { real_width?: number }).real_width)} />
            <button type="button" className="plain text-[11px] underline decoration-hairline underline-offset-4" aria-label={`how it lies: ${p.name}`} onClick={() => setSetting(p.digest)}>
              how it lies
            </button>
          </li>
        ))}
      </ul>
      <input ref={input} type="file" multiple accept=".png,.jpg,.jpeg,.webp,.svg,.pdf" className="sr-only" aria-label="Picture file" onChange={(e) => void take([...(e.target.files ?? [])])} />
      <button type="button" className="line-act mt-2 w-full text-xs" disabled={!!taking} onClick={() => input.current?.click()}>
        {taking ? `Taking in ${taking} …` : "Take a picture in …"}
      </button>
      {job && (
        <div className="mt-2">
          <ProgressLine job={job} narrow />
        </div>
      )}
      {said && (
        <p role="alert" className="mt-2 text-xs text-sanguine">
          {said}
        </p>
      )}
      {chosen && <Lies key={chosen.digest} picture={chosen} onDone={() => setSetting(null)} onChanged={fresh} />}
    </div>
  );
}

/** How a picture lies from now on: what of it is taken, how wide that is, how it goes on. */
function Lies({ picture, onDone, onChanged }: { picture: OwnPicture; onDone: () => void; onChanged: () => Promise<void> }) {
  const trace = picture.item.trace as unknown as Required<Said>;
  const change = async (body: Said) => {
    try {
      await answered(http.PATCH("/api/pictures/{digest}", { params: { path: { digest: picture.digest } }, body: body as never }));
    } catch (error) {
      toast.error(error instanceof Refused ? error.message : "That could not be kept; try it again.");
    }
    await onChanged();
  };
  const remove = async () => {
    try {
      await answered(http.DELETE("/api/pictures/{digest}", { params: { path: { digest: picture.digest } } }));
      onDone();
    } catch (error) {
      toast.error(error instanceof Refused ? error.message : "It could not be taken out; try it again.");
    }
    await onChanged();
  };
  return (
    <Leaf open onClose={onDone} title={picture.name} about={`${picture.kind}, ${picture.width} × ${picture.height} pixels. Draw the four corners to what of it is material, seen straight on.`}>
      <Corners picture={picture} corners={trace.corners} onChange={(corners) => void change({ corners })} />
      <TextField label="Name" value={picture.name} onChange={(name) => void change({ name })} />
      <NumberField label="Real width of that" unit="m" digits={3} min={0.002} max={1000} value={trace.real_width} onChange={(real_width) => void change({ real_width })} />
      <Choice label="Goes on" value={trace.endless} options={GOES_ON} onChange={(endless) => void change({ endless })} />
      <DimensionLine label="Evened out" unit="%" digits={0} min={0} max={100} step={1} value={trace.evened * 100} onChange={(v) => void change({ evened: Math.round(v) / 100 })} />
      <div className="mt-6 flex justify-end gap-3">
        <button type="button" className="line-act" onClick={() => void remove()}>
          Take it out of the stock
        </button>
        <button type="button" className="act" onClick={onDone}>
          Done
        </button>
      </div>
    </Leaf>
  );
}

const CALLED = ["top left", "top right", "bottom right", "bottom left"];

/** Four corners that are drawn over a picture, or moved with the arrow keys. */
function Corners({ picture, corners, onChange }: { picture: OwnPicture; corners: [number, number][]; onChange: (corners: [number, number][]) => void }) {
  const box = useRef<SVGSVGElement>(null);
  const [now, setNow] = useState(corners);
  const moved = (k: number, x: number, y: number) => now.map((c, i) => (i === k ? ([Math.min(1, Math.max(0, x)), Math.min(1, Math.max(0, y))] as [number, number]) : c));
  const [w, h] = [100, (100 * picture.height) / picture.width];
  return (
    <div className="relative mx-auto max-h-[38vh] bg-desk" style={{ aspectRatio: `${picture.width} / ${picture.height}`, maxWidth: `calc(38vh * ${picture.width / picture.height})` }}>
      <img src={`/api/pictures/${picture.digest}/picture`} alt={picture.name} className="h-full w-full" draggable={false} />
      <svg ref={box} viewBox={`0 0 ${w} ${h}`} className="absolute inset-0 h-full w-full touch-none overflow-visible">
        <path d={`M${now.map(([x, y]) => `${x * w} ${y * h}`).join("L")}Z`} fill="none" stroke="var(--color-sanguine)" strokeWidth="1.5" vectorEffect="non-scaling-stroke" />
        {now.map(([x, y], k) => (
          <circle
            key={CALLED[k]}
            cx={x * w}
            cy={y * h}
            r="2.4"
            fill="var(--color-sheet)"
            stroke="var(--color-sanguine)"
            strokeWidth="2"
            vectorEffect="non-scaling-stroke"
            tabIndex={0}
            role="slider"
            aria-label={`Corner, ${CALLED[k]}`}
            aria-valuenow={Math.round(x * 100)}
            className="cursor-move"
            onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
            onPointerMove={(e) => {
              if (!e.currentTarget.hasPointerCapture(e.pointerId)) return;
              const rect = box.current!.getBoundingClientRect();
              setNow(moved(k, (e.clientX - rect.left) / rect.width, (e.clientY - rect.top) / rect.height));
            }}
            onPointerUp={() => onChange(now)}
            onKeyDown={(e) => {
              const steps: Record<string, [number, number]> = { ArrowLeft: [-0.01, 0], ArrowRight: [0.01, 0], ArrowUp: [0, -0.01], ArrowDown: [0, 0.01] };
              const step = steps[e.key];
              if (!step) return;
              e.preventDefault();
              const next = moved(k, x + step[0], y + step[1]);
              setNow(next);
              onChange(next);
            }}
          />
        ))}
      </svg>
    </div>
  );
}
