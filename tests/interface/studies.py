"""Studies for the tests of the interface, laid out beside the application in its own data folder.

    python -m tests.interface.studies

makes the sample ready, and then, for each line that comes in (“house”, “garden”, “street”, “sample”), a new study of
its own; its slug goes out.
"""

from __future__ import annotations

import sys
from dataclasses import replace

import numpy as np

from warmgraphite.model import Material, Model, Part, build_model
from warmgraphite.view.specification import Cut, Frame, Oblique, Parallel, PartChoice, Perspective, ViewSpecification

__all__ = ["garden", "garden_views", "house", "house_views", "street"]

MATERIALS = [
    Material("Brick", "#b0705a"),
    Material("Oak", "#b08a58"),
    Material("Pane", "#b8d0d4", 0.2),
    Material("Soil", "#a09070"),
]
PAPER = Frame(width=210, height=148, scale=100, resolution=100)
CUBE = np.array([[x, y, z] for z in (0, 1) for y in (0, 1) for x in (0, 1)], float)
FACES = np.array(
    [(0, 2, 3), (0, 3, 1), (4, 5, 7), (4, 7, 6), (0, 1, 5), (0, 5, 4), (2, 6, 7), (2, 7, 3), (0, 4, 6), (0, 6, 2),
        (1, 3, 7), (1, 7, 5)], np.int32
)  # fmt: skip


def _model(name: str, rows: list[tuple[Part, tuple, tuple]]) -> Model:
    bodies = [(part, np.array(low) + CUBE * (np.array(high) - low), FACES) for part, low, high in rows]
    return build_model(name, bodies, MATERIALS)


def house() -> Model:
    """One room of brick on a slope, with a glazed front, a table and chairs that are not cut, a shed beside it."""
    rows = [
        (Part("Slope", "Site", 3, "ground"), (-6, -6, -3), (14, 10, 0)),
        (Part("Floor", "House", 0), (0, 0, 0), (8, 6, 0.2)),
        (Part("Wall west", "House/Walls", 0), (0, 0, 0.2), (0.4, 6, 3)),
        (Part("Wall east", "House/Walls", 0), (7.6, 0, 0.2), (8, 6, 3)),
        (Part("Wall north", "House/Walls", 0), (0.4, 5.6, 0.2), (7.6, 6, 3)),
        (Part("Front", "House", 2, "glass"), (0.4, 0.1, 0.2), (7.6, 0.16, 3)),
        (Part("Roof", "House", 1, "envelope"), (-0.5, -0.5, 3), (8.5, 6.5, 3.3)),
        (Part("Shed", "Garden", 1), (10, 1, 0), (12, 3, 2)),
        (Part("Table", "Furniture", 1, "furniture"), (3, 2, 0.2), (5, 3.4, 0.9)),
        *(
            (Part(f"Chair {k}", "Furniture", 1, "furniture"), (2.2 + 1.1 * k, 3.7, 0.2), (2.6 + 1.1 * k, 4.1, 0.7))
            for k in range(3)
        ),
    ]
    model = _model("Box house", rows)
    inside = tuple(range(8, 12))
    return replace(
        model,
        sets={"Shell only": tuple(range(8)), "Without chairs": tuple(n for n in range(12) if n not in inside[1:])},
    )


def house_views() -> list[ViewSpecification]:
    """A section, a plan, a cutaway, an elevation, an oblique, and the house from the garden."""
    south = Cut(point=(0, 2.6, 0), normal=(0, -1, 0))
    return [
        ViewSpecification(name="Section", projection=Parallel(direction=(0, 1, 0), centre=(4, 0, 1.5)), cuts=(south,),
            frame=PAPER),
        ViewSpecification(name="Plan", projection=Parallel(direction=(0, 0, -1), up=(0, 1, 0), centre=(4, 3, 0)),
            cuts=(Cut(point=(0, 0, 1.2), normal=(0, 0, 1)),), frame=PAPER),
        ViewSpecification(name="Cutaway", projection=Parallel(direction=(0.5, 1, -0.6), centre=(4, 3, 1)),
            cuts=(south,), frame=PAPER),
        ViewSpecification(name="Elevation", projection=Parallel(direction=(0, 1, 0), centre=(4, 0, 1.5)), frame=PAPER),
        ViewSpecification(name="Oblique", projection=Oblique(direction=(0, 1, 0), centre=(4, 0, 1.5)),
            parts=PartChoice(hidden=("Garden/*",)), frame=PAPER),
        ViewSpecification(name="From the garden",
            projection=Perspective(eye=(1, -9, 1.6), target=(4, 3, 1.5), field_of_view=62, upright=True), frame=PAPER),
    ]  # fmt: skip


def garden() -> Model:
    """The house with a deck before it, and two trees as a modeller leaves them: boxes on sticks."""
    plain = house()
    boxes = [(Part("Deck", "House", 1), (1, -3, 0), (7, 0, 0.15))]
    for k, (x, y) in enumerate(((-3.0, 1.0), (11.0, 5.0)), 1):
        boxes.append(
            (Part(f"Birch trunk {k}", f"Garden/Birch {k}", 1, "planting"), (x - 0.1, y - 0.1, 0), (x + 0.1, y + 0.1, 2))
        )
        boxes.append(
            (
                Part(f"Birch crown {k}", f"Garden/Birch {k}", 3, "planting"),
                (x - 0.8, y - 0.8, 1.6),
                (x + 0.8, y + 0.8, 4.5),
            )
        )
    rows = [
        *((part, plain.vertices[plain.triangles[plain.triangle_part == n]].reshape(-1, 3).min(0),
            plain.vertices[plain.triangles[plain.triangle_part == n]].reshape(-1, 3).max(0)) for n,
            part in enumerate(plain.parts)),
        *boxes,
    ]  # fmt: skip
    return _model("Garden house", rows)  # type: ignore[arg-type]


def garden_views() -> list[ViewSpecification]:
    """From the garden, in plan, and in a section along the deck."""
    _, plan, *_, perspective = house_views()
    west = Cut(point=(1.5, 0, 0), normal=(-1, 0, 0))
    section = ViewSpecification(
        name="Section", projection=Parallel(direction=(1, 0, 0), centre=(0, 1.0, 1.5)), cuts=(west,), frame=PAPER
    )
    return [perspective, plan, section]


def street() -> Model:
    """Five dozen boxes in rows, of which the first are named as gutters."""
    rows = [(Part("Ground", "Site", 3, "ground"), (-4, -4, -1), (44, 34, 0))]
    for k in range(60):
        x, y, high = 4.0 * (k % 10), 5.0 * (k // 10), 2.0 + k % 3
        rows.append(
            (
                Part(f"Gutter {k}" if k < 4 else f"Block {k}", f"Row {k // 10}", k % 2),
                (x, y, 0),
                (x + 2.5, y + 2.5, high),
            )
        )
    return _model("Street", rows)


def main() -> None:
    """See the module's docstring."""
    import django

    django.setup()
    from django.db import close_old_connections

    from studio.prepare import prepare
    from studio.studies.making import create_study
    from studio.studies.models import Study

    prepare()
    print("ready", flush=True)
    for line in sys.stdin:
        word, name = line.split(None, 1)
        name = name.strip()
        if word == "sample":
            sample = Study.objects.select_related("head").get(is_sample=True)
            views = [v.view for v in sample.document.views]
            made = create_study(name, sample.model, views)
        elif word == "street":
            view = ViewSpecification(
                name="All", projection=Parallel(direction=(0.4, 1, -0.8)), frame=PAPER.model_copy(update={"scale": 200})
            )
            made = create_study(name, street(), [view])
        elif word == "garden":
            made = create_study(name, garden(), garden_views())
        else:
            made = create_study(name, house(), house_views())
        close_old_connections()
        print(made.slug, flush=True)


if __name__ == "__main__":
    main()
