import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";

import { answered, http, type Job } from "../api/client";
import { useScreen } from "../desk/screen";
import { at, type Editing, finished } from "../desk/study";
import { Choice, NumberField, OnOff, TextField } from "../shared/controls";
import { DimensionLine } from "../shared/DimensionLine";
import { JobFile } from "../shared/JobFile";
import { ProgressLine } from "../shared/ProgressLine";
import { BoardList, PageChoice } from "./sheet/board/BoardList";
import { BoardSettings } from "./sheet/board/BoardSettings";
import { useBoard } from "./sheet/board/boards";
import { LetteringSettings } from "./sheet/LetteringSettings";
import { NoteList } from "./sheet/NoteList";
import { NoteSettings } from "./sheet/NoteSettings";

const NOTES = [
  { id: "title", name: "Title", field: "title_on" },
  { id: "scale-bar", name: "Scale bar", field: "scale_bar_on" },
  { id: "north", name: "North point", field: "north_on" },
  { id: "margin", name: "Margin", field: "" },
] as const;

/** What stands on the page beside the drawing. */
export function SheetList({ editing }: { editing: Editing }) {
  const { chosen, choose } = useScreen();
  const sheet = editing.saved.sheet!;
  const board = useBoard(editing);
  if (board)
    return (
      <>
        <PageChoice editing={editing} />
        <BoardList editing={editing} />
      </>
    );
  return (
    <>
      <PageChoice editing={editing} />
      <h2>Sheet</h2>
      <ul className="mt-1">
        {NOTES.map((note) => (
          <li key={note.id} className="row" data-chosen={chosen.Sheet?.id === note.id}>
            <button type="button" className="plain flex-1 py-1" aria-pressed={chosen.Sheet?.id === note.id} onClick={() => choose({ kind: "note", id: note.id })}>
              {note.name}
            </button>
            {note.field ? (
              <OnOff
                bare
                label={`${note.name} on or off`}
                value={sheet[note.field] ?? true}
                onChange={(v) => editing.sheet(`${note.name} ${v ? "on" : "off"}`, [at([note.field], v)])}
              />
            ) : (
              <span className="quiet">{sheet.margin ?? 12} mm</span>
            )}
          </li>
        ))}
        <li className="row" data-chosen={chosen.Sheet?.id === "lettering"}>
          <button type="button" className="plain flex-1 py-1" aria-pressed={chosen.Sheet?.id === "lettering"} onClick={() => choose({ kind: "note", id: "lettering" })}>
            Lettering
          </button>
          <span className="quiet">{(editing.study.look.lettering?.size ?? 1.8).toFixed(1)} mm</span>
        </li>
      </ul>
      <NoteList editing={editing} />
    </>
  );
}

/** The selected note, and the way out. */
export function SheetSettings({ editing }: { editing: Editing }) {
  const { chosen } = useScreen();
  const board = useBoard(editing);
  const sheet = editing.saved.sheet!;
  const view = editing.study.document.desk.view;
  const set = (label: string, field: string, value: unknown) =>
    editing.sheet(label, [at([field], value)], `sheet.${field}`);
  const note = chosen.Sheet?.kind === "written" ? (editing.saved.notes ?? []).find((n) => n.id === chosen.Sheet!.id) : undefined;
  const id = chosen.Sheet?.kind === "written" ? (note ? "" : "title") : (chosen.Sheet?.id ?? "title");
  if (board) return <BoardSettings editing={editing} />;
  return (
    <>
      {note && <NoteSettings key={note.id} editing={editing} note={note} />}
      {id === "lettering" && <LetteringSettings editing={editing} />}
      {id === "title" && (
        <>
          <h2>Title</h2>
          <TextField label="Title" value={sheet.title ?? ""} placeholder={view.name} onChange={(v) => set("Title", "title", v)} />
          <TextField label="Line below" value={sheet.subtitle ?? ""} placeholder={editing.study.document.name} onChange={(v) => set("Line below the title", "subtitle", v)} />
        </>
      )}
      {id === "scale-bar" && (
        <>
          <h2>Scale bar</h2>
          <p className="quiet mt-1">
            {view.projection.kind === "perspective"
              ? "A perspective has no one scale, so it carries no bar. Choose an axonometric or a straight view to have one."
              : "Its length is the longest round measure that suits the sheet, at the drawing's own scale."}
          </p>
        </>
      )}
      {id === "north" && (
        <>
          <h2>North point</h2>
          <p className="quiet mt-1">On a drawing that shows the ground it points to north as it lies there. Else north is up and the small arrow is the direction of sight.</p>
        </>
      )}
      {id === "margin" && (
        <>
          <h2>Margin</h2>
          <DimensionLine label="Bare paper around the drawing" unit="mm" digits={0} min={0} max={40} step={1} initial={12} value={sheet.margin ?? 12} onChange={(v) => set("Margin", "margin", v)} />
        </>
      )}
      <Export editing={editing} />
      <Pack editing={editing} />
    </>
  );
}

/** The whole study as one file for another machine: its model, its views and finishes, and the pictures that they show. */
function Pack({ editing }: { editing: Editing }) {
  const [job, setJob] = useState<Job | null>(null);
  const [done, setDone] = useState<Job | null>(null);
  const start = async () => {
    setDone(null);
    try {
      const made = await answered<Job>(http.POST("/api/studies/{slug}/archive", { params: { path: { slug: editing.study.slug } } }));
      setDone(await finished(made, setJob));
    } catch (error) {
      toast.error(error instanceof Error ? error.message : "The study could not be packed; try it again.");
    }
  };
  return (
    <section aria-label="Pack" className="mt-8">
      <h2>Pack the study</h2>
      <p className="quiet py-1 text-xs">One file for another machine: the model, all views and finishes, and the pictures they show.</p>
      <button type="button" className="line-act w-full text-center" disabled={job !== null} onClick={() => void start()}>
        Pack it
      </button>
      {job && (
        <div className="mt-3"><ProgressLine job={job} narrow /></div>
      )}
      {done && <JobFile job={done} />}
    </section>
  );
}

type Format = "pdf" | "svg" | "png";

function Export({ editing }: { editing: Editing }) {
  const { slug, document } = editing.study;
  const frame = document.desk.view.frame!;
  const [format, setFormat] = useState<Format>("pdf");
  const [resolution, setResolution] = useState(frame.resolution ?? 150);
  const [paper, setPaper] = useState(true);
  const [jobId, setJobId] = useState<number | null>(null);
  const job = useQuery<Job>({
    queryKey: ["job", jobId],
    enabled: jobId !== null,
    queryFn: () => answered(http.GET("/api/jobs/{job_id}", { params: { path: { job_id: jobId! } } })),
    refetchInterval: (q) => (q.state.data && ["done", "failed", "cancelled"].includes(q.state.data.state) ? false : 250),
  });
  const state = job.data?.state;
  const open = state === "waiting" || state === "working";
  const pixels = [frame.width ?? 420, frame.height ?? 297].map((mm) => Math.round((mm / 25.4) * resolution));
  const start = async () => {
    try {
      const made = await answered(http.POST("/api/studies/{slug}/exports", { params: { path: { slug } }, body: { format, resolution, paper } }));
      setJobId(made.id);
    } catch (error) {
      toast.error(error instanceof Error ? error.message : "The export could not be started; try it again.");
    }
  };
  return (
    <section aria-label="Export" className="mt-8">
      <h2>Export</h2>
      <Choice
        label="As"
        value={format}
        options={[
          { value: "pdf", label: "PDF, vector lines" },
          { value: "svg", label: "SVG, named groups" },
          { value: "png", label: "PNG, pixels" },
        ]}
        onChange={setFormat}
      />
      <NumberField label={format === "png" ? "Resolution" : "Resolution of tones"} unit="dpi" digits={0} min={30} max={1200} value={resolution} onChange={setResolution} />
      <OnOff label="With the paper" value={paper} onChange={setPaper} />
      <p className="quiet py-2 text-xs">
        {frame.width} × {frame.height} mm · {pixels[0]!.toLocaleString("en")} × {pixels[1]!.toLocaleString("en")} pixels
      </p>
      <button type="button" className="act w-full text-center" disabled={open} onClick={() => void start()}>
        Export {format.toUpperCase()}
      </button>
      <div className="mt-3">
        {open && job.data && (
          <ProgressLine job={job.data} narrow />
        )}
        {state === "done" && <JobFile job={job.data!} />}
        {state === "failed" && <p role="alert" className="text-sanguine">{job.data!.message}</p>}
        {state === "cancelled" && <p className="quiet">The export was stopped; nothing was written.</p>}
      </div>
    </section>
  );
}
