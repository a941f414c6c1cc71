"""The paper of a view: trade sizes, a side drawn out without moving the drawing, a frame that fits what is shown."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from warmgraphite.errors import ViewError
from warmgraphite.view.projection import NEAR, Projection
from warmgraphite.view.specification import Frame, Perspective, ViewSpecification

__all__ = ["MOST_PIXELS", "PAPERS", "Side", "extended", "fitted", "refuse_pixels", "sized_within"]

Side = Literal["left", "right", "top", "bottom"]

#: Millimetres, long side first: ISO 216, then ANSI/ASME Y14.1.
PAPERS: dict[str, tuple[float, float]] = {
    "A0": (1189, 841), "A1": (841, 594), "A2": (594, 420), "A3": (420, 297), "A4": (297, 210), "A5": (210, 148),
    "ANSI A": (279.4, 215.9), "ANSI B": (431.8, 279.4), "ANSI C": (558.8, 431.8), "ANSI D": (863.6, 558.8),
    "ANSI E": (1117.6, 863.6),
}  # fmt: skip


#: Pixels of one drawing: A1 at 300 to the inch, and a little more.
MOST_PIXELS = 80_000_000


def refuse_pixels(width: int, height: int, most: int = MOST_PIXELS, resolution: float | None = None) -> None:
    """Raises :class:`ViewError` for more than ``most`` pixels, before anything of that size is made.
    A ``resolution`` in pixels per inch that has been asked for is answered with the finest that is possible.
    """
    if width * height <= most:
        return
    do = "ask for a smaller picture"
    if resolution:
        do = f"choose a resolution of {math.floor(resolution * math.sqrt(most / (width * height)))} dpi or less, "
        do += "or a smaller paper"
    raise ViewError(
        f"This would be {width:,} × {height:,} pixels, and at most {most / 1e6:.0f} million can be drawn at once; {do}."
    )


def sized_within(frame: Frame, width: int, most: int, longest: int) -> tuple[int, int]:
    """Pixels of a picture of the frame ``width`` wide.
    Or as much smaller as it takes to have ``most`` of them and no side longer than ``longest``.
    """
    high = width * frame.height / frame.width
    share = min(1.0, math.sqrt(most / max(width * high, 1.0)), longest / max(width, high, 1.0))
    return max(1, round(width * share)), max(1, round(high * share))


def extended(view: ViewSpecification, side: Side, millimetres: float, projection: Projection) -> ViewSpecification:
    """The view on paper longer by so much (shorter, below zero) on one side; what is drawn stays where it is.

    ``projection`` is the view's own, which knows the scale and the centre that the view leaves open. Raises
    :class:`ViewError` where no paper would be left.
    """
    frame = view.frame
    across = side in ("left", "right")
    old = frame.width if across else frame.height
    new = round(old + millimetres, 3)
    if not 10 <= new <= 5000:
        raise ViewError(
            f"That would make the paper {new:g} mm {'wide' if across else 'high'}; it can be between 10 and 5000 mm."
        )
    # The drawing's middle keeps its place on the old paper; the paper's own middle moves.
    move = (new - old) / 2 * (-1 if side in ("right", "bottom") else 1)
    shift = (frame.shift[0] + (move if across else 0), frame.shift[1] + (0 if across else move))
    size = {"width": new} if across else {"height": new}
    spec = view.projection
    changes: dict = {"frame": frame.model_copy(update={**size, "shift": shift})}
    if isinstance(spec, Perspective):
        if across and not (spec.scale_distance and frame.scale):
            focal = frame.width / 2 / math.tan(math.radians(spec.field_of_view) / 2)
            angle = math.degrees(2 * math.atan(new / 2 / focal))
            if angle > 170:
                raise ViewError(
                    "A perspective cannot open wider than 170 degrees; step back before you draw the paper out."
                )
            changes["projection"] = spec.model_copy(update={"field_of_view": max(angle, 1)})
    else:
        middle = np.array([frame.width / 2 + frame.shift[0], frame.height / 2 + frame.shift[1], 0.0])
        centre = spec.centre or tuple(np.round(projection.unproject(middle), 6).tolist())
        changes["projection"] = spec.model_copy(update={"centre": centre})
        changes["frame"] = changes["frame"].model_copy(update={"scale": frame.scale or projection.scale})
    return view.model_copy(update=changes)


def fitted(view: ViewSpecification, shown: NDArray[np.float64]) -> ViewSpecification:
    """The view with all that is shown on its paper: points (N, 3) metres.
    Parallel kinds find their scale and centre again; a perspective opens or closes its angle.
    """
    frame = view.frame.model_copy(update={"shift": (0.0, 0.0)})
    spec = view.projection
    if not isinstance(spec, Perspective):
        free = frame.model_copy(update={"scale": None})
        return view.model_copy(update={"frame": free, "projection": spec.model_copy(update={"centre": None})})
    eye, target = np.array(spec.eye, float), np.array(spec.target, float)
    sight = target - eye
    forward = np.array([sight[0], sight[1], 0.0]) if spec.upright else sight
    lift = sight[2] / np.linalg.norm(forward) if spec.upright else 0.0
    forward = forward / np.linalg.norm(forward)
    up = np.array([0.0, 0.0, 1.0]) if spec.upright else np.array(spec.up, float)
    right = np.cross(forward, up)
    right /= np.linalg.norm(right)
    above = np.cross(right, forward)
    depth = (shown - eye) @ forward
    seen = shown[depth > NEAR] - eye
    if not len(seen):
        raise ViewError("Nothing that is shown lies before the eye; turn the view round before you fit it.")
    depth = seen @ forward
    wide = float(np.abs(seen @ right / depth).max())
    high = float(np.abs(seen @ above / depth - lift).max())
    half = 1.04 * max(wide, high * frame.width / frame.height)
    angle = min(max(math.degrees(2 * math.atan(half)), 1.0), 170.0)
    return view.model_copy(
        update={"frame": frame, "projection": spec.model_copy(update={"field_of_view": angle, "scale_distance": None})}
    )
