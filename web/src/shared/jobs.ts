import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";

import { answered, http, type Job } from "../api/client";

/** Whether a job is still to be waited for. */
export const isOpen = (job: Job | null | undefined): boolean => job?.state === "waiting" || job?.state === "working";

/** Ask a job to stop; also from a page that is being left. */
export const cancel = (job: Job): void => void http.POST("/api/jobs/{job_id}/cancel", { params: { path: { job_id: job.id } }, keepalive: true }).catch(() => undefined);

/** A job as it is now, followed to its end. It is only looked at, so that what was stopped stays so. */
export function useJob(begun: Job | undefined, every = 400): Job | undefined {
  const query = useQuery({
    queryKey: ["job", begun?.id],
    enabled: begun !== undefined && isOpen(begun),
    queryFn: () => answered<Job>(http.GET("/api/jobs/{job_id}", { params: { path: { job_id: begun!.id } } })),
    refetchInterval: (q) => (q.state.data && !isOpen(q.state.data) ? false : every),
  });
  return begun && isOpen(begun) ? (query.data ?? begun) : begun;
}

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
