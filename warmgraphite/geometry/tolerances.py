"""How near is the same: lengths and angles below which a difference means nothing.

Model files keep coordinates in single precision, whose numbers lie 2⁻²³ of a value apart: over a model of extent E
metres that is about 1.2e-7 E, and a corner reckoned of a few of them is some tenfold off. From that, and from what a
pen can draw, all tolerances of a model follow.
"""

from __future__ import annotations

from dataclasses import dataclass

__all__ = [
    "FINEST",
    "FLAT_ANGLE",
    "HAIR",
    "NEAR",
    "NO_AREA",
    "NO_LENGTH",
    "NO_SIZE",
    "ON_PAPER",
    "ROUNDING",
    "WELD",
    "Tolerances",
]

#: Metres within which corners of one part count as one: below anything drawn, above single precision's noise.
WELD = 2e-5
#: The spacing of single-precision numbers, as a share of the largest, twenty-five times: what is left of coordinates
#: that were turned, moved and subtracted in a file.
NOISE = 3e-6
#: Of millimetres of paper: no pen and no eye tells it apart; a fine line is a hundred times as wide. Of metres: a
#: millimetre of a building, which at 1:20 is half of a fine line. Of shares, degrees and sines: nothing that shows.
FINEST = 1e-3
#: A tenth of that: what outlines may be smoothed by, or lie apart, and still be drawn as one.
HAIR = 1e-4

#: Of metres, millimetres and pixels, and of what else is compared: nearer is the same. A micrometre of a building is
#: less than any file can say of it, and a nanometre of paper less than any pen; both are a thousand times what
#: reckoning in double precision leaves.
NEAR = 1e-6
#: Of metres, millimetres and pixels, and of sines and shares: what rounding leaves of a difference that should be none.
#: Numbers of double precision lie 1e-10 apart at a million, which is farther than anything lies from the origin.
ROUNDING = 1e-9
#: Degrees by which faces may bend and still be flat together: less than any crease that is drawn.
FLAT_ANGLE = 0.5

#: Millimetres of paper within which two lines are one, and below which a gap or a piece is none: a sixth of the finest
#: pen.
ON_PAPER = 0.02

# What stands for zero where something is divided by a size: it is never reached by anything real, and below it a
# direction says nothing.
#: Of a length, in metres or millimetres.
NO_LENGTH = 1e-12
#: Of an area, in square metres: of triangles, whose normals are as long as twice that.
NO_AREA = 1e-30
#: Of squares and products of lengths: just above the smallest number of double precision.
NO_SIZE = 1e-300


@dataclass(frozen=True)
class Tolerances:
    """Those of a model: ``weld`` and ``contact`` in metres, ``paper`` in millimetres, ``angle`` in degrees.

    Corners of a part nearer than ``weld`` are one, and surfaces nearer than ``contact`` touch; lines nearer than
    ``paper`` on the drawing are one; faces that bend by less than ``angle`` are flat together.
    """

    weld: float
    contact: float
    paper: float = ON_PAPER
    angle: float = FLAT_ANGLE

    @staticmethod
    def of(extent: float) -> Tolerances:
        """Those of a model whose box is ``extent`` metres from corner to corner."""
        return Tolerances(WELD, max(WELD, NOISE * extent))

    def near(self, times: float, least: float = 0.0) -> float:
        """Metres that are so many times the contact, and no less than ``least``.
        So far something is lifted off what it lies on, that rays and planes tell the two apart.
        """
        return max(times * self.contact, least)
