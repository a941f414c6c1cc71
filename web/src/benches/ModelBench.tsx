import type { Editing } from "../desk/study";
import { type Leaf, LEAVES, useChoice } from "./model/choice";
import { FindingSettings, HealthList } from "./model/Health";
import { MaterialList, MaterialSettings } from "./model/Materials";
import { PartSettings } from "./model/PartSettings";
import { useParts } from "./model/parts";
import { PartTree } from "./model/PartTree";
import { BehaviourTable, RoleList } from "./model/Roles";
import { SetList } from "./model/Sets";
import { ReportSettings, VersionList } from "./model/Versions";

export { ModelRoom } from "./model/ModelRoom";

/** What stands at the left: the parts, or what is said of them, its faults, the files it came in. */
export function ModelList({ editing }: { editing: Editing }) {
  const { leaf, set } = useChoice();
  const { data: parts, error } = useParts(editing.study);
  return (
    <div className="flex h-full flex-col">
      <div
        role="group"
        aria-label="What the list shows"
        className="mb-2 grid shrink-0 grid-cols-3 gap-x-3 gap-y-0.5 text-[12.5px]"
      >
        {LEAVES.map((name) => (
          <button
            key={name}
            type="button"
            aria-pressed={leaf === name}
            className={`plain border-b-2 py-0.5 ${leaf === name ? "border-sanguine font-semibold" : "border-transparent"}`}
            onClick={() => set({ leaf: name })}
          >
            {name}
          </button>
        ))}
      </div>
      {error && <p role="alert">{error.message}</p>}
      {!parts && !error && <p className="quiet py-2">Reading the parts …</p>}
      {parts &&
        (
          {
            Parts: () => <PartTree editing={editing} parts={parts} />,
            Sets: () => <SetList editing={editing} parts={parts} />,
            Materials: () => <MaterialList editing={editing} parts={parts} />,
            Roles: () => <RoleList editing={editing} parts={parts} />,
            Health: () => <HealthList editing={editing} />,
            Versions: () => <VersionList editing={editing} />,
          } satisfies Record<Leaf, () => React.ReactNode>
        )[leaf]()}
    </div>
  );
}

/** The settings of what is selected at the left or in the model. */
export function ModelSettings({ editing }: { editing: Editing }) {
  const leaf = useChoice((s) => s.leaf);
  const { data: parts } = useParts(editing.study);
  if (!parts) return null;
  if (leaf === "Materials") return <MaterialSettings editing={editing} parts={parts} />;
  if (leaf === "Roles") return <BehaviourTable parts={parts} />;
  if (leaf === "Health") return <FindingSettings editing={editing} parts={parts} />;
  if (leaf === "Versions") return <ReportSettings editing={editing} />;
  return <PartSettings editing={editing} parts={parts} />;
}
