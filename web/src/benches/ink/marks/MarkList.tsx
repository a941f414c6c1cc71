import type { Mark } from "../../../api/client";
import { useScreen } from "../../../desk/screen";
import { at, type Editing, useLandmarks } from "../../../desk/study";
import { Choice, NumberField, OnOff } from "../../../shared/controls";
import { CALLED, KINDS, type Lies, useMarking } from "./marking";
import { MarkSign } from "./MarkSigns";

const LYING = [
  { value: "face", label: "the face there" },
  { value: "cut", label: "the cut" },
  { value: "level", label: "a level" },
  { value: "paper", label: "the paper" },
] as const;

const HINTS: Record<string, string> = {
  line: "Click its two ends.",
  polyline: "Click its points; Enter ends it.",
  arrow: "Click its points; Enter ends it at its head.",
  rectangle: "Click two corners.",
  polygon: "Click its corners; Enter closes it.",
  circle: "Click its middle, then a place on it.",
  arc: "Click its beginning, a place on it, its end.",
  stroke: "Draw with the button held down.",
  brush: "Sweep with the button held down.",
  ground: "Click one point for a level, or several for a line, and press Enter; or draw it with the button held down.",
};

/** What a plane is called, as far as the mark itself says. */
export function lyingWords(mark: Mark, views: { id: string; mark: string }[]): string {
  if (mark.kind === "ground")
    return mark.points.length === 1 ? `a level at ${mark.points[0]![2].toFixed(2)} m` : "a line through its points";
  const plane = mark.plane!;
  if (plane.lies === "face") return `on ${plane.part.split("/").at(-1)}`;
  if (plane.lies === "cut") return "in the cut";
  if (plane.lies === "level") return `at ${mark.points[0]![2].toFixed(2)} m`;
  return `on the paper of ${views.find((v) => v.id === plane.view)?.mark ?? "a view"}`;
}

/** Marks of one's own: what can be drawn, on what it lies, and what there is. */
export function MarkList({ editing }: { editing: Editing }) {
  const { chosen, choose } = useScreen();
  const { kind, lies, height, take, set } = useMarking();
  const levels = useLandmarks(editing.study.slug, editing.study.model.version).levels;
  const marks = editing.study.document.marks ?? [];
  const mine = chosen.Ink?.kind === "mark" ? chosen.Ink.id : null;
  return (
    <>
      <h2 className="mt-6">Marks of one’s own</h2>
      <p className="quiet mb-1 text-xs">What the model lacks, drawn on it: it is there in every view.</p>
      <div className="flex flex-wrap gap-x-1.5 gap-y-1" role="radiogroup" aria-label="Draw a mark">
        {KINDS.map((k) => (
          <button
            key={k}
            type="button"
            role="radio"
            aria-checked={kind === k}
            aria-label={CALLED[k]}
            title={CALLED[k]}
            className={`plain border-b-2 p-1 ${kind === k ? "border-sanguine" : "border-transparent"}`}
            onClick={() => take(kind === k ? null : k)}
          >
            <MarkSign kind={k} chosen={kind === k} />
          </button>
        ))}
      </div>
      {kind && <p className="mt-1 text-xs">{HINTS[kind]} Esc leaves off.</p>}
      {kind !== "ground" && (
        <Choice label="Lies on" value={lies} options={LYING} onChange={(v) => set({ lies: v as Lies })} />
      )}
      {lies === "level" && kind !== "ground" && (
        <>
          {levels.length > 0 && (
            <Choice
              label="Level"
              value={levels.find((l) => Math.abs(l.height - height) < 1e-6)?.name ?? "other"}
              options={[
                ...levels.map((l) => ({ value: l.name, label: `${l.name} ${l.height.toFixed(2)}` })),
                { value: "other", label: "another" },
              ]}
              onChange={(name) => set({ height: levels.find((l) => l.name === name)?.height ?? height })}
            />
          )}
          <NumberField label="Height" unit="m" value={height} onChange={(v) => set({ height: v })} />
        </>
      )}
      <ul className="mt-2" aria-label="Marks, the uppermost first">
        {[...marks].reverse().map((m) => (
          <li key={m.id} className="row" data-chosen={mine === m.id}>
            <button
              type="button"
              className={`plain flex min-w-0 flex-1 items-center gap-2 text-left leading-tight ${m.on === false ? "quiet" : ""}`}
              aria-pressed={mine === m.id}
              onClick={() => (take(null), choose({ kind: "mark", id: m.id! }))}
            >
              <MarkSign kind={m.kind} chosen={mine === m.id} />
              <span className="min-w-0">
                {m.name || CALLED[m.kind]}
                <span className="quiet block text-xs font-normal">{lyingWords(m, editing.study.document.views)}</span>
              </span>
            </button>
            <OnOff
              bare
              label={`${m.name || CALLED[m.kind]}, on or off`}
              value={m.on ?? true}
              onChange={(v) =>
                void editing.act({
                  do: "marks",
                  label: `${m.name} ${v ? "on" : "off"}`,
                  changes: [at(["marks", m.id!, "on"], v)],
                })
              }
            />
          </li>
        ))}
      </ul>
    </>
  );
}
