"""Swatches: a fill, and a stroke of the hand, drawn small as they are drawn large."""

from __future__ import annotations

import numpy as np

from warmgraphite.canvas.svg import SvgCanvas
from warmgraphite.ink.assign import Style
from warmgraphite.ink.fills import Fill, Flat
from warmgraphite.ink.hand import Hand
from warmgraphite.ink.hatch import hatched
from warmgraphite.ink.hatch_marks import Lie, Rings
from warmgraphite.ink.strokes import Strokes
from warmgraphite.ink.surfaces import HatchSet
from warmgraphite.ink.work import Work, draw_rows, hatch_work, line_work_of

__all__ = ["fill_swatch", "hand_sample"]


def _svg(width: float, height: float, title: str, work: Work, flat: Flat | None = None) -> str:
    canvas = SvgCanvas(width, height, title)
    if flat is not None:
        box = np.array([(0, 0), (width, 0), (width, height), (0, height)], float)
        with canvas.group("flat", flat.opacity):
            canvas.fill([box], flat.colour)
    draw_rows(canvas, work)
    return canvas.document()


def fill_swatch(fill: Fill, hand: Hand, width: float, height: float, scale: float) -> str:
    """A fill as SVG, ``width`` by ``height`` millimetres of a drawing at 1:``scale``."""
    if isinstance(fill, Flat):
        return _svg(width, height, "Flat", Work(()), fill)
    per = 1.0 if fill.lies == "paper" else 1000.0 / scale
    lie = Lie(np.array([[per, 0.0, 0.0], [0.0, -per, height], [0.0, 0.0, 1.0]]), fill.lies == "paper")
    box = Rings.of([np.array([(0, 0), (width, 0), (width, height), (0, height)], float)])
    marks = hatched(box, lie, fill, (0.0, 0.0), key=3)
    style = Style(f"hatch {fill.pattern}", fill.weight, fill.colour, opacity=fill.opacity)
    return _svg(width, height, fill.pattern, hatch_work(HatchSet.of([(style, marks)], (), (0.0, 0.0)), hand))


def hand_sample(hand: Hand, weight: float, colour: str, width: float, height: float) -> str:
    """Strokes of a hand as SVG: a corner, a long line and a curve, ``width`` by ``height`` millimetres."""
    turn = np.linspace(np.pi, 2 * np.pi, 40)
    high = 0.62 * height
    lines = [
        np.array([(3, height - 3), (3, 4), (0.42 * width, 4)]),
        np.array([(0.48 * width, height - 4), (width - 3, height - 4)]),
        np.column_stack([0.72 * width + 0.2 * width * np.cos(turn), height - 4 + high * np.sin(turn)]),
    ]
    style = Style("hand", weight, colour)
    return _svg(width, height, "Hand", line_work_of([Strokes(style, lines)], hand, (width / 2, height / 2)))
