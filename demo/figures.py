"""Who works in the sample pottery, and what grows round it.
Figures that stand in the model, and birds on the paper of views.
"""

from __future__ import annotations

from typing import Any

from warmgraphite.figures.figure import Figure, OnSheet
from warmgraphite.figures.kinds.person import Person
from warmgraphite.figures.kinds.plant import Plant
from warmgraphite.figures.kinds.thing import Thing
from warmgraphite.figures.placing import along_line, fitted, gathered, over_area, stood_at
from warmgraphite.model.model import Model

__all__ = ["sample_figures"]


def _people(model: Model) -> list[Figure]:
    """Throwing, wedging, loading, carrying; talking on the deck; a child at the rail; someone on the stair."""

    def at(x: float, y: float, z: float, pose: str, turn: float, seed: int, **more: Any) -> Figure:
        return stood_at(model, Person(pose=pose, turn=turn, seed=seed, **more), (x, y, z))

    apron, skirt = {"outfit": "apron and trousers"}, {"outfit": "apron and skirt"}
    work = [
        at(19.4, 2.78, 0.6, "at the wheel", 180, 3, name="Thrower", **apron),
        at(20.4, 5.05, 0.4, "wedging", 0, 8, name="Wedging", **skirt),
        at(23.2, 5.1, 0.4, "at a bench", 0, 21, name="Turning handles", **apron),
        at(10.5, 1.55, 0.4, "at a bench", 0, 5, name="Glazing", **skirt),
        at(1.35, 3.1, 0.4, "carrying a pot", -78, 12, name="Loading the kiln", **apron),
        at(2.3, 7.1, 0.4, "pushing a cart", -96, 17, name="Cart to the kiln", **apron),
        at(11.0, 4.55, 0.4, "carrying a board", -86, 30, name="Board of ware", **apron),
        at(14.2, 7.75, 0.4, "reaching", 0, 9, name="At the shelves", **apron),
        at(8.7, 6.6, 0.4, "sweeping", -60, 26, name="Sweeping", **apron),
        at(9.95, 8.15, 0.95, "climbing", -90, 11, name="On the stair"),
        at(13.6, 6.7, 3.5, "at a table", 0, 40, name="At the drawing desk"),
        at(16.6, 5.75, 3.2, "leaning on a rail", 180, 35, name="At the gallery rail"),
    ]
    deck = [
        *gathered(model, Person(seed=50), (12.6, -2.6, 0.0), 3, seed=4),
        at(15.55, -4.4, 0.3, "leaning on a rail", 180, 61, age=5, name="Child at the rail"),
        at(16.35, -4.35, 0.3, "leaning on a rail", 172, 62, name="Beside the child"),
        at(19.3, -1.0, 0.8, "reading", 180, 63, name="Reading"),
        at(20.6, -1.0, 0.8, "sitting on a bench", 180, 64, age=71, name="Resting"),
        at(9.6, -2.0, 0.2, "carrying a board", -90, 65, name="Ware to the light", **apron),
        at(22.2, -3.9, 0.2, "photographing", 150, 66, name="Visitor", outfit="shirt and trousers"),
    ]
    street = [
        at(2.2, 12.9, 4.0, "walking", -90, 71, name="Walking east"),
        at(3.1, 12.5, 4.0, "walking", -86, 72, age=9, name="With a boy"),
        at(16.4, 12.6, 4.0, "with a dog", 92, 73, name="Walking a dog"),
        at(9.2, 13.4, 4.0, "cycling", 88, 74, name="Cycling"),
        at(27.4, 12.4, 4.0, "pushing a pram", -92, 75, name="With a pram"),
        at(-1.6, 13.2, 4.0, "strolling", -90, 76, age=74, name="Strolling", extras=("hat",)),
    ]
    rows = (("At work", work), ("On the deck", deck), ("Street", street))
    return [f.model_copy(update={"group": group}) for group, figures in rows for f in figures]


def _planting(model: Model) -> list[Figure]:
    """Alders and willows round the pond and on the slope, birches by the street; reed, grasses and meadow."""
    trees = [
        (-6.5, 4.5, "alder", 8.4), (-9.0, 8.5, "alder", 7.2), (-8.5, 13.2, "birch", 9.6), (29.5, 4.0, "alder", 8.8),
        (33.2, 8.8, "broad-leaved", 8.6),
        (28.6, 12.4, "multi-stem", 5.6), (-5.2, -2.6, "willow", 6.6), (32.5, -2.4, "willow", 7.8),
        (12.0, 19.2, "birch", 10.2), (21.5, 19.6, "broad-leaved", 8.4),
        (-10.6, 18.6, "oak", 9.6), (20.6, 13.9, "birch", 8.2), (-3.4, 13.9, "birch", 7.4), (34.5, 17.5, "alder", 8.4),
        (-10.6, 0.5, "shrub", 1.7), (27.6, 7.4, "shrub", 1.9), (30.8, 0.6, "shrub", 1.6),
    ]  # fmt: skip
    found: list[Figure] = [
        stood_at(model, Plant(habit=habit, height=high, seed=k + 2, turn=37.0 * k % 360, group="Trees"), (x, y, 12.0))
        for k, (x, y, habit, high) in enumerate(trees)
    ]
    bank = [(-9.5, -5.2, 0), (-2.0, -5.5, 0), (6.9, -5.3, 0)]
    far = [(25.3, -5.4, 0), (31.0, -5.6, 0), (36.5, -5.2, 0)]
    reed = Plant(habit="reed", height=1.7, seed=5, group="Reed")
    for line, seed in ((bank, 1), (far, 2)):
        found += along_line(model, reed, line, 1.25, seed=seed, loose=0.9)
    grass = Plant(habit="grasses", height=0.75, seed=9, group="Grasses")
    found += over_area(
        model, grass, [(-10, -3.6, 0), (6.4, -3.6, 0), (6.4, -0.8, 0), (-10, -0.8, 0)], 0.22, 1.3, seed=3
    )
    found += over_area(model, grass, [(26.6, -3.6, 0), (36, -3.6, 0), (36, 0.6, 0), (26.6, 0.6, 0)], 0.28, 1.3, seed=4)
    return found


def _things(model: Model) -> list[Figure]:
    put = [
        (Thing(thing="boat", turn=-62, seed=2, name="Boat"), (17.4, -7.9, 0.0)),
        (Thing(thing="cat", turn=160, seed=1, name="Cat"), (21.9, -1.0, 0.8)),
        (Thing(thing="crates", turn=12, seed=3, name="Crates"), (23.3, -0.75, 0.2)),
        (Thing(thing="bicycle", turn=90, seed=4, name="Bicycle", group="Street"), (6.2, 11.35, 4.0)),
        (Thing(thing="bench", turn=0, seed=1, name="Bench", group="Street"), (13.4, 11.5, 4.0)),
    ]  # fmt: skip
    found = [stood_at(model, figure, at) for figure, at in put]
    for x, turn in ((10.4, 175.0), (18.2, 120.0), (18.6, 200.0)):
        found.append(Thing(thing="bird", at=(x, -4.96, 1.0), turn=turn, seed=int(x), name="Bird on the rail"))
    return found


def sample_figures(model: Model, marks: dict[str, str]) -> list[Figure]:
    """The figures of the sample, by hand and by rule; ``marks`` are the ids of its views by their names."""

    def birds(view: str, x: float, y: float, away: float, seed: int, turn: float = 0.0) -> Figure:
        return Thing(
            thing="flock",
            seed=seed,
            turn=turn,
            name="Birds",
            group="Birds",
            paper=OnSheet(view=marks[view], x=x, y=y, distance=away),
        )

    sky = [
        birds("From the pond", -92, -78, 46.0, 3), birds("Street elevation", 96, -58, 30.0, 5, 180),
        birds("Long section, perspective", 120, -92, 52.0, 8),
    ]  # fmt: skip
    rows = [*_people(model), *_planting(model), *_things(model), *sky]
    return [fitted(model, f) if f.id else f.model_copy(update={"id": f"figure-{k}"}) for k, f in enumerate(rows, 1)]
