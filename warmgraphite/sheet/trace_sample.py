"""What is in the stock, as small pictures.
Washes and textures on a wall at a drawing's scale, all else on a little house.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import cache

import numpy as np

from warmgraphite.collage.adjusting import AdjustingTrace
from warmgraphite.collage.kinds.lines import LinesTrace
from warmgraphite.collage.kinds.paper import Paper
from warmgraphite.collage.kinds.shadow import Shadow
from warmgraphite.collage.kinds.tint import Tint
from warmgraphite.collage.pictures.kept import KeptPictures
from warmgraphite.collage.stack import layers
from warmgraphite.collage.trace import Trace
from warmgraphite.drawing.drawing import Drawing, needs_of
from warmgraphite.forms import settings_of
from warmgraphite.ink.rules import Ink
from warmgraphite.memory import remembered
from warmgraphite.model.model import Model, build_model
from warmgraphite.model.palette import Material
from warmgraphite.model.parts import Part
from warmgraphite.out.png import png_of
from warmgraphite.regions.query import Match
from warmgraphite.sheet.flat import laid_flat
from warmgraphite.view.specification import Frame, Parallel, Perspective, Sun, ViewSpecification

__all__ = ["trace_sample"]

#: The part set that a veil shows.
SET = "Roof"
#: Millimetres of paper left round a wash, so that its rim is seen.
ROUND = 1.2


def _body(
    points: Sequence[tuple[float, float, float]], quads: Sequence[tuple[int, ...]]
) -> tuple[np.ndarray, np.ndarray]:
    rows = [(q[0], q[k], q[k + 1]) for q in quads for k in range(1, len(q) - 1)]
    return np.array(points, float), np.array(rows, np.int32)


def _box(low: tuple[float, float, float], high: tuple[float, float, float]) -> tuple[np.ndarray, np.ndarray]:
    points = [(x, y, z) for z in (low[2], high[2]) for y in (low[1], high[1]) for x in (low[0], high[0])]
    return _body(points, [(0, 2, 3, 1), (4, 5, 7, 6), (0, 1, 5, 4), (2, 6, 7, 3), (0, 4, 6, 2), (1, 3, 7, 5)])


@remembered("models of samples")
def _wall(width: float, height: float) -> Model:
    return build_model(
        "Wall", [(Part("Wall", "", 0), *_box((0, 0, 0), (width, 0.3, height)))], [Material("Wall", "#c9b08c")]
    )


@cache
def _house() -> Model:
    walls = [
        (0, 0, 0),
        (6, 0, 0),
        (6, 4, 0),
        (0, 4, 0),
        (0, 0, 3),
        (6, 0, 3),
        (6, 4, 3),
        (0, 4, 3),
        (0, 2, 4.6),
        (6, 2, 4.6),
    ]
    roof = [(-0.3, -0.3, 2.76), (6.3, -0.3, 2.76), (6.3, 2, 4.7), (-0.3, 2, 4.7), (6.3, 4.3, 2.76), (-0.3, 4.3, 2.76)]
    rows = [
        (Part("Walls", "", 0), *_body(walls, [(0, 1, 5, 4), (1, 2, 6, 9, 5), (2, 3, 7, 6), (3, 0, 4, 8, 7)])),
        (Part("Roof", "", 1), *_body(roof, [(0, 1, 2, 3), (3, 2, 4, 5)])),
        (Part("Shed", "", 2), *_box((6, 0.8, 0), (8.6, 3.2, 2.0))),
        (Part("Ground", "", 3), *_box((-40, -40, -0.2), (40, 40, 0))),
    ]
    looks = [
        Material("Wall", "#cf9c7c"),
        Material("Roof", "#9aa5aa"),
        Material("Board", "#d8b98a"),
        Material("Ground", "#d9d2b4"),
    ]
    return replace(build_model("House", rows, looks), sets={SET: (1,)})


@cache
def _shore() -> Model:
    """The house on a bank, with water before it."""
    house = _house()
    rows = [
        (
            part,
            house.vertices[house.triangles[house.triangle_part == k]].reshape(-1, 3),
            np.arange(3 * int((house.triangle_part == k).sum()), dtype=np.int32).reshape(-1, 3),
        )
        for k, part in enumerate(house.parts[:3])
    ]
    bank, water = _box((-80, -0.7, -0.6), (80, 160, 0)), _box((-80, -80, -1.2), (80, -0.7, -0.35))
    more = [(Part("Bank", "", 3, "ground"), *bank), (Part("Pond", "", 4, "water"), *water)]
    return build_model("Shore", [*rows, *more], [*house.materials, Material("Pond", "#b9cccb")])


def trace_sample(
    trace: Trace, width: float, height: float, scale: float, pixels: int, pictures: KeptPictures | None = None
) -> bytes:
    """A trace as PNG, ``width`` by ``height`` millimetres of a drawing at 1:``scale``, ``pixels`` across.
    ``pictures`` are those of the stock.
    """
    sun = Sun(azimuth=215, altitude=42)
    paper = Paper(id="paper", name="Paper", grain=0.4)
    whole = trace.model_copy(update={"id": "shown", "on": True, "opacity": 1.0, "where": None})
    if trace.sample == "wall":
        round_ = ROUND if trace.kind == "wash" else 0.0
        per = scale / 1000
        # A wall of the drawing's own size, to the millimetre, so that samples of one drawing share it.
        model = _wall(round((width - 2 * round_) * per, 3), round((height - 2 * round_) * per, 3))
        view = ViewSpecification(
            projection=Parallel(direction=(0, 1, 0),
                centre=(round((width / 2 - round_) * per, 3), 0, round((height / 2 - round_) * per, 3))),
            frame=Frame(width=width, height=height, scale=scale), sun=sun,
        )  # fmt: skip
        whole = whole.model_copy(
            update={"where": Match(parts=("Wall",)), **({"short": 0.0} if trace.kind == "wash" else {})}
        )
        shown: list[Trace] = [paper, whole]
    elif trace.sample == "open":
        # Seen from where one stands, small, so that what is behind it, and before it, has room.
        model = _shore()
        view = ViewSpecification(
            projection=Perspective(eye=(-19, -17, 1.6), target=(13.5, 2, 1.6 + 3.2), field_of_view=52, upright=True),
            frame=Frame(width=width, height=height), sun=sun,
        )  # fmt: skip
        small = {
            "scale": height / 150 * getattr(whole, "scale", 1.0),
            "ends_reach": 1.0,
            "short": 0.0,
            "size": 0.2,
            "fade": 0.0,
        }
        scale_of = {n: v for n, v in small.items() if n in type(whole).model_fields}
        seen = [
            Tint(id="tint", name="Tint", opacity=0.9),
            Shadow(id="shadow", name="Shadow", opacity=0.5, blend="multiply"),
        ]
        shown = [paper, whole.model_copy(update=scale_of), *seen, LinesTrace(id="lines", name="Lines")]
    else:
        model = _house()
        if trace.stock_group == "gestures":  # as they lie on a sheet, made smaller with it
            near = {
                s.field: max(getattr(whole, s.field) * height / 110, s.low)
                for s in settings_of(type(whole))
                if s.unit == "mm"
            }
            whole = whole.model_copy(update=near)
        if trace.kind == "veil":
            whole = whole.model_copy(update={"set": SET, "colour": "#c98d6d", "strength": 0.5})
        view = ViewSpecification(
            projection=Parallel(direction=(-0.55, 1, -0.5), centre=(3.9, 2, 1.9)),
            frame=Frame(width=width, height=height, scale=10_000 / height),
            sun=sun,
        )  # fmt: skip
        lines = LinesTrace(id="lines", name="Lines")
        seen = [
            Tint(id="tint", name="Tint", opacity=0.9),
            Shadow(id="shadow", name="Shadow", opacity=0.5, blend="multiply"),
        ]
        if isinstance(trace, AdjustingTrace):
            shown = [paper, *seen, lines, whole.model_copy(update={"acts_on": "all beneath"})]
        else:
            shown = (
                [whole] if trace.kind == "paper" else [paper, whole] if trace.kind == "lines" else [paper, whole, lines]
            )
    size = (pixels, max(1, round(pixels * height / width)))
    ink = Ink()
    drawing = Drawing(model, view, size, ink=ink, pictures=pictures)
    drawing.compute(needs_of(shown, ink))
    return png_of(laid_flat(drawing.plate(), list(layers(drawing.plate(), shown, 0.0)), size)[0])
