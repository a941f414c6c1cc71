import type { Cut, Projection, View } from "../../api/client";
import { bearing, length, pivot, sub, unit, type Vec } from "./camera";

export type Kind = "perspective" | "axonometric" | "straight";

/** What an illustrator would call a projection. */
export function kindOf(projection: Projection): Kind {
  if (projection.kind === "perspective") return "perspective";
  const d = unit(projection.direction as Vec);
  const straight = [0, 1, 2].some((k) => Math.abs(Math.abs(d[k]!) - 1) < 1e-9);
  return straight && projection.kind === "parallel" ? "straight" : "axonometric";
}

export const SIDES: { name: string; direction: Vec; up: Vec }[] = [
  { name: "from the south, to the north", direction: [0, 1, 0], up: [0, 0, 1] },
  { name: "from the north, to the south", direction: [0, -1, 0], up: [0, 0, 1] },
  { name: "from the west, to the east", direction: [1, 0, 0], up: [0, 0, 1] },
  { name: "from the east, to the west", direction: [-1, 0, 0], up: [0, 0, 1] },
  { name: "from above", direction: [0, 0, -1], up: [0, 1, 0] },
  { name: "from below", direction: [0, 0, 1], up: [0, 1, 0] },
];

/** Another kind of projection of the same place, looking about the same way. */
export function asKind(projection: Projection, kind: Kind, centre: Vec, radius: number): Projection {
  const at = pivot(projection, centre);
  const sight = projection.kind === "perspective" ? sub(at, projection.eye as Vec) : (projection.direction as Vec);
  if (kind === "perspective") {
    const d = unit(sight);
    const level = Math.abs(d[2]) > 0.95 ? unit([0.3, 1, -0.8]) : d;
    const back = radius * 2.2;
    const eye: Vec = [at[0] - level[0] * back, at[1] - level[1] * back, at[2] - level[2] * back];
    return { kind: "perspective", eye, target: at, up: [0, 0, 1], field_of_view: 50, upright: Math.abs(level[2]) < 0.3 };
  }
  if (kind === "axonometric") {
    const turn = ((bearing(projection) ?? 0) * Math.PI) / 180 + (kindOf(projection) === "straight" ? Math.PI / 6 : 0);
    return { kind: "parallel", direction: [Math.sin(turn), Math.cos(turn), -0.7], up: [0, 0, 1], centre: at };
  }
  const d = unit(sight);
  const best = [...SIDES].sort((a, b) => dotOf(b.direction, d) - dotOf(a.direction, d))[0]!;
  return { kind: "parallel", direction: best.direction, up: best.up, centre: at };
}

const dotOf = (a: Vec, b: Vec) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];

export const AXES = ["x", "y", "z"] as const;
export type Axis = (typeof AXES)[number];
const AXIS_NAMES: Record<Axis, string> = { x: "across the length (X)", y: "along the length (Y)", z: "level (Z)" };
export const axisName = (axis: Axis) => AXIS_NAMES[axis];

/** The axis that a cutting plane stands square to; undefined for a plane at an angle. */
export function axisOf(cut: Cut): Axis | undefined {
  const n = unit(cut.normal as Vec);
  return AXES.find((_, k) => Math.abs(n[k]!) > 0.99999);
}

/** Where the plane lies, in metres along its own normal's axis (or along its normal, at an angle). */
export function offsetOf(cut: Cut): number {
  const axis = axisOf(cut);
  if (axis) return (cut.point as Vec)[AXES.indexOf(axis)]!;
  const n = unit(cut.normal as Vec);
  return dotOf(n, cut.point as Vec);
}

export function atOffset(cut: Cut, offset: number): Cut {
  const axis = axisOf(cut);
  const point = [...(cut.point as Vec)] as Vec;
  if (axis) {
    point[AXES.indexOf(axis)] = offset;
    return { ...cut, point };
  }
  const n = unit(cut.normal as Vec);
  const by = offset - dotOf(n, point);
  return { ...cut, point: [point[0] + n[0] * by, point[1] + n[1] * by, point[2] + n[2] * by] };
}

/** A plane square to an axis through the middle, removing what stands between it and the viewer. */
export function onAxis(cut: Cut, axis: Axis, view: View, middle: Vec): Cut {
  const k = AXES.indexOf(axis);
  const p = view.projection;
  const sight = p.kind === "perspective" ? sub(p.target as Vec, p.eye as Vec) : (p.direction as Vec);
  const normal: Vec = [0, 0, 0];
  normal[k] = sight[k]! > 1e-9 * length(sight) ? -1 : 1;
  const point = [...middle] as Vec;
  if (axis === "z" && normal[2] > 0) point[2] = middle[2];
  return { ...cut, normal, point };
}

export const flipped = (cut: Cut): Cut => ({ ...cut, normal: (cut.normal as Vec).map((c) => -c) as Vec });

/** The plane turned by a quarter about the upright axis through its point; a level plane stands up. */
export function quarterTurned(cut: Cut): Cut {
  const [x, y, z] = cut.normal as Vec;
  if (Math.abs(z) > 0.99 * length([x, y, z])) return { ...cut, normal: [0, -1, 0] };
  return { ...cut, normal: [-y, x, z] };
}

export const PAPERS: Record<string, [number, number]> = {
  A0: [1189, 841],
  A1: [841, 594],
  A2: [594, 420],
  A3: [420, 297],
  A4: [297, 210],
  A5: [210, 148],
};
