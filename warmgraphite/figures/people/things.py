"""What people hold, push or sit on, where their hands and hips are."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from warmgraphite.figures.people.posture import Skeleton, both
from warmgraphite.figures.piece import SHARP, Piece
from warmgraphite.figures.things._wheels import hoop, spoked, stick
from warmgraphite.figures.things.animals import dog
from warmgraphite.figures.things.bicycle import bicycle
from warmgraphite.figures.things.furniture import WOOD, cart, chair
from warmgraphite.model.solids import Mesh, bar, box, lathe, limb, loft, moved, turned

__all__ = [
    "bicycle_under", "book", "box_held", "broom", "camera", "cart_before", "chair_under", "child_on", "clay_under",
    "dog_on_lead", "pot_held",
    "pram_before", "stool_under", "telephone", "ware_board", "wheel_before", "wheelchair_under",
]  # fmt: skip

Chance = np.random.Generator
CLAY, STEEL = "#b0714e", "#5e5a55"


def _palm(body: Skeleton, side: int, ahead: float = 0.06) -> NDArray[np.float64]:
    way = body.wrists[side] - body.elbows[side]
    return np.asarray(body.wrists[side] + way / np.linalg.norm(way) * ahead * body.build.unit)


def _between(body: Skeleton) -> NDArray[np.float64]:
    return (_palm(body, 0) + _palm(body, 1)) / 2


def _placed(mesh: Mesh, turn: NDArray[np.float64], at: NDArray[np.float64]) -> Mesh:
    return mesh[0] @ turn.T + at, mesh[1]


def _pot(size: float, chance: Chance) -> Mesh:
    shapes = (
        [
            (0, 0),
            (0.5, 0),
            (0.62, 0.3),
            (0.66, 0.9),
            (0.5, 1.3),
            (0.36, 1.42),
            (0.4, 1.5),
            (0.3, 1.5),
            (0.28, 1.38),
            (0, 1.3),
        ],
        [(0, 0), (0.36, 0), (0.5, 0.1), (0.9, 0.62), (1.0, 0.8), (0.92, 0.8), (0.5, 0.3), (0, 0.2)],
        [(0, 0), (0.4, 0), (0.48, 0.5), (0.5, 1.1), (0.56, 1.18), (0.46, 1.18), (0.42, 1.05), (0, 1.0)],
    )
    profile = shapes[int(chance.integers(3))]
    return lathe([(r * size, z * size) for r, z in profile], 10)


def book(body: Skeleton) -> list[Piece]:
    """A book, open in both hands."""
    middle, turn, u = _between(body), body.turns["chest"], body.build.unit
    pages = []
    for s in (-1, 1):
        rows = [
            [(0, 0, 0), (s * 0.15, 0.0, 0.035), (s * 0.15, 0.19, 0.12), (0, 0.19, 0.085)],
            [(0, 0.006, -0.014), (s * 0.15, 0.006, 0.021), (s * 0.15, 0.196, 0.106), (0, 0.196, 0.071)],
        ]
        pages.append(_placed(loft(np.array(rows) * u), turn, middle + turn @ np.array([0, -0.05, 0.0]) * u))
    return [Piece.of("book", "#e6dfd0", *pages, crease=SHARP)]


def camera(body: Skeleton) -> list[Piece]:
    """A camera before the face."""
    turn, h = body.turns["head"], body.build.head
    lens = lathe([(0, 0), (0.036, 0), (0.036, 0.075), (0, 0.075)], 12)
    at = body.head + turn @ np.array([0, 0.60 * h, -0.03 * h])
    return [
        Piece.of(
            "camera",
            "#4b4845",
            _placed(box((-0.065, -0.03, -0.045), (0.065, 0.035, 0.05)), turn, at),
            _placed(moved(turned(lens, -90, "x"), (0, 0.035, 0)), turn, at),
            crease=50.0,
        )
    ]


def telephone(body: Skeleton) -> list[Piece]:
    """A telephone at the ear."""
    at, way = _palm(body, 1, 0.05), body.wrists[1] - body.elbows[1]
    way /= np.linalg.norm(way)
    return [
        Piece.of("telephone", "#4b4845", bar(tuple(at - way * 0.07), tuple(at + way * 0.08), 0.012, 0.07), crease=SHARP)
    ]


def box_held(body: Skeleton) -> list[Piece]:
    """A box before the chest."""
    turn, u = body.turns["hip"], body.build.unit
    return [
        Piece.of(
            "box",
            "#c2a27a",
            _placed(box((-0.2 * u, -0.10 * u, -0.06), (0.2 * u, 0.20 * u, 0.24 * u)), turn, _between(body)),
            crease=SHARP,
        )
    ]


def pot_held(body: Skeleton, chance: Chance) -> list[Piece]:
    """A pot between the hands."""
    size = 0.15 * body.build.unit
    points, faces = _pot(size, chance)
    return [Piece.of("pot", CLAY, (points + _between(body) + np.array([0, 0.02, -0.55 * size]), faces), crease=40.0)]


def ware_board(body: Skeleton, chance: Chance) -> list[Piece]:
    """A board on the right shoulder and palm, with pots on it."""
    u = body.build.unit
    hold = _palm(body, 1, 0.055)
    middle = np.array([hold[0], hold[1] - 0.16 * u, hold[2] + 0.05 * u])
    board = box((-0.12 * u, -0.85, -0.012), (0.12 * u, 0.95, 0.012))
    pots = []
    for y in np.arange(-0.72, 0.85, 0.26):
        size = float(chance.uniform(0.075, 0.09))
        points, faces = _pot(size, np.random.default_rng(int(chance.integers(3))))
        pots.append((points + middle + np.array([0, y, 0.012]), faces))
    return [
        Piece.of("board", WOOD, (board[0] + middle, board[1]), crease=SHARP),
        Piece.of("pots", CLAY, *pots, crease=40.0),
    ]


def child_on(body: Skeleton, chance: Chance) -> list[Piece]:
    """A child on the shoulders, its hands on the head below it."""
    from warmgraphite.figures.people.build import build_of
    from warmgraphite.figures.people.person import dressed
    from warmgraphite.figures.people.posture import Foot, Hand, Posture

    small = build_of(3.5)
    u = small.unit
    seat = 0.0
    hands = both(Hand((0.03, 0.20, -0.16), elbow=(0.9, -0.2, -0.6)))
    posture = Posture(
        feet=(
            Foot(-0.13 / u * 0.9, 0.20 / u, -0.30, 6, 20, real=True),
            Foot(0.13 / u * 0.9, 0.20 / u, -0.30, 6, 20, real=True),
        ),
        hands=hands,
        seat=seat,
        pelvis=(4, 0, 0),
        spine=(8, 0, 0),
        head=(2, 0, float(chance.uniform(-20, 20))),
    )
    pieces = dressed(small, posture, ("shirt", "trousers"), chance)
    base = body.neck + body.turns["chest"] @ np.array([0, -0.055, 0.0]) * body.build.unit
    return [Piece(f"child's {p.name}", p.colour, p.points + base, p.triangles, p.crease) for p in pieces]


def dog_on_lead(body: Skeleton, chance: Chance) -> list[Piece]:
    """A dog ahead, and the lead to it."""
    found = dog(chance, str(chance.choice(["#7a6148", "#b59b74", "#5b544c"])), 0.82)
    at = np.array([0.42, 0.75, 0.0])
    hand = _palm(body, 1)
    collar = at + np.array([0, 0.28, 0.50]) * 0.95
    sag = (hand + collar) / 2 - np.array([0, 0, 0.10])
    line = limb(np.array([hand, sag, collar]), np.full(3, 0.006), np.full(3, 0.006), np.array([1.0, 0, 0]), 4)
    return [
        *(Piece(p.name, p.colour, p.points + at, p.triangles, p.crease) for p in found),
        Piece.of("lead", STEEL, line),
    ]


def chair_under(seat: float) -> list[Piece]:
    """A chair as high as is sat."""
    return [Piece.of("chair", WOOD, *chair(seat), crease=SHARP)]


def stool_under(seat: float) -> list[Piece]:
    """A round stool."""
    legs = [
        stick((0.15 * x, 0.15 * y, 0), (0.09 * x, 0.09 * y, seat - 0.03), 0.035)
        for x, y in ((1, 1), (-1, 1), (1, -1), (-1, -1))
    ]
    return [
        Piece.of(
            "stool",
            WOOD,
            moved(lathe([(0, 0), (0.17, 0), (0.175, 0.02), (0.16, 0.04), (0, 0.04)], 18), (0, 0, seat - 0.04)),
            *legs,
            crease=50.0,
        )
    ]


def wheel_before(body: Skeleton, chance: Chance) -> list[Piece]:
    """A potter's wheel between the knees, with what is being thrown."""
    u = body.build.unit
    y = 0.50 * u
    tray = moved(lathe([(0, 0.0), (0.30, 0.0), (0.33, 0.14), (0.31, 0.14), (0.285, 0.03), (0, 0.03)], 22), (0, y, 0.44))
    head = moved(
        lathe([(0, 0), (0.035, 0), (0.035, 0.12), (0.155, 0.12), (0.155, 0.145), (0, 0.145)], 20), (0, y, 0.44)
    )
    stand = [bar((x, y + d, 0), (x * 0.9, y + d * 0.9, 0.45), 0.05, 0.05) for x in (-0.22, 0.22) for d in (-0.2, 0.2)]
    points, faces = _pot(0.11, np.random.default_rng(int(chance.integers(3))))
    return [
        Piece.of("wheel", STEEL, tray, head, *stand, crease=40.0),
        Piece.of("clay", CLAY, moved((points, faces), (0, y, 0.585)), crease=40.0),
    ]


def clay_under(body: Skeleton, top: float) -> list[Piece]:
    """A lump of clay under both hands, on the bench."""
    at = _between(body)
    lump = limb(
        np.array([(-0.13, 0, 0.0), (-0.10, 0, 0.015), (0, 0, 0.03), (0.10, 0, 0.015), (0.13, 0, 0.0)]),
        np.array([0.02, 0.07, 0.085, 0.07, 0.02]),
        np.array([0.02, 0.06, 0.075, 0.06, 0.02]),
        np.array([0, 1.0, 0]),
        10,
    )
    return [Piece.of("clay", CLAY, moved(lump, (float(at[0]), float(at[1]) + 0.01, top + 0.06)))]


def broom(body: Skeleton) -> list[Piece]:
    """A broom held in both hands, its brush on the ground."""
    high, low = _palm(body, 0, 0.04), _palm(body, 1, 0.04)
    way = (low - high) / np.linalg.norm(low - high)
    reach = (low[2] - 0.10) / max(-way[2], 0.2)
    foot = low + way * min(reach, 1.4)
    foot[2] = max(foot[2], 0.09)
    stick_ = stick(tuple(high - way * 0.18), tuple(foot), 0.026)
    brush = limb(
        np.array([(0, 0, 0.05), (0, 0, 0.0), (0, 0.02, -0.09)]),
        np.array([0.13, 0.17, 0.19]),
        np.array([0.022, 0.03, 0.05]),
        np.array([1.0, 0, 0]),
        10,
    )
    return [Piece.of("stick", WOOD, stick_), Piece.of("brush", "#8a7650", (brush[0] + foot, brush[1]), crease=50.0)]


def cart_before(body: Skeleton) -> list[Piece]:
    """A cart ahead, its handle in the hands."""
    at = _between(body)
    meshes = [moved(m, (0, float(at[1]) - 0.06, 0)) for m in cart()]
    sacks = [
        limb(
            np.array([(x, y, 0.57), (x, y, 0.68), (x, y, 0.84), (x + 0.02, y, 0.94)]),
            np.array([0.19, 0.23, 0.19, 0.06]),
            np.array([0.17, 0.2, 0.16, 0.05]),
            np.array([1.0, 0, 0]),
            10,
        )
        for x, y in ((-0.17, 0.95), (0.19, 1.05), (0.0, 1.32))
    ]
    return [
        Piece.of("cart", "#a88a62", *meshes, crease=50.0),
        Piece.of("sacks", "#c9bda3", *(moved(s, (0, float(at[1]) - 0.06, 0)) for s in sacks)),
    ]


def pram_before(body: Skeleton) -> list[Piece]:
    """A pram ahead: a deep body, a hood, four wheels."""
    y = float(_between(body)[1])
    tub = limb(
        np.array([(0, 0.22, 0.72), (0, 0.30, 0.60), (0, 0.62, 0.55), (0, 0.92, 0.60), (0, 1.0, 0.72)]) - [0, 0.06, 0],
        np.array([0.15, 0.21, 0.23, 0.21, 0.15]),
        np.array([0.03, 0.15, 0.18, 0.15, 0.03]),
        np.array([1.0, 0, 0]),
        14,
    )
    hood = limb(
        np.array([(0, 0.56, 0.72), (0, 0.60, 0.92), (0, 0.78, 0.98), (0, 0.93, 0.86), (0, 0.95, 0.72)]) - [0, 0.06, 0],
        np.array([0.2, 0.22, 0.225, 0.22, 0.2]),
        np.array([0.02, 0.05, 0.06, 0.05, 0.02]),
        np.array([1.0, 0, 0]),
        12,
    )
    wheels = [m for x in (-0.24, 0.24) for d, r in ((0.26, 0.16), (0.86, 0.16)) for m in spoked((x, d, r), r, 0.016, 6)]
    frame = [stick((x, 0.26, 0.16), (x, 0.90, 0.52), 0.024) for x in (-0.2, 0.2)] + [
        stick((x, 0.86, 0.16), (x, 0.28, 0.56), 0.024) for x in (-0.2, 0.2)
    ]
    bars = [stick((x, 0.28, 0.58), (x, 0.0, 1.0), 0.026) for x in (-0.19, 0.19)] + [
        stick((-0.2, 0.0, 1.0), (0.2, 0.0, 1.0), 0.03)
    ]
    by = (0.0, y, 0.0)
    return [
        Piece.of("pram", "#5f6f74", moved(tub, by), moved(hood, by), crease=60.0),
        Piece.of("frame", STEEL, *(moved(m, by) for m in (*wheels, *frame, *bars)), crease=60.0),
    ]


def bicycle_under(body: Skeleton) -> list[Piece]:
    """The bicycle that is ridden."""
    return bicycle("#6f5a4a", body.build.unit)


def wheelchair_under(body: Skeleton) -> list[Piece]:
    """A wheelchair round who sits in it."""
    u = body.build.unit
    wheels = [
        m
        for x in (-0.30, 0.30)
        for m in (*spoked((x * u, -0.04, 0.30), 0.30, 0.016, 10), hoop((x * u * 1.1, -0.04, 0.30), 0.26, 0.009))
    ]
    small = [m for x in (-0.22, 0.22) for m in spoked((x * u, 0.38 * u, 0.09), 0.09, 0.016, 4)]
    seat = [
        box((-0.22 * u, -0.22, 0.46), (0.22 * u, 0.22, 0.50)),
        bar((-0.2 * u, -0.235, 0.66), (0.2 * u, -0.235, 0.66), 0.03, 0.40),
    ]
    tubes = []
    for s in (-0.22 * u, 0.22 * u):
        tubes += [
            stick((s, -0.23, 0.25), (s, -0.25, 0.94), 0.026),
            stick((s, -0.25, 0.94), (s, -0.38, 0.94), 0.03),
            stick((s, -0.2, 0.47), (s, 0.28, 0.47), 0.026),
            stick((s, 0.28, 0.47), (s, 0.46 * u, 0.13), 0.026),
            stick((s, 0.26, 0.47), (s, 0.38 * u, 0.10), 0.024),
        ]
        tubes.append(box((s - 0.06, 0.38 * u, 0.085), (s + 0.06, 0.60 * u, 0.105)))
    return [
        Piece.of("wheels", "#57534e", *wheels, *small, crease=60.0),
        Piece.of("chair", STEEL, *seat, *tubes, crease=50.0),
    ]
