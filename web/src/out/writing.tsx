import { useState } from "react";
import { toast } from "sonner";

import { answered, http, type Job } from "../api/client";
import { JobFile } from "../shared/JobFile";
import { ProgressLine } from "../shared/ProgressLine";

const isOpen = (job: Job) => job.state === "waiting" || job.state === "working";

/** A file that is written in the background: how far it is, and how it ended. */
export interface Writing {
  job: Job | null;
  ended: Job | null;
  begin: (make: () => Promise<Job>) => Promise<Job | null>;
}

/** Begin to write a file, and follow it to its end. */
export function useWriting(): Writing {
  const [job, setJob] = useState<Job | null>(null);
  const [ended, setEnded] = useState<Job | null>(null);
  const begin = async (make: () => Promise<Job>) => {
    setEnded(null);
    try {
      let now = await make();
      while (isOpen(now)) {
        setJob(now);
        await new Promise((r) => setTimeout(r, 200));
        now = await answered<Job>(http.GET("/api/jobs/{job_id}", { params: { path: { job_id: now.id } } }));
      }
      setEnded(now);
      return now;
    } catch (error) {
      toast.error(error instanceof Error ? error.message : "This could not be begun; try it again.");
      return null;
    } finally {
      setJob(null);
    }
  };
  return { job, ended, begin };
}

/** How far a file is, or what came of it. */
export function WritingLine({ writing, narrow = true }: { writing: Writing; narrow?: boolean }) {
  const { job, ended } = writing;
  return (
    <>
      {job && <div className="mt-3"><ProgressLine job={job} narrow={narrow} /></div>}
      {ended?.state === "done" && <JobFile job={ended} />}
      {ended?.state === "failed" && <p role="alert" className="mt-2 text-sanguine">{ended.message}</p>}
      {ended?.state === "cancelled" && <p className="quiet mt-2">It was stopped; nothing was written.</p>}
    </>
  );
}
