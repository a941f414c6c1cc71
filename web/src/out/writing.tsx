import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { toast } from "sonner";
import { create } from "zustand";
import { persist } from "zustand/middleware";

import type { Job } from "../api/client";
import { JobFile } from "../shared/JobFile";
import { askJob, isGone, isOpen, useJob } from "../shared/jobs";
import { ProgressLine } from "../shared/ProgressLine";

/** A file that is written in the background: how far it is, and how it ended. */
export interface Writing {
  job: Job | null;
  ended: Job | null;
  begin: (make: () => Promise<Job>) => Promise<Job | null>;
}

/** The job that writes, or wrote last, what goes out at a place; kept through reloads, so that no file is lost sight of. */
const useBegun = create<{ jobs: Record<string, number>; set: (place: string, job: number | null) => void }>()(
  persist(
    (set) => ({
      jobs: {},
      set: (place, job) =>
        set(({ jobs: { [place]: _, ...others } }) => ({ jobs: job === null ? others : { ...others, [place]: job } })),
    }),
    { name: "writing" },
  ),
);

/** Begin to write a file, and follow it to its end, also after the page was left. A `place` is what is written, and from where. */
export function useWriting(place: string): Writing {
  const queries = useQueryClient();
  const id = useBegun((s) => s.jobs[place]);
  const [before] = useState(id);
  const { data, error } = useJob(id);
  useEffect(() => {
    if (isGone(error)) useBegun.getState().set(place, null); // it was cleared away
  }, [error, place]);
  const begin = async (make: () => Promise<Job>) => {
    try {
      let now = await make();
      queries.setQueryData(["job", now.id], now);
      useBegun.getState().set(place, now.id);
      while (isOpen(now)) {
        await new Promise((r) => setTimeout(r, 200));
        now = await askJob(now.id);
      }
      queries.setQueryData(["job", now.id], now);
      return now;
    } catch (fault) {
      toast.error(fault instanceof Error ? fault.message : "This could not be begun; try it again.");
      return null;
    }
  };
  // Of what was begun before this page was opened only a file is of use.
  const now =
    id === undefined || (id === before && (data?.state === "failed" || data?.state === "cancelled")) ? undefined : data;
  return { job: now && isOpen(now) ? now : null, ended: now && !isOpen(now) ? now : null, begin };
}

/** How far a file is, or what came of it. */
export function WritingLine({ writing, narrow = true }: { writing: Writing; narrow?: boolean }) {
  const { job, ended } = writing;
  return (
    <>
      {job && (
        <div className="mt-3">
          <ProgressLine job={job} narrow={narrow} />
        </div>
      )}
      {ended?.state === "done" && <JobFile job={ended} />}
      {ended?.state === "failed" && (
        <p role="alert" className="mt-2 text-sanguine">
          {ended.message}
        </p>
      )}
      {ended?.state === "cancelled" && <p className="quiet mt-2">It was stopped; nothing was written.</p>}
    </>
  );
}
