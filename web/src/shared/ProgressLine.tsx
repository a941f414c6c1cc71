import type { Job } from "../api/client";
import { cancel } from "./jobs";

/** Work that can be trusted: what is being done, how far it is, how long it still takes, and a way to stop it. */
export function ProgressLine({
  job,
  onStop = () => cancel(job),
  narrow = false,
}: {
  job: Job;
  onStop?: () => void;
  narrow?: boolean;
}) {
  const words = job.state === "waiting" ? "Waiting for its turn" : job.stage || "Beginning";
  const left = job.seconds_left;
  return (
    <div className={`flex items-center gap-3 ${narrow ? "flex-wrap" : ""}`} role="status" aria-live="polite">
      <span className={narrow ? "" : "min-w-44"}>{words}</span>
      <svg className="h-4 min-w-24 flex-1 overflow-visible" aria-hidden>
        <line x1="0" x2="100%" y1="8" y2="8" stroke="var(--color-hairline)" />
        <line x1="0" x2={`${job.progress * 100}%`} y1="8" y2="8" stroke="var(--color-ochre-mark)" strokeWidth="2.4" />
        <line x1="-3" x2="3" y1="12" y2="4" stroke="var(--color-soft)" />
      </svg>
      <span className="quiet w-28 text-right text-xs">
        {Math.round(job.progress * 100)} %
        {left != null ? ` · ${left < 1.5 ? "a moment" : `${Math.ceil(left)} s left`}` : ""}
      </span>
      <button type="button" className="line-act text-xs" onClick={onStop}>
        Stop
      </button>
    </div>
  );
}
