"""What rules lay onto the faces seen.
Hatches that lie in each face's own perspective, cut at the cells of the region map.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from warmgraphite.geometry.ragged import firsts, split_rows
from warmgraphite.ink.assign import Style, held_by
from warmgraphite.ink.cell_hatches import Seen, hatched_cells, picked, rings_of, thinned_marks
from warmgraphite.ink.faces import faces_of
from warmgraphite.ink.fills import Flat, Hatch
from warmgraphite.ink.hatch_marks import Marks, ToneField, joined_marks  # fmt: skip
from warmgraphite.ink.rules import SurfaceRule
from warmgraphite.model.bodies import bodies_of
from warmgraphite.model.model import Model
from warmgraphite.noise.hashing import hashed
from warmgraphite.passes.packing import digest
from warmgraphite.passes.store import Arrays
from warmgraphite.progress import Progress, silent
from warmgraphite.regions.map import RegionMap
from warmgraphite.view.projection import Projection

__all__ = [
    "FlatFill",
    "HatchSet",
    "Keep",
    "Points",
    "identities",
    "laid_rules",
    "surface_marks",
]

Points = NDArray[np.float64]


#: What keeps the marks of a hatch: by what they are of, and how they are made.
Keep = Callable[[tuple[str, str], Callable[[], list[tuple[Style, Marks]]]], list[tuple[Style, Marks]]]


@dataclass(frozen=True)
class FlatFill:
    """A flat fill: closed ``rings`` (n, 2) in frame millimetres, filled by even-odd."""

    rings: list[Points]
    colour: str
    opacity: float


@dataclass(frozen=True)
class HatchSet:
    """Marks (S) as :class:`Marks` has them, each with a style and an identity.
    Its ``style`` (S,) into ``styles`` and an ``identity`` (S,) by which a hand draws it; ``flats`` lie under them.
    """

    xy: Points
    first: NDArray[np.int64]
    dot: NDArray[np.bool_]
    style: NDArray[np.int32]
    identity: NDArray[np.uint64]
    styles: tuple[Style, ...]
    flats: tuple[FlatFill, ...] = ()

    def __len__(self) -> int:
        return len(self.style)

    @staticmethod
    def of(rows: Sequence[tuple[Style, Marks]], flats: Sequence[FlatFill], middle: tuple[float, float]) -> HatchSet:
        """The marks of each style, of which those of another weight are another style."""
        styles: dict[Style, int] = {}
        kept, style = [], []
        for own, marks in rows:
            for weight in np.unique(marks.weight):
                kept_rows = np.flatnonzero(marks.weight == weight)
                of_weight = replace(own, weight=round(max(own.weight * float(weight), 0.02), 3))
                number = styles.setdefault(of_weight, len(styles))
                found = marks if len(kept_rows) == len(marks) else picked(marks, kept_rows)
                kept.append(found)
                style.append(np.full(len(found), number, np.int32))
        all_marks = joined_marks(kept)
        of = np.concatenate([np.empty(0, np.int32), *style])
        return HatchSet(
            all_marks.xy, all_marks.first, all_marks.dot, of, identities(all_marks.xy, all_marks.first, middle),
            tuple(styles),
            tuple(flats),
        )  # fmt: skip

    def packed(self) -> Arrays:
        """As arrays, for the store."""
        rings = [r for f in self.flats for r in f.rings]
        about = {
            "styles": [s.written() for s in self.styles],
            "flats": [[f.colour, f.opacity, len(f.rings)] for f in self.flats],
            "rings": [len(r) for r in rings],
        }
        return {
            "xy": self.xy, "first": self.first, "dot": self.dot, "style": self.style, "identity": self.identity,
            "about": np.frombuffer(json.dumps(about).encode(), np.uint8),
            "points": np.concatenate([np.empty((0, 2)), *rings]),
        }  # fmt: skip

    @staticmethod
    def unpacked(a: Arrays) -> HatchSet:
        """From the arrays of the store."""
        about = json.loads(a["about"].tobytes())
        rings = iter(split_rows(a["points"], firsts(about["rings"])))
        flats = tuple(
            FlatFill([next(rings) for _ in range(n)], colour, opacity) for colour, opacity, n in about["flats"]
        )
        styles = tuple(Style.read(s) for s in about["styles"])
        return HatchSet(a["xy"], a["first"], a["dot"], a["style"], a["identity"], styles, flats)


def identities(xy: Points, first: NDArray[np.int64], middle: tuple[float, float]) -> NDArray[np.uint64]:
    """(S,) a number for each mark, from where its ends lie about the middle of the drawing, whichever end is first."""
    if len(first) < 2:
        return np.empty(0, np.uint64)
    # A twentieth of a millimetre, off the places that drawings are made of, so that rounding is not a matter of chance.
    place = np.floor((xy[first[:-1]] + xy[first[1:] - 1] - 2 * np.array(middle)) * 10 + 0.318309).astype(np.int64)
    return hashed(*place.T)


def laid_rules(cells: RegionMap, model: Model, rules: Sequence[SurfaceRule]) -> NDArray[np.bool_]:
    """(R, N) which cells each rule fills: never what is cut, and not where a later rule lies in its place."""
    held = np.zeros((len(rules), len(cells)), bool)
    for number, rule in enumerate(rules):
        if not rule.on:
            continue
        held[number] = held_by(rule, cells, model) & ~cells.cut
        if not rule.over:
            held[:number, held[number]] = False
    return held


# Many arguments: the results of the passes that it is computed of.
def surface_marks(
    cells: RegionMap,
    model: Model,
    projection: Projection,
    rules: Sequence[SurfaceRule],
    middle: tuple[float, float],
    darkest: float,
    corners: ToneField | None,
    progress: Progress = silent,
    keep: Keep = lambda _about, make: make(),
) -> HatchSet:
    """All that rules lay onto the cells of a map.
    ``corners`` is how dark corners are, where a hatch goes by it. ``keep`` may give what was made of the same hatch on
    the same cells before: another rule is changed more often than the map.
    """
    held = laid_rules(cells, model, rules)
    seen, flats = Seen(faces_of(bodies_of(model)), projection), []
    hatches = [(r, f) for r, rule in enumerate(rules) for f in rule.fills if isinstance(f, Hatch) and held[r].any()]
    drops = thinned_marks(cells, rules, held, hatches, seen, darkest)
    rows: list[tuple[Style, Marks]] = []
    for r, rule in enumerate(rules):
        for fill in rule.fills:
            if isinstance(fill, Flat) and held[r].any():
                flats.append(FlatFill(rings_of(cells.shape(held[r])), fill.colour, fill.opacity))
    for done, ((r, hatch), drop) in enumerate(zip(hatches, drops, strict=True)):
        about = (hatch.model_dump_json(), digest(np.where(held[r], drop, np.int8(-1))))
        rows += keep(
            about,
            lambda h=hatch, of=held[r], less=drop: hatched_cells(  # type: ignore[misc]
                cells, seen, h, of, less, middle, corners
            ),
        )
        progress((done + 1) / len(hatches))
    return HatchSet.of(rows, flats, middle)
