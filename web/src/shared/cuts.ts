import type { Cut } from "../api/client";
import type { Vec } from "../benches/view/camera";

/** One plane of a cut, with the stretch of its trace, counted from the model's zero, on which it holds. */
export type Step = { point: Vec; normal: Vec; way: Vec; from: number; to: number; role: Cut["role"] };

const dot = (a: Vec, b: Vec) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const cross = (a: Vec, b: Vec): Vec => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
const unit = (a: Vec): Vec => {
  const n = Math.sqrt(dot(a, a)) || 1;
  return [a[0] / n, a[1] / n, a[2] / n];
};

/** The planes of a cut: one, or one for each step of its trace. */
export function stepsOf(cut: Cut): Step[] {
  const normal = unit(cut.normal as Vec);
  const way = unit(cross(Math.abs(normal[2]) < 0.9 ? [0, 0, 1] : [0, 1, 0], normal));
  const point = cut.point as Vec;
  const jogs = [...(cut.jogs ?? [])].sort((a, b) => a.at - b.at);
  const start = dot(point, way);
  return [{ at: -1e30, by: 0 }, ...jogs].map((jog, k) => ({
    point: [point[0] + jog.by * normal[0], point[1] + jog.by * normal[1], point[2] + jog.by * normal[2]],
    normal,
    way,
    from: k ? start + jog.at : -1e30,
    to: jogs[k] ? start + jogs[k]!.at : 1e30,
    role: cut.role,
  }));
}

/**
 * Of the parts that cutting planes leave whole, those that lie wholly in what a plane takes away: they go, as in the drawing.
 * `points` are three coordinates each about `origin`, `owner` the part of each.
 */
export function whollyGone(
  points: ArrayLike<number>,
  owner: ArrayLike<number>,
  whole: (part: number) => boolean,
  cuts: readonly Cut[],
  origin: Vec,
): Set<number> {
  const surfaces = cuts.filter((c) => c.role !== "limit").map(stepsOf);
  const stays = surfaces.map(() => new Set<number>());
  const seen = new Set<number>();
  if (!surfaces.length) return seen;
  for (let i = 0, v = 0; v < owner.length; i += 3, v++) {
    const part = owner[v]!;
    if (!whole(part)) continue;
    seen.add(part);
    const p: Vec = [points[i]! + origin[0], points[i + 1]! + origin[1], points[i + 2]! + origin[2]];
    surfaces.forEach((steps, k) => {
      if (stays[k]!.has(part)) return;
      const beyond = steps.some((s) => {
        const along = dot(p, s.way);
        return along >= s.from && along <= s.to && dot(p, s.normal) > dot(s.point, s.normal);
      });
      if (!beyond) stays[k]!.add(part);
    });
  }
  return new Set([...seen].filter((part) => stays.some((s) => !s.has(part))));
}
