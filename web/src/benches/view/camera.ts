import type { Projection, View } from "../../api/client";

export type Vec = [number, number, number];

export const add = (a: Vec, b: Vec, k = 1): Vec => [a[0] + b[0] * k, a[1] + b[1] * k, a[2] + b[2] * k];
export const sub = (a: Vec, b: Vec): Vec => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
export const dot = (a: Vec, b: Vec) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
export const cross = (a: Vec, b: Vec): Vec => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
export const length = (a: Vec) => Math.hypot(...a);
export const unit = (a: Vec): Vec => {
  const n = length(a) || 1;
  return [a[0] / n, a[1] / n, a[2] / n];
};

/** The three unit axes of a direction of sight: right, above, forward. */
function axes(direction: Vec, up: Vec): [Vec, Vec, Vec] {
  const forward = unit(direction);
  const right = unit(cross(forward, up));
  return [right, cross(right, forward), forward];
}

/**
 * The frame's matrix for a view that is being moved, row by row as the server's `world_to_frame`; the server's own is
 * what counts as soon as the view lies on the desk. `scale` and `centre` stand in where the view leaves them out.
 */
export function frameMatrix(view: View, scale: number, centre: Vec): number[][] {
  const spec = view.projection;
  const w = view.frame?.width ?? 420;
  const h = view.frame?.height ?? 297;
  const up = (spec.up ?? [0, 0, 1]) as Vec;
  const [midX, midY] = [w / 2 + (view.frame?.shift?.[0] ?? 0), h / 2 + (view.frame?.shift?.[1] ?? 0)];
  if (spec.kind === "perspective") {
    const eye = spec.eye as Vec;
    const sight = sub(spec.target as Vec, eye);
    const level: Vec = [sight[0], sight[1], 0];
    const [right, above, forward] = spec.upright ? axes(level, [0, 0, 1]) : axes(sight, up);
    const lift = spec.upright ? sight[2] / length(level) : 0;
    const focal =
      spec.scale_distance && view.frame?.scale
        ? (1000 / view.frame.scale) * spec.scale_distance
        : w / 2 / Math.tan((((spec.field_of_view ?? 50) / 2) * Math.PI) / 180);
    const row = (of: (k: 0 | 1 | 2) => number): number[] => {
      const [a, b, c] = [of(0), of(1), of(2)];
      return [a, b, c, -(a * eye[0] + b * eye[1] + c * eye[2])];
    };
    const depth = row((k) => forward[k]);
    return [
      row((k) => focal * right[k] + midX * forward[k]),
      row((k) => -focal * above[k] + (midY + focal * lift) * forward[k]),
      [depth[0]!, depth[1]!, depth[2]!, depth[3]! - 1],
      depth,
    ];
  }
  let [right, above] = axes(spec.direction as Vec, up);
  const forward = unit(spec.direction as Vec);
  if (spec.kind === "oblique") {
    const angle = ((spec.receding_angle ?? 45) * Math.PI) / 180;
    const ratio = spec.receding_ratio ?? 0.5;
    right = add(right, forward, ratio * Math.cos(angle));
    above = add(above, forward, ratio * Math.sin(angle));
  }
  if (spec.kind === "parallel" && spec.mirrored) right = [-right[0], -right[1], -right[2]];
  const k = 1000 / (view.frame?.scale ?? scale);
  const middle = (spec.centre as Vec | null | undefined) ?? centre;
  return [
    [...right.map((c) => k * c), midX - k * dot(right, middle)],
    [...above.map((c) => -k * c), midY + k * dot(above, middle)],
    [...forward, 0],
    [0, 0, 0, 1],
  ];
}

/** The point of the model that is looked at: the turning point of orbits. */
export function pivot(projection: Projection, centre: Vec): Vec {
  return projection.kind === "perspective"
    ? (projection.target as Vec)
    : ((projection.centre as Vec | null | undefined) ?? centre);
}

function turned(v: Vec, axis: Vec, angle: number): Vec {
  const c = Math.cos(angle);
  const s = Math.sin(angle);
  const k = unit(axis);
  return add(add([v[0] * c, v[1] * c, v[2] * c], cross(k, v), s), k, dot(k, v) * (1 - c));
}

/** The steepest sight that an orbit reaches: short of straight down, where a picture has no way up. */
const STEEP = 0.985;

/** The projection after turning by so many radians about the upright axis and over it. */
export function orbited(projection: Projection, around: number, over: number, centre: Vec): Projection {
  const at = pivot(projection, centre);
  let sight = projection.kind === "perspective" ? sub(at, projection.eye as Vec) : (projection.direction as Vec);
  if (Math.abs(unit(sight)[2]) > STEEP) {
    // From a plan: tip towards the paper's top, so that the picture keeps its way up.
    const top = unit([...((projection.up ?? [0, 1, 0]) as Vec)] as Vec);
    const flat: Vec = Math.hypot(top[0], top[1]) > 1e-6 ? [top[0], top[1], 0] : [0, 1, 0];
    const n = length(sight);
    const down = Math.sign(sight[2]) * STEEP;
    const side = Math.sqrt(1 - STEEP * STEEP);
    sight = add([0, 0, down * n], unit(flat), side * n);
  }
  sight = turned(sight, [0, 0, 1], around);
  const tipped = turned(sight, unit(cross(sight, [0, 0, 1])), over);
  if (Math.abs(unit(tipped)[2]) <= STEEP) sight = tipped;
  if (projection.kind === "perspective") return { ...projection, eye: sub(at, sight), up: [0, 0, 1] };
  return { ...projection, direction: sight, up: [0, 0, 1], centre: at };
}

/** The projection after moving the picture by so many paper millimetres. */
export function panned(
  projection: Projection,
  mm: [number, number],
  scale: number,
  centre: Vec,
  frameWidth: number,
): Projection {
  const up = (projection.up ?? [0, 0, 1]) as Vec;
  if (projection.kind === "perspective") {
    const sight = sub(projection.target as Vec, projection.eye as Vec);
    const [right, above] = axes(sight, up);
    const focal = frameWidth / 2 / Math.tan((((projection.field_of_view ?? 50) / 2) * Math.PI) / 180);
    const k = length(sight) / focal;
    const move = add(add([0, 0, 0], right, -mm[0] * k), above, mm[1] * k);
    return { ...projection, eye: add(projection.eye as Vec, move), target: add(projection.target as Vec, move) };
  }
  const [right, above] = axes(projection.direction as Vec, up);
  const k = scale / 1000;
  return { ...projection, centre: add(add(pivot(projection, centre), right, -mm[0] * k), above, mm[1] * k) };
}

/** The projection with the eye moved towards the target, for `factor` below one, or away from it. */
export function dollied(projection: Projection, factor: number): Projection {
  if (projection.kind !== "perspective") return projection;
  const sight = sub(projection.eye as Vec, projection.target as Vec);
  return { ...projection, eye: add(projection.target as Vec, sight, factor) };
}

/** Compass bearing of the direction of sight, degrees clockwise from north; undefined when it is straight up or down. */
export function bearing(projection: Projection): number | undefined {
  const d =
    projection.kind === "perspective"
      ? sub(projection.target as Vec, projection.eye as Vec)
      : (projection.direction as Vec);
  if (Math.hypot(d[0], d[1]) < 1e-6 * length(d)) return undefined;
  return ((Math.atan2(d[0], d[1]) * 180) / Math.PI + 360) % 360;
}
