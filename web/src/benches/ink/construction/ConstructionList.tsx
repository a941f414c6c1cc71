import type { BuildUp, BuildUpRule } from "../../../api/client";
import { useScreen } from "../../../desk/screen";
import { at, type Editing, useChoices } from "../../../desk/study";
import { Choice } from "../../../shared/controls";
import { RuleList } from "../RuleList";
import { BuildUpSample } from "./BuildUpSample";

/** What is built of what, and the build-ups that the finish knows. */
export function ConstructionList({ editing }: { editing: Editing }) {
  const { build_ups: known = [], construction = [] } = editing.study.look;
  return (
    <>
      <h2 className="mt-6">Construction</h2>
      <p className="quiet mb-1 text-xs">What is built in layers where it is cut; each rule goes over those above it.</p>
      {known.length > 0 || construction.length > 0 ? (
        <RuleList
          editing={editing}
          room="construction"
          rules={construction}
          sign={(rule) => <BuiltSign editing={editing} rule={rule} known={known} />}
          fresh={{ where: { kind: "match", roles: ["envelope"] }, build_up: known[0]?.id ?? "" }}
          adding="Build something"
        />
      ) : (
        <p className="text-xs">
          Take a build-up into the hand from the strip under the drawing, and tap a wall, a roof, a floor.
        </p>
      )}
      <BuildUpList editing={editing} known={known} />
    </>
  );
}

function BuiltSign({ editing, rule, known }: { editing: Editing; rule: BuildUpRule; known: BuildUp[] }) {
  const found = known.find((b) => b.id === rule.build_up);
  if (!found) return <span className="quiet text-xs font-normal">in no layers</span>;
  return (
    <span className="min-w-0">
      <span className="quiet block text-xs font-normal">{found.name}</span>
      <BuildUpSample study={editing.study} buildUp={found} width={59} height={18} />
    </span>
  );
}

function BuildUpList({ editing, known }: { editing: Editing; known: BuildUp[] }) {
  const { chosen, choose, everywhere } = useScreen();
  const kit = useChoices()?.ink.build_ups ?? [];
  const mine = chosen.Ink?.kind === "build-up" ? chosen.Ink.id : null;
  const free = kit.filter((b) => known.every((k) => k.id !== b.id));
  const add = (id: string) => {
    const taken = kit.find((b) => b.id === id);
    const fresh = Array.from({ length: known.length + 1 }, (_, k) => `own-${k + 1}`).find((name) =>
      known.every((b) => b.id !== name),
    )!;
    const made = taken ?? {
      id: fresh,
      name: `Build-up ${known.length + 1}`,
      layers: [{ id: "layer-1", name: "Core", thickness: null, fills: [{ kind: "flat", colour: "#ffffff" }] }],
    };
    editing.look(`Add “${made.name}”`, [at(["build_ups", made.id!], made)], everywhere.Ink);
    choose({ kind: "build-up", id: made.id! });
  };
  return (
    <>
      <h2 className="mt-6">Build-ups</h2>
      <ul aria-label="Build-ups">
        {known.map((b) => (
          <li key={b.id}>
            <button
              type="button"
              className="plain row w-full text-left"
              data-chosen={mine === b.id}
              aria-pressed={mine === b.id}
              onClick={() => choose({ kind: "build-up", id: b.id! })}
            >
              <span className="min-w-0 leading-tight">{b.name}</span>
              <BuildUpSample study={editing.study} buildUp={b} width={58} height={18} />
            </button>
          </li>
        ))}
      </ul>
      <Choice
        label="Add"
        value="none"
        options={[
          { value: "none", label: "a build-up …" },
          { value: "new", label: "a new one" },
          ...free.map((b) => ({ value: b.id!, label: b.name })),
        ]}
        onChange={(v) => v !== "none" && add(v)}
      />
    </>
  );
}
