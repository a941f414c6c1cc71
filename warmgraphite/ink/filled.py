"""What is cut, filled: shapes with their fills, the marks of hatches, and lines drawn in them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from pydantic import TypeAdapter

from warmgraphite.canvas.protocol import Canvas
from warmgraphite.ink.confine import Confine, confined
from warmgraphite.ink.fills import Fill, Flat, Hatch
from warmgraphite.ink.hand import Hand
from warmgraphite.ink.poche import PocheShape, confined_shape, hatched_shape, packed_shapes, unpacked_shapes
from warmgraphite.ink.strokes import Strokes
from warmgraphite.ink.work import Work, draw_rows, hatch_work, line_work_of
from warmgraphite.passes.store import Arrays
from warmgraphite.view.projection import Projection

__all__ = ["Filled", "draw_filled", "filled_shape", "packed_filled", "unpacked_filled"]


@dataclass(frozen=True)
class Filled:
    """A shape of what is cut, with its fills.
    It is called ``group`` in a drawing, with its fills from the lowest up, and ``work``, the marks of the hatches among
    them and its own ``strokes``, by hand.
    """

    group: str
    shape: PocheShape
    fills: tuple[Fill, ...]
    work: Work
    strokes: tuple[Strokes, ...] = ()

    def within(self, room: shapely.Geometry, projection: Projection, hand: Hand, middle: tuple[float, float]) -> Filled:
        """What of it lies within a room on the paper."""
        shape = confined_shape(self.shape, room)
        strokes = confined(self.strokes, Confine.of(room))
        return filled_shape(self.group, shape, self.fills, strokes, projection, hand, middle)


def filled_shape(
    group: str, shape: PocheShape, fills: tuple[Fill, ...], strokes: list[Strokes], projection: Projection, hand: Hand,
    middle: tuple[float, float],
) -> Filled:  # fmt: skip
    """A shape with its fills. Where it has strokes of its own, they stand for the patterns that follow a layer."""
    laid = [f for f in fills if not (strokes and isinstance(f, Hatch) and f.drawn.across is not None)]
    marks = hatch_work(hatched_shape(shape, laid, projection, middle), hand)
    work = Work((*marks, *line_work_of(strokes, hand, middle))) if strokes else marks
    return Filled(group, shape, fills, work, tuple(strokes))


def draw_filled(canvas: Canvas, filled: Filled) -> None:
    """Draw a shape with its fills and all that is drawn in it."""
    with canvas.group(filled.group):
        for fill in filled.fills:
            if isinstance(fill, Flat) and fill.opacity == 1:
                canvas.fill(filled.shape.rings, fill.colour)
            elif isinstance(fill, Flat):
                with canvas.group("fill", fill.opacity):
                    canvas.fill(filled.shape.rings, fill.colour)
        draw_rows(canvas, filled.work)


_FILLS = TypeAdapter(list[tuple[Fill, ...]])


def packed_filled(found: list[Filled]) -> Arrays:
    """As arrays, for the store."""
    rows: dict[str, Any] = {f"shapes {k}": v for k, v in packed_shapes([f.shape for f in found]).items()}
    rows["fills"] = np.frombuffer(_FILLS.dump_json([f.fills for f in found]), np.uint8)
    rows["group"] = np.array([f.group for f in found], dtype=np.str_)
    for number, row in enumerate(found):
        rows |= {f"{number} {k}": v for k, v in row.work.packed().items()}
        rows |= {f"{number} own {k}": v for k, v in Work.of_strokes(row.strokes).packed().items()}
    return rows


def unpacked_filled(a: Arrays) -> list[Filled]:
    """From the arrays of the store."""

    def under(head: str) -> Any:
        return {k[len(head) :]: v for k, v in a.items() if k.startswith(head)}

    shapes, fills = unpacked_shapes(under("shapes ")), _FILLS.validate_json(a["fills"].tobytes())
    rows = zip(a["group"], shapes, fills, strict=True)
    return [
        Filled(str(group), s, f, Work.unpacked(under(f"{k} ")), tuple(Work.unpacked(under(f"{k} own ")).strokes()))
        for k, (group, s, f) in enumerate(rows)
    ]
