"""A bicycle, on its stand."""

from __future__ import annotations

from warmgraphite.figures.piece import Piece
from warmgraphite.figures.things import Chance, Thing
from warmgraphite.figures.things._wheels import hoop, spoked, stick
from warmgraphite.model.solids import bar, moved, turned


def bicycle(colour: str, scale: float = 1.0, lean: float = 0.0) -> list[Piece]:
    """A bicycle whose pedals turn about the origin's upright, its front wheel ahead; ``scale`` for small ones."""
    r, s = 0.34, scale
    back, front = (0.0, -0.44, r), (0.0, 0.62, r)
    crank, seat, head, neck = (0.0, 0.0, 0.29), (0.0, -0.17, 0.82), (0.0, 0.44, 0.86), (0.0, 0.48, 0.70)
    frame = [
        stick(crank, seat, 0.032),
        stick(crank, neck, 0.036),
        stick(seat, head, 0.032),
        stick(seat, back, 0.02),
        stick(crank, back, 0.022),
        stick(head, front, 0.03),
    ]
    bars = [
        stick(head, (0, 0.42, 0.99), 0.026),
        stick((-0.28, 0.36, 1.0), (0.28, 0.36, 1.0), 0.026),
        stick((-0.28, 0.36, 1.0), (-0.28, 0.24, 0.99), 0.03),
        stick((0.28, 0.36, 1.0), (0.28, 0.24, 0.99), 0.03),
    ]
    saddle = bar((0, -0.32, 0.90), (0, -0.05, 0.89), 0.12, 0.05)
    cranks = [
        stick(crank, (0.09, 0.12, 0.17), 0.02),
        stick(crank, (-0.09, -0.12, 0.41), 0.02),
        hoop(crank, 0.09, 0.012, around=14),
    ]
    wheels = [*spoked(back, r, 0.017, 10), *spoked(front, r, 0.017, 10)]
    post = stick(seat, (0, -0.18, 0.89), 0.026)
    pieces = [
        Piece.of("wheels", "#57534e", *wheels, crease=60.0), Piece.of("frame", colour, *frame, crease=60.0),
        Piece.of("bars", "#5c5850", *bars, *cranks, post, saddle, crease=60.0),
    ]  # fmt: skip
    out = []
    for p in pieces:
        points = turned((p.points * s, p.triangles), lean, "y")[0]
        out.append(Piece(p.name, p.colour, points, p.triangles, p.crease))
    return out


def _make(chance: Chance, colour: str) -> list[Piece]:
    found = bicycle(colour, 1.0, 7.0)
    # The stand, on the side to which it leans.
    found.append(
        Piece.of(
            "bars", "#5c5850", moved(stick((0, 0, 0), (0.16, -0.03, -0.29), 0.02), (0.035, -0.06, 0.29)), crease=60.0
        )
    )
    return found


THINGS = [Thing("bicycle", "Bicycle", "vehicles", 1.03, _make, ("#7a5a48", "#4d6265", "#8a7d55", "#5d5a56"))]
