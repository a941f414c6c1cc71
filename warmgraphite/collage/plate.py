"""A plate: everything computed of one view, ready to be laid together; and how each trace draws itself.

A trace's content is drawn at full strength. Opacity and blend mode are applied when it is laid down, so that the
preview can keep the content of every trace and only lay them together anew.
"""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from warmgraphite.collage.grain import value_noise
from warmgraphite.collage.specification import Trace, needs
from warmgraphite.colours import channels
from warmgraphite.ink.hatch import EARTH_WEIGHT
from warmgraphite.ink.line_work import Strokes
from warmgraphite.ink.poche import PocheShape
from warmgraphite.sheet.canvas import Canvas, Stroke
from warmgraphite.sheet.notes import draw_notes
from warmgraphite.sheet.specification import Sheet
from warmgraphite.view.projection import Projection

__all__ = ["Filled", "Plate", "SetContent", "Tones", "content_key", "draw_plate", "draw_trace"]


@dataclass(frozen=True)
class Tones:
    """Pixel passes of one size: (h, w) uint8 shares and (h, w, 4) premultiplied material colour, where they are asked for."""

    cover: NDArray[np.uint8]
    cap: NDArray[np.uint8]
    glass: NDArray[np.uint8]
    shadow: NDArray[np.uint8]
    shade: NDArray[np.uint8]
    colour: NDArray[np.uint8] | None = None
    occlusion: NDArray[np.uint8] | None = None

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
    """What of a plate belongs to one part set: ``mask`` (h, w) its share of each pixel, its strokes and its poche."""

    key: str
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
    view_name: str
    study_name: str
    keys: dict[str, str] = field(default_factory=dict)
    sets: Mapping[str, SetContent] = field(default_factory=dict)

    @property
    def frame(self) -> tuple[float, float]:
        """Width and height in millimetres."""
        return self.projection.width, self.projection.height


def _rgb(colour: str) -> NDArray[np.float32]:
    return np.array(channels(colour), np.float32)


def content_key(trace: Trace, keys: Mapping[str, str], own: str, frame: tuple[float, float], margin: float) -> str:
    """Names what a trace shows at full strength. ``keys`` name what is drawn of each pass, ``own`` its part set."""
    look = trace.model_dump(include={"source", "colour", "horizon", "mottle", "grain"})
    return json.dumps([look, [keys.get(name, "") for name in needs(trace)], own, frame, margin])


def _tone(colour: NDArray, alpha: NDArray) -> NDArray[np.uint8]:
    """(h, w, 4) premultiplied from a colour (3,) or (h, w, 3) in 0–255 and alpha (h, w) in 0–1."""
    out = np.empty((*alpha.shape, 4), np.uint8)
    np.multiply(np.broadcast_to(colour, (*alpha.shape, 3)), alpha[..., None], out=out[..., :3], casting="unsafe")
    np.multiply(alpha, 255, out=out[..., 3], casting="unsafe")
    return out


def _paper(trace: Trace, plate: Plate) -> NDArray[np.uint8]:
    size = plate.tones.size
    tooth = value_noise(size, plate.frame, 1.1, 3, 7)
    cloud = value_noise(size, plate.frame, 60, 3, 8)
    level = 1 - trace.grain * (0.022 + 0.030 * tooth + 0.014 * cloud)
    return _tone(np.clip(_rgb(trace.colour) * level[..., None], 0, 255), np.ones(level.shape, np.float32))


def _sky(trace: Trace, plate: Plate) -> NDArray[np.uint8]:
    tones = plate.tones
    width, height = tones.size
    frame_w, frame_h = plate.frame
    x = (np.arange(width, dtype=np.float32) + 0.5) * frame_w / width
    y = (np.arange(height, dtype=np.float32) + 0.5) * frame_h / height
    over = plate.projection.over_horizon(x[None, :], y[:, None])
    if not (over > 0).any():
        return np.zeros((height, width, 4), np.uint8)  # one looks down: what is bare there is ground
    sky = 1 - tones.cover.astype(np.float32) / 255
    rows = np.flatnonzero(((tones.cover < 128) & (over > 0)).any(1))
    depth = rows[-1] + 1 if len(rows) else height
    fall = np.clip(np.arange(height, dtype=np.float32) / max(depth, 1), 0, 1)[:, None, None]
    colour = _rgb(trace.colour) * (1 - fall) + _rgb(trace.horizon) * fall
    cloud = value_noise(tones.size, plate.frame, 70, 4, 21)
    fine = value_noise(tones.size, plate.frame, 5, 3, 22)
    # The wash is laid by hand: it stops short of the frame's edge in a wavering line and pools a little there.
    edge = np.minimum(np.minimum(x, frame_w - x)[None, :], y[:, None]) + 5.0 * cloud + 1.6 * fine
    reach = np.clip((edge - 17) / 1.4, 0, 1)
    # At the horizon it runs out softly, a little below the line.
    reach *= np.clip((over + 3.0 + 1.6 * cloud + 0.8 * fine) / 4.0, 0, 1)
    pool = np.exp(-(((edge - 18.6) / 1.1) ** 2)) * 0.16
    alpha = sky * reach * np.clip(0.86 + trace.mottle * (0.34 * cloud + 0.12 * fine) + pool * trace.mottle, 0, 1)
    return _tone(colour, alpha)


def _pixels(trace: Trace, plate: Plate) -> NDArray[np.uint8]:
    tones = plate.tones
    if trace.source == "paper":
        return _paper(trace, plate)
    if trace.source == "sky":
        return _sky(trace, plate)
    bare = 1 - tones.cap.astype(np.float32) / 255
    if trace.source == "tint":
        if tones.colour is None:
            return np.zeros((*tones.cap.shape, 4), np.uint8)
        return np.round(tones.colour * bare[..., None]).astype(np.uint8)
    dark = tones.occlusion if tones.occlusion is not None else np.zeros_like(tones.cap)
    of = {"glass": tones.glass, "shade": tones.shade, "shadow": tones.shadow, "occlusion": dark}
    share = of[trace.source].astype(np.float32) / 255
    if trace.source == "glass":
        share = share * bare
    if trace.source in ("shade", "shadow", "occlusion"):
        share = share * (1 - 0.10 * trace.mottle * (1 + value_noise(tones.size, plate.frame, 22, 3, 31)))
    return _tone(_rgb(trace.colour), np.clip(share, 0, 1))


def _hatch_colour(fill: str) -> str:
    """The ink of a hatch that is read on a fill: dark on light, light on dark."""
    return "#5d5145" if _rgb(fill) @ np.array([0.3, 0.59, 0.11]) > 110 else "#8d857b"


def draw_trace(canvas: Canvas, trace: Trace, plate: Plate) -> None:
    """The content of one trace at full strength."""
    own = plate.sets.get(trace.part_set) if trace.part_set else None
    if trace.source == "poche":
        for filled in own.poche if own else plate.poche:
            with canvas.group(f"poche {filled.shape.material}"):
                canvas.fill(filled.shape.rings, filled.colour)
                if filled.hatch:
                    canvas.stroke(filled.hatch, Stroke(EARTH_WEIGHT, _hatch_colour(filled.colour)))
    elif trace.source == "lines":
        for strokes in own.strokes if own else plate.strokes:
            with canvas.group(f"lines {strokes.group}"):
                canvas.stroke(strokes.lines, Stroke(strokes.pen.weight, strokes.pen.colour, strokes.pen.dash))
    else:
        pixels = _pixels(trace, plate)
        if own:
            pixels = np.round(pixels * (own.mask[..., None] / np.float32(255))).astype(np.uint8)
        canvas.image(pixels, 0, 0, *plate.frame)


def draw_plate(canvas: Canvas, plate: Plate, traces: Sequence[Trace], sheet: Sheet, *, paper: bool = True) -> None:
    """The whole picture: every trace that is on, from the lowest up, and the notes. ``paper`` False leaves papers out."""
    width, height = plate.frame
    inner = (sheet.margin, sheet.margin, max(width - 2 * sheet.margin, 1.0), max(height - 2 * sheet.margin, 1.0))
    for trace in traces:
        if not trace.on or trace.opacity <= 0 or (trace.source == "paper" and not paper):
            continue
        with canvas.group(trace.name, trace.opacity, trace.blend):
            if trace.source == "paper":
                draw_trace(canvas, trace, plate)
            else:
                with canvas.clip(*inner):
                    draw_trace(canvas, trace, plate)
    with canvas.group("Notes"):
        draw_notes(canvas, sheet, plate.projection, plate.view_name, plate.study_name)
