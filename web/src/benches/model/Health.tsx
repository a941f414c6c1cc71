import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";

import { answered, type Health, http, type Parts } from "../../api/client";
import { type Editing, useModelJob } from "../../desk/study";
import { NumberField } from "../../shared/controls";
import { isOpen } from "../../shared/jobs";
import { ProgressLine } from "../../shared/ProgressLine";
import type { Vec } from "../view/camera";
import { useChoice } from "./choice";
import { pathOf } from "./parts";

/** What is wrong with the model; a job looks the first time it is asked for. */
export function useHealth(editing: Editing, wanted = true): Health | undefined {
  const tolerance = useChoice((s) => s.tolerance);
  const { slug, model } = editing.study;
  const query = useQuery({
    queryKey: ["health", slug, model.version, tolerance],
    enabled: wanted,
    queryFn: () =>
      answered<Health>(http.POST("/api/studies/{slug}/health", { params: { path: { slug }, query: { tolerance } } })),
    refetchInterval: (q) => (!q.state.data?.findings && isOpen(q.state.data?.job) ? 250 : false),
    placeholderData: (before) => before,
  });
  return query.data;
}

/** The parts that the chosen finding is about. */
export function useTroubled(editing: Editing): ReadonlySet<number> {
  const kind = useChoice((s) => s.filter.problem || s.finding);
  const findings = useHealth(editing, kind !== "")?.findings;
  return useMemo(
    () => new Set(findings?.find((f) => f.kind === kind)?.places.map((p) => p.part) ?? []),
    [findings, kind],
  );
}

/** The findings, worst first as the trade would mend them. */
export function HealthList({ editing }: { editing: Editing }) {
  const health = useHealth(editing);
  const { finding, tolerance, set } = useChoice();
  const job = useModelJob((s) => s.job);
  const open = isOpen(health?.job);
  return (
    <div className="min-h-0 flex-1 overflow-y-auto">
      <NumberField
        label="Gaps up to"
        unit="mm"
        digits={1}
        min={0.1}
        max={100}
        value={tolerance * 1000}
        onChange={(mm) => set({ tolerance: mm / 1000, place: null })}
      />
      {!health?.findings && open && !job && (
        <div className="py-2 text-xs">
          <p className="quiet">{health!.job!.stage || "Looking at the model"} …</p>
        </div>
      )}
      {health?.job?.state === "failed" && <p role="alert">{health.job.message}</p>}
      {health?.findings?.length === 0 && <p className="py-2 text-moss-ink">✓ Nothing that would spoil a drawing.</p>}
      <ul>
        {health?.findings?.map((f) => (
          <li key={f.kind} className="border-b border-hairline py-1.5">
            <button
              type="button"
              aria-pressed={finding === f.kind}
              className={`plain flex w-full items-baseline justify-between gap-2 ${finding === f.kind ? "font-semibold text-sanguine" : ""}`}
              onClick={() => set({ finding: f.kind, place: null, colouring: "problem" })}
            >
              <span>{f.title}</span>
              <span className="tabular-nums">{f.count.toLocaleString("en")}</span>
            </button>
            <span className={`text-xs ${f.mend ? "text-ochre" : "quiet"}`}>
              {f.mend ? "can be mended" : `in ${f.parts.toLocaleString("en")} ${f.parts === 1 ? "part" : "parts"}`}
            </span>
          </li>
        ))}
      </ul>
    </div>
  );
}

/** One finding: what it does to a drawing, where it is, and its mend. */
export function FindingSettings({ editing, parts }: { editing: Editing; parts: Parts }) {
  const health = useHealth(editing);
  const { finding: kind, place, tolerance, set, choose, fly } = useChoice();
  const job = useModelJob((s) => s.job);
  const finding = health?.findings?.find((f) => f.kind === kind);
  if (!finding)
    return (
      <p className="quiet">
        Choose a finding in the list: what it does to a drawing is told here, and its places are marked in the model.
      </p>
    );
  return (
    <>
      <h2>{finding.title}</h2>
      <p className="mt-1">{finding.harm}</p>
      {finding.mend ? (
        <>
          <p className="quiet mt-2 text-xs">{finding.mend}</p>
          <button
            type="button"
            className="act mt-2"
            disabled={job !== null}
            onClick={() => void editing.model({ do: "mend", kind: finding.kind, tolerance })}
          >
            Mend {finding.count.toLocaleString("en")}
          </button>
        </>
      ) : (
        <p className="quiet mt-2 text-xs">No mend is safe here; it is for the one who made the model.</p>
      )}
      {job && (
        <div className="mt-2 text-xs">
          <ProgressLine job={job} />
        </div>
      )}
      {finding.whole === false && (
        <p className="mt-2 text-xs text-ochre">The model is too large to be searched to its end; there may be more.</p>
      )}
      <h2 className="mt-5">Places</h2>
      <ol className="text-[12.5px]">
        {finding.places.slice(0, 200).map((p, i) => (
          <li key={i} className="border-b border-hairline">
            <button
              type="button"
              aria-pressed={place === i}
              className={`plain flex w-full items-baseline justify-between gap-2 py-1 ${place === i ? "font-semibold text-sanguine" : ""}`}
              onClick={() => {
                set({ place: i, colouring: "problem" });
                choose([p.part], "only", p.part);
                fly(p.point as Vec, 2.5);
              }}
            >
              <span className="min-w-0 truncate" title={p.part < parts.name.length ? pathOf(parts, p.part) : ""}>
                {parts.name[p.part] ?? "a part"}
              </span>
              <span className="quiet shrink-0 text-xs">{p.count > 1 ? p.count.toLocaleString("en") : ""}</span>
            </button>
          </li>
        ))}
      </ol>
      {finding.parts > 200 && (
        <p className="quiet py-1 text-xs">and {(finding.parts - 200).toLocaleString("en")} more parts</p>
      )}
    </>
  );
}
