import type { Cut } from "../../api/client";
import { Choice, NumberField } from "../../shared/controls";
import { DimensionLine } from "../../shared/DimensionLine";
import { CutSign, LevelMark } from "../../shared/signs";
import type { Vec } from "./camera";
import { atOffset, AXES, type Axis, axisName, axisOf, flipped, offsetOf, quarterTurned } from "./directions";

/** One cutting plane: where it stands, what it does, and its turns. */
export function CutSettings(props: {
  number: number;
  cut: Cut;
  low: Vec;
  high: Vec;
  levels: { name: string; height: number }[];
  onChange: (cut: Cut, label: string) => void;
  onAxis: (axis: Axis) => void;
  onRemove: () => void;
}) {
  const { cut, low, high } = props;
  const axis = axisOf(cut);
  const k = axis ? AXES.indexOf(axis) : 0;
  const reach = axis ? [low[k]!, high[k]!] : [-100, 100];
  const turn = (what: Cut, label: string) => props.onChange(what, label);
  const jog = (i: number, change: Partial<Cut["jogs"][number]>) =>
    turn({ ...cut, jogs: cut.jogs.map((j, n) => (n === i ? { ...j, ...change } : j)) }, "Move a step");
  return (
    <fieldset className="border-b border-hairline pb-3">
      <legend className="sr-only">Cutting plane {props.number}</legend>
      <div className="flex items-center gap-2 pt-2">
        {axis === "z" ? <LevelMark /> : <CutSign limit={cut.role === "limit"} />}
        <span className="label">Plane {props.number}</span>
      </div>
      <Choice
        label="Stands"
        value={axis ?? "free"}
        options={[
          ...AXES.map((a) => ({ value: a as string, label: axisName(a) })),
          ...(axis ? [] : [{ value: "free", label: "at an angle" }]),
        ]}
        onChange={(a) => a !== "free" && props.onAxis(a as Axis)}
      />
      <DimensionLine
        label="Place"
        unit="m"
        min={Math.floor(reach[0]! * 10) / 10}
        max={Math.ceil(reach[1]! * 10) / 10}
        step={0.01}
        value={offsetOf(cut)}
        onChange={(v) => props.onChange(atOffset(cut, v), "Move the plane")}
      />
      {axis === "z" && props.levels.length > 0 && (
        <Choice
          label="Above a storey"
          value="free"
          options={[
            { value: "free", label: "choose one" },
            ...props.levels.map((l) => ({ value: String(l.height), label: `1.20 m above ${l.name}` })),
          ]}
          onChange={(z) => z !== "free" && turn(atOffset(cut, Number(z) + 1.2), "Cut above a storey")}
        />
      )}
      {cut.jogs.map((step, i) => (
        <div key={i} className="border-l-2 border-hairline pl-2">
          <NumberField
            label={`Step ${i + 1}, along the trace`}
            unit="m"
            value={step.at}
            onChange={(at) => jog(i, { at })}
          />
          <NumberField label="Plane set forward by" unit="m" value={step.by} onChange={(by) => jog(i, { by })} />
          <button
            type="button"
            className="plain text-xs font-semibold"
            onClick={() => turn({ ...cut, jogs: cut.jogs.filter((_, n) => n !== i) }, "Remove a step")}
          >
            Remove this step
          </button>
        </div>
      ))}
      <Choice
        label="What it does"
        value={cut.role ?? "cut"}
        options={[
          { value: "cut", label: "cuts, with poche" },
          { value: "limit", label: "limits the depth" },
        ]}
        onChange={(role) => turn({ ...cut, role }, "Change the plane")}
      />
      <div className="mt-2 flex gap-4 text-xs font-semibold">
        <button type="button" className="plain" onClick={() => turn(flipped(cut), "Flip the plane")}>
          Flip
        </button>
        <button type="button" className="plain" onClick={() => turn(quarterTurned(cut), "Turn the plane by 90°")}>
          Turn 90°
        </button>
        <button
          type="button"
          className="plain"
          onClick={() => {
            const last = cut.jogs.reduce((far, j) => Math.max(far, j.at), -1);
            turn({ ...cut, jogs: [...cut.jogs, { at: last + 1, by: 1 }] }, "Step the section");
          }}
        >
          Add a step
        </button>
        <button type="button" className="plain" onClick={props.onRemove}>
          Remove
        </button>
      </div>
    </fieldset>
  );
}
