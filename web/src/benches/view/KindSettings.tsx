import type { Cut, Landmarks, ViewKind } from "../../api/client";
import { type Editing, useChoices } from "../../desk/study";
import { Choice, NumberField, OnOff } from "../../shared/controls";
import { DimensionLine } from "../../shared/DimensionLine";

type Name = ViewKind["kind"];

const SIDES = [
  { value: "0", label: "to the north" },
  { value: "90", label: "to the east" },
  { value: "180", label: "to the south" },
  { value: "270", label: "to the west" },
];
/** Kinds that look straight at something. */
const STRAIGHT: Name[] = ["elevation", "section", "elevation oblique", "one-point perspective", "section perspective"];
/** Degrees within which two bearings are one. */
const SAME = 0.02;

/** The bearings to look along: the four sides, squarely at each front and each upright cut, and the present one. */
function bearings(fronts: readonly number[], cuts: readonly Cut[], now: number): { value: string; label: string }[] {
  const found = [...SIDES];
  const add = (bearing: number, label: string) => {
    if (!found.some((s) => Math.abs(((Number(s.value) - bearing + 540) % 360) - 180) < SAME))
      found.push({ value: String(bearing), label });
  };
  const degrees = (b: number) => `${Number(b.toFixed(2))}°`;
  for (const front of fronts) add(front, `squarely at a front, ${degrees(front)}`);
  cuts.forEach((cut, i) => {
    const [x, y, z] = cut.normal;
    const bearing = Number((((Math.atan2(-x, -y) * 180) / Math.PI + 360) % 360).toFixed(4));
    if (Math.abs(z) < 1e-6 * Math.hypot(x, y)) add(bearing, `squarely at cut ${i + 1}, ${degrees(bearing)}`);
  });
  if (!found.some((s) => s.value === String(now))) {
    // The present one stands in for one that is the same but for rounding.
    const near = found.findIndex((s) => Math.abs(((Number(s.value) - now + 540) % 360) - 180) < SAME);
    if (near >= 0) found[near] = { value: String(now), label: found[near]!.label };
    else found.push({ value: String(now), label: `${degrees(now)} from north` });
  }
  return found;
}

const CORNERS = [
  { value: "45", label: "to the north-east" },
  { value: "135", label: "to the south-east" },
  { value: "225", label: "to the south-west" },
  { value: "315", label: "to the north-west" },
];

/** Millimetres of lens for an angle across the frame, on the trade's 36 mm. */
const lensOf = (angle: number) => 18 / Math.tan((angle * Math.PI) / 360);
const angleOf = (lens: number) => (360 / Math.PI) * Math.atan(18 / lens);

/** What kind of view lies on the desk, and the few settings that make it so. */
export function KindSettings({ editing, landmarks }: { editing: Editing; landmarks: Landmarks }) {
  const { levels } = landmarks;
  const kind = editing.study.kind;
  const kinds = useChoices()?.kinds ?? { [kind.kind]: kind.kind };
  const { focus_low: low, focus_high: high } = editing.study.model;
  const bearing = "bearing" in kind ? kind.bearing : "corner" in kind ? kind.corner : 0;
  const middle = [0, 1].map((k) => (low[k]! + high[k]!) / 2) as [number, number];
  const along = (b: number) => middle[0] * Math.sin((b * Math.PI) / 180) + middle[1] * Math.cos((b * Math.PI) / 180);
  /** Where a section may stand along its bearing. */
  const reach = (b: number): [number, number] => {
    const half =
      (Math.abs(Math.sin((b * Math.PI) / 180)) * (high[0]! - low[0]!) +
        Math.abs(Math.cos((b * Math.PI) / 180)) * (high[1]! - low[1]!)) /
      2;
    return [along(b) - half, along(b) + half];
  };
  /** Where a cut that is there already stands square to a bearing. */
  const cutPlace = (b: number): number | undefined => {
    const way = [Math.sin((b * Math.PI) / 180), Math.cos((b * Math.PI) / 180)] as const;
    const found = editing.study.document.desk.view.cuts.find(
      (c) => c.role === "cut" && Math.abs(c.normal[0] + way[0]) + Math.abs(c.normal[1] + way[1]) < 1e-6,
    );
    return found && found.point[0] * way[0] + found.point[1] * way[1];
  };
  const sides = bearings(landmarks.fronts, editing.study.document.desk.view.cuts, bearing);
  /** Another bearing; a section then stands in the middle again, unless a cut stands there already. */
  const look = (b: number) =>
    set({ bearing: b, ...("place" in kind ? { place: cutPlace(b) ?? Math.round(along(b) * 100) / 100 } : {}) });
  const set = (change: Partial<Record<string, number | boolean>>) => editing.kind({ ...kind, ...change } as ViewKind);
  const number = (field: string, label: string, unit: string, digits: number, min: number, max: number) => {
    const value = (kind as unknown as Record<string, number>)[field];
    if (value === undefined) return null;
    return (
      <NumberField
        key={field}
        label={label}
        unit={unit}
        digits={digits}
        min={min}
        max={max}
        value={value}
        onChange={(v) => set({ [field]: v })}
      />
    );
  };
  const cutHeight = "storey" in kind ? kind.storey + kind.height : 0;
  const storey = "storey" in kind ? [...levels].reverse().find((l) => l.height <= cutHeight + 1e-6) : undefined;

  return (
    <>
      <Choice<Name>
        label="Kind"
        value={kind.kind}
        options={Object.entries(kinds).map(([value, label]) => ({ value: value as Name, label }))}
        onChange={(name) => name !== kind.kind && void editing.begin(name)}
      />
      {"storey" in kind && (
        <>
          {levels.length > 0 && (
            <Choice
              label="Storey"
              value={String(storey?.height ?? "below")}
              options={[
                ...(storey ? [] : [{ value: "below", label: "below the lowest" }]),
                ...levels.map((l) => ({ value: String(l.height), label: `${l.name}, ${l.height.toFixed(2)} m` })),
              ]}
              onChange={(z) =>
                z !== "below" &&
                editing.kind({ ...kind, storey: Number(z), height: storey ? cutHeight - storey.height : 1.2 })
              }
            />
          )}
          <DimensionLine
            label="Cut above it"
            unit="m"
            min={0.1}
            max={3.5}
            step={0.05}
            initial={1.2}
            value={cutHeight - (storey?.height ?? 0)}
            onChange={(height) => editing.kind({ ...kind, storey: storey?.height ?? 0, height })}
          />
        </>
      )}
      {"corner" in kind && (
        <Choice
          label="Looking"
          value={String(kind.corner)}
          options={CORNERS}
          onChange={(c) => set({ corner: Number(c) })}
        />
      )}
      {"corner" in kind && <OnOff label="From below" value={kind.below} onChange={(below) => set({ below })} />}
      {"bearing" in kind && (
        <>
          {STRAIGHT.includes(kind.kind) && (
            <Choice label="Looking" value={String(kind.bearing)} options={sides} onChange={(b) => look(Number(b))} />
          )}
          <DimensionLine
            label="Bearing of sight"
            unit="°"
            digits={kind.bearing % 1 ? 2 : 0}
            min={0}
            max={360}
            step={1}
            value={kind.bearing}
            onChange={look}
          />
        </>
      )}
      {"down" in kind && (
        <DimensionLine
          label="Angle from level"
          unit="°"
          digits={0}
          min={kind.kind === "worm's eye" ? -80 : 5}
          max={kind.kind === "worm's eye" ? -5 : 85}
          step={1}
          value={kind.down}
          onChange={(down) => set({ down })}
        />
      )}
      {"place" in kind && (
        <DimensionLine
          label="Cut at"
          unit="m"
          min={Math.floor(reach(kind.bearing)[0] * 10) / 10}
          max={Math.ceil(reach(kind.bearing)[1] * 10) / 10}
          step={0.05}
          value={kind.place}
          onChange={(place) => set({ place })}
        />
      )}
      {"top" in kind && (
        <NumberField
          label="Bearing of the paper’s top"
          unit="°"
          digits={0}
          min={-360}
          max={360}
          value={kind.top}
          onChange={(top) => set({ top })}
        />
      )}
      {"ratio" in kind && (
        <>
          <DimensionLine
            label={kind.kind === "plan oblique" ? "Uprights at" : "Depth at"}
            unit="°"
            digits={0}
            min={0}
            max={360}
            step={5}
            value={kind.angle}
            onChange={(angle) => set({ angle })}
          />
          <DimensionLine
            label="Drawn at"
            unit=" of its length"
            min={0}
            max={1.5}
            step={0.05}
            value={kind.ratio}
            onChange={(ratio) => set({ ratio })}
          />
        </>
      )}
      {"distance" in kind && (
        <>
          {number("eye_height", "Eye height", "m", 2, -1000, 10000)}
          {number(
            "distance",
            kind.kind === "section perspective" ? "Eye before the cut" : "Standing off the nearest face",
            "m",
            2,
            0.06,
            100000,
          )}
          {number("aside", "Eye right of the middle", "m", 2, -10000, 10000)}
        </>
      )}
      {"eye_height" in kind && "angle" in kind && (
        <>
          <DimensionLine
            label="Field of view"
            unit="°"
            digits={0}
            min={15}
            max={110}
            step={1}
            initial={50}
            value={kind.angle}
            onChange={(angle) => set({ angle })}
          />
          <NumberField
            label="As a lens"
            unit="mm"
            digits={0}
            min={5}
            max={400}
            value={lensOf(kind.angle)}
            onChange={(lens) => set({ angle: angleOf(lens) })}
          />
        </>
      )}
    </>
  );
}
