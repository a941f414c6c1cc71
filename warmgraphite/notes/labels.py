"""Labels with leaders, placed together.
Which stand at the left and which at the right, how high, and where their leaders bend.

All leaders of a drawing are at one angle, or its mirror image. What finds no place at the angle that is asked for finds
one at a steeper; what was moved by hand stays where it was put.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import NEAR, ROUNDING
from warmgraphite.notes.leaders import STEP, Column, column_places
from warmgraphite.notes.lettering import End
from warmgraphite.notes.written import Block, Box

__all__ = ["LabelRequest", "LabelSpace", "Placed", "place_labels"]

Array = NDArray[np.float64]

#: Millimetres between a text and its leader, and between two texts.
CLEAR, GAP = 1.0, 1.0
#: Angles that are tried, in degrees more than that asked for.
STEEPER = (0.0, 8.0, 15.0, -10.0, 22.0)


@dataclass(frozen=True)
class LabelRequest:
    """A label that wants a place.
    What it says, what it means on the paper, its ``side`` (−1, 1, or 0 for either), and where its text was put by hand,
    by its left and top.
    """

    id: str
    block: Block
    anchor: tuple[float, float]
    colour: str
    end: End
    side: int = 0
    put: tuple[float, float] | None = None


@dataclass(frozen=True)
class Placed:
    """A label in its place: its text's left and top, and its leader from the text to what it means.
    ``side`` −1 where its lines end at the leader. ``crowded`` where it stands though there was no room.
    """

    asked: LabelRequest
    x: float
    y: float
    leader: Array
    angle: float
    crowded: bool = False
    side: int = 1

    @property
    def box(self) -> Box:
        return self.asked.block.box(self.x, self.y)


@dataclass(frozen=True)
class LabelSpace:
    """Where labels may stand.
    Within ``inside``, beside what the building takes of the paper (``extent``), and not over ``taken`` rooms or
    ``keep``, a shape on the paper.
    """

    inside: Box
    extent: Box
    taken: Sequence[Box]
    keep: shapely.Geometry
    angle: float


def place_labels(asked: Sequence[LabelRequest], room: LabelSpace) -> list[Placed]:
    """A place for each label, in the order in which they are asked for."""
    by_hand = [_by_hand(a, room.angle) for a in asked if a.put is not None]
    rest = [a for a in asked if a.put is None]
    taken = [*room.taken, *(p.box for p in by_hand)]
    found = {p.asked.id: p for p in [*by_hand, *_in_columns(rest, replace(room, taken=taken))]}
    return [found[a.id] for a in asked]


def _by_hand(asked: LabelRequest, angle: float) -> Placed:
    """A label where it was put. Its leader runs at the angle to the height of its text, and from there level to it."""
    assert asked.put is not None
    x, y = asked.put
    left, top, right, bottom = asked.block.box(x, y)
    ax, ay = asked.anchor
    middle = (top + bottom) / 2
    away = abs(ay - middle) / np.tan(np.radians(angle))
    ways: list[tuple[float, Array]] = []
    for turned in (-1, 1):
        bend = ax + turned * away
        if left - CLEAR <= bend <= right + CLEAR:
            # It meets the text from above or below: there it ends.
            edge = bottom + CLEAR / 2 if ay > middle else top - CLEAR / 2
            short = abs(ay - edge) / np.tan(np.radians(angle))
            ways.append((0.0, np.array([(ax + turned * short, edge), (ax, ay)])))
        else:
            side = left - CLEAR if bend < left else right + CLEAR
            ways.append((abs(bend - side), np.array([(side, middle), (bend, middle), (ax, ay)])))
    leader = min(ways, key=lambda w: w[0])[1]
    if left <= ax <= right and top <= ay <= bottom:
        leader = np.empty((0, 2))
    return Placed(asked, x, y, leader, angle)


def _in_columns(asked: list[LabelRequest], room: LabelSpace) -> list[Placed]:
    if not asked:
        return []
    anchors = np.array([a.anchor for a in asked], float)
    side = np.array([a.side for a in asked])
    # Of a few labels all ways to part them are tried, and the shortest leaders are taken; of many the first ways that
    # go.
    enough = 99 if len(asked) <= 6 else 4 if len(asked) <= 24 else 2
    for turn in STEEPER:
        angle = room.angle + turn
        if not 25 <= angle <= 82:
            continue
        for columns in _columns(asked, room):
            ways: list[list[Placed]] = []
            for left in _splits(anchors, side, columns, room):
                found = _both(asked, anchors, left, columns, room, angle)
                if found is not None:
                    ways.append(found)
                if len(ways) >= enough:
                    break
            if ways:
                return min(ways, key=lambda way: sum(_long(p) for p in way))
    return _stacked(asked, anchors, room)


def _long(placed: Placed) -> float:
    """How much of a leader there is to be seen."""
    return float(np.linalg.norm(np.diff(placed.leader, axis=0), axis=1).sum())


def _columns(asked: Sequence[LabelRequest], room: LabelSpace) -> list[tuple[Column, Column]]:
    """Where the columns may stand: near the building first, then farther out."""
    x0, y0, x1, y1 = room.inside
    wide = max(a.block.wide for a in asked)
    out_left, out_right = x0 + wide, x1 - wide
    near_left = max(min(room.extent[0] - 9.0, x0 + (x1 - x0) * 0.45), out_left)
    near_right = min(max(room.extent[2] + 9.0, x1 - (x1 - x0) * 0.45), out_right)
    rows = [(near_left, near_right), (out_left, out_right)]
    half = ((near_left + out_left) / 2, (near_right + out_right) / 2)
    found = list(dict.fromkeys([rows[0], half, rows[1]]))
    return [(Column(a, -1, y0, y1), Column(b, 1, y0, y1)) for a, b in found if b > a]


def _splits(
    anchors: Array, side: NDArray[np.int64], columns: tuple[Column, Column], room: LabelSpace
) -> list[NDArray[np.bool_]]:
    """Which labels stand at the left.
    Those whose column is nearer, then a few more or fewer of them, from the middle on.
    """
    left, right = columns
    order = np.argsort(anchors[:, 0], kind="stable")
    free = order[side[order] == 0]
    nearer = int((anchors[free, 0] - left.x < right.x - anchors[free, 0]).sum())
    # What one column cannot hold, the other takes.
    out = []
    for step in range(0, len(free) + 1):
        for count in {nearer + step, nearer - step}:
            if 0 <= count <= len(free):
                chosen = side == -1
                chosen[free[:count]] = True
                # What lies beyond a column cannot be reached from it.
                chosen &= anchors[:, 0] > left.x
                out.append(chosen | (anchors[:, 0] >= right.x))
    return out[:9] if len(free) > 12 else out[:15]


def _both(
    asked: Sequence[LabelRequest],
    anchors: Array,
    left: NDArray[np.bool_],
    columns: tuple[Column, Column],
    room: LabelSpace,
    angle: float,
) -> list[Placed] | None:
    places: list[Placed | None] = [None] * len(asked)
    for rows, column in ((np.flatnonzero(left), columns[0]), (np.flatnonzero(~left), columns[1])):
        if not len(rows):
            continue
        heights = np.array([asked[k].block.high for k in rows.tolist()])
        widths = np.array([asked[k].block.wide for k in rows.tolist()])
        free = _free(column, widths, heights, room)
        found = column_places(anchors[rows], heights, column, angle, GAP, free)
        if found is None:
            return None
        for k, middle, elbow in zip(rows.tolist(), found.middle.tolist(), found.elbow.tolist(), strict=True):
            one = asked[k]
            x = column.x - one.block.wide if column.side < 0 else column.x
            start = column.x - column.side * CLEAR * 0.8
            ends = [(start, middle), (elbow, middle), one.anchor]
            if (elbow - start) * -column.side < 0.05:  # it bends at the text
                ends = [ends[1], ends[2]]
            places[k] = Placed(one, x, middle - one.block.high / 2, np.array(ends, float), angle, side=column.side)
    whole = [p for p in places if p is not None]
    return whole if not _crossing(whole) else None


def _crossing(placed: Sequence[Placed]) -> bool:
    """Whether a leader crosses another, or runs over a text."""
    lines = [shapely.LineString(p.leader) for p in placed]
    boxes = [shapely.box(*p.box) for p in placed]
    tree = shapely.STRtree(lines)
    a, b = tree.query(np.array(lines, object), predicate="intersects")
    for i, j in zip(a.tolist(), b.tolist(), strict=True):
        if i < j and not shapely.equals(lines[i], lines[j]) and lines[i].intersection(lines[j]).length >= 0:
            same = np.linalg.norm(np.subtract(placed[i].asked.anchor, placed[j].asked.anchor)) < NEAR
            if not same:
                return True
    a, b = tree.query(np.array(boxes, object), predicate="intersects")
    return bool((a != b).any())


def _free(column: Column, widths: Array, heights: Array, room: LabelSpace) -> NDArray[np.bool_]:
    """(N, H) at which heights of the column each text stands over nothing."""
    grid = np.arange(column.top, column.bottom + STEP / 2, STEP)
    x0 = np.where(column.side < 0, column.x - widths, np.full(len(widths), column.x))
    x1 = x0 + widths
    out = np.ones((len(widths), len(grid)), bool)
    for a, b, c, d in room.taken:
        across = (x1 + CLEAR > a) & (x0 - CLEAR < c)
        down = (grid[None] + heights[:, None] / 2 + GAP > b) & (grid[None] - heights[:, None] / 2 - GAP < d)
        out &= ~(across[:, None] & down)
    if not room.keep.is_empty:
        low, high = float(x0.min()), float(x1.max())
        strip = shapely.intersection(room.keep, shapely.box(low, column.top - 5, high, column.bottom + 5))
        if not strip.is_empty:
            for number in range(len(widths)):
                boxes = shapely.box(x0[number], grid - heights[number] / 2, x1[number], grid + heights[number] / 2)
                out[number] &= ~shapely.intersects(strip, boxes)
    return out


def _stacked(asked: Sequence[LabelRequest], anchors: Array, room: LabelSpace) -> list[Placed]:
    """Where there is no room for all.
    One below another all the same, at the side that each is nearer to, and said to be crowded.
    """
    left, right = (
        _columns(asked, room)[-1]
        if _columns(asked, room)
        else (Column(room.inside[0], -1, *room.inside[1::2]), Column(room.inside[2], 1, *room.inside[1::2]))
    )
    out: list[Placed | None] = [None] * len(asked)
    at_left = anchors[:, 0] - left.x < right.x - anchors[:, 0]
    for rows, column in ((np.flatnonzero(at_left), left), (np.flatnonzero(~at_left), right)):
        order = rows[np.argsort(anchors[rows, 1], kind="stable")]
        y = column.top
        step = min(
            1.0, (column.bottom - column.top) / max(sum(asked[k].block.high + GAP for k in order.tolist()), ROUNDING)
        )
        for k in order.tolist():
            one = asked[k]
            x = column.x - one.block.wide if column.side < 0 else column.x
            found = _by_hand(replace(one, put=(x, y)), room.angle)
            out[k] = replace(found, asked=one, crowded=True)
            y += (one.block.high + GAP) * step
    return [p for p in out if p is not None]
