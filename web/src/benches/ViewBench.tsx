import { lazy, Suspense, useEffect, useState } from "react";

import type { Desk, View } from "../api/client";
import { type Editing, useChoices } from "../desk/study";
import { Choice, NumberField, OnOff, TextField } from "../shared/controls";
import { DimensionLine } from "../shared/DimensionLine";
import { SunDial } from "../shared/SunDial";
import { useChoice } from "./model/choice";
import { useParts, useViewLook } from "./model/parts";
import { bearing, type Vec } from "./view/camera";
import { CutSettings } from "./view/CutSettings";
import { asKind, type Kind, kindOf, onAxis, SIDES } from "./view/directions";
import { FrameSettings } from "./view/FrameSettings";

export { ViewList } from "./view/ViewList";

const ModelView = lazy(() => import("../shared/ModelView"));

const middleOf = (editing: Editing): Vec => {
  const { low, high } = editing.study.model;
  return [0, 1, 2].map((k) => ((low as Vec)[k]! + (high as Vec)[k]!) / 2) as Vec;
};

/** The point in the middle of the frame, at the model's middle depth: what an absent centre amounts to. */
function frameCentre(editing: Editing, desk: Desk | undefined): Vec {
  const m = desk?.world_to_frame;
  const view = editing.study.document.desk.view;
  const middle = middleOf(editing);
  if (!m || view.projection.kind === "perspective" || !m[0] || !m[1]) return middle;
  const [rx, ry] = [m[0], m[1]];
  const wanted = [(view.frame?.width ?? 420) / 2, (view.frame?.height ?? 297) / 2];
  const off = [rx, ry].map((r, i) => wanted[i]! - (r[0]! * middle[0] + r[1]! * middle[1] + r[2]! * middle[2] + r[3]!));
  const k = rx[0]! ** 2 + rx[1]! ** 2 + rx[2]! ** 2;
  return [0, 1, 2].map((i) => middle[i]! + (off[0]! * rx[i]! + off[1]! * ry[i]!) / k) as Vec;
}

/** The drawing or, to set a view up, the model seen through the drawing's frame. */
export function ViewRoom({ editing, desk }: { editing: Editing; desk: Desk | undefined }) {
  const { chosen, choose } = useChoice();
  const look = useViewLook(editing.study, chosen);
  const view = editing.study.document.desk.view;
  const [moving, setMoving] = useState<View | null>(null);
  const scale = desk?.scale ?? 100;
  const scales = useChoices()?.scales ?? [scale];
  useEffect(() => setMoving(null), [view]);
  return (
    <Suspense fallback={<p className="quiet flex h-full items-center justify-center bg-desk">Bringing the model …</p>}>
      <ModelView
        slug={editing.study.slug}
        geometry={editing.study.model.geometry}
        look={look}
        view={moving ?? view}
        scale={scale}
        centre={frameCentre(editing, desk)}
        framed
        onPick={(hit, how) => choose(hit ? [hit.part] : [], how, hit?.part)}
        onView={(next, settled) => {
          if (settled) editing.edit("Move the view", [{ path: ["desk", "view"], value: next }], "orbit");
          else setMoving(next);
        }}
        onScale={(larger) => {
          const now = view.frame?.scale ?? scale;
          const next = larger ? [...scales].reverse().find((s) => s < now) : scales.find((s) => s > now);
          if (next) editing.edit(`Scale 1:${next}`, [{ path: ["desk", "view", "frame", "scale"], value: next }], "scale");
        }}
      />
    </Suspense>
  );
}

/** Projection, cuts, sun and frame of the view on the desk. */
export function ViewSettings({ editing, desk }: { editing: Editing; desk: Desk | undefined }) {
  const view = editing.study.document.desk.view;
  const { low, high } = editing.study.model as { low: Vec; high: Vec };
  const radius = Math.hypot(...[0, 1, 2].map((k) => high[k]! - low[k]!)) / 2;
  const centre = frameCentre(editing, desk);
  const set = (label: string, path: string[], value: unknown, settled = true) =>
    editing.edit(label, [{ path: ["desk", "view", ...path], value }], settled ? `${path.join(".")}` : path.join("."));
  const projection = view.projection;
  const kind = kindOf(projection);
  const sun = { azimuth: view.sun?.azimuth ?? 135, altitude: view.sun?.altitude ?? 40 };
  const frame = view.frame;
  const sets = Object.keys(useParts(editing.study).data?.sets ?? {});

  return (
    <>
      <h2>Sun</h2>
      <SunDial
        {...sun}
        onChange={(azimuth, altitude, settled) => set("Turn the sun", ["sun"], { azimuth, altitude }, settled)}
      />
      <div>
        <NumberField label="Azimuth" value={sun.azimuth} unit="°" digits={0} min={0} max={360} onChange={(azimuth) => set("Turn the sun", ["sun"], { ...sun, azimuth })} />
        <NumberField label="Altitude" value={sun.altitude} unit="°" digits={0} min={-90} max={90} onChange={(altitude) => set("Raise the sun", ["sun"], { ...sun, altitude })} />
      </div>

      <h2 className="mt-6">Projection</h2>
      <Choice<Kind>
        label="Kind"
        value={kind}
        options={[
          { value: "perspective", label: "perspective" },
          { value: "axonometric", label: "axonometric" },
          { value: "straight", label: "straight on" },
        ]}
        onChange={(next) => next !== kind && set("Change the projection", ["projection"], asKind(projection, next, centre, radius))}
      />
      {kind === "straight" && projection.kind === "parallel" && (
        <Choice
          label="Looking"
          value={SIDES.find((s) => s.direction.every((c, k) => Math.abs(c - (projection.direction as Vec)[k]! / Math.hypot(...(projection.direction as Vec))) < 1e-6))?.name ?? SIDES[0]!.name}
          options={SIDES.map((s) => ({ value: s.name, label: s.name }))}
          onChange={(name) => {
            const side = SIDES.find((s) => s.name === name)!;
            set(`Look ${name}`, ["projection"], { kind: "parallel", direction: side.direction, up: side.up, centre });
          }}
        />
      )}
      {kind === "axonometric" && projection.kind !== "perspective" && (
        <>
          <DimensionLine
            label="Bearing of sight"
            unit="°"
            digits={0}
            min={0}
            max={360}
            step={1}
            value={bearing(projection) ?? 0}
            onChange={(turn, settled) => {
              const d = projection.direction as Vec;
              const flat = Math.hypot(d[0], d[1]);
              const a = (turn * Math.PI) / 180;
              set("Turn the view", ["projection"], { ...projection, direction: [flat * Math.sin(a), flat * Math.cos(a), d[2]], centre: projection.centre ?? centre }, settled);
            }}
          />
          <DimensionLine
            label="Angle from level"
            unit="°"
            digits={0}
            min={5}
            max={80}
            step={1}
            value={(Math.atan2(-(projection.direction as Vec)[2], Math.hypot((projection.direction as Vec)[0], (projection.direction as Vec)[1])) * 180) / Math.PI}
            onChange={(over, settled) => {
              const d = projection.direction as Vec;
              const flat = Math.hypot(d[0], d[1]);
              const z = -flat * Math.tan((over * Math.PI) / 180);
              set("Tip the view", ["projection"], { ...projection, direction: [d[0], d[1], z], centre: projection.centre ?? centre }, settled);
            }}
          />
        </>
      )}
      {projection.kind === "perspective" && (
        <>
          <DimensionLine label="Field of view" unit="°" digits={0} min={15} max={110} step={1} initial={50} value={projection.field_of_view ?? 50} onChange={(v, s) => set("Field of view", ["projection", "field_of_view"], v, s)} />
          <NumberField label="Eye above zero" unit="m" value={(projection.eye as Vec)[2]} onChange={(z) => set("Eye height", ["projection", "eye"], [(projection.eye as Vec)[0], (projection.eye as Vec)[1], z])} />
          <OnOff label="Verticals upright" value={projection.upright ?? false} onChange={(v) => set("Verticals upright", ["projection", "upright"], v)} />
        </>
      )}

      <div className="mt-6 flex items-baseline justify-between">
        <h2>Cutting planes</h2>
        <button
          type="button"
          className="plain text-xs font-semibold underline decoration-hairline underline-offset-4"
          onClick={() => {
            const fresh = onAxis({ point: centre, normal: [0, -1, 0], role: "cut" }, kind === "straight" && Math.abs(bearingAxis(view)) === 2 ? "z" : "y", view, middleOf(editing));
            set("Add a cutting plane", ["cuts"], [...(view.cuts ?? []), fresh]);
          }}
        >
          Add one
        </button>
      </div>
      {(view.cuts ?? []).length === 0 && <p className="quiet py-2">Nothing is cut. Add a plane to open the building.</p>}
      {(view.cuts ?? []).map((cut, i) => (
        <CutSettings
          key={i}
          number={i + 1}
          cut={cut}
          low={low}
          high={high}
          onChange={(next, label, settled) => editing.edit(label, [{ path: ["desk", "view", "cuts", String(i)], value: next }], settled ? `cut.${i}` : `cut.${i}`)}
          onAxis={(axis) => editing.edit("Turn the plane", [{ path: ["desk", "view", "cuts", String(i)], value: onAxis(cut, axis, view, middleOf(editing)) }])}
          onRemove={() => set("Remove a cutting plane", ["cuts"], (view.cuts ?? []).filter((_, k) => k !== i))}
        />
      ))}

      <h2 className="mt-6">Parts</h2>
      <Choice
        label="Shown"
        value={view.parts?.set || "all"}
        options={[{ value: "all", label: "all parts" }, ...sets.map((n) => ({ value: n, label: n }))]}
        onChange={(set_) => set(set_ === "all" ? "Show all parts" : `Show only “${set_}”`, ["parts", "set"], set_ === "all" ? "" : set_)}
      />

      <h2 className="mt-6">Frame</h2>
      <FrameSettings frame={frame} scale={desk?.scale ?? null} set={set} isPerspective={projection.kind === "perspective"} />
      <TextField label="Name of the view" value={view.name ?? "View"} onChange={(name) => name.trim() && set("Name the view", ["name"], name.trim())} />
    </>
  );
}

/** 2 when the view looks straight down or up, 1 or 0 for the level axes. */
function bearingAxis(view: View): number {
  const p = view.projection;
  if (p.kind === "perspective") return 1;
  const d = p.direction as Vec;
  return Math.abs(d[2]) > Math.hypot(d[0], d[1]) ? 2 : Math.abs(d[0]) > Math.abs(d[1]) ? 0 : 1;
}
