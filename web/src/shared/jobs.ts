import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";

import { answered, http, type Job, Refused } from "../api/client";

/** Whether a job is still to be waited for. */
export const isOpen = (job: Job | null | undefined): boolean => job?.state === "waiting" || job?.state === "working";

/** Ask a job to stop; also from a page that is being left. */
export const cancel = (job: Job): void =>
  void http
    .POST("/api/jobs/{job_id}/cancel", { params: { path: { job_id: job.id } }, keepalive: true })
    .catch(() => undefined);

/** A job as it is now. */
export const askJob = (id: number): Promise<Job> =>
  answered<Job>(http.GET("/api/jobs/{job_id}", { params: { path: { job_id: id } } }));

/** What is known of a job, followed to its end, also over a while without an answer. It is only looked at, so that what was stopped stays so. */
export function useJob(id: number | undefined, every = 300) {
  return useQuery({
    queryKey: ["job", id],
    enabled: id !== undefined,
    queryFn: () => askJob(id!),
    retry: false,
    refetchInterval: ({ state: { data, error } }) => ((data && !isOpen(data)) || isGone(error) ? false : every),
  });
}

/** Whether something failed because what it was about is not there any more. */
export const isGone = (error: unknown): boolean => error instanceof Refused && error.status === 404;

/** Stop a job that nobody waits for any more once the page is left, so that other work need not wait behind it. */
export function useStoppedOnLeaving(job: Job | undefined): void {
  const now = useRef(job);
  useEffect(() => {
    now.current = job;
  });
  useEffect(() => {
    const leave = () => {
      if (now.current && isOpen(now.current)) cancel(now.current);
    };
    window.addEventListener("pagehide", leave);
    return () => {
      window.removeEventListener("pagehide", leave);
      leave();
    };
  }, []);
}
