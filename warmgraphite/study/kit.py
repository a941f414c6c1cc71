"""The finishes that ship with the application, by name: looks of our own that can be laid over any view of any model.

What they say of materials they say by the names that these usually have.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from warmgraphite.ink.buildups.kit import KIT
from warmgraphite.ink.hand import PRESETS
from warmgraphite.study.finish import Look
from warmgraphite.study.kit_words import (
    BRICK,
    FIGURES,
    METAL,
    TIMBER,
    both,
    but,
    hatch,
    match,
    materials,
    pen,
    ranks,
    surface,
    texture,
    wash,
)

__all__ = ["construction", "shipped_finishes"]

STONE, CONCRETE = ["Stone", "Sandstone", "Granite"], ["Concrete", "In-situ concrete", "Screed"]


INK = "#262320"
NIGHT, PALE, WARM = "#27323a", "#efe8da", "#c4623a"


def ink_plan() -> Look:
    """Black poche, floors whose patterns stop at their rooms, shadow as a hatch at 45 degrees.
    The ground drawn, not filled.
    """
    floors = match(materials=[*CONCRETE, *STONE], facing=["up"])
    return Look.model_validate({
        "pens": ranks((0.45, 0.24, 0.15, 0.08), INK),
        "poche": [
            {"id": "all", "name": "All that is cut", "fills": [{"kind": "flat", "colour": "#1f1c1a"}]},
            {"id": "ground", "where": match(roles=["ground"]), "fills": [hatch("earth", INK, weight=0.11)]},
            {"id": "water", "where": match(roles=["water"]), "fills": []},
        ],
        "surfaces": [
            *materials(INK, 0.35, 0.08),
            surface("floors", floors, hatch("tiles", INK, lies="face", spacing=0.6, weight=0.07, opacity=0.6)),
            surface("deck", match(materials=["Timber"], facing=["up"]),
                hatch("planks", INK, lies="face", weight=0.07, opacity=0.7)),
            surface("shadow", match(light=["shadow"]),
                hatch("parallel", INK, spacing=0.75, angle=45, weight=0.10, opacity=0.8), over=True),
        ],
        "hand": {**PRESETS["Calm pencil"].model_dump(), "waver": 0.04, "overrun": 0.4, "pressure": 0.3},
        "lettering": {"face": "sans", "size": 1.8, "end": "dot", "angle": 60},
        "traces": [
            {"kind": "paper", "id": "paper", "name": "Paper", "grain": 0.5},
            {"kind": "hatches", "id": "hatches", "name": "Hatches"},
            {"kind": "poche", "id": "poche", "name": "Poche"},
            {"kind": "lines", "id": "lines", "name": "Lines"},
        ],
    })  # fmt: skip


def graphite() -> Look:
    """Pencil: pressed, run over at corners, lost in the light and found in shade.
    Shade as strokes that follow each face.
    """
    soft = "#544d46"
    beyond = ["outline", "edge", "surface"]
    return Look.model_validate({
        "pens": [
            *ranks((0.60, 0.50, 0.32, 0.18), soft),
            {"id": "light", "where": match(ranks=[*beyond, *FIGURES], hidden=False), "light": 0.7},
            {"id": "base", "along": "base", "run_on": True, "where": match(roles=["structure", "envelope", "glass"]),
             "pen": {"weight": 0.75, "colour": soft, "dash": []}},
        ],
        "poche": [
            {"id": "all", "name": "All that is cut", "fills": [{"kind": "flat", "colour": soft, "opacity": 0.9}]},
            {"id": "ground", "where": match(roles=["ground"]), "fills": [hatch("earth", soft, weight=0.16)]},
            {"id": "water", "where": match(roles=["water"]), "fills": [hatch("water", soft, weight=0.14)]},
        ],
        "surfaces": [
            *materials(soft, 0.62, 0.11),
            surface("shade", match(light=["shade"]),
                hatch("parallel", soft, lies="face", spacing=0.05, angle=62, weight=0.17, opacity=0.6, by="shade",
                    least=0.6), over=True),
            surface("shadow", match(light=["shadow"]),
                hatch("parallel", soft, lies="face", spacing=0.05, angle=58, weight=0.20, opacity=0.72, least=0.6),
                over=True),
            surface("corners", match(where=["building"]),
                hatch("parallel", soft, spacing=0.5, angle=70, weight=0.15, opacity=0.4, by="corners"), over=True),
        ],
        "hand": {**PRESETS["Soft graphite"].model_dump(), "breaks": 0.06, "grain": 0.45},
        "lettering": {"face": "hand", "size": 2.1, "end": "none", "angle": 55, "weight": 0.18},
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
        "pens": ranks((0.50, 0.32, 0.18, 0.10), PALE),
        "poche": [
            {"id": "all", "name": "All that is cut", "fills": [{"kind": "flat", "colour": WARM}]},
            {"id": "ground", "where": match(roles=["ground"]),
                "fills": [hatch("earth", PALE, weight=0.12, opacity=0.6)]},
            {"id": "water", "where": match(roles=["water"]),
                "fills": [hatch("water", PALE, weight=0.12, opacity=0.6)]},
        ],
        "surfaces": [
            *materials(PALE, 0.5, 0.08),
            surface("shadow", match(light=["shadow"]),
                hatch("parallel", "#0f161b", spacing=0.55, angle=45, weight=0.2, opacity=0.8), over=True),
        ],
        "hand": {**PRESETS["Calm pencil"].model_dump(), "waver": 0.05},
        "lettering": {"face": "sans", "size": 1.9, "end": "dot", "angle": 60},
        "traces": [
            {"kind": "paper", "id": "paper", "name": "Paper", "colour": NIGHT, "grain": 0.8},
            {"kind": "shade", "id": "shade", "name": "Shade", "colour": "#0e1418", "opacity": 0.35, "mottle": 0.2},
            {"kind": "shadow", "id": "shadow", "name": "Shadow", "colour": "#0e1418", "opacity": 0.55, "mottle": 0.2},
            {"kind": "hatches", "id": "hatches", "name": "Hatches"},
            {"kind": "poche", "id": "poche", "name": "Poche"},
            {"kind": "lines", "id": "lines", "name": "Lines"},
        ],
    })  # fmt: skip


def construction(parts: Mapping[str, Sequence[str]] | None = None) -> Look:
    """White cut with a heavy outline and what it is built of, ``parts`` by the build-ups that they have.
    All beyond in thin grey.
    """
    grey = "#8b857d"
    beyond = ["outline", "edge", "surface"]
    parts = parts or {}
    return Look.model_validate({
        "pens": [
            pen("cut", 0.22, INK, match(ranks=["cut"], hidden=False)),
            *(pen(rank, weight, grey, match(ranks=[rank], hidden=False)) for rank,
                weight in zip(beyond, (0.18, 0.11, 0.06), strict=True)),
            *(pen(rank, weight, grey, match(ranks=[rank], hidden=False)) for rank,
                weight in zip(FIGURES, (0.11, 0.05), strict=True)),
            {"id": "planting", "where": match(roles=["planting"], ranks=[*beyond, *FIGURES], hidden=False),
                "times": 0.7, "paler": 0.35},
            {"id": "glazed", "where": match(glass=True, hidden=False), "times": 0.75},
            pen("round", 0.5, INK, match(roles=["structure", "envelope"]), along="cut"),
        ],
        "poche": [
            {"id": "all", "name": "All that is cut", "fills": [{"kind": "flat", "colour": "#ffffff"}]},
            {"id": "brick", "where": match(materials=BRICK),
                "fills": [{"kind": "flat", "colour": "#ffffff"},
                    hatch("parallel", INK, lies="cut", spacing=0.045, angle=45, weight=0.09)]},
            {"id": "concrete", "where": match(materials=CONCRETE),
                "fills": [{"kind": "flat", "colour": "#ffffff"},
                    hatch("concrete", INK, lies="cut", spacing=0.045, weight=0.09)]},
            {"id": "timber", "where": match(materials=TIMBER),
                "fills": [{"kind": "flat", "colour": "#ffffff"},
                    hatch("parallel", INK, lies="cut", spacing=0.02, angle=45, weight=0.07)]},
            {"id": "ground", "where": match(roles=["ground"]),
                "fills": [hatch("earth", "#6b655e", weight=0.09, scale=1.3, opacity=0.8)]},
            {"id": "water", "where": match(roles=["water"]), "fills": []},
        ],
        "build_ups": [KIT[k].model_dump(mode="json") for k in parts],
        "construction": [{"id": f"built-{k}", "where": match(parts=list(names)), "build_up": b} for k,
            (b, names) in enumerate(parts.items(), 1)],
        "hand": {**PRESETS["Calm pencil"].model_dump(), "waver": 0.0, "overrun": 0.0, "pressure": 0.0, "breaks": 0.0,
            "doubled": 0.0, "mismatch": 0.0},
        "lettering": {"face": "sans", "size": 1.8, "end": "dot", "angle": 60, "ground": 0.85},
        "traces": [
            {"kind": "paper", "id": "paper", "name": "Paper", "grain": 0.3},
            {"kind": "hatches", "id": "hatches", "name": "Hatches"},
            {"kind": "poche", "id": "poche", "name": "Poche"},
            {"kind": "lines", "id": "lines", "name": "Lines"},
        ],
    })  # fmt: skip


def warm_wash() -> Look:
    """Graphite poche with one clean outline, and watercolour in all that is seen.
    Two pigments wet in wet, white left between.
    """
    soft = "#3d352f"
    bare = both(match(where=["building"]), but(match(roles=["water", "ground", "planting"])), but(match(glass=True)))
    open_air = both(match(light=["shadow"]), but(match(glass=True)))
    quiet = {
        "lies": "face",
        "opacity": 0.5,
        "relief": 0.35,
        "variation": 1.25,
        "colours": "one tone",
        "colour": "#f2e9dd",
    }
    return Look.model_validate({
        "pens": ranks((0.50, 0.26, 0.13, 0.06), soft),
        "poche": [
            {"id": "all", "name": "All that is cut", "fills": [{"kind": "flat", "colour": "#453d37"}]},
            {"id": "ground", "where": match(roles=["ground"]),
                "fills": [hatch("earth", soft, weight=0.10, opacity=0.75)]},
            {"id": "water", "where": match(roles=["water"]), "fills": []},
        ],
        "hand": {**PRESETS["Calm pencil"].model_dump(), "waver": 0.05, "overrun": 0.5, "pressure": 0.4, "grain": 0.06},
        "lettering": {"face": "hand", "size": 2.2, "end": "none", "angle": 55, "weight": 0.16},
        "traces": [
            {"kind": "paper", "id": "paper", "name": "Paper", "grain": 0.7},
            wash("sky", "Sky", match(where=["sky"]), "#a3bcc6", "#e7d8bf", density=0.75, pools=95, flow=0.45,
                bloom=0.6,
                  rim=0.15, granulation=0.25, wet=0.75, graded="away from a point", across=58, down=30, reach=205,
                  fade=1.0, short=20),
            wash("ground", "Ground", both(match(roles=["ground"]), but(match(cut=True))), "#cfc79c", "#d8c39a",
                density=0.75, pools=70,
                  flow=0.45, bloom=0.35, rim=0.3, granulation=0.35, graded="up the drawing", fade=0.35, short=13),
            wash("earth", "Earth that is cut", both(match(roles=["ground"]), match(cut=True)), "#c9ad84", "#b9a791",
                density=0.8, pools=60,
                  flow=0.5, bloom=0.3, rim=0.25, granulation=0.5, graded="down each face", fade=1.0, short=15),
            wash("water", "Water", match(roles=["water"]), "#9fbab9", "#c6cdbd", density=0.8, pools=85, flow=0.3,
                rim=0.2, bloom=0.5,
                  back_run=0.18, graded="up the drawing", fade=0.5, short=13),
            wash("materials", "Materials", bare, "#d9b48e", "#e6cfa6", colours="of materials", palette="kiln",
                holds="faces", density=0.85,
                  white=0.28, lost=0.45, pools=26, flow=0.4, rim=0.35, bloom=0.25),
            wash("leaves", "Leaves", match(roles=["planting"]), "#b3bd8c", "#cfc48c", density=0.9, holds="materials",
                pools=16, flow=0.6,
                  rim=0.5, bloom=0.4, lost=0.6),
            wash("glass", "Glass", match(glass=True), "#bdcfd0", "#e0d9c6", density=0.7, holds="faces", pools=30,
                rim=0.3, white=0.15),
            texture("brick", "brick", "Brick courses", match(materials=BRICK), **quiet),
            texture("boards", "planks", "Boards", match(materials=TIMBER), **quiet),
            texture("roof", "seams", "Roof sheets", match(materials=METAL), **quiet),
            texture("floor", "tiles", "Floor tiles", match(materials=[*CONCRETE, *STONE], facing=["up"]),
                **quiet | {"opacity": 0.22}),
            wash("light", "Warm light", both(match(light=["lit"]), bare), "#f1d8a2", "#f6e6c4", density=0.45,
                pools=30, flow=0.3,
                  rim=0.15, bloom=0.4, granulation=0.2),
            wash("shade", "Shade", both(match(light=["shade"]), but(match(glass=True))), "#cdb8a4", "#b9b0b4",
                density=0.42, pools=30,
                  rim=0.2, flow=0.3, bloom=0.3),
            wash("shadow", "Shadow", open_air, "#9d94a2", "#b59a84", density=0.58, pools=34, rim=0.4, flow=0.35,
                bloom=0.35,
                  granulation=0.4, wet=0.7),
            {"kind": "hatches", "id": "hatches", "name": "Hatches"},
            {"kind": "cut-shadow", "id": "lift", "name": "Shadow behind the cut", "strength": 0.3, "blur": 1.4,
                "distance": 0.8, "blend": "multiply"},
            {"kind": "poche", "id": "poche", "name": "Poche"},
            {"kind": "lines", "id": "lines", "name": "Lines", "opacity": 0.8},
        ],
    })  # fmt: skip


def collage() -> Look:
    """Textures at their true size on walls, roofs and deck, cut and torn like paper, over washes.
    Light lines over all.
    """
    soft = "#4a423b"
    laid = {"lies": "face", "relief": 0.6, "blend": "normal"}
    dry_land = both(match(roles=["ground"]), but(match(cut=True)))
    return Look.model_validate({
        "pens": ranks((0.50, 0.24, 0.12, 0.06), soft),
        "poche": [
            {"id": "all", "name": "All that is cut", "fills": [{"kind": "flat", "colour": "#4a423b"}]},
            {"id": "ground", "where": match(roles=["ground"]),
                "fills": [hatch("earth", soft, weight=0.10, opacity=0.7)]},
            {"id": "water", "where": match(roles=["water"]), "fills": []},
        ],
        "hand": {**PRESETS["Calm pencil"].model_dump(), "waver": 0.05, "overrun": 0.6, "pressure": 0.4, "grain": 0.15},
        "lettering": {"face": "italic", "size": 2.2, "end": "tick", "angle": 55},
        "traces": [
            {"kind": "paper", "id": "paper", "name": "Paper", "grain": 0.45, "lies": "both"},
            wash("sky", "Sky", match(where=["sky"]), "#b7c6c4", "#ead9bd", density=0.7, pools=120, flow=0.45,
                bloom=0.7, rim=0.15,
                  granulation=0.3, wet=0.8, graded="away from a point", across=64, down=24, reach=230, fade=1.0,
                  short=18),
            {"kind": "backdrop", "id": "hills", "name": "Hills", "scene": "hills", "tone": "#8d9a78",
                "second": "#b3bfc0", "third": "#e8ddc4", "scale": 2.4,
             "raised": 5, "ends": "torn", "ends_reach": 2.2, "short": 17, "through": 0.4, "opacity": 0.75,
             "blend": "multiply", "seed": 4},
            {"kind": "backdrop", "id": "wood", "name": "Wood’s edge", "scene": "wood", "tone": "#6d7d5b",
                "second": "#a3b09a", "third": "#d6cb93", "scale": 1.15,
             "raised": 3, "ends": "torn", "ends_reach": 1.6, "short": 16, "through": 0.4, "opacity": 0.8,
             "blend": "multiply", "seed": 2},
            wash("water", "Water", match(roles=["water"]), "#93b0b1", "#c3c9b8", density=0.75, pools=90, flow=0.35,
                bloom=0.45, rim=0.25,
                  back_run=0.12, granulation=0.35, graded="up the drawing", fade=0.55, short=16),
            {"kind": "reflection", "id": "mirrored", "name": "Reflection", "opacity": 0.62, "blend": "multiply",
                "ripple": 0.4, "size": 0.45,
             "strokes": 0.5, "fade": 0.6, "within": 12, "short": 34, "where": match(roles=["water"]),
             "edge": "feathered", "edge_reach": 7},
            wash("materials", "Materials",
                both(match(where=["building"]), but(match(roles=["water", "ground"])), but(match(glass=True))),
                  "#d9b48e", "#e6cfa6", colours="of materials", palette="autumn", holds="faces", density=0.7, lost=0.3,
                  pools=26, rim=0.3),
            wash("bank", "Bank", dry_land, "#c3c08d", "#d5c08f", density=0.75, pools=60, flow=0.5, bloom=0.3, rim=0.25,
                granulation=0.4, short=14),
            texture("meadow", "meadow", "Meadow", dry_land, lies="face", opacity=0.5, edge="grown", edge_reach=5,
                relief=0.0),
            texture("brick", "brick", "Brick", match(materials=BRICK), **laid, opacity=0.82, weather=0.8),
            texture("deck", "planks", "Boards", match(materials=TIMBER), **laid, opacity=0.85),
            texture("roof", "seams", "Roof", match(materials=METAL), **laid, opacity=0.8),
            texture("stone", "ashlar", "Stone", match(materials=STONE), **laid, opacity=0.8),
            texture("concrete", "boarded_concrete", "Concrete", match(materials=CONCRETE), **laid, opacity=0.7),
            texture("leaves", "foliage", "Leaves", match(roles=["planting"]), lies="face", opacity=0.55, edge="torn",
                edge_reach=1.2, relief=0.0),
            wash("glass", "Glass", match(glass=True), "#b5c9cb", "#dcd6c4", density=0.8, holds="faces", pools=30,
                rim=0.3, white=0.15),
            wash("shade", "Shade", match(light=["shade"]), "#c0aea0", "#b3aab0", density=0.5, pools=30, rim=0.2,
                flow=0.3, bloom=0.3),
            wash("shadow", "Shadow", match(light=["shadow"]), "#8f8794", "#a58d7c", density=0.75, pools=34, rim=0.4,
                flow=0.35,
                  bloom=0.3, granulation=0.4, wet=0.7),
            {"kind": "reflection", "id": "in-panes", "name": "In the panes", "of": "glass", "opacity": 0.35,
                "blend": "multiply", "fade": 0.7, "within": 30},
            {"kind": "hatches", "id": "hatches", "name": "Hatches"},
            {"kind": "poche", "id": "poche", "name": "Poche"},
            {"kind": "lines", "id": "lines", "name": "Lines", "opacity": 0.6},
            {"kind": "splatter", "id": "splatter", "name": "Splatter", "colour": "#8d9a8c", "drops": 46, "size": 1.6,
                "across": 83, "down": 30,
             "spread": 48, "opacity": 0.5, "blend": "multiply"},
        ],
    })  # fmt: skip


def shipped_finishes() -> dict[str, Look]:
    """All of them, by name."""
    return {
        "Warm wash": warm_wash(),
        "Construction": construction(),
        "Ink plan": ink_plan(),
        "Graphite": graphite(),
        "Night sheet": night_sheet(),
        "Collage": collage(),
    }
