import type { Query, Trace } from "../../api/client";
import { useRegions } from "../../desk/regions";
import type { Editing } from "../../desk/study";
import { Choice } from "../../shared/controls";
import { useParts } from "../model/parts";

/** What a trace is confined to: all, a kept region by its name, a part set, what is selected in the drawing, or these together. */
export function Confined({
  editing,
  trace,
  onChange,
}: {
  editing: Editing;
  trace: Trace;
  onChange: (where: Query | null) => void;
}) {
  const selection = useRegions((s) => s.selection);
  const sets = Object.keys(useParts(editing.study).data?.sets ?? {});
  const regions = editing.study.document.regions ?? [];
  const { discs, masks } = editing.study.document.desk.view;
  const windows = [...new Set([...(discs ?? []), ...(masks ?? [])].map((w) => w.name))];
  const where = trace.where;
  const words = editing.study.sentences.traces?.[trace.id];
  const only = where?.kind === "match" ? where : null;
  const bare =
    only &&
    Object.entries(only).every(
      ([k, v]) => k === "kind" || k === "sets" || v == null || (Array.isArray(v) && v.length === 0),
    );
  const now = !where
    ? "all"
    : where.kind === "kept"
      ? `region:${where.name}`
      : where.kind === "through"
        ? `through:${where.name}`
        : bare && only?.sets?.length === 1
          ? `set:${only.sets[0]}`
          : "said";
  const options = [
    { value: "all", label: "all of the drawing" },
    ...regions.map((r) => ({ value: `region:${r.name}`, label: `region ${r.name}` })),
    ...sets.map((n) => ({ value: `set:${n}`, label: `set ${n}` })),
    ...windows.map((n) => ({ value: `through:${n}`, label: `through ${n}` })),
  ];
  if (!options.some((o) => o.value === now)) options.push({ value: now, label: words ?? "what it says" });
  const choose = (value: string) => {
    if (value === "said") return;
    if (value === "all") return onChange(null);
    const name = value.slice(value.indexOf(":") + 1);
    if (value.startsWith("through:")) return onChange({ kind: "through", name } as Query);
    onChange(value.startsWith("region:") ? { kind: "kept", name } : ({ kind: "match", sets: [name] } as Query));
  };
  const chosen = selection?.found.query as Query | undefined;
  const act = (label: string, query: Query) => (
    <button
      type="button"
      className="plain mr-3 text-xs font-semibold underline decoration-hairline underline-offset-4"
      onClick={() => onChange(query)}
    >
      {label}
    </button>
  );
  return (
    <>
      <Choice label="Confined to" value={now} options={options} onChange={choose} />
      {chosen && (
        <p className="py-1" role="group" aria-label={`With what is selected: ${selection!.found.called}`}>
          {act(`Confine to what is selected: ${selection!.found.called}`, chosen)}
          {where && act("and that as well", { kind: "any", of: [where, chosen] } as Query)}
          {where && act("only where both are", { kind: "all", of: [where, chosen] } as Query)}
          {act(
            "but not there",
            (where ? { kind: "all", of: [where, { kind: "not", of: chosen }] } : { kind: "not", of: chosen }) as Query,
          )}
        </p>
      )}
    </>
  );
}
