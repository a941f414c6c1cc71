"""Build-ups to begin with: common walls, roofs, floors and foundations, all to be changed. Thicknesses in metres."""

from __future__ import annotations

from typing import Any

from warmgraphite.ink.buildups.specification import BuildUp

__all__ = ["KIT"]

_WHITE = {"kind": "flat", "colour": "#ffffff"}
_INK = "#2e2a27"


def _fills(pattern: str = "", **said: Any) -> list[dict[str, Any]]:
    """White paper under a hatch at its own size in the plane of the cut."""
    hatch = {"kind": "hatch", "pattern": pattern, "lies": "cut", "weight": 0.09, "colour": _INK, **said}
    return [_WHITE, hatch] if pattern else [_WHITE]


def _layer(name: str, thickness: float | None, pattern: str = "", importance: int = 5, **more: Any) -> dict[str, Any]:
    hatch = {k: more.pop(k) for k in ("spacing", "angle", "weight", "opacity", "disorder", "lies") if k in more}
    return {"name": name, "thickness": thickness, "fills": _fills(pattern, **hatch), "importance": importance, **more}


def _timber(name: str, spacing: float, width: float, depth: float | None = None, **more: Any) -> dict[str, Any]:
    grain = {
        "kind": "hatch",
        "pattern": "parallel",
        "lies": "cut",
        "angle": 45,
        "spacing": 0.018,
        "weight": 0.07,
        "colour": _INK,
    }
    return {
        "name": name, "spacing": spacing, "width": width, "depth": depth, "fills": [_WHITE, grain],
        "boundary": {"weight": 0.15}, **more,
    }  # fmt: skip


def _steel(
    name: str, profile: str, spacing: float, width: float, depth: float | None = None, **more: Any
) -> dict[str, Any]:
    return {
        "name": name, "profile": profile, "spacing": spacing, "width": width, "depth": depth,
        "fills": [{"kind": "flat", "colour": _INK}], "boundary": {"weight": 0.13}, **more,
    }  # fmt: skip


def _insulation(thickness: float | None, importance: int = 8, **more: Any) -> dict[str, Any]:
    return _layer("Insulation", thickness, "insulation", importance, goes_on=True, spacing=0.09, **more)


def _rigid(thickness: float | None, importance: int = 8, **more: Any) -> dict[str, Any]:
    return _layer("Rigid insulation", thickness, "rigid", importance, goes_on=True, spacing=0.07, **more)


def _sheet(name: str, importance: int = 4, **pen: Any) -> dict[str, Any]:
    return {
        "name": name,
        "thickness": 0,
        "importance": importance,
        "boundary": {"weight": 0.25, "dash": [1.4, 0.5], **pen},
    }


def _boards(name: str, thickness: float, importance: int = 6, **more: Any) -> dict[str, Any]:
    return _layer(name, thickness, "parallel", importance, angle=30, spacing=0.02, weight=0.07, **more)


def _plaster(importance: int = 2) -> dict[str, Any]:
    return _layer("Plaster", 0.015, "", importance)


def _said(identity: str, name: str, *layers: dict[str, Any], least: float = 0.3) -> BuildUp:
    return BuildUp.model_validate({"id": identity, "name": name, "layers": list(layers), "least": least})


_TABLE = (
    _said(
        "boarded-wall", "Boarded wall on blocks",
        _boards("Boards", 0.028, boundary={"weight": 0.18}),
        _layer("Cavity", 0.03, "", 3, rhythms=[_timber("Battens", 0.6, 0.05, runs="level")]),
        _insulation(0.2),
        _layer("Blocks", None, "blocks", 7, spacing=0.2),
        _plaster(),
    ),
    _said(
        "brick-cavity-wall", "Brick cavity wall",
        _layer("Facing brick", 0.115, "parallel", 7, angle=45, spacing=0.03, weight=0.11),
        _layer("Cavity", 0.03, "", 2, rhythms=[_steel("Ties", "anchor", 0.45, 0.004, runs="level")]),
        _insulation(0.16),
        _layer("Blocks", None, "blocks", 6, spacing=0.2),
        _plaster(),
    ),
    _said(
        "timber-frame-wall", "Timber frame wall",
        _boards("Boards", 0.024, boundary={"weight": 0.18}),
        _layer("Cavity", 0.03, "", 3),
        _layer("Sheathing", 0.022, "dots", 4, spacing=0.02),
        _insulation(None, rhythms=[_timber("Studs", 0.625, 0.06, runs="up")]),
        _sheet("Vapour barrier"),
        _layer("Lining", 0.025, "", 3),
    ),
    _said(
        "rendered-wall", "Rendered wall",
        _layer("Render", 0.02, "sand", 3, spacing=0.01),
        _rigid(0.18),
        _layer("Masonry", None, "parallel", 7, angle=45, spacing=0.05, weight=0.11),
        _plaster(),
    ),
    _said(
        "retaining-wall", "Retaining wall",
        {**_layer("Gravel bed", 0.2, "gravel", 6, spacing=0.05), "bed": True},
        _sheet("Membrane"),
        _rigid(0.14),
        _layer("Concrete", None, "concrete", 8, spacing=0.045),
        _plaster(),
    ),
    _said(
        "seamed-roof", "Seamed metal roof",
        _layer("Metal on boards", 0.028, "parallel", 6, angle=60, spacing=0.02, weight=0.07, boundary={"weight": 0.18}),
        _layer("Cavity", 0.03, "", 3),
        _insulation(None, rhythms=[_timber("Rafters", 0.7, 0.08, runs="north")]),
        _layer("Lining", 0.02, "", 4),
    ),
    _said(
        "tiled-roof", "Tiled roof",
        _layer("Tiles", 0.03, "shingles", 6, spacing=0.05),
        _layer("Battens", 0.03, "", 2, rhythms=[_timber("Battens", 0.32, 0.05, runs="any")]),
        _sheet("Underlay"),
        _insulation(None),
        _layer("Lining", 0.025, "", 4),
    ),
    _said(
        "gravel-roof", "Flat roof with gravel",
        _layer("Gravel", 0.06, "gravel", 4, spacing=0.03),
        _sheet("Membrane", weight=0.35, dash=[]),
        _rigid(0.2),
        _layer("Concrete", None, "concrete", 8, spacing=0.045),
        _plaster(1),
    ),
    _said(
        "planted-roof", "Planted roof",
        _layer("Soil", 0.12, "earth", 5, spacing=0.05),
        _layer("Drain", 0.03, "dots", 3, spacing=0.012),
        _sheet("Membrane", weight=0.35, dash=[]),
        _rigid(0.18),
        _layer("Deck", None, "concrete", 8, spacing=0.045),
    ),
    _said(
        "ground-floor", "Ground floor on a gravel bed",
        {**_layer("Gravel bed", 0.2, "gravel", 6, spacing=0.05), "bed": True},
        _sheet("Membrane"),
        _rigid(0.14),
        _layer("Concrete", None, "concrete", 8, spacing=0.045),
        _layer("Screed", 0.06, "sand", 5, spacing=0.012),
        _boards("Floor", 0.02, 3),
    ),
    _said(
        "strip-foundation", "Foundation with a gravel bed",
        {**_layer("Gravel bed", 0.15, "gravel", 5, spacing=0.05), "bed": True},
        _layer("Lean concrete", 0.05, "sand", 3, spacing=0.012),
        _layer("Concrete", None, "concrete", 8, spacing=0.045),
    ),
    _said(
        "joist-floor", "Floor on joists",
        _boards("Floor", 0.022, 6),
        _layer("Between joists", None, "", 8, rhythms=[_timber("Joists", 0.5, 0.08, runs="any")]),
        _layer("Ceiling", 0.025, "", 4, rhythms=[_steel("Hangers", "anchor", 0.5, 0.004, runs="any")]),
    ),
    _said(
        "slab-floor", "Floor on a slab",
        _boards("Floor", 0.02, 3),
        _layer("Screed", 0.055, "sand", 5, spacing=0.012),
        _layer("Sound insulation", 0.03, "rigid", 4, spacing=0.03),
        _layer("Concrete", None, "concrete", 8, spacing=0.045),
        _plaster(),
    ),
    _said(
        "stud-partition", "Stud partition",
        _layer("Board", 0.0125, "", 4),
        _layer("Soft filling", None, "insulation", 8, spacing=0.06,
            rhythms=[_steel("Studs", "channel", 0.6, 0.05, runs="up")]),
        _layer("Board", 0.0125, "", 4),
    ),
    _said(
        "steel-deck", "Steel beams with a deck",
        _layer("Deck", 0.12, "concrete", 8, spacing=0.045),
        _layer("Beams", None, "", 6, rhythms=[_steel("Beams", "i", 1.2, 0.1, runs="any")]),
        _layer("Ceiling", 0.015, "", 3),
    ),
)  # fmt: skip

#: All of them by id.
KIT: dict[str, BuildUp] = {b.id: b for b in _TABLE}
