"""Short words in which the finishes that ship are written."""

from __future__ import annotations

from typing import Any

__all__ = [
    "BRICK",
    "EARTH",
    "FIGURES",
    "LEAF",
    "METAL",
    "TIMBER",
    "WATER",
    "both",
    "but",
    "hatch",
    "match",
    "materials",
    "pen",
    "ranks",
    "surface",
    "texture",
    "wash",
]

#: What materials are called.
BRICK = ["Brick", "Fire brick", "Bricks", "Clay brick", "Masonry"]
TIMBER = ["Timber", "Dark timber", "Wood", "Oak", "Larch", "Pine", "Plywood"]
METAL = ["Zinc", "Metal", "Copper", "Aluminium", "Sheet metal"]
WATER, EARTH, LEAF = ["Water"], ["Earth", "Soil", "Ground", "Grass"], ["Leaf", "Leaves", "Foliage"]
#: The ranks of what is drawn of figures.
FIGURES = ("figure", "detail")


def match(**said: Any) -> dict[str, Any]:
    return {"kind": "match", **said}


def pen(identity: str, weight: float, colour: str, where: dict[str, Any], **more: Any) -> dict[str, Any]:
    return {"id": identity, "where": where, "pen": {"weight": weight, "colour": colour, "dash": []}, **more}


def ranks(weights: tuple[float, float, float, float], colour: str) -> list[dict[str, Any]]:
    """A pen for each rank, thinner and paler with what is soft, far, or behind glass."""
    beyond = ["outline", "edge", "surface"]
    rows = [
        pen(rank, weight, colour, match(ranks=[rank], hidden=False))
        for rank, weight in zip(("cut", *beyond), weights, strict=True)
    ]
    of_figures = zip(FIGURES, (round(0.95 * weights[2], 2), round(0.85 * weights[3], 3)), strict=True)
    return [
        *rows,
        *(pen(rank, weight, colour, match(ranks=[rank], hidden=False)) for rank, weight in of_figures),
        {"id": "soft", "where": match(drawn=["soft"], ranks=beyond, hidden=False), "times": 0.6},
        {"id": "fading", "where": match(ranks=[*beyond, *FIGURES], hidden=False), "fading": {"thinner": 0.3}},
        {"id": "glazed", "where": match(glass=True, hidden=False), "times": 0.75},
    ]


def hatch(pattern: str, colour: str, **said: Any) -> dict[str, Any]:
    return {"kind": "hatch", "pattern": pattern, "colour": colour, **said}


def surface(identity: str, where: dict[str, Any], *fills: dict[str, Any], over: bool = False) -> dict[str, Any]:
    return {"id": identity, "where": where, "fills": list(fills), "over": over}


def materials(ink: str, suggested: float, weight: float) -> list[dict[str, Any]]:
    """What materials are drawn with, in the perspective of the faces that show them."""
    face = {"lies": "face", "weight": weight, "suggested": suggested}
    return [
        surface("brick", match(materials=BRICK), hatch("courses", ink, **face, opacity=0.85, disorder=0.25)),
        surface("zinc", match(materials=METAL), hatch("seams", ink, **{**face, "suggested": 0.0}, opacity=0.8)),
        surface("timber", match(materials=TIMBER), hatch("grain_along", ink, **face, opacity=0.6)),
        surface("water", match(materials=WATER), hatch("water", ink, **face, opacity=0.75, least=0.9)),
        surface("earth", match(materials=EARTH), hatch("grass", ink, weight=weight, opacity=0.55, suggested=0.72)),
        surface("leaf", match(materials=LEAF), hatch("foliage", ink, weight=weight, opacity=0.5, suggested=0.66)),
    ]


def wash(
    identity: str, name: str, where: dict[str, Any] | None, colour: str, second: str, **said: Any
) -> dict[str, Any]:
    return {"kind": "wash", "id": identity, "name": name, "where": where, "colour": colour, "second": second, **said}


def texture(identity: str, texture: str, name: str, where: dict[str, Any], **said: Any) -> dict[str, Any]:
    return {
        "kind": "texture",
        "id": identity,
        "name": name,
        "texture": texture,
        "where": where,
        "blend": "multiply",
        **said,
    }


def both(*queries: dict[str, Any]) -> dict[str, Any]:
    return {"kind": "all", "of": list(queries)}


def but(query: dict[str, Any]) -> dict[str, Any]:
    return {"kind": "not", "of": query}
