"""Cut-outs that came as drawings.
Their fills as a picture, their strokes as line elements with weights of their own.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
import skia
from numpy.typing import NDArray
from PIL import Image

from warmgraphite.colour import written
from warmgraphite.figures.cutouts import SHOWN, Ground, PictureSource, Pixels
from warmgraphite.memory import remembered
from warmgraphite.vectors import Vectors

__all__ = ["DrawnCutOut", "OwnStroke", "drawn_cut_out"]

#: Pixels of the longer side on which a drawing is compared with its picture, levels by which they differ there, and the
#: share of what is drawn that may differ where it is all there.
COMPARED, LEVELS, ALIKE = 480, 60.0, 0.02
#: Shares of the page that a path covers which is its ground, and levels by which that may miss white.
PAGE, WHITE = 0.985, 6
#: Share of the longer side by which a stroke may be made plainer, and segments from which on it is made plainer still;
#: points from which on a drawing is a picture.
PLAINER, MOST, MOST_POINTS = 0.0004, 20_000, 60_000
#: Millimetres of paper that a pen may be.
PENS = (0.02, 5.0)


@dataclass(frozen=True)
class OwnStroke:
    """Strokes of one ``weight`` in millimetres of paper and one ``colour``.
    Ends (S, 2, 2), in shares of the longer side of the picture, y downwards.
    """

    weight: float
    colour: str
    ends: NDArray[np.float64]


@dataclass(frozen=True)
class DrawnCutOut:
    """A cut-out as it was drawn: all of it as pixels, its fills alone, and its strokes.
    ``bounds`` (2, 2) are the first and last of what is drawn, in shares of the longer side.
    """

    whole: Pixels
    fills: Pixels
    strokes: tuple[OwnStroke, ...]
    bounds: NDArray[np.float64]


@remembered("cut-outs")
def drawn_cut_out(kept: PictureSource, digest: str, ground: Ground) -> DrawnCutOut | None:
    """A cut-out of a drawing, without its ``ground``.
    ``None`` for what came as pixels, and where its lines do not show all that its picture does, which may have type,
    runs of colour or pictures in it.
    """
    found, picture = kept.lines(digest), kept.pixels(digest)
    if found is None or picture is None or len(found.points) > MOST_POINTS:
        return None
    longer = max(picture.shape[:2])
    small = (max(1, round(picture.shape[1] * COMPARED / longer)), max(1, round(picture.shape[0] * COMPARED / longer)))
    told = np.asarray(Image.fromarray(picture).convert("RGBa").resize(small, Image.Resampling.BOX), float)
    rules = (skia.PathFillType.kWinding, skia.PathFillType.kEvenOdd)
    paths, every = _paths(found), np.ones(_count(found), bool)
    misses = [_miss(told, _pixels(found, paths, small, rule, every, True)) for rule in rules]
    if min(misses) > ALIKE:
        return None
    rule = rules[int(np.argmin(misses))]
    shown = every if ground == "kept" else ~_grounds(found)
    times = SHOWN / longer
    size = (max(1, round(picture.shape[1] * times)), max(1, round(picture.shape[0] * times)))
    rows = np.flatnonzero(shown[found.path])
    if not len(rows):
        return None
    unit = 1 / float(found.page.max())
    low = np.min([found.line(int(k)).min(0) - found.weight[k] / 2 for k in rows], axis=0)
    high = np.max([found.line(int(k)).max(0) + found.weight[k] / 2 for k in rows], axis=0)
    return DrawnCutOut(
        _pixels(found, paths, size, rule, shown, True), _pixels(found, paths, size, rule, shown, False),
        _strokes(found, rows, unit, rule),
        np.clip(np.array([low, high]), 0, found.page) * unit,
    )  # fmt: skip


def _count(found: Vectors) -> int:
    return int(found.path.max(initial=-1)) + 1


def _miss(told: NDArray[np.float64], drawn: Pixels) -> float:
    """The share of what is drawn, on either of two pictures, in which they differ; premultiplied as the first one is.
    What is white counts for nothing: a word on a large white page is all that there is.
    """
    ours = np.asarray(Image.fromarray(drawn).convert("RGBa"), float)
    over_white = [p[..., :3] + 255 - p[..., 3:] for p in (told, ours)]
    inked = (np.minimum(*over_white).min(-1) < 255 - LEVELS / 2).sum()
    differ = np.abs(over_white[0] - over_white[1]).max(-1) > LEVELS
    return float(differ.sum()) / max(float(inked), 1.0)


def _grounds(found: Vectors) -> NDArray[np.bool_]:
    """(paths,) which of the paths are the white page itself."""
    bounds = np.zeros(_count(found), bool)
    for k in np.flatnonzero(found.filled & (found.fill.min(1) >= 255 - WHITE)):
        spread = np.ptp(found.line(int(k)), axis=0)
        bounds[found.path[k]] |= bool((spread >= PAGE * found.page).all() and len(found.line(int(k))) <= 6)
    return bounds


def _paths(found: Vectors) -> list[tuple[int, skia.Path]]:
    """Each path with its first line."""
    first = np.flatnonzero(np.diff(found.path, prepend=-1)).tolist()
    out = []
    for a, b in zip(first, [*first[1:], len(found.path)], strict=True):
        path = skia.Path()
        for k in range(a, b):
            line = found.line(k).tolist()
            closed = len(line) > 2 and line[0] == line[-1]
            path.addPoly([skia.Point(x, y) for x, y in (line[:-1] if closed else line)], closed)
        out.append((a, path))
    return out


def _pixels(
    found: Vectors,
    paths: list[tuple[int, skia.Path]],
    size: tuple[int, int],
    rule: skia.PathFillType,
    shown: NDArray[np.bool_],
    strokes: bool,
) -> Pixels:
    """(h, w, 4) straight.
    The shown paths in their order, each filled, and then drawn along where ``strokes`` are asked for.
    """
    surface = skia.Surface.MakeRaster(skia.ImageInfo.MakeN32Premul(*size))
    canvas = surface.getCanvas()
    canvas.clear(0)
    canvas.scale(size[0] / float(found.page[0]), size[1] / float(found.page[1]))
    for row, path in paths:
        if not shown[found.path[row]]:
            continue
        path.setFillType(rule)
        if found.filled[row]:
            canvas.drawPath(path, skia.Paint(Color=skia.Color(*found.fill[row].tolist()), AntiAlias=True))
        if strokes and found.weight[row] > 0:
            paint = skia.Paint(
                Color=skia.Color(*found.colour[row].tolist()), AntiAlias=True, Style=skia.Paint.kStroke_Style
            )
            paint.setStrokeWidth(float(found.weight[row]))
            canvas.drawPath(path, paint)
    return np.asarray(surface.makeImageSnapshot().toarray(colorType=skia.kRGBA_8888_ColorType))


def _strokes(found: Vectors, rows: NDArray[np.int64], unit: float, rule: skia.PathFillType) -> tuple[OwnStroke, ...]:
    """The strokes among lines by pen, less what fills cover that are laid down after them."""
    drawn = rows[found.weight[rows] > 0]
    if not len(drawn):
        return ()
    tolerance, whole = PLAINER, np.array([shapely.LineString(found.line(int(k)) * unit) for k in drawn], object)
    while shapely.get_num_coordinates(lines := shapely.simplify(whole, tolerance)).sum() > MOST and tolerance < 0.02:
        tolerance *= 2
    paths, fills = _areas(found, rows[found.filled[rows]], unit, rule)
    if len(paths):
        line, over = shapely.STRtree(fills).query(lines, predicate="intersects")
        later = paths[over] > found.path[drawn[line]]
        line, over = line[later], over[later]
        for k in np.unique(line):
            lines[k] = shapely.difference(lines[k], shapely.union_all(fills[over[line == k]]))
    said = np.column_stack([np.round(np.clip(found.weight[drawn].astype(float), *PENS), 3), found.colour[drawn]])
    kinds, which = np.unique(said, axis=0, return_inverse=True)
    out = []
    for k, (weight, *colour) in enumerate(kinds):
        points, part = shapely.get_coordinates(shapely.get_parts(lines[which.reshape(-1) == k]), return_index=True)
        joined = part[1:] == part[:-1]
        if joined.any():
            out.append(OwnStroke(float(weight), written(colour), np.stack([points[:-1], points[1:]], 1)[joined]))
    return tuple(out)


def _areas(
    found: Vectors, rows: NDArray[np.int64], unit: float, rule: skia.PathFillType
) -> tuple[NDArray[np.int64], NDArray[np.object_]]:
    """The paths that are filled, and what each fills, a hair smaller: a stroke along its rim is seen."""
    join = shapely.union_all if rule == skia.PathFillType.kWinding else shapely.symmetric_difference_all
    rings: dict[int, list[shapely.Geometry]] = {}
    for k in rows:
        if len(line := found.line(int(k))) > 3:
            rings.setdefault(int(found.path[k]), []).append(shapely.Polygon(line * unit))
    numbers = np.array(sorted(rings), np.int64)
    areas = [join(shapely.make_valid(np.array(rings[n], object))) for n in numbers.tolist()]
    return numbers, shapely.buffer(np.array(areas, object), -2 * PLAINER)
