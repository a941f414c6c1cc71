import type { Cut, View } from "../../api/client";
import { length, sub, unit, type Vec } from "./camera";

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
