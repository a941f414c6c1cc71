"""Cars, a van, a bus and a tram: bodies with windows let in, plain and in proportion."""

from __future__ import annotations

import numpy as np

from warmgraphite.figures.piece import SHARP, Piece
from warmgraphite.figures.things import Chance, Thing
from warmgraphite.figures.things._wheels import tyre
from warmgraphite.geometry.tolerances import NEAR
from warmgraphite.model.solids import Mesh, box, loft, moved, prism, subtracted

GLASS = "#7e9194"


def _shell(side: list[tuple[float, float]], half: float, tuck: float, waist: float) -> Mesh:
    """A body from its outline (y, z): ``half`` as wide up to the ``waist``, and drawn in by ``tuck`` above it."""
    top = max(z for _, z in side)
    sections = []
    for x, inset in ((-1.0, 0.05), (-0.94, 0.0), (0.94, 0.0), (1.0, 0.05)):
        ring = []
        for y, z in side:
            above = float(np.clip((z - waist) / max(top - waist, NEAR), 0, 1))
            ring.append((x * (half - tuck * above), y * (1 - inset * 0.4), z - inset * 0.5 * above))
        sections.append(ring)
    return loft(np.array(sections))


def _panes(side: list[tuple[float, float]], half: float, tuck: float, waist: float, top: float) -> list[Mesh]:
    """Side windows: outlines (y, z) a centimetre proud of the body on both sides."""
    found = []
    for s in (-1, 1):
        face = []
        for out in (-0.012, 0.006):
            ring = [
                (s * (half - tuck * float(np.clip((z - waist) / (top - waist), 0, 1)) + out), y, z) for y, z in side
            ]
            face.append(ring)
        found.append(loft(np.array(face)))
    return found


def _car(_chance: Chance, colour: str) -> list[Piece]:
    # Ahead is +y. Four metres thirty long, one metre fifty high.
    side = [
        (-2.1, 0.32),
        (-2.16, 0.62),
        (-2.08, 0.98),
        (-1.86, 1.08),
        (-1.42, 1.42),
        (-0.9, 1.49),
        (0.05, 1.48),
        (0.42, 1.36),
        (1.02, 0.98),
        (1.7, 0.86),
        (2.06, 0.70),
        (2.14, 0.46),
        (2.08, 0.30),
    ]
    body = _shell(side, 0.87, 0.20, 0.9)
    arches = [box((-1.2, y - 0.37, 0.0), (1.2, y + 0.37, 0.36)) for y in (-1.30, 1.32)]
    rounds = [
        moved(
            prism(
                [(0.37 * float(np.cos(a)), 0.37 * float(np.sin(a))) for a in np.linspace(0, np.pi, 13)], "x", -1.2, 1.2
            ),
            (0, y, 0.33),
        )
        for y in (-1.30, 1.32)
    ]
    body = subtracted(body, *arches, *rounds)
    windows = [
        [(-0.28, 0.97), (0.74, 0.98), (0.32, 1.31), (0.02, 1.40), (-0.28, 1.41)],
        [(-1.52, 0.99), (-0.36, 0.97), (-0.36, 1.41), (-0.9, 1.41), (-1.3, 1.34)],
    ]
    glass = [m for w in windows for m in _panes(w, 0.87, 0.20, 0.9, 1.49)]
    wind = loft(
        np.array(
            [
                [(-0.70, 0.93, 1.045), (0.70, 0.93, 1.045), (0.66, 0.42, 1.372), (-0.66, 0.42, 1.372)],
                [(-0.70, 0.99, 1.06), (0.70, 0.99, 1.06), (0.66, 0.48, 1.385), (-0.66, 0.48, 1.385)],
            ]
        )
    )
    rear = loft(
        np.array(
            [
                [(-0.66, -1.85, 1.12), (0.66, -1.85, 1.12), (0.62, -1.46, 1.40), (-0.62, -1.46, 1.40)],
                [(-0.66, -1.89, 1.13), (0.66, -1.89, 1.13), (0.62, -1.50, 1.41), (-0.62, -1.50, 1.41)],
            ]
        )
    )
    lamps = [box((s * 0.72 - 0.13, 2.02, 0.62), (s * 0.72 + 0.13, 2.09, 0.72)) for s in (-1, 1)]
    wheels = [w for s in (-0.80, 0.80) for y in (-1.30, 1.32) for w in tyre((s, y, 0.32), 0.32, 0.2)]
    return [
        Piece.of("body", colour, body, crease=34.0), Piece.of("windows", GLASS, *glass, wind, rear, crease=SHARP),
        Piece.of("lamps", "#d8d2c0", *lamps, crease=SHARP), *wheels,
    ]  # fmt: skip


def _van(_chance: Chance, colour: str) -> list[Piece]:
    side = [
        (-2.55, 0.36),
        (-2.6, 0.7),
        (-2.56, 2.1),
        (-2.4, 2.28),
        (0.9, 2.32),
        (1.35, 2.16),
        (1.92, 1.32),
        (2.45, 1.12),
        (2.6, 0.85),
        (2.6, 0.42),
        (2.5, 0.34),
    ]
    body = _shell(side, 0.98, 0.13, 1.1)
    cuts = [
        moved(
            prism(
                [(0.42 * float(np.cos(a)), 0.42 * float(np.sin(a))) for a in np.linspace(-0.4, np.pi + 0.4, 15)],
                "x",
                -1.3,
                1.3,
            ),
            (0, y, 0.36),
        )
        for y in (-1.6, 1.68)
    ]
    body = subtracted(body, *cuts)
    glass = _panes([(0.55, 1.3), (1.72, 1.32), (1.3, 2.0), (0.55, 2.04)], 0.98, 0.13, 1.1, 2.32)
    wind = loft(
        np.array(
            [
                [(-0.8, 1.86, 1.37), (0.8, 1.86, 1.37), (0.76, 1.40, 2.05), (-0.76, 1.40, 2.05)],
                [(-0.8, 1.93, 1.39), (0.8, 1.93, 1.39), (0.76, 1.47, 2.07), (-0.76, 1.47, 2.07)],
            ]
        )
    )
    lines = [box((s * 0.985 - 0.006, -2.2, 0.62), (s * 0.985 + 0.006, 0.42, 0.635)) for s in (-1, 1)]
    wheels = [w for s in (-0.88, 0.88) for y in (-1.6, 1.68) for w in tyre((s, y, 0.35), 0.35, 0.22)]
    return [
        Piece.of("body", colour, body, *lines, crease=34.0),
        Piece.of("windows", GLASS, *glass, wind, crease=SHARP),
        *wheels,
    ]


def _long(
    length: float, tall: float, half: float, low: float, doors: list[float], bays: int, nose: float
) -> tuple[Mesh, list[Mesh], list[Mesh]]:
    """The body of a bus or a tram, its windows and its doors."""
    a, b = -length / 2, length / 2
    side = [
        (a + nose, low),
        (a, low + 0.5),
        (a + 0.05, tall * 0.55),
        (a + 0.12 + nose * 0.5, tall - 0.12),
        (a + 0.4 + nose * 0.5, tall),
        (b - 0.4 - nose * 0.5, tall),
        (b - 0.12 - nose * 0.5, tall - 0.12),
        (b - 0.05, tall * 0.55),
        (b, low + 0.5),
        (b - nose, low),
    ]
    body = _shell(side, half, 0.07, tall * 0.5)
    step = (length - 1.6) / bays
    windows: list[Mesh] = []
    leaves: list[Mesh] = []
    for k in range(bays):
        y0, y1 = a + 0.8 + k * step + 0.05, a + 0.8 + (k + 1) * step - 0.05
        door = any(y0 < d < y1 for d in doors)
        outline = [
            (y0, 0.42 if door else tall * 0.44),
            (y1, 0.42 if door else tall * 0.44),
            (y1, tall * 0.83),
            (y0, tall * 0.83),
        ]
        (leaves if door else windows).extend(_panes(outline, half, 0.07, tall * 0.5, tall))
    for s in (-1, 1):
        y = s * length / 2
        at = [
            (-half * 0.86, tall * 0.44),
            (half * 0.86, tall * 0.44),
            (half * 0.82, tall * 0.84),
            (-half * 0.82, tall * 0.84),
        ]
        lean = nose * 0.5
        rows = [
            [(x, y + s * d - s * (0.04 + (lean if z > tall * 0.6 else 0.0) * 0.9), z) for x, z in at]
            for d in (-0.03, 0.03)
        ]
        windows.append(loft(np.array(rows)))
    return body, windows, leaves


def _bus(_chance: Chance, colour: str) -> list[Piece]:
    body, windows, doors = _long(11.8, 3.1, 1.25, 0.32, [3.9, -0.4], 7, 0.06)
    cuts = [
        moved(
            prism(
                [(0.58 * float(np.cos(a)), 0.58 * float(np.sin(a))) for a in np.linspace(-0.3, np.pi + 0.3, 15)],
                "x",
                -1.5,
                1.5,
            ),
            (0, y, 0.48),
        )
        for y in (-3.0, 3.1)
    ]
    wheels = [w for s in (-1.1, 1.1) for y in (-3.0, 3.1) for w in tyre((s, y, 0.48), 0.48, 0.28)]
    return [
        Piece.of("body", colour, subtracted(body, *cuts), crease=34.0),
        Piece.of("windows", GLASS, *windows, crease=SHARP),
        Piece.of("doors", "#6f8285", *doors, crease=SHARP), *wheels,
    ]  # fmt: skip


def _tram(_chance: Chance, colour: str) -> list[Piece]:
    out: list[Piece] = []
    for k, y in enumerate((-10.4, 0.0, 10.4)):
        body, windows, doors = _long(
            10.0, 3.35, 1.22, 0.28, [-2.6, 2.4] if k != 1 else [0.0], 6, 0.35 if k != 1 else 0.02
        )
        out += [
            Piece.of(
                "body",
                colour,
                moved(body, (0, y, 0)),
                moved(box((-0.9, -2.0, 3.3), (0.9, 2.0, 3.55)), (0, y, 0)),
                crease=34.0,
            ),
            Piece.of("windows", GLASS, *(moved(w, (0, y, 0)) for w in windows), crease=SHARP),
            Piece.of("doors", "#6f8285", *(moved(d, (0, y, 0)) for d in doors), crease=SHARP),
            Piece.of("bogies", "#4f4c48", box((-1.0, y - 1.2, 0.06), (1.0, y + 1.2, 0.5)), crease=SHARP),
        ]
    joints = [box((-1.08, y - 0.26, 0.4), (1.08, y + 0.26, 3.2)) for y in (-5.2, 5.2)]
    arm = [
        box((-0.04, -0.7, 3.5), (0.04, 0.5, 3.56)),
        loft(
            np.array(
                [
                    [(-0.03, 0.5, 3.55), (0.03, 0.5, 3.55), (0.03, 0.5, 3.6), (-0.03, 0.5, 3.6)],
                    [(-0.03, -0.5, 4.5), (0.03, -0.5, 4.5), (0.03, -0.5, 4.55), (-0.03, -0.5, 4.55)],
                ]
            )
        ),
        box((-0.75, -0.56, 4.5), (0.75, -0.46, 4.56)),
    ]
    return [*out, Piece.of("joints", "#5e5a55", *joints, crease=SHARP), Piece.of("bow", "#5e5a55", *arm, crease=SHARP)]


CARS = ("#8b9293", "#a5553f", "#c9c4b8", "#5d6a6d", "#b49a63")
THINGS = [
    Thing("car", "Car", "vehicles", 1.49, _car, CARS),
    Thing("van", "Van", "vehicles", 2.32, _van, ("#d5cfc2", "#8b9293", "#6d7f73")),
    Thing("bus", "Bus", "vehicles", 3.1, _bus, ("#b65a43", "#d0b56c", "#6d8a8a")),
    Thing("tram", "Tram", "vehicles", 4.56, _tram, ("#c9b98e", "#9c5a48", "#6f8c84")),
]  # fmt: skip
