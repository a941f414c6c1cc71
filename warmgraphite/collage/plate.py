"""A plate: everything computed of one view, ready to be laid together, and the one walk over its traces.

A trace's content is drawn at full strength. Opacity and blend mode are applied when it is laid down, so that the
preview can keep the content of every trace and only lay them together anew.
"""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from warmgraphite.ink.line_work import Strokes
from warmgraphite.ink.poche import PocheShape
from warmgraphite.passes.lines import LineSet
from warmgraphite.passes.wire import Wire
from warmgraphite.sheet.canvas import Canvas
from warmgraphite.sheet.notes import draw_notes
from warmgraphite.sheet.specification import Sheet
from warmgraphite.view.projection import Projection

if TYPE_CHECKING:
    from warmgraphite.collage.trace import Trace

__all__ = ["Filled", "Plate", "SetContent", "Tones", "content_key", "draw_plate", "inside"]


@dataclass(frozen=True)
class Tones:
    """Pixel passes of one size: (h, w) uint8 shares, ``distance`` (h, w) float32 metres from the viewer (infinite: nothing), and
    (h, w, 4) material ``colour``, premultiplied, and ``normals``, straight, where they are asked for."""

    cover: NDArray[np.uint8]
    cap: NDArray[np.uint8]
    glass: NDArray[np.uint8]
    shadow: NDArray[np.uint8]
    shade: NDArray[np.uint8]
    distance: NDArray[np.float32]
    colour: NDArray[np.uint8] | None = None
    occlusion: NDArray[np.uint8] | None = None
    normals: NDArray[np.uint8] | None = None

    @property
    def size(self) -> tuple[int, int]:
        """Width and height in pixels."""
        return self.cover.shape[1], self.cover.shape[0]


@dataclass(frozen=True)
class Filled:
    """A poche shape with its fill, and the strokes of its hatch in frame millimetres."""

    shape: PocheShape
    colour: str
    hatch: list[NDArray[np.float64]] = field(default_factory=list)


@dataclass(frozen=True)
class SetContent:
    """What of a plate belongs to one part set: its parts ``chosen`` (P,), ``mask`` (h, w) its share of each pixel, its strokes
    and its poche."""

    key: str
    chosen: NDArray[np.bool_]
    mask: NDArray[np.uint8]
    strokes: list[Strokes]
    poche: list[Filled]


@dataclass(frozen=True)
class Plate:
    """One view's results with the choices of ink. ``sets`` holds what belongs to each part set that a trace asks for.

    ``keys`` name the inputs of each kind of content (surface, light, poche, lines), for those who keep drawn layers.
    """

    projection: Projection
    tones: Tones
    poche: list[Filled]
    strokes: list[Strokes]
    lines: LineSet
    view_name: str
    study_name: str
    keys: dict[str, str] = field(default_factory=dict)
    sets: Mapping[str, SetContent] = field(default_factory=dict)
    wire: Wire | None = None

    @property
    def frame(self) -> tuple[float, float]:
        """Width and height in millimetres."""
        return self.projection.width, self.projection.height

    def lacks(self, passes: Sequence[str]) -> list[str]:
        """Which of these passes it was made without, because no trace asked for them then."""
        asked = {"colour": self.tones.colour, "occlusion": self.tones.occlusion, "normals": self.tones.normals, "wire": self.wire}
        return [name for name in passes if name in asked and asked[name] is None]


def content_key(trace: Trace, keys: Mapping[str, str], own: str, frame: tuple[float, float], margin: float) -> str:
    """Names what a trace shows at full strength. ``keys`` name what is drawn of each pass, ``own`` its part set."""
    return json.dumps([trace.shows(), [keys.get(name, "") for name in trace.needs()], own, frame, margin])


def inside(plate: Plate, sheet: Sheet) -> tuple[float, float, float, float]:
    """Where the drawing lies on the sheet: x, y, width, height in millimetres."""
    width, height = plate.frame
    return sheet.margin, sheet.margin, max(width - 2 * sheet.margin, 1.0), max(height - 2 * sheet.margin, 1.0)


def draw_plate(canvas: Canvas, plate: Plate, traces: Sequence[Trace], sheet: Sheet, *, paper: bool = True) -> None:
    """The whole picture: every trace that is on, from the lowest up, what lies over them, and the notes. ``paper`` False leaves
    papers out."""
    laid = [t for t in traces if t.on and t.opacity > 0 and (paper or not t.ground)]
    for trace in laid:
        with canvas.group(trace.name, trace.opacity, trace.blend):
            if trace.ground:
                trace.draw(canvas, plate)
            else:
                with canvas.clip(*inside(plate, sheet)):
                    trace.draw(canvas, plate)
    for trace in laid:
        if trace.lies_over():
            with canvas.group(f"{trace.name} over all", trace.opacity, "multiply"):
                trace.draw_over(canvas, plate)
    with canvas.group("Notes"):
        draw_notes(canvas, sheet, plate.projection, plate.view_name, plate.study_name)
