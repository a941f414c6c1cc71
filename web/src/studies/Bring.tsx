import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";

import { answered, http, type Job, Refused } from "../api/client";
import { useChoices } from "../desk/study";
import { goTo } from "../shared/address";
import { Choice, Leaf } from "../shared/controls";
import { ProgressLine } from "../shared/ProgressLine";

type Units = "m" | "cm" | "mm" | "ft" | "in";
type Found = { name: string; units: Units; up: "z" | "y"; because: string; size: [number, number, number]; parts: number; triangles: number; materials: number };

const NAMES: Record<Units, string> = { m: "metres", cm: "centimetres", mm: "millimetres", ft: "feet", in: "inches" };

/** Bring a model: the file goes up, a job reads it, and what was found is shown before anything is made of it. */
export function Bring() {
  const input = useRef<HTMLInputElement>(null);
  const [jobId, setJobId] = useState<number | null>(null);
  const [said, setSaid] = useState("");
  const [over, setOver] = useState(false);
  const [sending, setSending] = useState(false);
  const job = useQuery<Job>({
    queryKey: ["job", jobId],
    enabled: jobId !== null,
    queryFn: () => answered(http.GET("/api/jobs/{job_id}", { params: { path: { job_id: jobId! } } })),
    refetchInterval: (q) => (q.state.data && ["done", "failed", "cancelled"].includes(q.state.data.state) ? false : 200),
  });
  const state = job.data?.state;
  const open = state === "waiting" || state === "working";
  const message = said || (state === "failed" || state === "cancelled" ? job.data!.message : "");

  const send = async (files: FileList | null) => {
    if (!files?.length) return;
    setSaid("");
    setJobId(null);
    setSending(true);
    const body = new FormData();
    for (const file of files) body.append("files", file);
    try {
      const answer = await fetch("/api/uploads", { method: "POST", body });
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
      aria-label="Bring a model"
      className={`border border-dashed px-6 py-5 ${over ? "border-sanguine bg-sheet" : "border-soft"}`}
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
      <div className="flex items-center justify-between gap-6">
        <div>
          <h2 className="text-[18px]">Bring a model</h2>
          <p className="quiet">A GLB file, or an OBJ file together with its MTL. Lay it here, or choose it.</p>
        </div>
        <input ref={input} id="model-file" type="file" multiple accept=".glb,.obj,.mtl" className="sr-only" aria-label="Model file" onChange={(e) => void send(e.target.files)} />
        <button type="button" className="act" disabled={open || sending} onClick={() => input.current?.click()}>
          Choose a file…
        </button>
      </div>
      {sending && <p className="quiet mt-3">Sending the file …</p>}
      {open && job.data && (
        <div className="mt-3">
          <ProgressLine job={job.data} onStop={() => void http.POST("/api/jobs/{job_id}/cancel", { params: { path: { job_id: jobId! } } })} />
        </div>
      )}
      {message && (
        <p role="alert" className="mt-3 text-sanguine">
          {message}
        </p>
      )}
      {state === "done" && <Accept job={job.data!} onDone={() => setJobId(null)} />}
    </section>
  );
}

function Accept({ job, onDone }: { job: Job; onDone: () => void }) {
  const found = job.result as unknown as Found;
  const [name, setName] = useState(found.name);
  const [units, setUnits] = useState<Units>(found.units);
  const [up, setUp] = useState(found.up);
  const [said, setSaid] = useState("");
  const choices = useChoices();
  const per = choices?.units[units] ?? 1;
  const [x, y, z] = found.size;
  const metres = (up === "z" ? [x, y, z] : [x, z, y]).map((v) => (v * per).toLocaleString("en", { maximumSignificantDigits: 4 }));
  const accept = async () => {
    try {
      const study = await answered(http.POST("/api/uploads/{job_id}/accept", { params: { path: { job_id: job.id } }, body: { name, units, up } }));
      onDone();
      goTo(`/study/${study.slug}`);
    } catch (error) {
      setSaid(error instanceof Refused ? error.message : "The study could not be made; bring the file again.");
    }
  };
  const discard = () => {
    void http.POST("/api/uploads/{job_id}/discard", { params: { path: { job_id: job.id } } });
    onDone();
  };
  return (
    <Leaf open onClose={discard} title="Is this the model?" about={`Read as ${NAMES[found.units]}, ${found.up.toUpperCase()} up: ${found.because}.`}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void accept();
        }}
      >
        <label className="label" htmlFor="study-name">
          Name of the study
        </label>
        <input id="study-name" className="field mb-3 w-full text-[16px]" value={name} maxLength={120} onChange={(e) => setName(e.target.value)} />
        <Choice label="Units of the file" value={units} options={(Object.keys(NAMES) as Units[]).map((u) => ({ value: u, label: NAMES[u] }))} onChange={setUnits} />
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
            {found.parts.toLocaleString("en")} parts, {found.materials} materials, {found.triangles.toLocaleString("en")} triangles
          </span>
        </div>
        {said && (
          <p role="alert" className="mt-3 text-sanguine">
            {said}
          </p>
        )}
        <div className="mt-6 flex justify-end gap-3">
          <button type="button" className="line-act" onClick={discard}>
            Put it away
          </button>
          <button type="submit" className="act" disabled={!name.trim()}>
            Make a study of it
          </button>
        </div>
      </form>
    </Leaf>
  );
}
