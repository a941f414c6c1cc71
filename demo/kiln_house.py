"""Alder Weir Kiln House: a pottery and its kiln hall, set into a slope above a mill pond. Made up for this study.

X runs east along the hall, Y north up the slope, Z up; the hall's floor is zero. The street lies north at about
+3 m, the pond south at −2.2 m.
"""

from __future__ import annotations

import numpy as np

from warmgraphite.model import Material, Model, Part, build_model
from warmgraphite.model.solids import (
    Mesh,
    bar,
    box,
    joined,
    lathe,
    moved,
    pane,
    panel,
    prism,
    stretched,
    subtracted,
    tube,
)

__all__ = ["WATER_LEVEL", "build_kiln_house"]

WATER_LEVEL = -2.2

MATERIALS = {
    "Brick": Material("Brick", "#b8775a"),
    "Fire brick": Material("Fire brick", "#c9906a"),
    "Concrete": Material("Concrete", "#b3ada2"),
    "Stone": Material("Stone", "#b9ae9b"),
    "Timber": Material("Timber", "#c49a68"),
    "Dark timber": Material("Dark timber", "#8a6647"),
    "Zinc": Material("Zinc", "#9aa0a0"),
    "Plaster": Material("Plaster", "#e6dccb"),
    "Steel": Material("Steel", "#4c4b49"),
    "Glass": Material("Glass", "#b7cfd1", 0.25),
    "Wire mesh": Material("Wire mesh", "#77736c", 0.5),
    "Gravel": Material("Gravel", "#bdb09a"),
    "Earth": Material("Earth", "#b39a76"),
    "Water": Material("Water", "#86a3a3"),
    "Leaf": Material("Leaf", "#93a074"),
    "Bark": Material("Bark", "#8b7a64"),
    "Red clay": Material("Red clay", "#b0623c"),
    "Pale clay": Material("Pale clay", "#dccbaa"),
    "Dark glaze": Material("Dark glaze", "#6c4c3a"),
    "Reed": Material("Reed", "#a5a270"),
}


def ground_height(x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """Height of the slope in metres: street, bank, terrace and pond bed, with a little life along the bank."""
    slope = np.interp(
        y, [-32, -9, -5.5, -1.5, 2.0, 7.0, 11.0, 13.5, 22], [-3.6, -3.4, -2.6, -0.5, 0.1, 1.3, 2.7, 3.0, 3.1]
    )
    sway = 0.22 * np.sin(x / 5.3 + 0.6) * np.exp(-(((y - 6) / 6) ** 2)) + 0.3 * np.sin(x / 6.7) * np.exp(
        -(((y + 4.5) / 2.5) ** 2)
    )
    return slope + sway


class _Builder:
    def __init__(self) -> None:
        self.rows: list[tuple[Part, np.ndarray, np.ndarray]] = []
        self.names = list(MATERIALS)

    def add(self, layer: str, name: str, material: str, role: str, mesh: Mesh) -> None:
        self.rows.append((Part(name, layer, self.names.index(material), role), *mesh))


def _ground(b: _Builder) -> None:
    xs, ys = np.linspace(-12, 38, 76), np.linspace(-32, 22, 109)
    gx, gy = np.meshgrid(xs, ys)
    top = np.column_stack([gx.ravel(), gy.ravel(), ground_height(gx, gy).ravel()])
    nx, ny = len(xs), len(ys)
    grid = np.arange(nx * ny).reshape(ny, nx)
    p, q, r, s = grid[:-1, :-1].ravel(), grid[:-1, 1:].ravel(), grid[1:, 1:].ravel(), grid[1:, :-1].ravel()
    upper = np.concatenate([np.column_stack([p, q, r]), np.column_stack([p, r, s])])
    bottom = top.copy()
    bottom[:, 2] = -14.0
    lower = upper[:, ::-1] + len(top)
    rim = np.concatenate([grid[0], grid[1:, -1], grid[-1, -2::-1], grid[-2:0:-1, 0]])
    follow = np.roll(rim, -1)
    n = len(top)
    side = np.concatenate([np.column_stack([rim, follow + n, follow]), np.column_stack([rim, rim + n, follow + n])])
    body = (np.concatenate([top, bottom]), np.concatenate([upper, lower, side]).astype(np.int32))
    body = subtracted(
        body,
        box((-0.5, -0.2, -0.45), (18.2, 9.7, 9)),
        box((18.0, 0.2, -0.45), (25.6, 7.2, 9)),
        box((11.6, 2.6, -3.75), (17.6, 9.0, 0)),
        box((18.0, 7.0, -0.45), (25.6, 9.7, 9)),
    )
    b.add("Site/Ground", "Slope", "Earth", "ground", body)
    b.add(
        "Site/Ground",
        "Mill pond",
        "Water",
        "water",
        panel([(-12, -32, -2.2), (38, -32, -2.2), (38, -3.6, -2.2), (-12, -3.6, -2.2)]),
    )
    b.add("Site/Ground", "Street kerb", "Gravel", "ground", box((-12, 15.2, 2.6), (38, 15.5, 3.2)))
    for i in range(7):
        b.add(
            "Site/Path",
            f"Paving {i + 1}",
            "Gravel",
            "ground",
            box((4.0 + i * 1.3, 11.4, 2.9), (5.1 + i * 1.3, 14.8, 3.06)),
        )


def _below(b: _Builder) -> None:
    b.add("Below/Glaze store", "Store floor", "Concrete", "structure", box((11.6, 2.6, -3.75), (17.6, 9.0, -3.4)))
    b.add("Below/Glaze store", "Store wall north", "Concrete", "structure", box((11.6, 8.6, -3.4), (17.6, 9.0, 0.0)))
    b.add("Below/Glaze store", "Store wall south", "Concrete", "structure", box((11.6, 2.6, -3.4), (17.6, 3.0, -0.3)))
    b.add("Below/Glaze store", "Store wall west", "Concrete", "structure", box((11.6, 3.0, -3.4), (12.0, 8.6, -0.3)))
    b.add("Below/Glaze store", "Store wall east", "Concrete", "structure", box((17.2, 3.0, -3.4), (17.6, 8.6, -0.3)))
    slab = subtracted(
        box((-0.5, -0.2, -0.45), (18.2, 9.7, 0.0)),
        box((12.0, 3.0, -0.9), (17.2, 8.6, -0.3)),
        box((12.1, 6.9, -0.9), (15.4, 8.2, 0.3)),
    )
    b.add("Hall/Floor", "Hall slab", "Concrete", "structure", slab)
    for i in range(5):
        z = -3.4 + 0.52 * (i + 1)
        b.add(
            "Below/Glaze store/Shelving",
            f"Store shelf {i + 1}",
            "Timber",
            "furniture",
            box((12.1, 3.1, z), (16.8, 3.55, z + 0.04)),
        )
    for i in range(4):
        b.add(
            "Below/Glaze store/Shelving",
            f"Store upright {i + 1}",
            "Dark timber",
            "furniture",
            box((12.1 + i * 1.55, 3.1, -3.4), (12.16 + i * 1.55, 3.55, -0.7)),
        )
    for i in range(6):
        b.add(
            "Below/Glaze store/Bins",
            f"Glaze bin {i + 1}",
            "Pale clay",
            "furniture",
            moved(lathe([(0, 0), (0.26, 0), (0.3, 0.62), (0.3, 0.68), (0, 0.68)], 24), (12.6 + i * 0.72, 4.6, -3.4)),
        )
    steps = [box((12.3 + i * 0.3, 7.0, -3.4), (12.6 + i * 0.3, 8.1, -3.4 + (i + 1) * 0.34)) for i in range(10)]
    for i, step in enumerate(steps):
        b.add("Below/Store stair", f"Store step {i + 1}", "Concrete", "structure", step)
    b.add("Below/Store stair", "Stair guard", "Wire mesh", "structure", pane((12.1, 6.9, 0.0), (15.4, 6.9, 0.0), 1.0))


def _walls(b: _Builder) -> None:
    b.add("Hall/Retaining", "Retaining wall north", "Concrete", "structure", box((-0.5, 9.0, 0.0), (25.6, 9.7, 3.1)))
    west = prism([(-0.2, 0), (9.0, 0), (9.0, 4.445), (3.6, 6.9725), (3.6, 5.811), (-0.2, 4.0881)], "x", -0.5, 0.0)
    west = subtracted(west, box((-1, 5.6, 1.2), (0.5, 7.4, 3.6)), box((-1, 1.2, 1.0), (0.5, 2.6, 3.2)))
    b.add("Hall/Walls", "West gable", "Brick", "structure", west)
    east = prism([(-0.2, 0), (9.0, 0), (9.0, 4.445), (3.6, 6.9725), (3.6, 5.811), (-0.2, 4.0881)], "x", 17.7, 18.2)
    east = subtracted(east, box((17, 1.6, 0.0), (19, 3.8, 2.6)), box((17, 5.2, 3.7), (19, 7.4, 4.9)))
    b.add("Hall/Walls", "East gable", "Brick", "structure", east)
    b.add(
        "Hall/Walls",
        "North upper wall",
        "Brick",
        "structure",
        subtracted(
            prism([(9.05, 3.1), (9.5, 3.1), (9.5, 4.2109), (9.05, 4.4215)], "x", 0.0, 17.7),
            *(box((1.2 + i * 2.25, 8, 3.35), (2.4 + i * 2.25, 10, 3.95)) for i in range(7)),
        ),
    )
    for i in range(7):
        x = 1.2 + i * 2.25
        b.add(
            "Hall/Glazing/Street lights",
            f"Street light {i + 1}",
            "Glass",
            "glass",
            box((x, 9.24, 3.35), (x + 1.2, 9.27, 3.95)),
        )
    south = subtracted(
        prism([(-0.2, 0.0), (0.25, 0.0), (0.25, 4.2921), (-0.2, 4.0881)], "x", 0.0, 17.7),
        *(
            box((x0, -1, z0), (x1, 1, z1))
            for x0, x1, z0, z1 in (
                (1.0, 2.2, 0.9, 3.2),
                (3.4, 4.6, 0.9, 3.2),
                (5.8, 7.0, 0.9, 3.2),
                (8.6, 12.2, 0.0, 3.3),
                (13.2, 17.0, 0.9, 3.3),
            )
        ),
    )
    b.add("Hall/Walls", "South wall", "Brick", "structure", south)
    for i, (x0, x1) in enumerate(((1.0, 2.2), (3.4, 4.6), (5.8, 7.0))):
        b.add(
            "Hall/Glazing/South windows",
            f"South window {i + 1}",
            "Glass",
            "glass",
            pane((x0, 0.05, 0.9), (x1, 0.05, 0.9), 2.3),
        )
        b.add(
            "Hall/Glazing/Frames",
            f"South sill {i + 1}",
            "Timber",
            "envelope",
            box((x0 - 0.08, -0.3, 0.82), (x1 + 0.08, 0.25, 0.9)),
        )
        b.add(
            "Hall/Glazing/Frames",
            f"South transom {i + 1}",
            "Dark timber",
            "envelope",
            box((x0, 0.02, 2.3), (x1, 0.1, 2.36)),
        )
    for i in range(4):
        x = 13.2 + i * 0.95
        b.add(
            "Hall/Glazing/South windows",
            f"Workshop pane {i + 1}",
            "Glass",
            "glass",
            pane((x, 0.05, 0.9), (x + 0.95, 0.05, 0.9), 2.4),
        )
        b.add(
            "Hall/Glazing/Frames",
            f"Workshop mullion {i + 1}",
            "Dark timber",
            "envelope",
            box((x - 0.03, -0.02, 0.9), (x + 0.03, 0.12, 3.3)),
        )
    for i in range(4):
        x = 8.6 + i * 0.9
        b.add(
            "Hall/Glazing/Doors",
            f"Folding door {i + 1}",
            "Glass",
            "glass",
            box((x + 0.06, 0.02, 0.08), (x + 0.84, 0.05, 3.22)),
        )
        b.add(
            "Hall/Glazing/Doors",
            f"Door stile {i + 1}",
            "Dark timber",
            "envelope",
            box((x - 0.03, 0.0, 0.0), (x + 0.05, 0.08, 3.3)),
        )
    b.add(
        "Hall/Walls",
        "Store partition",
        "Plaster",
        "structure",
        subtracted(box((11.2, 5.6, 0.0), (11.4, 9.0, 2.75)), box((11, 6.6, 0), (12, 7.6, 2.1))),
    )


def _kiln(b: _Builder) -> None:
    def arch(radius: float, base: float, count: int) -> list[tuple[float, float]]:
        angles = np.linspace(0, np.pi, count)
        return [(4.0 + radius * np.cos(a), base + radius * np.sin(a)) for a in angles]

    outer = [(5.75, 0.0), *arch(1.75, 1.35, 37), (2.25, 0.0)]
    b.add("Kiln", "Kiln base", "Concrete", "structure", box((1.9, 2.0, 0.0), (7.1, 6.0, 0.25)))
    shell = subtracted(
        moved(prism(outer, "x", 2.2, 6.4), (0, 0, 0.2)),
        moved(prism([(5.3, 0.0), *arch(1.3, 1.35, 33), (2.7, 0.0)], "x", 2.65, 5.95), (0, 0, 0.35)),
        moved(prism([(4.55, 0.0), *arch(0.55, 1.1, 21), (3.45, 0.0)], "x", 2.0, 2.9), (0, 0, 0.35)),
        prism([(4.3, 0.35), (4.3, 0.9), (3.7, 0.9), (3.7, 0.35)], "x", 5.5, 7.6),
    )
    b.add("Kiln", "Barrel vault", "Fire brick", "structure", shell)
    for i, x in enumerate((3.0, 4.3, 5.6)):
        ring = [(5.87, 0.0), *arch(1.87, 1.35, 37), (2.13, 0.0), (2.25, 0.0), *arch(1.75, 1.35, 37)[::-1], (5.75, 0.0)]
        b.add("Kiln", f"Kiln band {i + 1}", "Steel", "structure", moved(prism(ring, "x", x, x + 0.12), (0, 0, 0.25)))
    b.add(
        "Kiln",
        "Flue",
        "Fire brick",
        "structure",
        subtracted(box((6.3, 3.5, 0.2), (7.2, 4.5, 1.2)), box((6.0, 3.7, 0.35), (7.5, 4.3, 0.9))),
    )
    b.add(
        "Kiln",
        "Chimney",
        "Fire brick",
        "structure",
        subtracted(tube((7.7, 4.0), 0.72, 0.42, 0.0, 11.2, 64), box((6.9, 3.7, 0.35), (7.5, 4.3, 0.9))),
    )
    b.add("Kiln", "Chimney cap", "Stone", "structure", tube((7.7, 4.0), 0.84, 0.42, 11.2, 11.45, 64))
    for i, z in enumerate((9.2, 10.4)):
        b.add("Kiln", f"Chimney hoop {i + 1}", "Steel", "structure", tube((7.7, 4.0), 0.745, 0.70, z, z + 0.1, 64))
    for i in range(4):
        z = 0.6 + 0.45 * i
        b.add("Kiln/Ware", f"Kiln shelf {i + 1}", "Pale clay", "furniture", box((3.3, 3.0, z), (5.6, 5.0, z + 0.04)))
        for k in range(5):
            b.add(
                "Kiln/Ware",
                f"Kiln pot {i + 1}.{k + 1}",
                ("Red clay", "Pale clay", "Dark glaze")[(i + k) % 3],
                "furniture",
                moved(_pot(i + k, 0.30), (3.55 + k * 0.45, 4.0, z + 0.04)),
            )


def _pot(kind: int, height: float) -> Mesh:
    profiles = (
        [
            (0, 0),
            (0.30, 0),
            (0.46, 0.25),
            (0.5, 0.5),
            (0.40, 0.78),
            (0.24, 0.92),
            (0.30, 1.0),
            (0.25, 1.0),
            (0.18, 0.9),
            (0, 0.85),
        ],
        [(0, 0), (0.25, 0), (0.36, 0.1), (0.62, 0.55), (0.70, 0.62), (0.62, 0.62), (0.30, 0.2), (0, 0.15)],
        [(0, 0), (0.34, 0), (0.38, 0.9), (0.42, 1.0), (0.36, 1.0), (0.30, 0.15), (0, 0.12)],
        [
            (0, 0),
            (0.22, 0),
            (0.40, 0.3),
            (0.36, 0.52),
            (0.16, 0.74),
            (0.14, 1.1),
            (0.22, 1.2),
            (0.16, 1.2),
            (0.09, 1.05),
            (0, 1.0),
        ],
    )
    return lathe([(r * height, z * height) for r, z in profiles[kind % 4]], 24)


def _roof(b: _Builder) -> None:
    for i in range(9):
        x = 0.35 + i * 2.16
        n = i + 1
        lay = f"Hall/Trusses/Truss {n}"
        b.add(lay, f"Tie beam {n}", "Timber", "structure", bar((x, 0.05, 3.95), (x, 9.25, 3.95), 0.16, 0.26))
        b.add(lay, f"North rafter {n}", "Timber", "structure", bar((x, 9.6, 4.05), (x, 3.5, 6.9), 0.14, 0.24))
        b.add(lay, f"South rafter {n}", "Timber", "structure", bar((x, -0.75, 3.75), (x, 3.6, 5.72), 0.14, 0.22))
        b.add(lay, f"Clerestory post {n}", "Timber", "structure", box((x - 0.08, 3.52, 3.95), (x + 0.08, 3.68, 6.85)))
        b.add(lay, f"Strut {n}", "Timber", "structure", bar((x, 3.6, 4.3), (x, 6.3, 5.5), 0.10, 0.14))
        b.add(lay, f"Brace {n}", "Timber", "structure", bar((x, 6.3, 4.0), (x, 6.3, 5.55), 0.10, 0.12))
    for i in range(8):
        x = 0.43 + i * 2.16
        b.add(
            "Hall/Glazing/Clerestory",
            f"Clerestory pane {i + 1}",
            "Glass",
            "glass",
            pane((x, 3.6, 5.95), (x + 2.0, 3.6, 5.95), 0.85),
        )
    b.add("Hall/Roof", "Clerestory sill", "Timber", "envelope", box((-0.5, 3.5, 5.78), (18.2, 3.7, 5.94)))
    b.add("Hall/Roof", "Clerestory head", "Timber", "envelope", box((-0.5, 3.5, 6.78), (18.2, 3.7, 6.94)))
    north = prism([(3.2, 7.16), (3.2, 7.36), (10.1, 4.13), (10.1, 3.93)], "x", -0.9, 18.6)
    south = prism([(-1.1, 3.68), (-1.1, 3.88), (3.62, 6.02), (3.62, 5.82)], "x", -0.9, 18.6)
    flue = tube((7.7, 4.0), 0.80, 0.0, 3, 9, 64)
    b.add("Hall/Roof", "North roof", "Zinc", "envelope", subtracted(north, flue))
    b.add("Hall/Roof", "South roof", "Zinc", "envelope", south)
    for i in range(22):
        x = -0.6 + i * 0.9
        if not 6.7 < x < 8.7:
            b.add(
                "Hall/Roof/Seams",
                f"North seam {i + 1}",
                "Zinc",
                "envelope",
                bar((x, 10.1, 4.16), (x, 3.2, 7.39), 0.04, 0.06),
            )
        b.add(
            "Hall/Roof/Seams",
            f"South seam {i + 1}",
            "Zinc",
            "envelope",
            bar((x, -1.1, 3.90), (x, 3.5, 5.99), 0.04, 0.06),
        )
    b.add("Hall/Roof", "Chimney collar", "Zinc", "envelope", tube((7.7, 4.0), 0.86, 0.71, 6.6, 7.5, 64))
    b.add("Hall/Roof", "South gutter", "Zinc", "envelope", bar((-0.9, -1.16, 3.74), (18.6, -1.16, 3.74), 0.14, 0.1))


def _gallery(b: _Builder) -> None:
    b.add("Hall/Gallery", "Gallery floor", "Timber", "structure", box((12.2, 5.4, 2.75), (17.7, 9.0, 2.95)))
    for i in range(4):
        b.add(
            "Hall/Gallery",
            f"Gallery beam {i + 1}",
            "Dark timber",
            "structure",
            box((12.4 + i * 1.7, 5.4, 2.5), (12.54 + i * 1.7, 9.0, 2.75)),
        )
    for i, x in enumerate((12.35, 15.0, 17.55)):
        b.add(
            "Hall/Gallery",
            f"Gallery post {i + 1}",
            "Dark timber",
            "structure",
            box((x - 0.08, 5.45, 0.0), (x + 0.08, 5.61, 2.5)),
        )
    n = 15
    for i in range(n):
        x = 8.4 + i * 0.26
        z = 2.95 * (i + 1) / (n + 1)
        b.add("Hall/Stair", f"Tread {i + 1}", "Timber", "structure", box((x, 7.6, z - 0.05), (x + 0.29, 8.7, z)))
    for side, y in (("south", 7.6), ("north", 8.66)):
        b.add(
            "Hall/Stair", f"String {side}", "Dark timber", "structure", bar((8.3, y, 0.12), (12.3, y, 2.86), 0.05, 0.28)
        )
    b.add(
        "Hall/Stair",
        "Stair railing",
        "Wire mesh",
        "structure",
        panel([(8.4, 7.58, 0.25), (12.2, 7.58, 2.95), (12.2, 7.58, 3.95), (8.4, 7.58, 1.25)]),
    )
    b.add(
        "Hall/Gallery", "Gallery railing", "Wire mesh", "structure", pane((12.2, 5.42, 2.95), (17.7, 5.42, 2.95), 1.0)
    )
    b.add(
        "Hall/Gallery",
        "Gallery rail",
        "Dark timber",
        "structure",
        bar((12.2, 5.42, 3.96), (17.7, 5.42, 3.96), 0.06, 0.05),
    )
    for i in range(3):
        x = 13.0 + i * 1.5
        b.add(
            "Hall/Gallery/Desks",
            f"Drawing desk {i + 1}",
            "Timber",
            "furniture",
            joined(
                box((x, 7.2, 3.65), (x + 1.2, 7.9, 3.7)),
                *(box((x + u, v, 2.95), (x + u + 0.06, v + 0.06, 3.65)) for u in (0.05, 1.09) for v in (7.25, 7.79)),
            ),
        )
        b.add(
            "Hall/Gallery/Desks",
            f"Desk stool {i + 1}",
            "Dark timber",
            "furniture",
            moved(
                lathe([(0, 0), (0.18, 0), (0.05, 0.04), (0.04, 0.42), (0.19, 0.44), (0.19, 0.48), (0, 0.48)], 24),
                (x + 0.6, 6.7, 2.95),
            ),
        )


def _throwing_room(b: _Builder) -> None:
    x0, x1, y0, y1 = 18.2, 25.4, 0.4, 7.0
    lay = "Throwing room"
    b.add(lay, "Throwing floor", "Concrete", "structure", box((18.2, 0.2, -0.45), (25.6, 7.2, 0.0)))
    b.add(lay, "Court floor", "Stone", "ground", box((18.2, 7.2, -0.45), (25.6, 9.0, -0.1)))
    b.add(lay, "Throwing roof", "Concrete", "structure", box((18.2, -0.7, 3.0), (26.3, 7.4, 3.28)))
    b.add(lay, "Roof edge", "Zinc", "envelope", box((18.2, -0.76, 3.2), (26.36, 7.46, 3.36)))
    for i in range(7):
        x = x0 + i * 1.2
        b.add(
            f"{lay}/Mullions",
            f"South mullion {i + 1}",
            "Steel",
            "structure",
            box((x - 0.03, y0 - 0.05, 0.0), (x + 0.03, y0 + 0.05, 3.0)),
        )
        if i < 6:
            b.add(
                f"{lay}/Glazing", f"South pane {i + 1}", "Glass", "glass", pane((x, y0, 0.0), (x + 1.2, y0, 0.0), 3.0)
            )
            b.add(
                f"{lay}/Glazing",
                f"Court pane {i + 1}",
                "Glass",
                "glass",
                box((x + 0.03, y1 - 0.02, 0.0), (x + 1.17, y1 + 0.02, 3.0)),
            )
            b.add(
                f"{lay}/Mullions",
                f"Court mullion {i + 1}",
                "Steel",
                "structure",
                box((x - 0.03, y1 - 0.05, 0.0), (x + 0.03, y1 + 0.05, 3.0)),
            )
    for i in range(5):
        y = y0 + i * 1.32
        b.add(
            f"{lay}/Glazing",
            f"East pane {i + 1}",
            "Glass",
            "glass",
            box((x1 - 0.02, y + 0.03, 0.0), (x1 + 0.02, y + 1.29, 3.0)),
        )
        b.add(
            f"{lay}/Mullions",
            f"East mullion {i + 1}",
            "Steel",
            "structure",
            box((x1 - 0.05, y - 0.03, 0.0), (x1 + 0.05, y + 0.03, 3.0)),
        )
    b.add(f"{lay}/Mullions", "South-east post", "Steel", "structure", tube((x1, y0), 0.07, 0.0, 0.0, 3.0, 24))
    for i in range(4):
        x = 19.4 + i * 1.55
        b.add(
            f"{lay}/Wheels",
            f"Wheel {i + 1}",
            "Steel",
            "furniture",
            moved(
                lathe(
                    [
                        (0, 0),
                        (0.32, 0),
                        (0.32, 0.06),
                        (0.07, 0.08),
                        (0.06, 0.62),
                        (0.26, 0.64),
                        (0.26, 0.68),
                        (0, 0.68),
                    ],
                    32,
                ),
                (x, 2.0, 0),
            ),
        )
        b.add(
            f"{lay}/Wheels",
            f"Wheel tray {i + 1}",
            "Timber",
            "furniture",
            subtracted(
                box((x - 0.5, 1.55, 0.55), (x + 0.5, 2.45, 0.75)), box((x - 0.45, 1.6, 0.6), (x + 0.45, 2.4, 1.0))
            ),
        )
        b.add(
            f"{lay}/Wheels", f"Thrown bowl {i + 1}", "Red clay", "furniture", moved(_pot(1 + i, 0.26), (x, 2.0, 0.68))
        )
        b.add(
            f"{lay}/Wheels",
            f"Wheel stool {i + 1}",
            "Dark timber",
            "furniture",
            moved(
                lathe([(0, 0), (0.16, 0), (0.05, 0.03), (0.04, 0.4), (0.18, 0.42), (0.18, 0.46), (0, 0.46)], 24),
                (x, 2.75, 0),
            ),
        )
    b.add(
        f"{lay}/Benches",
        "Wedging bench",
        "Timber",
        "furniture",
        joined(
            box((19.0, 5.6, 0.82), (24.6, 6.4, 0.9)),
            *(box((x, y, 0), (x + 0.1, y + 0.1, 0.82)) for x in (19.1, 21.8, 24.4) for y in (5.65, 6.25)),
        ),
    )
    for i in range(9):
        b.add(
            f"{lay}/Benches",
            f"Drying pot {i + 1}",
            ("Pale clay", "Red clay", "Dark glaze")[i % 3],
            "furniture",
            moved(_pot(i, 0.24 + 0.05 * (i % 3)), (19.35 + i * 0.62, 6.0, 0.9)),
        )


def _hall_furniture(b: _Builder) -> None:
    lay = "Hall/Shelves"
    for r in range(2):
        x0 = 12.5 + r * 2.55
        for i in range(4):
            b.add(
                lay,
                f"Shelf upright {r + 1}.{i + 1}",
                "Dark timber",
                "furniture",
                box((x0 + i * 0.75, 8.4, 0.0), (x0 + i * 0.75 + 0.05, 8.8, 2.3)),
            )
        for k in range(4):
            z = 0.35 + k * 0.55
            b.add(
                lay,
                f"Shelf board {r + 1}.{k + 1}",
                "Timber",
                "furniture",
                box((x0, 8.38, z), (x0 + 2.3, 8.82, z + 0.035)),
            )
            for p in range(6):
                b.add(
                    f"{lay}/Pots",
                    f"Pot {r + 1}.{k + 1}.{p + 1}",
                    ("Red clay", "Pale clay", "Dark glaze")[(r + k + p) % 3],
                    "furniture",
                    moved(_pot(r + k * 2 + p, 0.24 + 0.04 * ((k + p) % 4)), (x0 + 0.24 + p * 0.37, 8.6, z + 0.035)),
                )
    for i in range(2):
        x = 9.3 + i * 4.0
        y = 2.1
        b.add(
            "Hall/Workbenches",
            f"Workbench {i + 1}",
            "Timber",
            "furniture",
            joined(
                box((x, y, 0.84), (x + 2.4, y + 0.9, 0.92)),
                *(box((x + u, y + v, 0), (x + u + 0.1, y + v + 0.1, 0.84)) for u in (0.08, 2.22) for v in (0.06, 0.74)),
            ),
        )
        for k in range(3):
            b.add(
                "Hall/Workbenches",
                f"Bench pot {i + 1}.{k + 1}",
                ("Dark glaze", "Red clay", "Pale clay")[k],
                "furniture",
                moved(_pot(k + i, 0.34), (x + 0.5 + k * 0.7, y + 0.45, 0.92)),
            )
    for i in range(3):
        b.add(
            "Hall/Ware carts",
            f"Ware cart {i + 1}",
            "Steel",
            "furniture",
            joined(
                *(box((0.5, 6.6 + i * 0.75, z), (1.5, 7.1 + i * 0.75, z + 0.03)) for z in (0.2, 0.7, 1.2, 1.7)),
                *(
                    box((u, 6.6 + i * 0.75 + v, 0.1), (u + 0.04, 6.64 + i * 0.75 + v, 1.75))
                    for u in (0.5, 1.46)
                    for v in (0.0, 0.46)
                ),
            ),
        )


def _deck(b: _Builder) -> None:
    for i in range(24):
        y = -5.0 + i * 0.2
        b.add(
            "Deck/Boards", f"Deck board {i + 1}", "Timber", "structure", box((8.0, y, -0.14), (24.0, y + 0.185, -0.06))
        )
    for i, x in enumerate((8.3, 11.3, 14.3, 17.3, 20.3, 23.5)):
        b.add(
            "Deck/Frame",
            f"Deck beam {i + 1}",
            "Dark timber",
            "structure",
            box((x, -5.0, -0.38), (x + 0.14, -0.2, -0.14)),
        )
        for k, y in enumerate((-4.7, -2.4)):
            b.add(
                "Deck/Posts",
                f"Deck post {i + 1}.{k + 1}",
                "Dark timber",
                "structure",
                tube((x + 0.07, y), 0.11, 0.0, -3.9, -0.38, 24),
            )
    for i in range(9):
        x = 8.1 + i * 1.97
        b.add(
            "Deck/Railing",
            f"Railing post {i + 1}",
            "Steel",
            "structure",
            box((x - 0.02, -4.98, -0.06), (x + 0.02, -4.94, 0.95)),
        )
    b.add("Deck/Railing", "Deck rail", "Dark timber", "structure", box((8.05, -5.0, 0.95), (23.95, -4.92, 1.0)))
    b.add(
        "Deck/Railing", "Deck railing mesh", "Wire mesh", "structure", pane((8.1, -4.96, 0.0), (23.9, -4.96, 0.0), 0.9)
    )
    b.add(
        "Deck/Bench",
        "Deck bench",
        "Timber",
        "furniture",
        joined(
            box((18.6, -1.2, 0.34), (22.2, -0.8, 0.4)),
            *(box((x, -1.1, -0.06), (x + 0.08, -0.9, 0.34)) for x in (18.9, 20.4, 21.8)),
        ),
    )
    for i in range(3):
        b.add(
            "Deck/Bench",
            f"Deck planter {i + 1}",
            "Red clay",
            "furniture",
            moved(_pot(2, 0.62), (9.0 + i * 0.8, -0.9, -0.06)),
        )


def _modelled_planting(b: _Builder) -> None:
    """Trees and reeds as a modeller leaves them: balls on sticks, and slips of paper."""
    rng = np.random.default_rng(11)
    trees = [
        (-6.5, 4.5, 6.2),
        (-8.5, 12.5, 7.4),
        (29.5, 4.0, 6.8),
        (33.0, 10.5, 7.8),
        (28.0, 12.6, 5.6),
        (-4.5, -3.4, 5.0),
        (31.5, -3.8, 5.4),
        (12.0, 19.0, 7.0),
        (21.5, 19.6, 6.0),
    ]
    for i, (x, y, h) in enumerate(trees, 1):
        z = float(ground_height(np.array(x), np.array(y)))
        trunk = moved(lathe([(0, -0.3), (0.2, -0.3), (0.14, h * 0.3), (0.07, h * 0.62), (0, h * 0.62)], 24), (x, y, z))
        b.add(f"Planting/Alder {i}", f"Alder trunk {i}", "Bark", "planting", trunk)
        for k, (dx, dy, dz, r) in enumerate(
            ((0, 0, 0.66, 0.30), (0.16, 0.06, 0.50, 0.21), (-0.17, -0.05, 0.54, 0.22)), 1
        ):
            wide = r * h * float(rng.uniform(0.92, 1.05))
            ball = moved(stretched(_ball(), (wide, wide, wide * 1.12)), (x + dx * h, y + dy * h, z + dz * h))
            b.add(f"Planting/Alder {i}", f"Alder crown {i}.{k}", "Leaf", "planting", ball)
    for i in range(1, 27):
        x, y = float(rng.uniform(-10, 36)), float(rng.uniform(-6.2, -4.9))
        x = x if not 6.5 < x < 25.5 else 6.4 - (x - 6.5) * 0.8 if i % 2 else 25.8 + (x - 6.5) * 0.5
        z = float(ground_height(np.array(x), np.array(y)))
        blades = []
        for _ in range(7):
            dx, dy = rng.uniform(-0.3, 0.3, 2)
            lean, height = rng.uniform(-0.25, 0.25), rng.uniform(0.9, 1.7)
            foot, tip = (x + dx, y + dy), x + dx + lean
            blades.append(
                panel(
                    [
                        (*foot, z),
                        (foot[0] + 0.04, foot[1], z),
                        (tip + 0.03, foot[1], z + height),
                        (tip, foot[1], z + height),
                    ]
                )
            )
        b.add("Planting/Reeds", f"Reed clump {i}", "Reed", "planting", joined(*blades))


def _ball() -> Mesh:
    angles = np.linspace(-np.pi / 2, np.pi / 2, 17)
    return lathe([(float(np.cos(a)) * (1 + 0.08 * float(np.sin(5 * a))), float(np.sin(a))) for a in angles], 32)


def build_kiln_house(planting: bool = False) -> Model:
    """The sample model: metres, Z up.
    With ``planting`` as a modeller would leave it, where figures are not to stand for it.
    """
    b = _Builder()
    stages = (_ground, _below, _walls, _kiln, _roof, _gallery, _throwing_room, _hall_furniture, _deck)
    for stage in (*stages, *((_modelled_planting,) if planting else ())):
        stage(b)
    return build_model("Alder Weir Kiln House", b.rows, list(MATERIALS.values()))
