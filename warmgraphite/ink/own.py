"""Patterns of one's own: lines and dots in a tile, drawn or taken from SVG."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from pydantic import Field

from warmgraphite.errors import ViewError
from warmgraphite.ink.pattern import Pattern, Tile
from warmgraphite.specification import Specification

__all__ = ["OwnTile", "tile_from_svg"]

#: Usual millimetres of paper, and metres on a face, that a tile is wide.
WIDE, WIDE_METRES = 10.0, 0.5
#: Share of the tile's width up to which a mark is a dot; a closed one also up to three times that.
DOT = 0.02
#: Marks, and points of them, that a tile may have.
MOST_MARKS, MOST_POINTS = 400, 4000

Place = tuple[Annotated[float, Field(ge=-1000, le=1000)], Annotated[float, Field(ge=-1000, le=1000)]]
Line = Annotated[tuple[Place, ...], Field(min_length=1, max_length=400)]


class OwnTile(Specification):
    """A tile ``height`` times as high as it is wide, with its marks.
    Polylines of places in tile widths from its lower left corner; one of a single place is a dot.
    """

    height: float = Field(default=1.0, ge=0.05, le=20)
    marks: tuple[Line, ...] = Field(default=(), max_length=MOST_MARKS)

    @property
    def pattern(self) -> Pattern:
        """The pattern that it makes."""
        return Pattern(
            "own", "One’s own", WIDE, WIDE_METRES, tile=Tile(1.0, self.height, self.marks) if self.marks else None
        )


def tile_from_svg(text: str, name: str = "This SVG") -> OwnTile:
    """The tile that an SVG shows: its page is the tile, its outlines are lines, small circles dots.
    Raises :class:`ViewError`, which calls it ``name``.
    """
    from xml.etree import ElementTree

    from warmgraphite.ink.svg_marks import svg_lines

    try:
        root = ElementTree.fromstring(text.encode())
        box = [float(n) for n in root.get("viewBox", "").replace(",", " ").split()]
        if len(box) != 4:
            box = [0, 0, *(float(str(root.get(n, "")).rstrip("mpxtcin%") or 0) for n in ("width", "height"))]
        lines = svg_lines(root)
    except Exception:  # whatever a parser stumbles over, it is no SVG that could be read
        raise ViewError(
            f"{name} could not be read as SVG; save it as plain SVG with paths, lines and circles."
        ) from None
    left, top, width, height = box
    if not (width > 0 and height > 0):
        raise ViewError(f"{name} does not say how large it is; give it a viewBox, which becomes the tile.")
    marks = []
    for line in lines:
        points = (np.array(line) - [left, top + height]) * [1 / width, -1 / width]
        middle, reach = (points.min(0) + points.max(0)) / 2, np.ptp(points, axis=0).max()
        closed = len(points) > 2 and bool(np.allclose(points[0], points[-1]))
        small = reach <= DOT or (closed and reach <= 3 * DOT)
        rows = [middle] if small else points
        marks.append(tuple((round(float(x), 5), round(float(y), 5)) for x, y in rows))
    if not marks:
        raise ViewError(f"{name} has no lines in it; draw them as paths, lines or circles.")
    if len(marks) > MOST_MARKS or sum(map(len, marks)) > MOST_POINTS:
        raise ViewError(f"{name} has more lines than a tile should ({MOST_MARKS}); take a smaller part of the pattern.")
    return OwnTile(height=min(max(height / width, 0.05), 20), marks=tuple(marks))
