"""A build-up as a little section, drawn by the same way as any: a wall of it stands alone and is cut."""

from __future__ import annotations

import numpy as np

from warmgraphite.canvas.protocol import Stroke
from warmgraphite.canvas.svg import SvgCanvas
from warmgraphite.drawing.drawing import Drawing
from warmgraphite.ink.along import cut_outline
from warmgraphite.ink.buildups.specification import BuildUp, Layer
from warmgraphite.ink.filled import draw_filled
from warmgraphite.ink.fills import GRAPHITE, Fill, Hatch
from warmgraphite.ink.hand import Hand
from warmgraphite.ink.rules import BuildUpRule, Ink, PocheRule
from warmgraphite.memory import remembered
from warmgraphite.model.model import Model, build_model
from warmgraphite.model.palette import Material
from warmgraphite.model.parts import Part
from warmgraphite.regions.query import Match
from warmgraphite.view.specification import Cut, Frame, Parallel, ViewSpecification

__all__ = ["build_up_sample"]

#: Millimetres of paper round a sample.
ROUND = 0.6
#: Millimetres to a metre of a drawing at 1:20, whose marks a sample shows as many of.
SHOWN_PER = 50.0


def _block(low: tuple[float, float, float], high: tuple[float, float, float]) -> tuple[np.ndarray, np.ndarray]:
    points = np.array([[x, y, z] for z in (low[2], high[2]) for y in (low[1], high[1]) for x in (low[0], high[0])])
    quads = [(0, 2, 3, 1), (4, 5, 7, 6), (0, 1, 5, 4), (2, 6, 7, 3), (0, 4, 6, 2), (1, 3, 7, 5)]
    return points, np.array([t for a, b, c, d in quads for t in ((a, b, c), (a, c, d))], np.int32)


@remembered("models of samples")
def _wall(thick: float, long: float, bed: float) -> Model:
    rows = [(Part("Wall", "", 0, "structure"), *_block((0, -1, 0), (thick, 1, long)))]
    if bed:
        rows.append((Part("Earth", "", 1, "ground"), *_block((-bed, -1, 0), (0, 1, long))))
    return build_model("Sample", rows, [Material("Wall", "#888888"), Material("Earth", "#b39a76")])


def _as_shown(layer: Layer, times: float, middle: float) -> Layer:
    """A layer with its marks as close as they are seen at a usual scale.
    ``times`` is how much smaller that is, ``middle`` where a member stands.
    """

    def closer(fills: tuple[Fill, ...]) -> tuple[Fill, ...]:
        return tuple(
            f.model_copy(update={"scale": f.scale * times}) if isinstance(f, Hatch) and f.lies != "paper" else f
            for f in fills
        )

    rhythms = []
    for r in layer.rhythms:
        spacing = max(r.spacing * times, 2.2 * r.width)
        rhythms.append(
            r.model_copy(update={"runs": "any", "spacing": spacing, "at": middle % spacing, "fills": closer(r.fills)})
        )
    return layer.model_copy(update={"fills": closer(layer.fills), "rhythms": tuple(rhythms)})


def build_up_sample(build_up: BuildUp, hand: Hand, width: float, height: float) -> str:
    """A build-up as SVG, ``width`` by ``height`` millimetres, its outer side at the left.
    What takes the rest is shown thick. All layers are shown, whatever their thickness, and all that stands in them,
    whichever way it runs; marks are as close as at 1:20.
    """
    layers = build_up.layers
    rest = min(max(0.12, 0.6 * sum(row.thickness or 0.0 for row in layers)), 0.3)
    thick = max(sum(rest if row.thickness is None else row.thickness for row in layers if not row.bed), 0.002)
    bed = sum(row.thickness or 0.0 for row in layers if row.bed)
    per = (width - 2 * ROUND) / (thick + bed)
    # Longer than it is seen, so that it is as thick as a wall is.
    long = round(max(3 * thick, 2 * height / per), 3)
    shown = build_up.model_copy(
        update={"layers": tuple(_as_shown(row, SHOWN_PER / per, long / 2) for row in layers), "least": 0.0}
    )
    view = ViewSpecification(
        projection=Parallel(direction=(0, 1, 0), centre=((thick - bed) / 2, 0, long / 2)),
        cuts=(Cut(point=(0, 0, 0), normal=(0, -1, 0)),),
        frame=Frame(width=width, height=height, scale=1000 / per),
    )
    ink = Ink(
        poche=(PocheRule(fills=()),), build_ups=(shown,), hand=hand,
        construction=(BuildUpRule(where=Match(parts=("Wall",)), build_up=shown.id, outer="west"),),
    )  # fmt: skip
    drawing = Drawing(_wall(round(thick, 5), long, round(bed, 5)), view, ink=ink)
    canvas = SvgCanvas(width, height, build_up.name)
    for filled in drawing.result("built"):
        draw_filled(canvas, filled)
    canvas.stroke(cut_outline([s for s in drawing.result("shapes") if s.part == 0]), Stroke(0.35, GRAPHITE))
    return canvas.document()
