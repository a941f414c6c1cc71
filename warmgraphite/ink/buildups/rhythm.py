"""Members at a rhythm: studs, battens, joists, hangers, anchors, beams, as profiles across a layer."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import NO_LENGTH
from warmgraphite.ink.buildups.specification import Profile, Rhythm, Runs
from warmgraphite.ink.buildups.wave import Way, about, across
from warmgraphite.progress import Progress, silent

__all__ = ["PROFILES", "is_crossed", "members_of", "profiles_of"]

Points = NDArray[np.float64]

#: Sine of the angle between members and a cut from which it goes across them.
CROSSED = 0.7
#: Metres before its layer from which a member is looked for, and within which the layer begins.
BEFORE, BEGINS = 0.02, 0.06
#: How many of those before it a member is to stand clear of.
AGO = 3


def _i(thin: float) -> list[list[tuple[float, float]]]:
    return [[(0, 0), (1, 0), (1, thin), (0.5 + thin / 2, thin), (0.5 + thin / 2, 1 - thin), (1, 1 - thin), (1, 1),
        (0, 1), (0, 1 - thin),
             (0.5 - thin / 2, 1 - thin), (0.5 - thin / 2, thin), (0, thin)]]  # fmt: skip


_TURN = [(0.5 + 0.5 * np.cos(t), 0.5 + 0.5 * np.sin(t)) for t in np.linspace(0, 2 * np.pi, 32, endpoint=False)]

#: Profiles in a square of one: along the layer, and inward; outlines and holes. An anchor is a line.
PROFILES: dict[Profile, list[list[tuple[float, float]]]] = {
    "rectangle": [[(0, 0), (1, 0), (1, 1), (0, 1)]],
    "i": _i(0.09),
    "channel": [[(0, 0), (1, 0), (1, 0.09), (0.12, 0.09), (0.12, 0.91), (1, 0.91), (1, 1), (0, 1)]],
    "angle": [[(0, 0), (1, 0), (1, 0.1), (0.1, 0.1), (0.1, 1), (0, 1)]],
    "tube": [[(0, 0), (1, 0), (1, 1), (0, 1)], [(0.1, 0.1), (0.9, 0.1), (0.9, 0.9), (0.1, 0.9)]],
    "round": [_TURN],
    "anchor": [[(0.5, 0), (0.5, 1)]],
}


def profiles_of(
    kind: Profile, place: Points, along: Points, inward: Points, width: float, depth: Points
) -> NDArray[np.object_]:
    """(N,) profiles, ``width`` metres along and ``depth`` (N,) inward.
    The middles of their outer sides at ``place`` (N, 2).
    """
    rings = [
        place[:, None] + (ring[:, :1] - 0.5) * width * along[:, None] + ring[:, 1:] * (depth[:, None] * inward)[:, None]
        for ring in map(np.array, PROFILES[kind])
    ]
    if kind == "anchor":
        return np.asarray(shapely.linestrings(rings[0]))
    outline, *holes = (shapely.linearrings(r) for r in rings)
    return np.asarray(shapely.polygons(outline, np.stack(holes, 1)) if holes else shapely.polygons(outline))


def is_crossed(runs: Runs, normal: Points) -> bool:
    """Whether a cut with this ``normal`` (3,) goes across members that run so."""
    if runs == "any":
        return True
    up, level = abs(float(normal[2])), float(np.hypot(normal[0], normal[1]))
    if runs == "up":
        return up > CROSSED
    if runs == "level":
        return level > CROSSED
    return abs(float(normal[0 if runs == "east" else 1])) > CROSSED


def members_of(
    shape: shapely.Geometry,
    rhythm: Rhythm,
    lines: Sequence[Points],
    depth: tuple[float, float],
    thick: float,
    progress: Progress = silent,
) -> list[shapely.Geometry]:
    """The members of a layer: shapes or, of anchors, lines, in metres in the surface's axes.
    ``lines`` (n, 2) are the outlines that it lies behind, from ``depth`` metres to the other where that is known; it is
    about ``thick``.
    """
    middle = depth[0] + (depth[1] - depth[0] if np.isfinite(depth[1]) else thick) / 2
    out: list[shapely.Geometry] = []
    pieces = shapely.get_parts(shape)
    reach = max(3 * thick, 0.05) + middle
    tree = shapely.STRtree(pieces)
    for done, line in enumerate(lines):
        progress(done / len(lines))
        near = pieces[tree.query(shapely.LineString(line), predicate="dwithin", distance=middle + thick)]
        if not len(near):
            continue
        here = shapely.MultiPolygon(list(near))
        # Counted along the middle of the layer, so that the rhythm is the same behind a corner.
        curve = shapely.offset_curve(shapely.LineString(line), middle, join_style="mitre", mitre_limit=6.0)
        for part in shapely.get_parts(curve):
            xy = np.asarray(part.coords)[:, :2]
            way = Way(xy) if len(xy) > 1 else None
            if way is None or way.length < rhythm.width / 2:
                continue
            along = np.arange(rhythm.at % rhythm.spacing, way.length, rhythm.spacing)
            # Straight across the side that they stand on, and not turned at corners.
            stop = np.append(0, np.cumsum(np.linalg.norm(np.diff(xy, axis=0), axis=1)))
            k = np.clip(np.searchsorted(stop, along, side="right") - 1, 0, len(xy) - 2)
            tangent = np.diff(xy, axis=0)[k] / np.maximum(np.diff(stop)[k], NO_LENGTH)[:, None]
            inward = np.stack([-tangent[:, 1], tangent[:, 0]], 1)
            place = xy[k] + (along - stop[k])[:, None] * tangent
            outside = place - (middle - depth[0] + BEFORE) * inward
            span, there = across(about(here, outside, reach), outside, inward, reach)
            # What begins farther in is another layer, behind this one.
            n = np.flatnonzero(there & (span[:, 0] < BEGINS))
            room = span[n, 1] - span[n, 0]
            deep = np.minimum(rhythm.depth or room, room)
            shift = {"outer": np.zeros(len(n)), "middle": (room - deep) / 2, "inner": room - deep}[rhythm.seat]
            at = outside[n] + (span[n, 0] + shift)[:, None] * inward[n]
            out += _apart(profiles_of(rhythm.profile, at, tangent[n], inward[n], rhythm.width, deep), out[-AGO:])
    return out


def _apart(found: NDArray[np.object_], before: list[shapely.Geometry]) -> list[shapely.Geometry]:
    """Members, less those that meet one of the few before them, as they do in an inner corner."""
    rows = np.append(np.array(before, dtype=object), found)
    meets = np.zeros(len(rows), bool)
    for ago in range(1, AGO + 1):
        meets[ago:] |= shapely.intersects(rows[ago:], rows[:-ago])
    if not meets[len(before) :].any():
        return list(found)
    kept = list(before)
    for one in found:
        if not shapely.intersects(one, kept[-AGO:]).any():
            kept.append(one)
    return kept[len(before) :]
