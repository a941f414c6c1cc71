import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";

import { answered, http, type Job, type Parts, Refused, type Study } from "../api/client";
import { finished, useChoices } from "../desk/study";
import { goTo } from "../shared/address";
import { Choice, Leaf } from "../shared/controls";
import { isOpen, useJob } from "../shared/jobs";
import { ProgressLine } from "../shared/ProgressLine";

export type Units = "m" | "cm" | "mm" | "ft" | "in";
type Found = {
  name: string;
  units: Units;
  up: "z" | "y";
  because: string;
  notes: string[];
  format: string;
  size: [number, number, number];
  parts: number;
  triangles: number;
  materials: number;
  rooms: number;
};

export const UNITS: Record<Units, string> = {
  m: "metres",
  cm: "centimetres",
  mm: "millimetres",
  ft: "feet",
  in: "inches",
};

/** What is known of a study whose next version is brought. */
type Known = Pick<Study, "slug" | "model">;

/**
 * Bring a model: the file goes up, a job reads it, and what was found is shown before anything is made of it. With a
 * `study` it is the next version of that study's model.
 */
export function Bring({ study, onDone }: { study?: Known; onDone?: (number: number) => void }) {
  const input = useRef<HTMLInputElement>(null);
  const [jobId, setJobId] = useState<number | null>(null);
  const [said, setSaid] = useState("");
  const [over, setOver] = useState(false);
  const [sending, setSending] = useState(false);
  const job = useJob(jobId ?? undefined, 200);
  const state = job.data?.state;
  const unpacked = state === "done" ? (job.data!.result as { slug?: string }).slug : undefined;
  useEffect(() => {
    if (unpacked) goTo(`/study/${unpacked}`);
  }, [unpacked]);
  const open = isOpen(job.data);
  const formats = useChoices()?.formats ?? [];
  const message = said || (state === "failed" || state === "cancelled" ? job.data!.message : "");

  const send = async (files: FileList | null) => {
    if (!files?.length) return;
    setSaid("");
    setJobId(null);
    setSending(true);
    const body = new FormData();
    // A study that was packed comes back as it was, with its pictures.
    const packed = !study && files.length === 1 && files[0]!.name.toLowerCase().endsWith(".study.zip");
    if (packed) body.append("file", files[0]!);
    else for (const file of files) body.append("files", file);
    try {
      const answer = await fetch(packed ? "/api/archives" : "/api/uploads", { method: "POST", body });
      const got = (await answer.json()) as Job & { message: string };
      if (answer.ok) setJobId(got.id);
      else setSaid(got.message);
    } catch {
      setSaid("The file could not be sent; see whether ./run demo is still running.");
    }
    setSending(false);
    if (input.current) input.current.value = "";
  };

  return (
    <section
      aria-label={study ? "Bring the next version" : "Bring a model"}
      className={`border border-dashed ${study ? "px-3 py-3" : "px-6 py-5"} ${over ? "border-sanguine bg-sheet" : "border-soft"}`}
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        void send(e.dataTransfer.files);
      }}
    >
      <div className={study ? "" : "flex items-center justify-between gap-6"}>
        <div>
          <h2 className={study ? "" : "text-[18px]"}>{study ? "Bring a file" : "Bring a model"}</h2>
          <p className="quiet mb-2 text-xs">
            {study
              ? "The next version, or a site to join beside it: lay it here, or choose it. Roles, materials, sets, pens and views carry over."
              : `Lay it here, or choose it: ${formats.join(", ")}, or a study that was packed. Materials and pictures come along when they are chosen together with it.`}
          </p>
        </div>
        <input
          ref={input}
          id="model-file"
          type="file"
          multiple
          className="sr-only"
          aria-label="Model file"
          onChange={(e) => void send(e.target.files)}
        />
        <button
          type="button"
          className="act shrink-0"
          disabled={open || sending}
          onClick={() => input.current?.click()}
        >
          Choose a file…
        </button>
      </div>
      {sending && <p className="quiet mt-3">Sending the file …</p>}
      {open && job.data && (
        <div className="mt-3">
          <ProgressLine job={job.data} />
        </div>
      )}
      {message && (
        <p role="alert" className="mt-3 text-sanguine">
          {message}
        </p>
      )}
      {state === "done" && !("slug" in job.data!.result) && (
        <Accept
          job={job.data!}
          study={study}
          onDone={(number) => {
            setJobId(null);
            if (number) onDone?.(number);
          }}
        />
      )}
    </section>
  );
}

const count = (number: number, what: string) => `${number.toLocaleString("en")} ${what}${number === 1 ? "" : "s"}`;

/** Whether a model whose longest side is `longest` file units is about as large as the study's, read in its units. */
function likeBefore(study: Known, longest: number, per: number): boolean {
  const { low, high } = study.model as { low: number[]; high: number[] };
  const ratio = (longest * per) / Math.max(...low.map((v, k) => high[k]! - v), 1e-9);
  return ratio > 0.1 && ratio < 10;
}

const BESIDE = "beside";

/** The files that are joined to a study. */
function useJoined(study?: Known): Parts["joined"] {
  const found = useQuery({
    queryKey: ["parts", study?.slug, study?.model.version],
    enabled: study !== undefined,
    queryFn: () => answered<Parts>(http.GET("/api/studies/{slug}/parts", { params: { path: { slug: study!.slug } } })),
  });
  return found.data?.joined ?? [];
}

function Accept({ job, study, onDone }: { job: Job; study?: Known; onDone: (number?: number) => void }) {
  const found = job.result as unknown as Found;
  const [name, setName] = useState(found.name);
  const choices = useChoices();
  // The next version most likely comes as the one before did, unless it would be of quite another size.
  const alike =
    study !== undefined && likeBefore(study, Math.max(...found.size), choices?.units[study.model.units] ?? 1);
  const [units, setUnits] = useState<Units>(alike ? (study.model.units as Units) : found.units);
  const [up, setUp] = useState(alike ? (study.model.up as "z" | "y") : found.up);
  const [said, setSaid] = useState("");
  const [working, setWorking] = useState<Job | null>(null);
  // What the file is to the study: its next version, that of a joined file, or one more file beside it.
  const [is, setIs] = useState("");
  const joined = useJoined(study);
  const joins = is === BESIDE;
  const per = choices?.units[units] ?? 1;
  const [x, y, z] = found.size;
  const metres = (up === "z" ? [x, y, z] : [x, z, y]).map((v) =>
    (v * per).toLocaleString("en", { maximumSignificantDigits: 4 }),
  );
  const accept = async () => {
    setSaid("");
    try {
      const taken = await answered(
        http.POST("/api/uploads/{job_id}/accept", {
          params: { path: { job_id: job.id } },
          body: { name: study ? "" : name, units, up, study: study?.slug ?? "", joins, source: joins ? "" : is },
        }),
      );
      const done = (await finished(taken, setWorking)).result as { slug: string; number: number };
      onDone(done.number);
      if (!study) goTo(`/study/${done.slug}`);
    } catch (error) {
      setSaid(error instanceof Refused ? error.message : "The model could not be laid down; bring the file again.");
    }
  };
  const discard = () => {
    if (working) return;
    void http.POST("/api/uploads/{job_id}/discard", { params: { path: { job_id: job.id } } });
    onDone();
  };
  return (
    <Leaf
      open
      onClose={discard}
      title={study ? "What is this file?" : "Is this the model?"}
      about={`${found.format}, read as ${UNITS[found.units]}, ${found.up.toUpperCase()} up: ${found.because}.`}
    >
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void accept();
        }}
      >
        {!study && (
          <>
            <label className="label" htmlFor="study-name">
              Name of the study
            </label>
            <input
              id="study-name"
              className="field mb-3 w-full text-[16px]"
              value={name}
              maxLength={120}
              onChange={(e) => setName(e.target.value)}
            />
          </>
        )}
        {study && (
          <Choice
            label="It is"
            value={is}
            options={[
              { value: "", label: "the next version of the model" },
              ...joined.map((j) => ({ value: j.id, label: `the next version of “${j.name}”` })),
              { value: BESIDE, label: "a site or context beside it" },
            ]}
            onChange={(v) => {
              setIs(v);
              // Another file than the model's own has its own units, and its own axis.
              setUnits(v || !alike ? found.units : (study.model.units as Units));
              setUp(v || !alike ? found.up : (study.model.up as "z" | "y"));
            }}
          />
        )}
        <Choice
          label="Units of the file"
          value={units}
          options={(Object.keys(UNITS) as Units[]).map((u) => ({ value: u, label: UNITS[u] }))}
          onChange={setUnits}
        />
        <Choice
          label="Up in the file"
          value={up}
          options={[
            { value: "z", label: "Z" },
            { value: "y", label: "Y" },
          ]}
          onChange={setUp}
        />
        <div className="row">
          <span>So it is</span>
          <b className="font-semibold" data-testid="size">
            {metres[0]} × {metres[1]} m, {metres[2]} m high
          </b>
        </div>
        <div className="row">
          <span>It holds</span>
          <span>
            {[
              count(found.parts, "part"),
              count(found.materials, "material"),
              count(found.triangles, "triangle"),
              ...(found.rooms ? [count(found.rooms, "room")] : []),
            ].join(", ")}
          </span>
        </div>
        {found.notes.map((note) => (
          <p key={note} className="mt-2 text-ochre">
            {note}
          </p>
        ))}
        {working && (
          <div className="mt-3">
            <ProgressLine job={working} />
          </div>
        )}
        {said && (
          <p role="alert" className="mt-3 text-sanguine">
            {said}
          </p>
        )}
        <div className="mt-6 flex justify-end gap-3">
          <button type="button" className="line-act" disabled={working !== null} onClick={discard}>
            Put it away
          </button>
          <button type="submit" className="act" disabled={(!study && !name.trim()) || working !== null}>
            {joins ? "Join it" : study ? "Take it in" : "Make a study of it"}
          </button>
        </div>
      </form>
    </Leaf>
  );
}
