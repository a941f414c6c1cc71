"""Hatches of what is seen, and the same by hand."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from warmgraphite.drawing.graph import Given, Pass
from warmgraphite.drawing.inputs import held
from warmgraphite.drawing.records.penned import ByHand, by_hand
from warmgraphite.drawing.specification import STEADY, DrawingSpec
from warmgraphite.ink.fills import Hatch
from warmgraphite.ink.hatch_marks import ToneField
from warmgraphite.ink.rules import Ink, SurfaceRule
from warmgraphite.ink.surfaces import FlatFill, HatchSet, surface_marks
from warmgraphite.ink.work import Work, hatch_work
from warmgraphite.model.model import Model
from warmgraphite.needs import Need
from warmgraphite.progress import Progress
from warmgraphite.regions.query import Query
from warmgraphite.regions.reading import read_of

__all__ = ["HATCHED", "SURFACES", "Hatched"]

#: On a raster of their own, so that marks are the same on the desk, in print and in every window.
_CORNERS = Need("occlusion", None, STEADY)


@dataclass(frozen=True)
class _Surfaces:
    rules: tuple[Any, ...]
    darkest: float
    middle: tuple[float, float]
    by_corners: bool
    laid: tuple[SurfaceRule, ...] = held()
    model: Model = held()
    paper: tuple[float, float] = held()


def _goes_by_corners(ink: Ink) -> bool:
    return any(isinstance(f, Hatch) and f.by == "corners" for r in ink.surfaces if r.on for f in r.fills)


def _has_any(ink: Ink) -> bool:
    return any(r.on and r.fills for r in ink.surfaces)


def _reads(spec: DrawingSpec, _where: Query | None) -> _Surfaces:
    ink, model = spec.ink, spec.model
    said = tuple(
        (read_of(r.where, model), r.model_dump(mode="json", include={"fills", "over"})) for r in ink.surfaces if r.on
    )
    laid = ink.surfaces if _has_any(ink) else ()
    return _Surfaces(said, ink.darkest, spec.middle, _goes_by_corners(ink), laid, model, spec.paper)


def _needs(spec: DrawingSpec, _where: Query | None) -> list[str | Need]:
    if not _has_any(spec.ink):
        return []
    return ["regions", "paper", *([_CORNERS] if _goes_by_corners(spec.ink) else [])]


def _surfaces(read: _Surfaces, given: Given, progress: Progress) -> HatchSet:
    if not read.laid:
        return HatchSet.of([], [], read.middle)
    corners, made_of = None, [given.key("regions")]
    if read.by_corners:
        tone, (width, height) = given[_CORNERS], read.paper
        corners = ToneField(np.ascontiguousarray(tone), (tone.shape[1] / width, tone.shape[0] / height))
        made_of.append(given.key(_CORNERS))
    return surface_marks(
        given["regions"], read.model, given["paper"].projection, read.laid, read.middle, read.darkest, corners,
        progress,
        lambda about, make: given.remember(["hatch", *about, *read.middle, made_of], make),
    )  # fmt: skip


SURFACES = Pass(
    name="surfaces",
    stage="Hatching what is seen",
    weight=0.2,
    slow=True,
    reads=_reads,
    compute=_surfaces,
    pack=HatchSet.packed,
    unpack=HatchSet.unpacked,
    needs=_needs,
)


@dataclass(frozen=True)
class Hatched:
    """Hatches as the hand draws them, and the ``flats`` under them."""

    flats: tuple[FlatFill, ...]
    work: Work


def _hatched(read: ByHand, given: Given, _progress: Progress) -> Hatched:
    found = given["surfaces"]
    return Hatched(found.flats, hatch_work(found, read.hand))


def _pack(found: Hatched) -> Any:
    rows = HatchSet.of([], found.flats, (0.0, 0.0)).packed()
    return {**{f"flat {k}": v for k, v in rows.items()}, **found.work.packed()}


def _unpack(a: Any) -> Hatched:
    flats = HatchSet.unpacked({k[5:]: v for k, v in a.items() if k.startswith("flat ")}).flats
    return Hatched(flats, Work.unpacked(a))


HATCHED = Pass(
    name="hatched",
    stage="Hatching by hand",
    weight=0.05,
    reads=lambda s, _: by_hand(s),
    compute=_hatched,
    pack=_pack,
    unpack=_unpack,
    needs=lambda _s, _: ("surfaces",),
)
