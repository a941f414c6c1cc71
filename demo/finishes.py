"""The finishes that the sample study comes with, by name: looks of our own that can be laid over any view of any model."""

from __future__ import annotations

from typing import Any

from warmgraphite.ink.buildups.kit import KIT
from warmgraphite.ink.hand import PRESETS
from warmgraphite.study import Look

__all__ = ["WORN", "sample_finishes"]

#: What saved views wear that do not wear the usual finish.
WORN = {
    "Cross section 1:50": "Construction",
    "Plan": "Ink plan",
    "Street elevation": "Graphite",
    "Cutaway axonometric": "Night sheet",
}

INK = "#262320"
NIGHT, PALE, WARM = "#27323a", "#efe8da", "#c4623a"


def _match(**said: Any) -> dict[str, Any]:
    return {"kind": "match", **said}


def _pen(identity: str, weight: float, colour: str, where: dict[str, Any], **more: Any) -> dict[str, Any]:
    return {"id": identity, "where": where, "pen": {"weight": weight, "colour": colour, "dash": []}, **more}


def _ranks(weights: tuple[float, float, float, float], colour: str) -> list[dict[str, Any]]:
    """A pen for each rank, thinner and paler with what is soft, far, or behind glass."""
    beyond = ["outline", "edge", "surface"]
    rows = [
        _pen(rank, weight, colour, _match(ranks=[rank], hidden=False))
        for rank, weight in zip(("cut", *beyond), weights, strict=True)
    ]
    return [
        *rows,
        {"id": "soft", "where": _match(drawn=["soft"], ranks=beyond, hidden=False), "times": 0.6},
        {"id": "fading", "where": _match(ranks=beyond, hidden=False), "fading": {"thinner": 0.3}},
        {"id": "glazed", "where": _match(glass=True, hidden=False), "times": 0.75},
    ]


def _hatch(pattern: str, colour: str, **said: Any) -> dict[str, Any]:
    return {"kind": "hatch", "pattern": pattern, "colour": colour, **said}


def _surface(identity: str, where: dict[str, Any], *fills: dict[str, Any], over: bool = False) -> dict[str, Any]:
    return {"id": identity, "where": where, "fills": list(fills), "over": over}


def _materials(ink: str, suggested: float, weight: float) -> list[dict[str, Any]]:
    """What materials are drawn with, in the perspective of the faces that show them."""
    face = {"lies": "face", "weight": weight, "suggested": suggested}
    return [
        _surface("brick", _match(materials=["Brick", "Fire brick"]), _hatch("courses", ink, **face, opacity=0.85, disorder=0.25)),
        _surface("zinc", _match(materials=["Zinc"]), _hatch("seams", ink, **{**face, "suggested": 0.0}, opacity=0.8)),
        _surface("timber", _match(materials=["Timber", "Dark timber"]), _hatch("grain_along", ink, **face, opacity=0.6)),
        _surface("water", _match(materials=["Water"]), _hatch("water", ink, **face, opacity=0.75, least=0.9)),
        _surface("earth", _match(materials=["Earth"]), _hatch("grass", ink, weight=weight, opacity=0.55, suggested=0.72)),
        _surface("leaf", _match(materials=["Leaf"]), _hatch("foliage", ink, weight=weight, opacity=0.5, suggested=0.66)),
    ]


def ink_plan() -> Look:
    """Black poche, floors whose patterns stop at their rooms, shadow as a hatch at 45 degrees; the ground drawn, not filled."""
    floors = _match(materials=["Concrete", "Stone"], facing=["up"])
    return Look.model_validate({
        "pens": _ranks((0.45, 0.24, 0.15, 0.08), INK),
        "poche": [
            {"id": "all", "name": "All that is cut", "fills": [{"kind": "flat", "colour": "#1f1c1a"}]},
            {"id": "ground", "where": _match(roles=["ground"]), "fills": [_hatch("earth", INK, weight=0.11)]},
            {"id": "water", "where": _match(roles=["water"]), "fills": []},
        ],
        "surfaces": [
            *_materials(INK, 0.35, 0.08),
            _surface("floors", floors, _hatch("tiles", INK, lies="face", spacing=0.6, weight=0.07, opacity=0.6)),
            _surface("deck", _match(materials=["Timber"], facing=["up"]), _hatch("planks", INK, lies="face", weight=0.07, opacity=0.7)),
            _surface("shadow", _match(light=["shadow"]), _hatch("parallel", INK, spacing=0.75, angle=45, weight=0.10, opacity=0.8), over=True),
        ],
        "hand": {**PRESETS["Calm pencil"].model_dump(), "waver": 0.04, "overrun": 0.4, "pressure": 0.3},
        "traces": [
            {"kind": "paper", "id": "paper", "name": "Paper", "grain": 0.5},
            {"kind": "hatches", "id": "hatches", "name": "Hatches"},
            {"kind": "poche", "id": "poche", "name": "Poche"},
            {"kind": "lines", "id": "lines", "name": "Lines"},
        ],
    })  # fmt: skip


def graphite() -> Look:
    """Pencil: pressed, run over at corners, lost in the light and found in shade; shade as strokes that follow each face."""
    soft = "#505050"
    beyond = ["outline", "edge", "surface"]
    return Look.model_validate({
        "pens": [
            *_ranks((0.60, 0.50, 0.32, 0.18), soft),
            {"id": "light", "where": _match(ranks=beyond, hidden=False), "light": 0.7},
            {"id": "base", "along": "base", "run_on": True, "where": _match(roles=["structure", "envelope", "glass"]),
             "pen": {"weight": 0.75, "colour": soft, "dash": []}},
        ],
        "poche": [
            {"id": "all", "name": "All that is cut", "fills": [{"kind": "flat", "colour": soft, "opacity": 0.9}]},
            {"id": "ground", "where": _match(roles=["ground"]), "fills": [_hatch("earth", soft, weight=0.16)]},
            {"id": "water", "where": _match(roles=["water"]), "fills": [_hatch("water", soft, weight=0.14)]},
        ],
        "surfaces": [
            *_materials(soft, 0.62, 0.11),
            _surface("shade", _match(light=["shade"]), _hatch("parallel", soft, lies="face", spacing=0.05, angle=62, weight=0.17, opacity=0.6, by="shade", least=0.6), over=True),
            _surface("shadow", _match(light=["shadow"]), _hatch("parallel", soft, lies="face", spacing=0.05, angle=58, weight=0.20, opacity=0.72, least=0.6), over=True),
            _surface("corners", _match(where=["building"]), _hatch("parallel", soft, spacing=0.5, angle=70, weight=0.15, opacity=0.4, by="corners"), over=True),
        ],
        "hand": {**PRESETS["Soft graphite"].model_dump(), "breaks": 0.06, "grain": 0.45},
        "darkest": 0.5,
        "traces": [
            {"kind": "paper", "id": "paper", "name": "Paper", "grain": 0.9},
            {"kind": "hatches", "id": "hatches", "name": "Hatches"},
            {"kind": "poche", "id": "poche", "name": "Poche"},
            {"kind": "lines", "id": "lines", "name": "Lines"},
        ],
    })  # fmt: skip


def night_sheet() -> Look:
    """Pale lines on a deep ground, poche in one warm colour, shadow as a darker ground."""
    return Look.model_validate({
        "pens": _ranks((0.50, 0.32, 0.18, 0.10), PALE),
        "poche": [
            {"id": "all", "name": "All that is cut", "fills": [{"kind": "flat", "colour": WARM}]},
            {"id": "ground", "where": _match(roles=["ground"]), "fills": [_hatch("earth", PALE, weight=0.12, opacity=0.6)]},
            {"id": "water", "where": _match(roles=["water"]), "fills": [_hatch("water", PALE, weight=0.12, opacity=0.6)]},
        ],
        "surfaces": [
            *_materials(PALE, 0.5, 0.08),
            _surface("shadow", _match(light=["shadow"]), _hatch("parallel", "#0f161b", spacing=0.55, angle=45, weight=0.2, opacity=0.8), over=True),
        ],
        "hand": {**PRESETS["Calm pencil"].model_dump(), "waver": 0.05},
        "traces": [
            {"kind": "paper", "id": "paper", "name": "Paper", "colour": NIGHT, "grain": 0.8},
            {"kind": "shade", "id": "shade", "name": "Shade", "colour": "#0e1418", "opacity": 0.35, "mottle": 0.2},
            {"kind": "shadow", "id": "shadow", "name": "Shadow", "colour": "#0e1418", "opacity": 0.55, "mottle": 0.2},
            {"kind": "hatches", "id": "hatches", "name": "Hatches"},
            {"kind": "poche", "id": "poche", "name": "Poche"},
            {"kind": "lines", "id": "lines", "name": "Lines"},
        ],
    })  # fmt: skip


def construction() -> Look:
    """White cut with a heavy outline and what it is built of; all beyond in thin grey."""
    grey = "#8b857d"
    beyond = ["outline", "edge", "surface"]
    parts = {
        "ground-floor": ["Hall/Floor/*", "Throwing room/Throwing floor", "Below/Glaze store/Store floor"],
        "retaining-wall": ["Hall/Retaining/*", "Below/Glaze store/Store wall *"],
        "boarded-wall": ["Hall/Walls/North upper wall", "Hall/Walls/South wall", "Hall/Walls/West gable", "Hall/Walls/East gable"],
        "seamed-roof": ["Hall/Roof/North roof", "Hall/Roof/South roof"],
        "gravel-roof": ["Throwing room/Throwing roof"],
        "stud-partition": ["Hall/Walls/Store partition"],
    }  # fmt: skip
    return Look.model_validate({
        "pens": [
            _pen("cut", 0.22, INK, _match(ranks=["cut"], hidden=False)),
            *(_pen(rank, weight, grey, _match(ranks=[rank], hidden=False)) for rank, weight in zip(beyond, (0.18, 0.11, 0.06), strict=True)),
            {"id": "planting", "where": _match(roles=["planting"], ranks=beyond, hidden=False), "times": 0.7, "paler": 0.35},
            {"id": "glazed", "where": _match(glass=True, hidden=False), "times": 0.75},
            _pen("round", 0.5, INK, _match(roles=["structure", "envelope"]), along="cut"),
        ],
        "poche": [
            {"id": "all", "name": "All that is cut", "fills": [{"kind": "flat", "colour": "#ffffff"}]},
            {"id": "brick", "where": _match(materials=["Brick", "Fire brick"]), "fills": [{"kind": "flat", "colour": "#ffffff"}, _hatch("parallel", INK, lies="cut", spacing=0.045, angle=45, weight=0.09)]},
            {"id": "concrete", "where": _match(materials=["Concrete"]), "fills": [{"kind": "flat", "colour": "#ffffff"}, _hatch("concrete", INK, lies="cut", spacing=0.045, weight=0.09)]},
            {"id": "timber", "where": _match(materials=["Timber", "Dark timber"]), "fills": [{"kind": "flat", "colour": "#ffffff"}, _hatch("parallel", INK, lies="cut", spacing=0.02, angle=45, weight=0.07)]},
            {"id": "ground", "where": _match(roles=["ground"]), "fills": [_hatch("earth", "#6b655e", weight=0.09, scale=1.3, opacity=0.8)]},
            {"id": "water", "where": _match(roles=["water"]), "fills": []},
        ],
        "build_ups": [KIT[k].model_dump(mode="json") for k in parts],
        "construction": [{"id": f"built-{k}", "where": _match(parts=names), "build_up": b} for k, (b, names) in enumerate(parts.items(), 1)],
        "hand": {**PRESETS["Calm pencil"].model_dump(), "waver": 0.0, "overrun": 0.0, "pressure": 0.0, "breaks": 0.0, "doubled": 0.0, "mismatch": 0.0},
        "traces": [
            {"kind": "paper", "id": "paper", "name": "Paper", "grain": 0.3},
            {"kind": "hatches", "id": "hatches", "name": "Hatches"},
            {"kind": "poche", "id": "poche", "name": "Poche"},
            {"kind": "lines", "id": "lines", "name": "Lines"},
        ],
    })  # fmt: skip


def sample_finishes() -> dict[str, Look]:
    """All of them, by name."""
    return {"Construction": construction(), "Ink plan": ink_plan(), "Graphite": graphite(), "Night sheet": night_sheet()}
