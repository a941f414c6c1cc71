"""Tones of everything in a few flat steps, as shapes."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import shapely
from contourpy import FillType, contour_generator
from numpy.typing import NDArray
from scipy import ndimage

from warmgraphite.collage.tones.specification import TonesSpec
from warmgraphite.geometry.tolerances import FINEST
from warmgraphite.passes.light import Light
from warmgraphite.passes.surface import Surface

__all__ = ["tone_shapes"]

#: Millimetres by which the outline of a tone may leave what was followed.
SLACK = 0.02
#: Square millimetres below which a patch of tone is a stray.
STRAY = 0.15


def _share(amount: NDArray[np.uint8]) -> NDArray[np.float32]:
    return amount.astype(np.float32) / np.float32(255)


def tone_shapes(
    seen: Surface, light: Light, corners: NDArray[np.uint8], spec: TonesSpec, frame: tuple[float, float]
) -> list[shapely.Geometry]:
    """For each step but the paper's the shape of all that is at least so dark.
    They come from the lightest on, in millimetres of a ``frame``: each lies within the one before.
    """
    # Shade under a shadow is no shadow twice: the sun is kept off once.
    lit = np.minimum(1 - spec.shadow * _share(light.shadow), 1 - spec.shade * _share(light.shade))
    soft = ndimage.gaussian_filter(_share(corners), 1.2)
    dark = 1 - lit * (1 - spec.corners * soft)
    bare = (seen.cover > 127) & (seen.cap < 128)
    level = np.where(bare, dark / max(spec.darkest, FINEST) * (spec.steps - 1) + 0.5, 0.0)
    height, width = level.shape
    # A row more on every side, so that what runs out of the frame is closed beyond it.
    x = (np.arange(-1, width + 1) + 0.5) * (frame[0] / width)
    y = (np.arange(-1, height + 1) + 0.5) * (frame[1] / height)
    following = contour_generator(x, y, np.pad(level, 1, mode="edge"), fill_type=FillType.OuterOffset)
    return [_shape(*following.filled(step, 1e9)) for step in range(1, spec.steps)]


def _shape(points: list[NDArray], offsets: list[NDArray]) -> shapely.Geometry:
    found = []
    for own, at in zip(points, offsets, strict=True):
        outer, *holes = (own[a:b] for a, b in pairwise(at.tolist()))
        if len(outer) > 3:
            found.append(shapely.Polygon(outer, [h for h in holes if len(h) > 3 and shapely.Polygon(h).area > STRAY]))
    shapes = shapely.simplify(np.array(found, dtype=object), SLACK)
    kept = [s for s in shapes if s.area > STRAY]
    return shapely.MultiPolygon([p for s in kept for p in shapely.get_parts(s) if shapely.get_type_id(p) == 3])
