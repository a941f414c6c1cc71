import type { Job } from "../api/client";

/** The file that a job has written, and when, to be taken. */
export function JobFile({ job }: { job: Job }) {
  if (!job.result.file) return null;
  const written = job.ended ? new Date(job.ended) : null;
  return (
    <p role="status" className="mt-2">
      <a
        className="font-semibold text-sanguine underline underline-offset-4"
        href={`/api/jobs/${job.id}/file`}
        download
      >
        {String(job.result.file)}
      </a>
      <span className="quiet">
        {" "}
        · {(Number(job.result.bytes) / 1e6).toFixed(1)} MB
        {written &&
          ` · ${written.toDateString() === new Date().toDateString() ? written.toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" }) : written.toLocaleDateString()}`}
      </span>
    </p>
  );
}
