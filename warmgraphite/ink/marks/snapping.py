"""What points of marks catch on.
Corners, mid-points and edges of what is computed, parallels and perpendiculars to them; and the plane that lies under a
place of the drawing.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import NEAR, NO_LENGTH, ROUNDING
from warmgraphite.geometry.triangles import holds, normals
from warmgraphite.ink.marks.planes import plane_axes
from warmgraphite.ink.strokes import StrokeIndex
from warmgraphite.model.model import Model
from warmgraphite.passes.line_set import LineSet
from warmgraphite.passes.surface import Surface
from warmgraphite.view.projection import Projection
from warmgraphite.view.specification import Cut
from warmgraphite.view.surfaces import PlaneFrame

__all__ = ["Caught", "Sheet", "caught", "on_sheet", "under"]

#: Square metres by which a place may lie beside a triangle and still be on it: a place is found by division.
BESIDE = 1e-7

Points = NDArray[np.float64]
Sign = Literal["corner", "middle", "edge", "parallel", "perpendicular", "free"]

#: Shares of the reach within which a middle, and an edge, catches; a corner does at all of it.
MIDDLE, EDGE = 0.85, 0.6
#: Tangent of how far from a direction a point still falls into it; millimetres of lines too short to give one.
ASTRAY, SHORT = 0.09, 1.5
#: Sine of how far a line may leave a plane and still give a direction in it.
IN_PLANE = 0.04


@dataclass(frozen=True)
class Sheet:
    """A plane of the model on which points are laid: ``point`` (3,) on it and its unit ``normal`` (3,), in metres."""

    point: Points
    normal: Points

    @property
    def frame(self) -> PlaneFrame:
        return PlaneFrame(self.point, *plane_axes(self.normal))


@dataclass(frozen=True)
class Caught:
    """Where a point falls, in frame millimetres, and the ``sign`` of what it caught on.
    ``line`` numbers that line, −1 of none.
    """

    xy: Points
    sign: Sign
    line: int = -1


def on_sheet(projection: Projection, sheet: Sheet, xy: Points) -> Points | None:
    """(N, 3) where the sight lines through frame points (N, 2) meet a plane.
    ``None`` where one runs along it or meets it behind the viewer.
    """
    origin, way = projection.rays(xy, 0.0)
    steep = way @ sheet.normal
    if (np.abs(steep) < NEAR).any():
        return None
    far = ((sheet.point - origin) @ sheet.normal) / steep
    if projection.eye is not None and (far <= 0).any():
        return None
    return np.asarray(origin + far[:, None] * way)


def under(
    projection: Projection, model: Model, seen: Surface, cuts: tuple[Cut, ...], xy: Points
) -> tuple[Sheet, int, bool] | None:
    """The plane under a place (2,) of the drawing, the part whose face it is, and whether it is a cut.
    ``None`` where nothing is seen. ``seen`` is what each pixel sees; where a sight line passes just beside what its
    pixel sees, the pixels round it are asked.
    """
    height, width = seen.part.shape
    step = np.array([projection.width / width, projection.height / height])
    for away in ((0, 0), (1, 0), (0, 1), (-1, 0), (0, -1), (1, 1), (-1, 1), (1, -1), (-1, -1)):
        place = xy + np.array(away) * step
        found = _just_under(projection, model, seen, cuts, place)
        if found is not None:
            at = on_sheet(projection, found[0], xy[None])
            return found if at is None else (Sheet(at[0], found[0].normal), *found[1:])
    return None


def _just_under(
    projection: Projection, model: Model, seen: Surface, cuts: tuple[Cut, ...], xy: Points
) -> tuple[Sheet, int, bool] | None:
    height, width = seen.part.shape
    column = min(max(int(xy[0] / projection.width * width), 0), width - 1)
    row = min(max(int(xy[1] / projection.height * height), 0), height - 1)
    part = int(seen.part[row, column])
    if part < 0:
        return None
    origin, way = projection.rays(xy[None], 0.0)
    if seen.cap[row, column] > 127:
        return _cut_under(projection, cuts, origin[0], way[0], float(seen.distance[row, column]), part)
    corners = model.vertices[model.triangles[model.triangle_part == part]]
    normal = normals(corners)
    size = np.linalg.norm(normal, axis=1)
    good = size > NO_LENGTH
    corners, normal = corners[good], normal[good] / size[good, None]
    steep = normal @ way[0]
    with np.errstate(divide="ignore", invalid="ignore"):
        far = ((corners[:, 0] - origin[0]) * normal).sum(1) / steep
    inside = np.abs(steep) > NEAR
    at = origin[0] + np.where(inside, far, 0.0)[:, None] * way[0]
    inside &= holds(corners, at, normal, BESIDE)
    rows = np.flatnonzero(inside)
    if not len(rows):
        return None
    # Of all faces that the sight line goes through, the one at the depth that the pixel sees.
    deep = projection.distance(projection.project(at[rows])[:, 2])
    best = rows[int(np.argmin(np.abs(deep - seen.distance[row, column])))]
    facing = normal[best] if steep[best] < 0 else -normal[best]
    return Sheet(at[best], facing), part, False


def _cut_under(
    projection: Projection, cuts: tuple[Cut, ...], origin: Points, way: Points, distance: float, part: int
) -> tuple[Sheet, int, bool] | None:
    found: list[tuple[float, Sheet]] = []
    for cut in cuts:
        if cut.role != "cut":
            continue
        normal = np.array(cut.normal, float) / np.linalg.norm(cut.normal)
        for depth in (0.0, *(jog.by for jog in cut.jogs)):
            point = np.array(cut.point, float) + depth * normal
            steep = way @ normal
            if abs(steep) > NEAR:
                at = origin + ((point - origin) @ normal) / steep * way
                deep = float(projection.distance(projection.project(at[None])[:, 2])[0])
                found.append((abs(deep - distance), Sheet(at, normal)))
    return (min(found, key=lambda f: f[0])[1], part, True) if found else None


def caught(
    lines: LineSet, index: StrokeIndex, projection: Projection, xy: Points, reach: float, before: Points | None = None,
    sheet: Sheet | None = None,
) -> Caught:  # fmt: skip
    """Where a point at frame millimetres (2,) falls.
    On a corner, the middle of a line, a line within ``reach`` millimetres, else on a parallel or a perpendicular
    through the point ``before`` it, as these run on the ``sheet`` that both lie on, or on the paper.
    """
    rows = index.near(float(xy[0]), float(xy[1]), reach)
    rows = rows[lines.visible[rows]]
    if len(rows):
        a, b = lines.from_mm[rows], lines.to_mm[rows]
        ends = np.concatenate([a, b])
        gap = np.linalg.norm(ends - xy, axis=1)
        k = int(np.argmin(gap))
        if gap[k] <= reach:
            return Caught(ends[k], "corner", int(rows[k % len(rows)]))
        middles = projection.project((lines.start[rows] + lines.end[rows]) / 2)[:, :2]
        gap = np.where(np.linalg.norm(b - a, axis=1) > 3 * reach, np.linalg.norm(middles - xy, axis=1), np.inf)
        k = int(np.argmin(gap))
        if gap[k] <= MIDDLE * reach:
            return Caught(middles[k], "middle", int(rows[k]))
        step = b - a
        t = np.clip(((xy - a) * step).sum(1) / np.maximum((step**2).sum(1), NO_LENGTH), 0, 1)
        foot = a + t[:, None] * step
        gap = np.linalg.norm(foot - xy, axis=1)
        k = int(np.argmin(gap))
        if gap[k] <= EDGE * reach:
            return Caught(foot[k], "edge", int(rows[k]))
    if before is not None:
        near = np.unique(np.concatenate([rows, index.near(float(before[0]), float(before[1]), reach)]))
        found = _along(lines, near[lines.visible[near]], projection, xy, before, sheet)
        if found is not None:
            return found
    return Caught(xy, "free")


def _along(
    lines: LineSet, rows: NDArray[np.int32], projection: Projection, xy: Points, before: Points, sheet: Sheet | None
) -> Caught | None:
    """A point on the parallel or perpendicular through another that it nearly lies on."""
    if sheet is None:
        here, there = xy, before
        ways = lines.to_mm[rows] - lines.from_mm[rows]
        usual = np.eye(2)
        long = np.linalg.norm(ways, axis=1)
        rows, ways = rows[long > SHORT], ways[long > SHORT]
    else:
        laid = on_sheet(projection, sheet, np.stack([xy, before]))
        if laid is None:
            return None
        frame = sheet.frame
        here, there = frame.flat(laid)
        ways3 = lines.end[rows] - lines.start[rows]
        long = np.linalg.norm(ways3, axis=1)
        flat = (long > NEAR) & (np.abs(ways3 @ sheet.normal) < IN_PLANE * long)
        flat &= np.linalg.norm(lines.to_mm[rows] - lines.from_mm[rows], axis=1) > SHORT
        rows = rows[flat]
        ways = np.stack([ways3[flat] @ frame.u, ways3[flat] @ frame.v], 1)
        usual = np.eye(2)
    ways = np.concatenate([ways, usual])
    ways /= np.maximum(np.linalg.norm(ways, axis=1, keepdims=True), NO_LENGTH)
    step = here - there
    size = float(np.linalg.norm(step))
    if size < ROUNDING:
        return None
    off = step[0] * ways[:, 1] - step[1] * ways[:, 0]
    along = ways @ step
    best: tuple[float, Sign, int] | None = None
    for amount, sign in ((np.abs(off), "parallel"), (np.abs(along), "perpendicular")):
        k = int(np.argmin(amount))
        if amount[k] < ASTRAY * size and (best is None or amount[k] < best[0] - ROUNDING):
            best = (float(amount[k]), sign, k)  # type: ignore[assignment]
    if best is None:
        return None
    _, sign, k = best
    way = ways[k] if sign == "parallel" else np.array([-ways[k][1], ways[k][0]])
    point = there + (step @ way) * way
    line = int(rows[k]) if k < len(rows) else -1
    if sheet is None:
        return Caught(point, sign, line)
    return Caught(projection.project(sheet.frame.lifted(point[None]))[0, :2], sign, line)
