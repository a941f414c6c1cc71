"""Benches, tables, chairs, lamps, bins, crates, carts, signs: what stands about."""

from __future__ import annotations

import numpy as np

from warmgraphite.figures.piece import SHARP, Piece
from warmgraphite.figures.things import Chance, Thing
from warmgraphite.figures.things._wheels import hoop, spoked, stick
from warmgraphite.model.solids import Mesh, bar, box, lathe, limb, moved, prism, turned

WOOD, STEEL = "#b39168", "#5e5a55"


def chair(seat: float = 0.45, wide: float = 0.42, back: float = 0.40) -> list[Mesh]:
    """A chair under the origin, its back behind."""
    half, deep = wide / 2, 0.42
    legs = [
        bar((x, y, 0), (x * 0.96, y * 0.96, seat), 0.035, 0.035)
        for x in (-half + 0.03, half - 0.03)
        for y in (-0.17, 0.22)
    ]
    posts = [bar((x, -0.17, seat), (x, -0.24, seat + back), 0.032, 0.032) for x in (-half + 0.03, half - 0.03)]
    rails = [
        bar(
            (-half + 0.02, -0.17 - 0.07 * t, seat + back * t),
            (half - 0.02, -0.17 - 0.07 * t, seat + back * t),
            0.02,
            0.07,
        )
        for t in (0.55, 0.92)
    ]
    return [*legs, *posts, *rails, box((-half, -0.20, seat - 0.035), (half, deep - 0.17, seat))]


def _chair(_c: Chance, colour: str) -> list[Piece]:
    return [Piece.of("chair", colour, *chair(), crease=SHARP)]


def _table(_c: Chance, colour: str) -> list[Piece]:
    legs = [bar((x, y, 0), (x * 0.97, y * 0.97, 0.70), 0.06, 0.06) for x in (-0.74, 0.74) for y in (-0.34, 0.34)]
    return [
        Piece.of(
            "table",
            colour,
            box((-0.82, -0.42, 0.70), (0.82, 0.42, 0.74)),
            *legs,
            bar((-0.74, 0, 0.64), (0.74, 0, 0.64), 0.03, 0.08),
            crease=SHARP,
        )
    ]


def _table_with_chairs(chance: Chance, colour: str) -> list[Piece]:
    found = _table(chance, colour)
    for x, y, turn in ((-0.4, -0.62, 0), (0.42, -0.66, 8), (-0.38, 0.66, 176), (0.44, 0.72, 196)):
        found.append(Piece.of("chairs", colour, *(moved(turned(m, turn), (x, y, 0)) for m in chair()), crease=SHARP))
    return found


def _bench(_c: Chance, colour: str) -> list[Piece]:
    slats = [box((-0.9, -0.20 + k * 0.115, 0.42), (0.9, -0.105 + k * 0.115, 0.45)) for k in range(4)]
    backs = [
        bar((-0.9, -0.24 - 0.03 * k, 0.56 + 0.13 * k), (0.9, -0.24 - 0.03 * k, 0.56 + 0.13 * k), 0.025, 0.095)
        for k in range(3)
    ]
    feet = []
    for x in (-0.7, 0.7):
        feet += [
            box((x - 0.03, -0.22, 0.0), (x + 0.03, -0.16, 0.42)),
            box((x - 0.03, 0.18, 0.0), (x + 0.03, 0.24, 0.42)),
            box((x - 0.03, -0.22, 0.37), (x + 0.03, 0.24, 0.42)),
            bar((x, -0.2, 0.40), (x, -0.32, 0.86), 0.05, 0.04),
        ]
    return [Piece.of("slats", colour, *slats, *backs, crease=SHARP), Piece.of("feet", STEEL, *feet, crease=SHARP)]


def _lamp(_c: Chance, colour: str) -> list[Piece]:
    post = lathe([(0, 0), (0.09, 0), (0.09, 0.5), (0.05, 0.62), (0.038, 4.0), (0, 4.0)], 12)
    arm = limb(
        np.array([(0, 0, 3.9), (0, 0.05, 4.18), (0, 0.3, 4.33), (0, 0.68, 4.33)]),
        np.full(4, 0.03),
        np.full(4, 0.03),
        np.array([1.0, 0, 0]),
        8,
    )
    shade = moved(lathe([(0, 0.0), (0.24, -0.02), (0.16, 0.10), (0.05, 0.16), (0, 0.16)], 16), (0, 0.68, 4.2))
    return [Piece.of("lamp", colour, post, arm, shade, crease=50.0)]


def _bin(_c: Chance, colour: str) -> list[Piece]:
    return [
        Piece.of(
            "bin",
            colour,
            lathe(
                [(0, 0.04), (0.2, 0.04), (0.24, 0.78), (0.25, 0.8), (0.23, 0.86), (0.15, 0.86), (0.15, 0.7), (0, 0.7)],
                18,
            ),
            crease=40.0,
        )
    ]


def crate(size: tuple[float, float, float] = (0.56, 0.38, 0.30)) -> list[Mesh]:
    """A crate of slats, open above."""
    x, y, z = size[0] / 2, size[1] / 2, size[2]
    found = [box((-x, -y, 0), (x, y, 0.015))]
    for k in range(3):
        low, high = z * (k / 3) + 0.012, z * ((k + 1) / 3) - 0.008
        found += [box((-x, s * y - 0.008, low), (x, s * y + 0.008, high)) for s in (-1, 1)]
        found += [box((s * x - 0.008, -y, low), (s * x + 0.008, y, high)) for s in (-1, 1)]
    return [
        *found,
        *(
            box((sx * x - 0.02, sy * y - 0.02, 0), (sx * x + 0.02, sy * y + 0.02, z))
            for sx in (-1, 1)
            for sy in (-1, 1)
        ),
    ]


def _crates(chance: Chance, colour: str) -> list[Piece]:
    found = [*crate(), *(moved(turned(m, float(chance.uniform(-14, 14))), (0.02, 0.01, 0.31)) for m in crate())]
    return [Piece.of("crates", colour, *found, crease=SHARP)]


def cart() -> list[Mesh]:
    """A flat cart with two large wheels; its handle is behind the origin's upright by nothing, at a metre."""
    bed = [
        box((-0.42, 0.42, 0.52), (0.42, 1.62, 0.57)),
        *(bar((s * 0.42, 0.4, 0.62), (s * 0.42, 1.62, 0.62), 0.03, 0.10) for s in (-1, 1)),
        bar((-0.42, 1.62, 0.62), (0.42, 1.62, 0.62), 0.03, 0.10),
    ]
    shafts = [bar((s * 0.36, 1.5, 0.49), (s * 0.36, 0.5, 0.52), 0.05, 0.06) for s in (-1, 1)]
    handles = [stick((s * 0.36, 0.5, 0.53), (s * 0.27, 0.06, 0.98), 0.04) for s in (-1, 1)]
    grip = [stick((-0.30, 0.06, 0.98), (0.30, 0.06, 0.98), 0.034)]
    legs = [bar((s * 0.36, 0.55, 0.5), (s * 0.36, 0.5, 0.0), 0.05, 0.05) for s in (-1, 1)]
    wheels = [m for s in (-0.5, 0.5) for m in spoked((s, 1.15, 0.4), 0.4, 0.028, 8)]
    return [*bed, *shafts, *handles, *grip, *legs, *wheels, stick((-0.5, 1.15, 0.4), (0.5, 1.15, 0.4), 0.04)]


def _cart(_c: Chance, colour: str) -> list[Piece]:
    return [Piece.of("cart", colour, *(moved(m, (0, -0.9, 0)) for m in cart()), crease=50.0)]


def _sign(_c: Chance, colour: str) -> list[Piece]:
    post = lathe([(0, 0), (0.035, 0), (0.035, 2.5), (0, 2.5)], 8)
    boards = []
    for z, turn, way in ((2.3, 20.0, 1), (2.06, 130.0, 1), (1.82, 255.0, 1)):
        arrow = prism([(0.0, z), (0.62, z), (0.74, z + 0.08), (0.62, z + 0.16), (0.0, z + 0.16)], "y", 0.035, 0.06)
        boards.append(turned(arrow, turn * way))
    return [Piece.of("post", STEEL, post, crease=50.0), Piece.of("boards", colour, *boards, crease=SHARP)]


def _planter(_c: Chance, colour: str) -> list[Piece]:
    ring = hoop((0, 0, 0.55), 0.30, 0.03, "z", 20)
    pot = lathe([(0, 0), (0.22, 0), (0.3, 0.55), (0.27, 0.55), (0.25, 0.48), (0, 0.48)], 20)
    return [Piece.of("planter", colour, pot, ring, crease=40.0)]


THINGS = [
    Thing("bench", "Bench", "furniture", 0.86, _bench, (WOOD, "#9a7c58"), "furniture"),
    Thing("table", "Table", "furniture", 0.74, _table, (WOOD,), "furniture"),
    Thing("table with chairs", "Table with four chairs", "furniture", 0.85, _table_with_chairs, (WOOD,), "furniture"),
    Thing("chair", "Chair", "furniture", 0.85, _chair, (WOOD, "#8f6d4c"), "furniture"),
    Thing("lamp", "Street lamp", "furniture", 4.36, _lamp, (STEEL,), "furniture"),
    Thing("bin", "Bin", "furniture", 0.86, _bin, ("#6d7a70", STEEL), "furniture"),
    Thing("crates", "Crates", "furniture", 0.62, _crates, ("#c0a074",), "furniture"),
    Thing("cart", "Hand cart", "furniture", 1.0, _cart, ("#a88a62",), "furniture"),
    Thing("sign post", "Sign post", "furniture", 2.5, _sign, ("#d8cdb4",), "furniture"),
    Thing("planter", "Planter", "furniture", 0.58, _planter, ("#b0704c",), "furniture"),
]
