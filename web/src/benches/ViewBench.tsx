import { lazy, Suspense, useEffect, useState } from "react";

import type { Cut, Desk, View } from "../api/client";
import { useScreen } from "../desk/screen";
import type { Editing } from "../desk/study";
import { Choice, Leaf, NumberField, OnOff, TextField } from "../shared/controls";
import { DimensionLine } from "../shared/DimensionLine";
import { CutSign, LevelMark, SectionMark } from "../shared/signs";
import { SunDial } from "../shared/SunDial";
import { bearing, type Vec } from "./view/camera";
import {
  asKind,
  atOffset,
  AXES,
  type Axis,
  axisName,
  axisOf,
  flipped,
  type Kind,
  kindOf,
  offsetOf,
  onAxis,
  PAPERS,
  quarterTurned,
  SIDES,
} from "./view/directions";

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

/** Saved views as pictures, with their section marks, and where they stand on a key plan. */
export function ViewList({ editing }: { editing: Editing }) {
  const { study, saved } = editing;
  const [naming, setNaming] = useState<string | null>(null);
  const changed = JSON.stringify(study.document.desk.view) !== JSON.stringify(saved.view);
  return (
    <>
      <h2>Views</h2>
      <KeyPlan editing={editing} />
      <ul className="mt-1">
        {study.document.views.map((v) => {
          const chosen = v.id === saved.id;
          return (
            <li key={v.id} className="border-b border-hairline py-1.5">
              <button
                type="button"
                aria-pressed={chosen}
                className={`plain flex w-full items-center gap-2 ${chosen ? "font-semibold text-sanguine" : ""}`}
                onClick={() => void editing.act("open", { view_id: v.id })}
              >
                <ViewPicture editing={editing} id={v.id} />
                <span className="min-w-0 flex-1">
                  <span className="block leading-tight">{v.view.name}</span>
                  {chosen && changed && <span className="block text-xs font-normal text-ochre">changed, not saved</span>}
                </span>
                <SectionMark mark={v.mark} sight={bearing(v.view.projection)} chosen={chosen} />
              </button>
            </li>
          );
        })}
      </ul>
      <div className="mt-3 flex flex-wrap gap-2">
        <button type="button" className="line-act" disabled={!changed} onClick={() => void editing.act("save")}>
          Save again
        </button>
        <button type="button" className="line-act" onClick={() => setNaming(`${study.document.desk.view.name} 2`)}>
          Keep as new …
        </button>
        <button type="button" className="line-act" disabled={!changed} onClick={() => void editing.act("open", { view_id: saved.id })}>
          Back to saved
        </button>
        <button
          type="button"
          className="line-act"
          disabled={study.document.views.length < 2}
          onClick={() => void editing.act("remove", { view_id: saved.id })}
        >
          Remove
        </button>
      </div>
      <Leaf open={naming !== null} onClose={() => setNaming(null)} title="Keep as a new view" about="The view on the desk is kept under its own name and mark. The one it began from stays as it was saved.">
        <form
          onSubmit={(e) => {
            e.preventDefault();
            void editing.act("keep", { name: naming ?? "" });
            setNaming(null);
          }}
        >
          <label className="label" htmlFor="new-view">
            Name
          </label>
          <input id="new-view" className="field w-full" value={naming ?? ""} autoFocus onChange={(e) => setNaming(e.target.value)} />
          <div className="mt-5 flex justify-end gap-3">
            <button type="button" className="line-act" onClick={() => setNaming(null)}>
              Leave it
            </button>
            <button type="submit" className="act" disabled={!naming?.trim()}>
              Keep view
            </button>
          </div>
        </form>
      </Leaf>
    </>
  );
}

function ViewPicture({ editing, id }: { editing: Editing; id: string }) {
  const { study } = editing;
  const [src, setSrc] = useState<string | null>(null);
  const look = JSON.stringify([study.document.views.find((v) => v.id === id), study.document.pens, study.document.poche]);
  useEffect(() => {
    let current = true;
    let timer: ReturnType<typeof setTimeout>;
    const ask = async (wait: number) => {
      try {
        const answer = await fetch(`/api/studies/${study.slug}/views/${id}/picture`);
        if (!current) return;
        if (answer.status === 200) {
          const address = URL.createObjectURL(await answer.blob());
          setSrc((before) => (before && URL.revokeObjectURL(before), address));
        } else if (answer.status === 204) timer = setTimeout(() => void ask(Math.min(wait * 1.4, 5000)), wait);
      } catch {
        // The picture before stays; the next change asks again.
      }
    };
    // A drag ends before its picture is asked for.
    timer = setTimeout(() => void ask(700), src ? 1200 : 50);
    return () => {
      current = false;
      clearTimeout(timer);
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [look, study.slug, id]);
  return (
    <span className="block h-[46px] w-[65px] shrink-0 bg-sheet outline outline-1 outline-hairline">
      {src && <img src={src} alt="" className="h-full w-full object-cover" />}
    </span>
  );
}

/** A small plan of the model's extent with each view's mark where its cut or its viewer stands. */
function KeyPlan({ editing }: { editing: Editing }) {
  const { low, high } = editing.study.model as { low: Vec; high: Vec };
  const w = high[0] - low[0];
  const h = high[1] - low[1];
  const span = Math.max(w, h) * 1.15;
  const [cx, cy] = [(low[0] + high[0]) / 2, (low[1] + high[1]) / 2];
  const view = editing.study.document.desk.view;
  const x = (v: number) => 95 + ((v - cx) / span) * 120;
  const y = (v: number) => 62 - ((v - cy) / span) * 120;
  const inside = (v: number, a: number, b: number) => Math.min(b, Math.max(a, v));
  const turn = bearing(view.projection);
  const eye = view.projection.kind === "perspective" ? (view.projection.eye as Vec) : null;
  const cuts = (view.cuts ?? []).filter((c) => Math.abs((c.normal as Vec)[2]) < 0.9);
  const at: [number, number] = eye
    ? [inside(x(eye[0]), 14, 176), inside(y(eye[1]), 14, 110)]
    : turn === undefined
      ? [x(cx), y(cy)]
      : [inside(x(cx - (Math.sin((turn * Math.PI) / 180) * w) / 1.5), 16, 174), inside(y(cy - (Math.cos((turn * Math.PI) / 180) * h) / 1.5), 16, 108)];
  return (
    <svg viewBox="0 0 190 124" className="mt-1 w-full" role="img" aria-label={`Key plan: ${view.name}`}>
      <rect x={x(low[0])} y={y(high[1])} width={x(high[0]) - x(low[0])} height={y(low[1]) - y(high[1])} fill="var(--color-sheet)" stroke="var(--color-hairline)" />
      {cuts.map((cut, i) => {
        const n = cut.normal as Vec;
        const p = cut.point as Vec;
        const d: [number, number] = [-n[1], n[0]];
        const reach = span * 0.55;
        const [mx, my] = Math.abs(n[0]) > Math.abs(n[1]) ? [p[0], cy] : [cx, p[1]];
        return (
          <line
            key={i}
            x1={x(mx - d[0] * reach)}
            y1={y(my - d[1] * reach)}
            x2={x(mx + d[0] * reach)}
            y2={y(my + d[1] * reach)}
            stroke={cut.role === "limit" ? "var(--color-soft)" : "var(--color-sanguine)"}
            strokeDasharray="9 3 2 3"
          />
        );
      })}
      <g transform={`translate(${at[0] - 14} ${at[1] - 14})`}>
        <SectionMark mark={editing.saved.mark} sight={turn} chosen />
      </g>
      <path d="M182 4l4 12-4-3-4 3z" fill="var(--color-soft)" />
    </svg>
  );
}

/** The drawing or, to set a view up, the model seen through the drawing's frame. */
export function ViewRoom({ editing, desk }: { editing: Editing; desk: Desk | undefined }) {
  const { part, choosePart } = useScreen();
  const view = editing.study.document.desk.view;
  const [moving, setMoving] = useState<View | null>(null);
  const scale = desk?.scale ?? 100;
  const scales = [10, 20, 25, 50, 100, 200, 250, 500, 1000, 2000];
  useEffect(() => setMoving(null), [view]);
  return (
    <Suspense fallback={<p className="quiet flex h-full items-center justify-center bg-desk">Bringing the model …</p>}>
      <ModelView
        slug={editing.study.slug}
        version={editing.study.model.version}
        view={moving ?? view}
        scale={scale}
        centre={frameCentre(editing, desk)}
        framed
        part={part}
        onPart={choosePart}
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

      <h2 className="mt-6">Frame</h2>
      <Frame frame={frame} scale={desk?.scale ?? null} set={set} isPerspective={projection.kind === "perspective"} />
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

function CutSettings(props: {
  number: number;
  cut: Cut;
  low: Vec;
  high: Vec;
  onChange: (cut: Cut, label: string, settled: boolean) => void;
  onAxis: (axis: Axis) => void;
  onRemove: () => void;
}) {
  const { cut, low, high } = props;
  const axis = axisOf(cut);
  const k = axis ? AXES.indexOf(axis) : 0;
  const reach = axis ? [low[k]!, high[k]!] : [-100, 100];
  const turn = (what: Cut, label: string) => props.onChange(what, label, true);
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
        options={[...AXES.map((a) => ({ value: a as string, label: axisName(a) })), ...(axis ? [] : [{ value: "free", label: "at an angle" }])]}
        onChange={(a) => a !== "free" && props.onAxis(a as Axis)}
      />
      <DimensionLine
        label="Place"
        unit="m"
        min={Math.floor(reach[0]! * 10) / 10}
        max={Math.ceil(reach[1]! * 10) / 10}
        step={0.01}
        value={offsetOf(cut)}
        onChange={(v, settled) => props.onChange(atOffset(cut, v), "Move the plane", settled)}
      />
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
        <button type="button" className="plain" onClick={props.onRemove}>
          Remove
        </button>
      </div>
    </fieldset>
  );
}

function Frame(props: {
  frame: { width?: number; height?: number; scale?: number | null; resolution?: number };
  scale: number | null;
  isPerspective: boolean;
  set: (label: string, path: string[], value: unknown) => void;
}) {
  const { frame, set } = props;
  const width = frame.width ?? 420;
  const height = frame.height ?? 297;
  const [long, short] = [Math.max(width, height), Math.min(width, height)];
  const paper = Object.entries(PAPERS).find(([, [a, b]]) => a === long && b === short)?.[0] ?? "free";
  const upright = height > width;
  const sized = (w: number, h: number) => set("Change the paper", ["frame"], { ...frame, width: w, height: h });
  const scales = [1, 2, 5, 10, 20, 25, 50, 100, 200, 250, 500, 1000, 2000];
  return (
    <>
      <Choice
        label="Paper"
        value={paper}
        options={[...Object.keys(PAPERS).map((p) => ({ value: p, label: p })), { value: "free", label: "free size" }]}
        onChange={(p) => {
          const size = PAPERS[p];
          if (size) sized(upright ? size[1] : size[0], upright ? size[0] : size[1]);
          else sized(long + 1, short);
        }}
      />
      {paper === "free" && (
        <>
          <NumberField label="Width" unit="mm" digits={0} min={10} max={5000} value={width} onChange={(v) => sized(v, height)} />
          <NumberField label="Height" unit="mm" digits={0} min={10} max={5000} value={height} onChange={(v) => sized(width, v)} />
        </>
      )}
      <Choice
        label="Lies"
        value={upright ? "upright" : "across"}
        options={[
          { value: "across", label: "landscape" },
          { value: "upright", label: "portrait" },
        ]}
        onChange={(v) => (v === "upright") !== upright && sized(height, width)}
      />
      {!props.isPerspective && (
        <Choice
          label="Scale"
          value={frame.scale ? String(frame.scale) : "fit"}
          options={[
            { value: "fit", label: props.scale ? `to fit (1:${props.scale})` : "to fit" },
            ...[...new Set([...scales, ...(frame.scale ? [frame.scale] : [])])].sort((a, b) => a - b).map((s) => ({ value: String(s), label: `1:${s}` })),
          ]}
          onChange={(v) => set(v === "fit" ? "Scale to fit" : `Scale 1:${v}`, ["frame", "scale"], v === "fit" ? null : Number(v))}
        />
      )}
      <NumberField label="Resolution" unit="dpi" digits={0} min={30} max={1200} value={frame.resolution ?? 150} onChange={(v) => set("Resolution", ["frame", "resolution"], v)} />
    </>
  );
}
