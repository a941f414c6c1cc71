import { lazy, Suspense, useEffect, useMemo, useState } from "react";

import type { Cut, Desk, Parts, View } from "../api/client";
import { useSending } from "../desk/edits";
import { at, type Editing, useChoices, useLandmarks } from "../desk/study";
import { Choice, OnOff, TextField } from "../shared/controls";
import { DimensionLine } from "../shared/DimensionLine";
import { useChoice } from "./model/choice";
import { useParts, useViewLook } from "./model/parts";
import type { Vec } from "./view/camera";
import { CutSettings } from "./view/CutSettings";
import { atOffset, AXES, axisOf, offsetOf, onAxis } from "./view/directions";
import { FrameSettings } from "./view/FrameSettings";
import { KindSettings } from "./view/KindSettings";
import { LineSettings } from "./view/LineSettings";
import { SunSettings } from "./view/SunSettings";

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
  const middle = frameCentre(editing, desk);
  const centre = useMemo(() => middle, [middle.join()]); // eslint-disable-line react-hooks/exhaustive-deps
  const scales = useChoices()
    ?.scales.filter((s) => s.system === "metric")
    .map((s) => s.scale) ?? [scale];
  const landmarks = useLandmarks(editing.study.slug, editing.study.model.version);
  const storeys = useMemo(() => landmarks.levels.map((l) => l.height), [landmarks]);
  useEffect(() => setMoving(null), [view]);
  // The faces that close the cuts are those of a state of the study; they hold for as long as nothing of it changes that they show.
  const { slug, revision, model } = editing.study;
  const shown = JSON.stringify([(moving ?? view).cuts, view.parts, model.version, editing.study.look.poche]);
  const [closed, setClosed] = useState<{ address: string; shown: string } | null>(null);
  const { sending } = useSending();
  useEffect(() => {
    if (sending || moving || !desk?.caps || desk.revision !== revision) return;
    setClosed({ address: `/api/studies/${slug}/caps?key=${desk.caps}`, shown });
  }, [sending, moving, desk, revision, slug, shown]);
  return (
    <Suspense fallback={<p className="quiet flex h-full items-center justify-center bg-desk">Bringing the model …</p>}>
      <ModelView
        slug={editing.study.slug}
        geometry={editing.study.model.geometry}
        look={look}
        view={moving ?? view}
        scale={scale}
        centre={centre}
        framed
        caps={closed?.shown === shown ? closed.address : null}
        onPick={(hit, how) => choose(hit ? [hit.part] : [], how, hit?.part)}
        onView={(next, settled) => {
          if (settled)
            void editing.view(
              "Move the view",
              Object.entries(next).map(([name, value]) => at([name], value)),
              "orbit",
            );
          else setMoving(next);
        }}
        levels={storeys}
        onCut={(i, cut, settled) => {
          const cuts = view.cuts.map((c, k) => (k === i ? cut : c));
          setMoving({ ...view, cuts });
          if (settled) editing.view("Move the plane", [at(["cuts", String(i)], cut)], `cut.${i}`);
        }}
        onScale={(larger) => {
          const now = view.frame?.scale ?? scale;
          const next = larger ? [...scales].reverse().find((s) => s < now) : scales.find((s) => s > now);
          if (next) editing.view(`Scale 1:${next}`, [at(["frame", "scale"], next)], "scale");
        }}
      />
    </Suspense>
  );
}

/** Sun, kind, cuts, lines, parts and frame of the view on the desk. */
export function ViewSettings({ editing, desk }: { editing: Editing; desk: Desk | undefined }) {
  const view = editing.study.document.desk.view;
  const { low, high } = editing.study.model as { low: Vec; high: Vec };
  const centre = frameCentre(editing, desk);
  const set = (label: string, path: string[], value: unknown, _settled = true) =>
    editing.view(label, [at(path, value)], path.join("."));
  const parts = useParts(editing.study).data;
  const landmarks = useLandmarks(editing.study.slug, editing.study.model.version);
  const cuts = view.cuts;
  // Six planes of one name are the sides of a box, whatever it was called when it was made.
  const boxed = (cut: Cut) => !!cut.name && cuts.filter((c) => c.name === cut.name).length === 6;
  const box = cuts.flatMap((c, i) => (boxed(c) ? [i] : []));
  const change = (i: number, next: Cut, label: string) =>
    editing.view(label, [at(["cuts", String(i)], next)], `cut.${i}`);

  return (
    <>
      <SunSettings editing={editing} />

      <h2 className="mt-6">View</h2>
      <KindSettings editing={editing} landmarks={landmarks} />
      {view.projection.kind === "perspective" && (
        <OnOff
          label="Verticals upright"
          value={view.projection.upright}
          onChange={(v) => set("Verticals upright", ["projection", "upright"], v)}
        />
      )}

      <div className="mt-6 flex items-baseline justify-between">
        <h2>Cuts</h2>
        <span className="flex gap-3 whitespace-nowrap">
          {box.length === 0 && (
            <button
              type="button"
              className="plain text-xs font-semibold underline decoration-hairline underline-offset-4"
              onClick={() =>
                set(
                  "Add a cutting box",
                  ["cuts"],
                  [...cuts, ...cuttingBox(editing.study.model.focus_low as Vec, editing.study.model.focus_high as Vec)],
                )
              }
            >
              Cutting box
            </button>
          )}
          <button
            type="button"
            className="plain text-xs font-semibold underline decoration-hairline underline-offset-4"
            onClick={() => {
              const fresh = onAxis(
                { point: centre, normal: [0, -1, 0], role: "cut", jogs: [], name: "" },
                Math.abs(bearingAxis(view)) === 2 ? "z" : "y",
                view,
                middleOf(editing),
              );
              set("Add a cutting plane", ["cuts"], [...cuts, fresh]);
            }}
          >
            Add one
          </button>
        </span>
      </div>
      {cuts.length === 0 && <p className="quiet py-2">Nothing is cut. Add a plane to open the building.</p>}
      {cuts.map((cut, i) =>
        boxed(cut) ? null : (
          <CutSettings
            key={i}
            number={i + 1}
            cut={cut}
            low={low}
            high={high}
            levels={landmarks.levels}
            onChange={(next, label) => change(i, next, label)}
            onAxis={(axis) => change(i, onAxis(cut, axis, view, middleOf(editing)), "Turn the plane")}
            onRemove={() =>
              set(
                "Remove a cutting plane",
                ["cuts"],
                cuts.filter((_, k) => k !== i),
              )
            }
          />
        ),
      )}
      {box.length > 0 && (
        <fieldset className="border-b border-hairline pb-3">
          <legend className="label pt-2">Cutting box</legend>
          {box.map((i) => {
            const cut = cuts[i]!;
            const axis = axisOf(cut) ?? "x";
            const k = AXES.indexOf(axis);
            const name = { x: ["West side", "East side"], y: ["South side", "North side"], z: ["Floor", "Lid"] }[axis][
              (cut.normal as Vec)[k]! > 0 ? 1 : 0
            ]!;
            return (
              <DimensionLine
                key={i}
                label={name}
                unit="m"
                min={Math.floor(low[k]! * 10) / 10}
                max={Math.ceil(high[k]! * 10) / 10}
                step={0.01}
                value={offsetOf(cut)}
                onChange={(v) => change(i, atOffset(cut, v), "Move the cutting box")}
              />
            );
          })}
          <button
            type="button"
            className="plain mt-2 text-xs font-semibold"
            onClick={() =>
              set(
                "Remove the cutting box",
                ["cuts"],
                cuts.filter((c) => !boxed(c)),
              )
            }
          >
            Remove the box
          </button>
        </fieldset>
      )}

      {(desk?.remarks.length ?? 0) > 0 && (
        <details className="border-b border-hairline py-2">
          <summary className="text-ochre">
            {desk!.remarks.length} {desk!.remarks.length === 1 ? "part is" : "places are"} not shut where cut
          </summary>
          <ul className="mt-1 max-h-44 overflow-y-auto text-xs">
            {desk!.remarks.map((r, i) => (
              <li key={i} className="border-t border-hairline py-1">
                <span className="font-semibold">{r.part.split("/").at(-1)}</span>, {r.what}{" "}
                <span className="quiet">at {r.place.map((c) => c.toFixed(2)).join(", ")} m</span>
              </li>
            ))}
          </ul>
        </details>
      )}

      <h2 className="mt-6">Lines</h2>
      <LineSettings view={view} set={set} />

      <h2 className="mt-6">Parts</h2>
      <Choice
        label="Shown"
        value={view.parts.set || "all"}
        options={[
          { value: "all", label: "all parts" },
          ...Object.keys(parts?.sets ?? {}).map((n) => ({ value: n, label: n })),
        ]}
        onChange={(name) =>
          set(name === "all" ? "Show all parts" : `Show only “${name}”`, ["parts", "set"], name === "all" ? "" : name)
        }
      />
      {cuts.length > 0 && parts && <RoleCuts editing={editing} parts={parts} />}

      <h2 className="mt-6">Frame</h2>
      <FrameSettings editing={editing} scale={desk?.scale ?? null} set={set} />
      <TextField
        label="Name of the view"
        value={view.name}
        onChange={(name) => name.trim() && set("Name the view", ["name"], name.trim())}
      />
    </>
  );
}

/** Which roles the planes of this view go into; what is usual is said, and kept unless another choice is made. */
function RoleCuts({ editing, parts }: { editing: Editing; parts: Parts }) {
  const { roles } = editing.study.document.desk.view.parts;
  const used = new Set(parts.role);
  return (
    <>
      {parts.roles.map((role, n) => {
        if (!used.has(n)) return null;
        const usual = parts.behaviour[role]!.cut ? "cut" : "whole";
        return (
          <Choice
            key={role}
            label={role}
            value={roles[role as keyof typeof roles] ?? "usual"}
            options={[
              { value: "usual", label: `${usual === "cut" ? "cut" : "left whole"}, as usual` },
              usual === "cut" ? { value: "whole", label: "left whole here" } : { value: "cut", label: "cut here" },
            ]}
            onChange={(how) => {
              const { [role as keyof typeof roles]: _, ...rest } = roles;
              editing.view(`How planes meet ${role}`, [
                at(["parts", "roles"], how === "usual" ? rest : { ...rest, [role]: how }),
              ]);
            }}
          />
        );
      })}
    </>
  );
}

const BOX = "Cutting box";

/** Six cuts about the building, a little off it. */
function cuttingBox(low: Vec, high: Vec): Cut[] {
  return AXES.flatMap((_, k) =>
    [-1, 1].map((way) => {
      const normal: Vec = [0, 0, 0];
      const point: Vec = [0, 1, 2].map((j) => (low[j]! + high[j]!) / 2) as Vec;
      normal[k] = way;
      const room = 0.02 * (high[k]! - low[k]!);
      point[k] = Math.round((way < 0 ? low[k]! - room : high[k]! + room) * 100) / 100;
      return { point, normal, role: "cut" as const, jogs: [], name: BOX };
    }),
  );
}

/** 2 when the view looks straight down or up, 1 or 0 for the level axes. */
function bearingAxis(view: View): number {
  const p = view.projection;
  if (p.kind === "perspective") return 1;
  const d = p.direction as Vec;
  return Math.abs(d[2]) > Math.hypot(d[0], d[1]) ? 2 : Math.abs(d[0]) > Math.abs(d[1]) ? 0 : 1;
}
