import { useQuery } from "@tanstack/react-query";

import { answered, http, type ModelFile, type Parts } from "../../api/client";
import type { Editing } from "../../desk/study";
import { NumberField } from "../../shared/controls";
import { Bring } from "../../studies/Bring";
import { useChoice } from "./choice";
import { useParts } from "./parts";

function useFiles(editing: Editing) {
  const { slug, model } = editing.study;
  return useQuery({
    queryKey: ["files", slug, model.version, model.source],
    queryFn: () => answered<ModelFile[]>(http.GET("/api/studies/{slug}/files", { params: { path: { slug } } })),
    placeholderData: (before) => before,
  });
}

/** The versions of the model as they were received, and the way to bring the next one. */
export function VersionList({ editing }: { editing: Editing }) {
  const { data: files } = useFiles(editing);
  const { file, set } = useChoice();
  return (
    <div className="min-h-0 flex-1 overflow-y-auto">
      <ol>
        {files?.map((f) => (
          <li key={f.number} className="border-b border-hairline py-1.5">
            <button
              type="button"
              aria-pressed={file === f.number}
              className={`plain block w-full truncate ${file === f.number ? "font-semibold text-sanguine" : ""}`}
              onClick={() => set({ file: f.number })}
            >
              {f.number}. {f.name}
              {f.source && <span className="quiet"> · joined</span>}
            </button>
            <span className="quiet flex justify-between text-xs">
              <span>
                {new Date(f.received).toLocaleString("en-GB", {
                  day: "numeric",
                  month: "short",
                  hour: "2-digit",
                  minute: "2-digit",
                })}
              </span>
              {f.current ? (
                <span className="text-moss-ink">✓ on the desk</span>
              ) : (
                <button
                  type="button"
                  className="plain font-semibold underline decoration-hairline underline-offset-4"
                  onClick={() =>
                    void editing.replace((base) =>
                      answered(
                        http.POST("/api/studies/{slug}/files/{number}/back", {
                          params: { path: { slug: editing.study.slug, number: f.number } },
                          body: { base },
                        }),
                      ),
                    )
                  }
                >
                  bring back
                </button>
              )}
            </span>
          </li>
        ))}
      </ol>
      <div className="mt-4">
        <Bring
          study={editing.study}
          onDone={(number) => {
            set({ file: number });
            void editing.refresh();
          }}
        />
      </div>
    </div>
  );
}

/** Where a joined file lies, and the way to move it or take it out. */
function JoinedPlace({ editing, joined }: { editing: Editing; joined: Parts["joined"][number] }) {
  const place = (by: number[], turn: number) =>
    void editing.model({ do: "place_joined", source: joined.id, by: by as [number, number, number], turn });
  return (
    <section aria-label="Where it lies" className="mt-3">
      <p className="quiet text-xs">
        {joined.shared
          ? "The map conversions of both files say where it lies."
          : "It lies by the numbers of its coordinates."}{" "}
        Moved from there:
      </p>
      {(["East", "North", "Up"] as const).map((label, k) => (
        <NumberField
          key={label}
          label={label}
          unit="m"
          digits={3}
          min={-1e7}
          max={1e7}
          value={joined.by[k]!}
          onChange={(v) =>
            place(
              joined.by.map((old, i) => (i === k ? v : old)),
              joined.turn,
            )
          }
        />
      ))}
      <NumberField
        label="Turned"
        unit="°"
        digits={2}
        min={-360}
        max={360}
        value={joined.turn}
        onChange={(v) => place([...joined.by], v)}
      />
      <button
        type="button"
        className="line-act mt-3 text-xs"
        onClick={() => void editing.model({ do: "take_out_joined", source: joined.id })}
      >
        Take it out
      </button>
    </section>
  );
}

type Report = {
  counts?: Record<string, number>;
  new?: string[];
  gone?: string[];
  moved?: [string, number][];
  reshaped?: string[];
  renamed?: [string, string][];
  rematerialled?: string[];
  lost?: [string, string][];
  notes?: string[];
};

/** What a newer version changed. */
export function ReportSettings({ editing }: { editing: Editing }) {
  const { data: files } = useFiles(editing);
  const { data: parts } = useParts(editing.study);
  const chosen = useChoice((s) => s.file);
  const file = files?.find((f) => f.number === chosen) ?? files?.find((f) => f.current);
  if (!file) return null;
  const joined = file.current ? parts?.joined.find((j) => j.id === file.source) : undefined;
  const report = file.report as Report;
  const counts = report.counts;
  const rows: { title: string; count: number; lines: string[]; warns?: boolean }[] = counts
    ? [
        {
          title: "Assignments that lost their part",
          count: counts.lost ?? 0,
          lines: (report.lost ?? []).map(([p, what]) => `${p}: ${what}`),
          warns: true,
        },
        { title: "New", count: counts.new ?? 0, lines: report.new ?? [] },
        { title: "Gone", count: counts.gone ?? 0, lines: report.gone ?? [] },
        { title: "Moved", count: counts.moved ?? 0, lines: (report.moved ?? []).map(([p, m]) => `${p}, ${m} m`) },
        { title: "Changed in shape", count: counts.reshaped ?? 0, lines: report.reshaped ?? [] },
        {
          title: "Renamed",
          count: counts.renamed ?? 0,
          lines: (report.renamed ?? []).map(([now, was]) => `${was} → ${now}`),
        },
        { title: "Of other material", count: counts.rematerialled ?? 0, lines: report.rematerialled ?? [] },
      ]
    : [];
  return (
    <>
      <h2 className="break-words">{file.name}</h2>
      <p className="quiet text-xs">
        {file.format} {file.number === 1 ? "· the first version" : file.source ? "· joined beside the model" : ""}
      </p>
      {joined && <JoinedPlace key={joined.id} editing={editing} joined={joined} />}
      {[...file.notes, ...(report.notes ?? [])].map((note) => (
        <p key={note} className="mt-2 text-ochre">
          {note}
        </p>
      ))}
      {counts && <p className="mt-2">{(counts.same ?? 0).toLocaleString("en")} parts are as they were.</p>}
      <div aria-label="What the newer version changed" role="group">
        {rows
          .filter((r) => r.count > 0)
          .map((r) => (
            <details key={r.title} open={r.warns || r.count <= 12} className="border-b border-hairline py-1.5">
              <summary className={`cursor-pointer ${r.warns ? "text-ochre" : ""}`}>
                <span className="font-semibold">{r.title}</span>{" "}
                <span className="tabular-nums">{r.count.toLocaleString("en")}</span>
              </summary>
              <ul className="mt-1 text-xs">
                {r.lines.slice(0, 100).map((line, i) => (
                  <li key={i} className="break-words py-0.5">
                    {line}
                  </li>
                ))}
                {r.count > 100 && <li className="quiet">and {(r.count - 100).toLocaleString("en")} more</li>}
              </ul>
            </details>
          ))}
      </div>
      {counts && rows.every((r) => r.count === 0) && <p className="quiet mt-2">Nothing else changed.</p>}
      {!counts && (
        <p className="quiet mt-3">
          When a newer version is brought, what is new, gone, moved or changed in it is listed here.
        </p>
      )}
    </>
  );
}
