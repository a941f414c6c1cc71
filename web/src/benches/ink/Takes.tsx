import type { Query } from "../../api/client";
import type { Editing } from "../../desk/study";
import { useChoices } from "../../desk/study";
import { Choice } from "../../shared/controls";
import { asPattern, useParts } from "../model/parts";

type Match = Extract<Query, { kind?: "match" }>;

const RANKS = { cut: "cut", outline: "outlines", edge: "edges", surface: "joints" } as const;
const WORDS = ["sets", "roles", "materials", "layers", "storeys", "drawn"] as const;
const CALLED = {
  sets: "set",
  roles: "role",
  materials: "material",
  layers: "layer",
  storeys: "storey",
  drawn: "",
} as const;
const DRAWN = { soft: "softly drawn", plain: "plainly drawn", strong: "strongly drawn" };

const LIGHT = { lit: "lit", shadow: "cast shadow", shade: "shade" } as const;
const FACING = { up: "up", down: "down", north: "N", east: "E", south: "S", west: "W", sloping: "sloping" } as const;
const WHERE = { sky: "sky", outside: "ground beyond" } as const;

/** Words of which any number may be said; none means all. */
function Several<W extends string>({
  label,
  words,
  value,
  onChange,
}: {
  label: string;
  words: Partial<Record<W, string>>;
  value: readonly W[];
  onChange: (value: W[]) => void;
}) {
  const all = Object.keys(words) as W[];
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
  const roles = useChoices()?.roles ?? [];
  const parts = useParts(props.editing.study).data;
  if (where.kind !== "match")
    return <p className="quiet text-xs">This rule is put together of several queries; it is kept as it is.</p>;
  const match = where as Match;
  const set = (some: Partial<Match>) => props.onChange({ ...match, ...some } as Query);
  const ranks = match.ranks ?? [];
  const said = WORDS.flatMap((word) => (match[word] ?? []).map((name) => `${word}:${name}`));
  const one = said.length === 0 ? "all" : said.length === 1 ? said[0]! : "several";
  // A layer is found by its name as a pattern: what would be a sign there stands for itself.
  const layers = [...(parts?.layers ?? [])].filter(Boolean).sort((a, b) => a.localeCompare(b, "en", { numeric: true }));
  const options = [
    { value: "all", label: "all parts" },
    ...Object.keys(parts?.sets ?? {}).map((n) => ({ value: `sets:${n}`, label: `set ${n}` })),
    ...Object.entries(DRAWN).map(([n, label]) => ({ value: `drawn:${n}`, label })),
    ...roles.map((n) => ({ value: `roles:${n}`, label: `role ${n}` })),
    ...(parts?.materials ?? []).map((m) => ({ value: `materials:${m.name}`, label: `material ${m.name}` })),
    ...layers.map((n) => ({ value: `layers:${asPattern(n)}`, label: `layer ${n}` })),
  ];
  if (one !== "all" && !options.some((o) => o.value === one)) {
    const [word, name] = [one.slice(0, one.indexOf(":")) as (typeof WORDS)[number], one.slice(one.indexOf(":") + 1)];
    options.push({ value: one, label: one === "several" ? "several, as it reads" : `${CALLED[word]} ${name}` });
  }
  const of = (value: string) => {
    if (value === "several") return;
    const bare = Object.fromEntries(WORDS.map((word) => [word, []]));
    if (value === "all") return set(bare as Partial<Match>);
    const word = value.slice(0, value.indexOf(":"));
    set({ ...bare, [word]: [value.slice(value.indexOf(":") + 1)] } as Partial<Match>);
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
  return (
    <>
      {what === "lines" && (
        <>
          <div className="row" role="group" aria-label="Ranks">
            {(Object.keys(RANKS) as (keyof typeof RANKS)[]).map((rank) => {
              const on = ranks.includes(rank);
              return (
                <button
                  key={rank}
                  type="button"
                  aria-pressed={on}
                  className={`plain border-b-2 text-xs ${on ? "border-sanguine font-semibold" : "border-transparent"}`}
                  onClick={() =>
                    set({
                      ranks: on
                        ? ranks.filter((r) => r !== rank)
                        : (Object.keys(RANKS) as (keyof typeof RANKS)[]).filter((r) => r === rank || ranks.includes(r)),
                    })
                  }
                >
                  {RANKS[rank]}
                </button>
              );
            })}
          </div>
          {tri("Seen or hidden", match.hidden, "hidden", "seen", (hidden) => set({ hidden }))}
          {tri("Behind glass", match.glass, "behind glass", "not behind", (glass) => set({ glass }))}
        </>
      )}
      {what === "seen" && (
        <>
          <Several label="Light" words={LIGHT} value={match.light ?? []} onChange={(light) => set({ light })} />
          <Several label="Facing" words={FACING} value={match.facing ?? []} onChange={(facing) => set({ facing })} />
          <Several label="Beyond" words={WHERE} value={match.where ?? []} onChange={(where) => set({ where })} />
          {tri("Behind glass", match.glass, "behind glass", "not behind", (glass) => set({ glass }))}
        </>
      )}
      <Choice label={what === "round" ? "Round" : "Of"} value={one} options={options} onChange={of} />
    </>
  );
}
