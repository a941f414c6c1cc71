"""From a place on the drawing to a query, and from that to wider ones: what clicks on a region mean."""

from __future__ import annotations

from glob import escape
from typing import NamedTuple

from warmgraphite.model.model import Model
from warmgraphite.regions.map import RegionMap
from warmgraphite.regions.query import Match
from warmgraphite.regions.words.face import Face
from warmgraphite.regions.words.facing import FACINGS
from warmgraphite.regions.words.light import LIGHTS
from warmgraphite.regions.words.where import PLACES

__all__ = ["Widening", "widenings"]


class Widening(NamedTuple):
    """One meaning of a click: a ``word`` for how wide it is, what it is ``called``, and its query."""

    word: str
    called: str
    query: Match


def widenings(cells: RegionMap, cell: int, model: Model) -> list[Widening]:
    """What a cell may stand for, narrowest first.

    None is a shape: each says what is seen, so it means as much in another view, and in the next version of the model.
    """
    number = int(cells.part[cell])
    behind = bool(cells.panes[cell])
    glass = [Widening("glass", "All that lies behind glass", Match(glass=True))] if behind else []
    if number < 0:
        where = PLACES[cells.where[cell]]
        called = {"sky": "The sky", "outside": "What lies outside of the model"}.get(where, "Nothing")
        return [Widening(where, called, Match(where=(where,))), *glass]  # type: ignore[arg-type]
    part = model.parts[number]
    material, path = model.materials[part.material].name, escape(part.path)
    within = f", {part.layer.split('/')[-1]}" if part.layer else ""
    wider = [
        Widening("part", f"{part.name}{within}", Match(parts=(path,))),
        Widening("material", f"All {material}", Match(materials=(material,))),
        *([Widening("layer", f"All of {part.layer}", Match(layers=(part.layer,)))] if part.layer else []),
        *glass,
    ]
    if cells.cut[cell]:
        return [
            Widening("region", f"{part.name}, cut", Match(parts=(path,), cut=True)),
            Widening("cut", f"All {material} that is cut", Match(materials=(material,), cut=True)),
            *wider,
        ]
    light, facing = LIGHTS[cells.light[cell]], int(cells.facing[cell])
    face = Face(part=path, point=tuple(cells.point[cell].tolist()))
    turned = f", facing {FACINGS[facing]}" if facing < len(FACINGS) and FACINGS[facing] != "sloping" else ""
    said = {"lit": "in the sun", "shadow": "in cast shadow", "shade": "in shade"}.get(light, "")
    called = f"{part.name}{turned}, {said}{', behind glass' if behind else ''}"
    return [
        Widening("region", called, Match(face=face, light=(light,), glass=behind, cut=False)),  # type: ignore[arg-type]
        Widening("face", f"{part.name}{turned}", Match(face=face, cut=False)),
        *wider,
    ]
