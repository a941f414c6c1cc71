"""Views of models of different character that engines are judged on.
Each in parallel and in perspective, with and without a cut.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator
from functools import cache, lru_cache
from pathlib import Path
from tempfile import TemporaryDirectory

import pytest
from _pytest.mark import ParameterSet

from bench.models import write_ifc_house
from tests.core import models
from tests.core.judge import Judge
from warmgraphite.drawing import Drawing
from warmgraphite.model import Model
from warmgraphite.model.read import read_model
from warmgraphite.view.specification import Cut, Frame, Parallel, Perspective, Sun, ViewSpecification

__all__ = ["FEWEST", "SLANT", "drawing_of", "ifc_house", "judge_of", "judged", "sample"]

SLANT = (0.5, 1.0, -0.6)
SUN = Sun(azimuth=215, altitude=38)
#: Of every model but the largest two one case that all runs judge; together parallel and perspective, each with and
#: without a cut.
SHORT = {
    "IFC house, perspective",
    "tubes, parallel",
    "pavilion, parallel, cut",
    "rotunda, perspective, cut",
    "terrain, parallel, cut",
}
#: One, for what takes long of each.
FEWEST = {"pavilion, parallel, cut"}


def judged(short: Collection[str] = SHORT) -> Iterator[ParameterSet]:
    """The cases, as (model, view); those that are not ``short`` are only part of the deep run."""

    def case(
        name: str, model: Callable[[], Model], projection: Parallel | Perspective, scale: float | None, *cuts: Cut
    ) -> ParameterSet:
        kind = f"{name}, {projection.kind}{', cut' if cuts else ''}"
        view = ViewSpecification(projection=projection, cuts=cuts, frame=Frame(scale=scale), sun=SUN)
        return pytest.param(model, view, id=kind, marks=() if kind in short else (pytest.mark.deep,))

    south = Cut(point=(0, 4, 0), normal=(0, -1, 0))
    yield case("sample", sample, Parallel(direction=(0.42, 1, -0.6), centre=(12.9, 4, 2.6)), 100, south)
    yield case("sample", sample, Perspective(eye=(-14, -24, 7), target=(12, 4, 4), field_of_view=60), None)
    south = Cut(point=(0, 2, 0), normal=(0, -1, 0))
    yield case("IFC house", ifc_house, Parallel(direction=(1, 0.6, -0.5), centre=(4, 3, 3)), 50, south)
    yield case(
        "IFC house", ifc_house, Perspective(eye=(-8, -14, 6), target=(4, 3, 3), field_of_view=50, upright=True), None
    )
    west = Cut(point=(12, 0, 0), normal=(-1, -0.2, 0))
    yield case("town", models.town, Parallel(direction=SLANT, centre=(30, 30, 2)), 200)
    yield case("town", models.town, Perspective(eye=(-20, -25, 22), target=(30, 30, 0), field_of_view=60), None, west)
    yield case(
        "town from the street", models.town, Perspective(eye=(-3, 31, 1.7), target=(50, 34, 2), field_of_view=80), None
    )
    south = Cut(point=(0, -0.4, 0), normal=(0, -1, 0))
    yield case("tubes", models.tubes, Parallel(direction=SLANT, centre=(2, 0, 0.5)), 50)
    yield case("tubes", models.tubes, Perspective(eye=(-6, -8, 4), target=(2, 0, 0.5), field_of_view=50), None, south)
    south = Cut(point=(0, 1.5, 0), normal=(0, -1, 0))
    yield case("pavilion", models.pavilion, Parallel(direction=SLANT, centre=(5, 3, 2)), 50, south)
    yield case("pavilion", models.pavilion, Perspective(eye=(-6, -9, 2.2), target=(5, 3, 1.5), field_of_view=65), None)
    x, y, z = models.FAR
    south = Cut(point=(x, y - 0.4, z), normal=(0, -1, 0))
    yield case("rotunda", models.rotunda, Parallel(direction=SLANT, centre=(x, y, z + 3)), 50, south)
    east = Cut(point=(x + 2, y, z), normal=(0.7, -0.7, 0))
    eye, target = (x - 9, y - 22, z + 6), (x, y, z + 3)
    yield case("rotunda", models.rotunda, Perspective(eye=eye, target=target, field_of_view=48), None, east)
    south = Cut(point=(0, 18, 0), normal=(0, -1, 0))
    yield case("terrain", models.terrain, Parallel(direction=SLANT, centre=(30, 30, 2)), 200)
    yield case(
        "terrain", models.terrain, Perspective(eye=(-10, -14, 12), target=(30, 30, 2), field_of_view=60), None, south
    )


@cache
def sample() -> Model:
    from demo.kiln_house import build_kiln_house

    return build_kiln_house(planting=True)


@cache
def ifc_house() -> Model:
    with TemporaryDirectory() as folder:
        write_ifc_house(Path(folder) / "house.ifc", storeys=2, bays=3)
        return read_model(Path(folder) / "house.ifc")


_judges: dict[tuple[Callable[[], Model], str], Judge] = {}


def judge_of(model: Callable[[], Model], view: ViewSpecification) -> Judge:
    """The judge of a case, made once: cutting a model takes longer than asking about it."""
    key = model, view.model_dump_json()
    if key not in _judges:
        _judges[key] = Judge(model(), view)
    return _judges[key]


@lru_cache(2)
def _drawing(model: Callable[[], Model], said: str, size: tuple[int, int] | None) -> Drawing:
    return Drawing(model(), ViewSpecification.model_validate_json(said), size)


def drawing_of(model: Callable[[], Model], view: ViewSpecification, size: tuple[int, int] | None = None) -> Drawing:
    """The drawing of a case, with what was computed of it by whoever asked before."""
    return _drawing(model, view.model_dump_json(), size)
