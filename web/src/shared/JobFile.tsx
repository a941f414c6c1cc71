import type { Job } from "../api/client";

/** The file that a job has written, to be taken. */
export function JobFile({ job }: { job: Job }) {
  return (
    <p role="status" className="mt-2">
      <a className="font-semibold text-sanguine underline underline-offset-4" href={`/api/jobs/${job.id}/file`} download>
        {String(job.result.file)}
      </a>
      <span className="quiet"> · {(Number(job.result.bytes) / 1e6).toFixed(1)} MB</span>
    </p>
  );
}
