"""Saltern Steps: a stepped street of plain blocks down to a bathing quay.
Made up, and written as IFC, so that all of it comes in by the application's own reader.

X runs east, down the street to the water, Y north across it, Z up; the sea lies at zero.
"""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np

from demo.ifc import Ifc
from warmgraphite.figures.figure import Figure, OnSheet
from warmgraphite.figures.kinds.person import Person
from warmgraphite.figures.kinds.plant import Plant
from warmgraphite.figures.kinds.thing import Thing
from warmgraphite.figures.placing import gathered, stood_at
from warmgraphite.ink.hand import PRESETS
from warmgraphite.model.model import Contours, Model
from warmgraphite.model.role_rules import RoleRule, apply_rules
from warmgraphite.model.solids import Mesh
from warmgraphite.study import Look
from warmgraphite.view.specification import Cut, Frame, Parallel, Sun, ViewSpecification

__all__ = ["NAME", "flat_tones", "steps_figures", "steps_views", "with_steps_words", "write_saltern_steps"]

NAME = "Saltern Steps"
#: Where the flight begins and ends, how deep a tread is, and how high a riser.
TOP, FOOT, TREAD, RISE = 0.0, 40.0, 1.0, 0.19
#: Heights of the road above and of the quay.
ROAD, QUAY = 8.8, 1.2
#: The blocks along the street, from above: from and to along it, how deep, how high over the street, on which side.
BLOCKS = [
    ("Salt store", -9.0, -1.0, 9.0, 6.4, 1), ("Weavers", 0.4, 8.6, 8.0, 9.2, 1),
    ("Corner house", 9.6, 16.4, 9.5, 7.6, 1), ("Net lofts", 17.6, 27.6, 8.0, 9.8, 1),
    ("Bakehouse", 28.8, 37.0, 9.0, 6.2, 1), ("Schoolroom", -9.0, 2.0, 9.0, 7.4, -1),
    ("Long house", 3.2, 14.4, 8.5, 8.4, -1), ("Chandlery", 22.8, 30.6, 9.0, 8.8, -1),
    ("Bath house", 32.4, 42.6, 8.0, 5.4, -1),
]  # fmt: skip


def street_height(x: float) -> float:
    """The height of the street in metres, between its treads."""
    return float(np.interp(x, [TOP, FOOT], [ROAD, QUAY]))


def _hill() -> Mesh:
    """The hillside as one closed body: road, slope, the quay's edge, the bed of the sea."""
    xs, ys = (
        np.unique(np.concatenate([np.linspace(-20, 46, 34), [45.0, 45.2], np.linspace(46, 62, 5)])),
        np.linspace(-26, 26, 27),
    )
    gx, gy = np.meshgrid(xs, ys)
    # It rises away from the street to the north, and falls to the south.
    slope = np.interp(gx, [-20, TOP, FOOT, 45.0, 45.2, 62], [9.6, ROAD - 0.25, QUAY - 0.3, QUAY - 0.3, -1.6, -3.2])
    land = np.clip((45.0 - gx) / 14, 0, 1)
    top = (
        slope
        + land * (0.09 * np.clip(gy - 3, 0, None) - 0.05 * np.clip(-3 - gy, 0, None))
        + land * 0.25 * np.sin(gx / 6.1) * np.clip(np.abs(gy) - 12, 0, 8) / 8
    )
    nx, ny = len(xs), len(ys)
    points = np.column_stack([gx.ravel(), gy.ravel(), top.ravel()])
    grid = np.arange(nx * ny).reshape(ny, nx)
    p, q, r, s = grid[:-1, :-1].ravel(), grid[:-1, 1:].ravel(), grid[1:, 1:].ravel(), grid[1:, :-1].ravel()
    upper = np.concatenate([np.column_stack([p, q, r]), np.column_stack([p, r, s])])
    low = points.copy()
    low[:, 2] = -6.0
    rim = np.concatenate([grid[0], grid[1:, -1], grid[-1, -2::-1], grid[-2:0:-1, 0]])
    follow, n = np.roll(rim, -1), len(points)
    side = np.concatenate([np.column_stack([rim, follow + n, follow]), np.column_stack([rim, rim + n, follow + n])])
    return np.concatenate([points, low]), np.concatenate([upper, upper[:, ::-1] + n, side]).astype(np.int32)


def write_saltern_steps(path: Path) -> None:
    """Write the street as an IFC file."""
    ifc = Ifc("IFC4")
    render, stone, timber, sea, earth = (
        ifc.style("Lime render", "#ded3bf"), ifc.style("Stone", "#bdb29d"), ifc.style("Timber", "#b08d63"),
        ifc.style("Sea", "#93acb0"), ifc.style("Earth", "#bda983"),
    )  # fmt: skip
    hillside, street, quay = ifc.storey("Hillside", 0.0), ifc.storey("Street", 0.0), ifc.storey("Quay", 0.0)
    ifc.product("IfcGeographicElement", "Hillside", hillside, [ifc.faces(*_hill(), earth)])
    treads = []
    for k in range(int((FOOT - TOP) / TREAD)):
        x, z = TOP + k * TREAD, ROAD - RISE * (k + 1)
        # Every tenth is a landing's edge in timber.
        treads.append(ifc.block((x, -2.1, z - 0.9), (x + TREAD, 2.1, z), timber if k % 10 == 9 else stone))
    ifc.product("IfcStair", "Steps", street, treads)
    ifc.product("IfcSlab", "Upper road", street, [ifc.block((-20, -3.4, ROAD - 0.5), (TOP, 3.4, ROAD), stone)])
    ifc.product("IfcSlab", "Quay", quay, [ifc.block((FOOT, -14, QUAY - 0.6), (47.0, 14, QUAY), stone)])
    ifc.product(
        "IfcStair",
        "Bathing steps",
        quay,
        [ifc.block((47.0 + 0.4 * k, -3.0, -1.4), (47.4 + 0.4 * k, 3.0, QUAY - 0.2 * (k + 1)), stone) for k in range(9)],
    )
    ifc.product(
        "IfcSlab",
        "Jetty",
        quay,
        [
            ifc.block((47.0, 8.0, 0.75), (57.0, 10.4, 0.95), timber),
            *(
                ifc.block((x, y, -3), (x + 0.25, y + 0.25, 0.75), timber)
                for x in (48.5, 52.0, 56.0)
                for y in (8.1, 10.05)
            ),
        ],
    )
    for name, x0, x1, deep, tall, side in BLOCKS:
        low, high = street_height(x1), street_height(x0)
        near, far = (2.4, 2.4 + deep) if side > 0 else (-2.4 - deep, -2.4)
        roof = high + tall * 0.72 if name != "Bath house" else QUAY + tall
        body = [
            ifc.block((x0, near, low - 2.5), (x1, far, roof), render),
            ifc.block((x0, near, roof), (x1, near + 0.3, roof + 0.5), render),
            ifc.block((x0, far - 0.3, roof), (x1, far, roof + 0.5), render),
        ]
        body += [
            ifc.block((x0, near + 0.3, roof), (x0 + 0.3, far - 0.3, roof + 0.5), render),
            ifc.block((x1 - 0.3, near + 0.3, roof), (x1, far - 0.3, roof + 0.5), render),
        ]
        ifc.product("IfcBuildingElementProxy", name, street if name != "Bath house" else quay, body)
    # A wall round the bath house's court, and a bench on the quay.
    ifc.product(
        "IfcWall",
        "Court wall",
        quay,
        [
            ifc.block((42.6, -10.4, QUAY), (46.4, -10.1, QUAY + 1.9), stone),
            ifc.block((46.1, -10.1, QUAY), (46.4, -4.6, QUAY + 1.0), stone),
        ],
    )
    ifc.product(
        "IfcFurnishingElement",
        "Quay bench",
        quay,
        [
            ifc.block((42.2, 3.2, QUAY + 0.38), (45.2, 3.7, QUAY + 0.45), timber),
            *(ifc.block((x, 3.25, QUAY), (x + 0.15, 3.65, QUAY + 0.38), timber) for x in (42.5, 43.6, 44.7)),
        ],
    )
    ifc.product("IfcGeographicElement", "Sea", quay, [ifc.block((45.1, -26, -0.12), (62, 26, 0.0), sea)])
    ifc.write(path)


def with_steps_words(model: Model) -> Model:
    """The street with its roles, and contours on the hillside."""
    rules = [
        RoleRule(pattern="*/Hillside", role="ground"), RoleRule(pattern="*/Sea", role="water"),
        RoleRule(pattern="*Building element proxy/*", role="context"),
        RoleRule(pattern="*/Bath house", role="subject"),
    ]  # fmt: skip
    return apply_rules(model, rules).said(contours=Contours(1.0, 5))


def steps_views() -> list[ViewSpecification]:
    """The massing in axonometric, the street's elevation along the steps, and a plan."""
    return [
        ViewSpecification(
            name="Massing, axonometric", projection=Parallel(direction=(-1.0, 0.46, -0.78), centre=(19.5, 0.5, 4.2)),
            sun=Sun(azimuth=222, altitude=44),
            frame=Frame(width=420, height=297, scale=200),
        ),
        ViewSpecification(
            name="Street elevation", projection=Parallel(direction=(0, 1, 0), centre=(21.5, 0, 7.4)),
            cuts=(Cut(point=(0, -1.4, 0), normal=(0, -1, 0)),),
            sun=Sun(azimuth=205, altitude=38), frame=Frame(width=420, height=160, scale=200),
        ),
        ViewSpecification(
            name="Plan", projection=Parallel(direction=(0, 0, -1), up=(0, 1, 0), centre=(21, 0, 0)),
            sun=Sun(azimuth=215, altitude=48),
            frame=Frame(width=420, height=250, scale=200),
        ),
    ]  # fmt: skip


def steps_figures(model: Model, marks: dict[str, str]) -> list[Figure]:
    """People on the steps and on the quay, vehicles on the road above, trees in the gaps.
    ``marks`` are the ids of views by their names.
    """

    def at(figure: Figure, x: float, y: float, z: float) -> Figure:
        return stood_at(model, figure, (x, y, z))

    def step(x: float, y: float, seed: int, **more: Any) -> Figure:
        return at(Person(seed=seed, group="On the steps", **more), x, y, street_height(x) + 1.2)

    people = [
        step(8.4, -0.6, 2, pose="climbing", turn=90), step(10.2, 0.5, 5, pose="walking", turn=-90),
        step(19.5, 0.9, 6, pose="carrying", turn=-90),
        step(25.4, -0.4, 9, pose="climbing", turn=84), step(26.3, -0.9, 4, pose="walking", age=8, turn=90),
        step(33.6, 0.2, 11, pose="strolling", turn=-94),
        *gathered(model, Person(seed=30, group="On the quay"), (43.6, -0.6, QUAY), 3, seed=2),
        at(Person(pose="sitting on a bench", seed=12, turn=-90, group="On the quay"), 43.0, 3.45, QUAY + 0.6),
        at(Person(pose="sitting on a bench", seed=17, age=70, turn=-90, group="On the quay"), 44.3, 3.45, QUAY + 0.6),
        at(Person(pose="looking up", seed=14, age=9, turn=-60, group="On the quay"), 46.2, 2.2, QUAY + 0.4),
        at(Person(pose="waving", seed=19, turn=-90, group="On the quay"), 54.6, 9.2, 1.4),
        at(Person(pose="pushing a cart", seed=21, turn=-90, group="On the road"), -5.2, -0.8, ROAD + 0.5),
    ]  # fmt: skip
    things = [
        at(Thing(thing="van", turn=-90, seed=2, group="On the road"), -11.5, 1.4, ROAD + 0.5),
        at(Thing(thing="bicycle", turn=90, seed=3, group="On the road"), -1.6, 1.9, ROAD + 0.5),
        at(Thing(thing="boat", turn=8, seed=4, group="On the quay"), 52.6, 5.8, 0.5),
        at(Thing(thing="sign post", turn=20, seed=1, group="On the road"), -0.7, -2.4, ROAD + 0.5),
        at(Thing(thing="crates", turn=14, seed=6, group="On the quay"), 44.4, 11.4, QUAY + 0.5),
        Thing(thing="flock", seed=6, group="Birds",
            paper=OnSheet(view=marks["Street elevation"], x=96, y=-46, distance=40)),
    ]  # fmt: skip
    trees = [
        at(Plant(habit=habit, height=high, seed=k + 4, turn=50.0 * k % 360, group="Trees"), x, y, 20.0)
        for k, (x, y, habit, high) in enumerate([
            (18.6, -6.4, "pine", 10.5), (20.6, -9.2, "pine", 9.0), (-4.0, 16.0, "oak", 9.0),
            (31.0, 15.6, "fruit tree", 4.4), (34.6, 17.2, "fruit tree", 4.0),
            (12.0, 16.4, "cypress", 9.5), (14.2, 17.8, "cypress", 8.2), (17.2, -14.8, "shrub", 1.8),
            (41.4, 11.8, "multi-stem", 5.0), (-13.0, -9.0, "broad-leaved", 8.0),
        ])
    ]  # fmt: skip
    return [f.model_copy(update={"id": f"figure-{k}"}) for k, f in enumerate([*people, *things, *trees], 1)]


def flat_tones() -> Look:
    """A few flat tones of light for everything, quiet lines, and the hidden lines of the building that it is about."""
    ink = "#2f2a26"
    beyond = ["outline", "edge", "surface", "figure", "detail"]

    def pen(rank: str, weight: float) -> dict[str, Any]:
        return {
            "id": rank,
            "where": {"kind": "match", "ranks": [rank], "hidden": False},
            "pen": {"weight": weight, "colour": ink, "dash": []},
        }

    return Look.model_validate({
        "pens": [
            *(pen(rank, weight) for rank,
                weight in (("cut", 0.5), ("outline", 0.26), ("edge", 0.15), ("surface", 0.08), ("figure", 0.13),
                    ("detail", 0.06))),
            {"id": "hidden", "name": "Hidden lines of the subject",
                "where": {"kind": "match", "roles": ["subject"], "hidden": True},
             "pen": {"weight": 0.10, "colour": ink, "dash": [1.4, 0.8]}},
            {"id": "soft", "where": {"kind": "match", "drawn": ["soft"], "ranks": beyond[:3], "hidden": False},
                "times": 0.75},
            {"id": "strong", "where": {"kind": "match", "roles": ["subject"], "ranks": beyond[:3], "hidden": False},
                "times": 1.5},
        ],
        "poche": [
            {"id": "all", "name": "All that is cut", "fills": [{"kind": "flat", "colour": "#3a342f"}]},
            {"id": "ground", "where": {"kind": "match", "roles": ["ground"]},
                "fills": [{"kind": "hatch", "pattern": "earth", "colour": ink, "weight": 0.1, "opacity": 0.7}]},
            {"id": "water", "where": {"kind": "match", "roles": ["water"]}, "fills": []},
        ],
        "entourage": [{"id": "trees", "name": "Trees in outline", "kinds": ["plant"], "drawn": "outline"}],
        "hand": {**PRESETS["Calm pencil"].model_dump(), "waver": 0.03},
        "traces": [
            {"kind": "paper", "id": "paper", "name": "Paper", "grain": 0.5},
            {"kind": "tone-steps", "id": "tones", "name": "Flat tones", "steps": 5, "colour": "#6d5a4b",
                "blend": "multiply", "opacity": 0.85},
            {"kind": "hatches", "id": "hatches", "name": "Hatches"},
            {"kind": "poche", "id": "poche", "name": "Poche"},
            {"kind": "lines", "id": "lines", "name": "Lines"},
        ],
    })  # fmt: skip
