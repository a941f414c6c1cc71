import { Fragment } from "react";

import type { Query } from "../../api/client";
import type { Editing } from "../../desk/study";
import { useChoices } from "../../desk/study";
import { Choice } from "../../shared/controls";
import { asPattern, useParts } from "../model/parts";

type Match = Extract<Query, { kind?: "match" }>;

/** Words of which any number may be said; none means all. */
function Several({
  label,
  words,
  value,
  onChange,
}: {
  label: string;
  words: Record<string, string>;
  value: readonly string[];
  onChange: (value: string[]) => void;
}) {
  const all = Object.keys(words);
  return (
    <div className="row" role="group" aria-label={label}>
      <span className="quiet text-xs">{label}</span>
      <span className="flex flex-wrap justify-end gap-x-2">
        {all.map((word) => {
          const on = value.includes(word);
          return (
            <button
              key={word}
              type="button"
              aria-pressed={on}
              className={`plain border-b-2 text-xs ${on ? "border-sanguine font-semibold" : "border-transparent"}`}
              onClick={() => onChange(all.filter((w) => (w === word ? !on : value.includes(w))))}
            >
              {words[word]}
            </button>
          );
        })}
      </span>
    </div>
  );
}

/** What a rule takes hold of, as far as a form can say it; what goes beyond that is said in words and stays as it is. */
export function Takes(props: {
  editing: Editing;
  what: "lines" | "parts" | "round" | "seen";
  where: Query;
  onChange: (where: Query) => void;
}) {
  const { where, what } = props;
  const { roles = [], words = [] } = useChoices() ?? {};
  const parts = useParts(props.editing.study).data;
  if (where.kind !== "match")
    return <p className="quiet text-xs">This rule is put together of several queries; it is kept as it is.</p>;
  const match = where as Match;
  const saying = match as Record<string, unknown>;
  const set = (some: Record<string, unknown>) => props.onChange({ ...match, ...some } as Query);
  const called = Object.fromEntries(words.map((w) => [w.name, w.label]));
  // What a single choice says: what things of the model are called, and how they are drawn.
  const names = words.filter((w) => (w.named && w.label) || w.name === "drawn").map((w) => w.name);
  const said = names.flatMap((word) => ((saying[word] as string[]) ?? []).map((name) => `${word}:${name}`));
  const one = said.length === 0 ? "all" : said.length === 1 ? said[0]! : "several";
  // A layer is found by its name as a pattern: what would be a sign there stands for itself.
  const layers = [...(parts?.layers ?? [])].filter(Boolean).sort((a, b) => a.localeCompare(b, "en", { numeric: true }));
  const options = [
    { value: "all", label: "all parts" },
    ...Object.keys(parts?.sets ?? {}).map((n) => ({ value: `sets:${n}`, label: `set ${n}` })),
    ...Object.entries(words.find((w) => w.name === "drawn")?.options ?? {}).map(([n, label]) => ({
      value: `drawn:${n}`,
      label,
    })),
    ...roles.map((n) => ({ value: `roles:${n}`, label: `role ${n}` })),
    ...(parts?.materials ?? []).map((m) => ({ value: `materials:${m.name}`, label: `material ${m.name}` })),
    ...layers.map((n) => ({ value: `layers:${asPattern(n)}`, label: `layer ${n}` })),
  ];
  if (one !== "all" && !options.some((o) => o.value === one)) {
    const [word, name] = [one.slice(0, one.indexOf(":")), one.slice(one.indexOf(":") + 1)];
    options.push({ value: one, label: one === "several" ? "several, as it reads" : `${called[word]} ${name}` });
  }
  const of = (value: string) => {
    if (value === "several") return;
    const bare = Object.fromEntries(names.map((word) => [word, []]));
    if (value === "all") return set(bare);
    const word = value.slice(0, value.indexOf(":"));
    set({ ...bare, [word]: [value.slice(value.indexOf(":") + 1)] });
  };
  const tri = (
    label: string,
    value: boolean | null | undefined,
    yes: string,
    no: string,
    take: (v: boolean | null) => void,
  ) => (
    <Choice
      label={label}
      value={value == null ? "both" : value ? "yes" : "no"}
      options={[
        { value: "both", label: "both" },
        { value: "yes", label: yes },
        { value: "no", label: no },
      ]}
      onChange={(v) => take(v === "both" ? null : v === "yes")}
    />
  );
  const asked = what === "seen" ? "regions" : what;
  return (
    <>
      {words
        .filter((w) => w.shown.includes(asked))
        .map(({ name, label, options, either }) =>
          either ? (
            <Fragment key={name}>
              {tri(label, saying[name] as boolean | null, options.yes!, options.no!, (v) => set({ [name]: v }))}
            </Fragment>
          ) : (
            <Several
              key={name}
              label={label}
              words={options}
              value={(saying[name] as string[]) ?? []}
              onChange={(value) => set({ [name]: value })}
            />
          ),
        )}
      <Choice label={what === "round" ? "Round" : "Of"} value={one} options={options} onChange={of} />
    </>
  );
}
