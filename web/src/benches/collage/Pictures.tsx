import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { toast } from "sonner";

import { answered, type Desk, http, type Job, type OwnPicture, Refused } from "../../api/client";
import { useScreen } from "../../desk/screen";
import { type Editing, finished } from "../../desk/study";
import { Choice, Leaf, NumberField, TextField } from "../../shared/controls";
import { DimensionLine } from "../../shared/DimensionLine";
import { ProgressLine } from "../../shared/ProgressLine";
import { layAs } from "./OfPicture";
import { Points } from "./Points";
import { ownFigure, useStanding } from "./figures/standing";
import { free, versionOf } from "./stock";
import { StockSwatch } from "./StockSwatch";

type Said = {
  name?: string;
  real_width?: number;
  endless?: "in rows" | "strewn" | "patches";
  evened?: number;
  corners?: [number, number][];
};

const GOES_ON = [
  { value: "strewn", label: "strewn, without order" },
  { value: "patches", label: "in patches, with its order" },
  { value: "in rows", label: "in rows, as it is" },
] as const;

const CALLED = ["Corner, top left", "Corner, top right", "Corner, bottom right", "Corner, bottom left"];
type Otherwise = Parameters<typeof layAs>[0];
const OTHERWISE: [Otherwise, string][] = [
  ["backdrop", "a backdrop"],
  ["register", "a picture in register"],
  ["level-lines", "level lines of its greys"],
  ["few-papers", "cut out of few papers"],
  ["sketch", "a photographed sketch"],
];

const FLAT: [Otherwise, string] = ["flat-drawing", "a flat drawing"];

/** The pictures of one's own that lie in stock; nothing until they are known. */
export function usePictures(): OwnPicture[] | undefined {
  return useQuery({ queryKey: ["pictures"], queryFn: () => answered<OwnPicture[]>(http.GET("/api/pictures")) }).data;
}

/** Pictures of one's own: dropped in, given their real width, taken into the hand like all of the stock. */
export function Pictures({
  editing,
  desk,
  dropped,
  onTaken,
}: {
  editing: Editing;
  desk: Desk | undefined;
  dropped: File[];
  onTaken: () => void;
}) {
  const { everywhere, choose } = useScreen();
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
        setSaid(
          error instanceof Refused
            ? error.message
            : `“${file.name}” could not be sent; see whether ./run demo is still running.`,
        );
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
  const lay = async (picture: OwnPicture, kind: Otherwise) => {
    try {
      const traces = editing.study.look.traces!;
      const made = await layAs(kind, picture, desk?.framing ?? "");
      const trace = {
        ...made,
        id: free(
          kind,
          traces.map((t) => t.id),
        ),
        name: free(
          picture.name,
          traces.map((t) => t.name),
          " ",
        ),
      };
      await editing.act({
        do: "pour_trace",
        label: `Lay ${trace.name}`.slice(0, 120),
        trace: trace as never,
        everywhere: everywhere.Collage,
      });
      choose({ kind: "trace", id: trace.id });
      setSetting(null);
    } catch (error) {
      toast.error(error instanceof Error ? error.message : "It could not be laid; try it again.");
    }
  };
  const photograph = async () => {
    setSaid("");
    try {
      const sent = await answered<Job>(
        http.POST("/api/studies/{slug}/photographs", {
          params: { path: { slug: editing.study.slug } },
          body: { seed: 1 + pictures.length },
        }),
      );
      const { digest } = (await finished(sent, setJob)).result as { digest: string };
      await fresh();
      setSetting(digest);
    } catch (error) {
      setSaid(error instanceof Error ? error.message : "The photograph could not be taken; try it again.");
    }
  };
  const chosen = pictures.find((p) => p.digest === setting);
  return (
    <div>
      {pictures.length === 0 && !taking && (
        <p className="quiet mb-2 text-xs">
          None yet. Drop one here: PNG, JPEG, WebP, SVG or PDF, of brick, bark, plaster, grass; a body as GLB …
        </p>
      )}
      <ul className="grid grid-cols-2 gap-x-2 gap-y-1.5">
        {pictures.map((p) => (
          <li key={p.digest}>
            {p.tall ? (
              <button
                type="button"
                className="plain block w-full"
                title={`${p.name}: take it, and click where it stands`}
                onClick={() => useStanding.getState().take(ownFigure(p))}
              >
                <img
                  src={`/api/pictures/${p.digest}/picture`}
                  alt=""
                  className="block h-[54px] w-full bg-sheet object-contain outline outline-1 outline-[#d5c9b5]"
                />
                <span className="block truncate pt-0.5 text-xs">{p.name}</span>
              </button>
            ) : (
              <StockSwatch item={p.item} editing={editing} version={versionOf(p.item.trace)} />
            )}
            <button
              type="button"
              className="plain text-[11px] underline decoration-hairline underline-offset-4"
              aria-label={`${p.tall ? "about it" : "how it lies"}: ${p.name}`}
              onClick={() => setSetting(p.digest)}
            >
              {p.tall ? "about it" : "how it lies"}
            </button>
          </li>
        ))}
      </ul>
      <input
        ref={input}
        type="file"
        multiple
        accept=".png,.jpg,.jpeg,.webp,.svg,.pdf,.glb"
        className="sr-only"
        aria-label="Picture file"
        onChange={(e) => void take([...(e.target.files ?? [])])}
      />
      <button
        type="button"
        className="line-act mt-2 w-full text-xs"
        disabled={!!taking}
        onClick={() => input.current?.click()}
      >
        {taking ? `Taking in ${taking} …` : "Take a picture in …"}
      </button>
      <button
        type="button"
        className="plain mt-2 text-xs underline decoration-hairline underline-offset-4"
        title="A stand-in for a telephone photographs this drawing as a sheet of paper: crooked, shaded, noisy"
        disabled={!!job}
        onClick={() => void photograph()}
      >
        Photograph this drawing with the stand-in
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
      {chosen && (
        <Lies
          key={chosen.digest}
          picture={chosen}
          onDone={() => setSetting(null)}
          onChanged={fresh}
          onLay={(kind) => lay(chosen, kind)}
        />
      )}
    </div>
  );
}

/** How a picture lies from now on: what of it is taken, how wide that is, how it goes on. */
function Lies({
  picture,
  onDone,
  onChanged,
  onLay,
}: {
  picture: OwnPicture;
  onDone: () => void;
  onChanged: () => Promise<void>;
  onLay: (kind: Otherwise) => Promise<void>;
}) {
  const trace = picture.item.trace as unknown as Required<Said>;
  const change = async (body: Said) => {
    try {
      await answered(
        http.PATCH("/api/pictures/{digest}", { params: { path: { digest: picture.digest } }, body: body as never }),
      );
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
  if (picture.tall)
    return (
      <Leaf
        open
        onClose={onDone}
        title={picture.name}
        about={`A body, ${picture.tall.toFixed(2)} m tall. It stands in the model and is drawn like all of it.`}
      >
        <img
          src={`/api/pictures/${picture.digest}/picture`}
          alt={picture.name}
          className="mx-auto mb-2 block h-60 w-60"
        />
        <TextField label="Name" value={picture.name} onChange={(name) => void change({ name })} />
        <div className="mt-6 flex justify-end gap-3">
          <button type="button" className="line-act" onClick={() => void remove()}>
            Take it out of the stock
          </button>
          <button
            type="button"
            className="act"
            onClick={() => (useStanding.getState().take(ownFigure(picture)), onDone())}
          >
            Stand it as a figure
          </button>
        </div>
      </Leaf>
    );
  return (
    <Leaf
      open
      onClose={onDone}
      title={picture.name}
      about={`${picture.kind}, ${picture.width} × ${picture.height} pixels. Draw the four corners to what of it is material, seen straight on.`}
    >
      <Points
        src={`/api/pictures/${picture.digest}/picture`}
        about={picture.name}
        aspect={picture.height / picture.width}
        points={trace.corners}
        called={CALLED}
        closed
        onChange={(corners) => void change({ corners })}
      />
      <TextField label="Name" value={picture.name} onChange={(name) => void change({ name })} />
      <NumberField
        label="Real width of that"
        unit="m"
        digits={3}
        min={0.002}
        max={1000}
        value={trace.real_width}
        onChange={(real_width) => void change({ real_width })}
      />
      <Choice
        label="Goes on"
        value={trace.endless}
        options={GOES_ON}
        onChange={(endless) => void change({ endless })}
      />
      <DimensionLine
        label="Evened out"
        unit="%"
        digits={0}
        min={0}
        max={100}
        step={1}
        value={trace.evened * 100}
        onChange={(v) => void change({ evened: Math.round(v) / 100 })}
      />
      <p className="mt-4 flex flex-wrap gap-x-3 gap-y-1 text-xs" role="group" aria-label="Lay it otherwise">
        <span className="quiet">Or lay it as</span>
        {[...OTHERWISE, ...(picture.at_scale ? [FLAT] : [])].map(([kind, words]) => (
          <button
            key={kind}
            type="button"
            className="plain font-semibold underline decoration-hairline underline-offset-4"
            onClick={() => void onLay(kind)}
          >
            {words}
          </button>
        ))}
      </p>
      <p className="mt-2 text-xs">
        <span className="quiet">It shows a person, a tree, a thing: </span>
        <button
          type="button"
          className="plain font-semibold underline decoration-hairline underline-offset-4"
          title="Its ground is taken away; click in the drawing what it stands on"
          onClick={() => (useStanding.getState().take(ownFigure(picture)), onDone())}
        >
          stand it as a figure
        </button>
      </p>
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
