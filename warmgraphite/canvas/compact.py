"""Very many marks at once: polylines and ribbons as arrays, for backends that would otherwise take each by itself.

Points are (V, 2) frame millimetres; of mark s those from ``first[s]`` to ``first[s + 1]``.
"""

from __future__ import annotations

import struct
from functools import cache

import numpy as np
import skia
from numpy.typing import NDArray

from warmgraphite.canvas.kernels import marks

__all__ = ["outlines", "path_of", "svg_data", "tinted"]

First = NDArray[np.int64]


def outlines(xy: NDArray, width: NDArray, first: First) -> tuple[NDArray[np.float32], First]:
    """The closed outlines of ribbons ``width`` (V,) millimetres wide: points, and where each begins.
    All turn the same way, so that where they cross, both are filled by the rule that counts turns.
    """
    points = marks.outlines(np.ascontiguousarray(xy, np.float32), np.ascontiguousarray(width, np.float32), first)
    return points, 2 * first


def svg_data(xy: NDArray, first: First, closed: bool, digits: int, steps: bool) -> str:
    """Marks as the data of an SVG path: places, or a place and ``steps`` from point to point, which are shorter.
    All rounded to ``digits`` places.
    """
    rounded = np.round(np.asarray(xy, np.float64) * 10**digits).astype(np.int64)
    return bytes(marks.path_data(rounded, first, closed, digits, steps)).decode("ascii")


@cache
def _head() -> bytes:
    """What a path of the graphics library begins with when it is written down; it says how it is filled: by turns."""
    return bytes(skia.Path().serialize())[:4]


def path_of(xy: NDArray, first: First, closed: bool) -> skia.Path:
    """Marks as one path of the graphics library, read from memory as it writes them.
    A call for each point takes a hundred times as long.
    """
    count, pieces = len(xy), len(first) - 1
    path = skia.Path()
    if not count:
        return path
    verbs = np.ones(count + (pieces if closed else 0), np.uint8)
    starts = first[:-1] + (np.arange(pieces) if closed else 0)
    verbs[starts] = 0
    if closed:
        verbs[np.append(starts[1:] - 1, len(verbs) - 1)] = 5
    # The library reads and writes verbs from the last to the first in some versions, in order in this one.
    data = _head() + struct.pack("<iii", count, 0, len(verbs)) + np.asarray(xy, "<f4").tobytes() + verbs.tobytes()
    path.readFromMemory(data + b"\0" * (-len(data) % 4))
    return path


def tinted(
    xy: NDArray, width: NDArray, first: First, scale: tuple[float, float], shift: tuple[float, float],
    size: tuple[int, int],
    tints: NDArray[np.uint8],
) -> tuple[NDArray[np.uint8], tuple[int, int]]:  # fmt: skip
    """Ribbons on a picture, as the pixels (h, w, 4) of the part of it where they are, and its left and top.
    The picture has ``size`` = (width, height) pixels, on which a point lies at ``scale`` times its place
    plus ``shift``.

    The exact areas that they cover of each pixel are summed, and no more than one; ``tints`` (256, 4) are the pixels of
    shares from none to all.
    """
    points, starts = outlines(xy, width, first)
    place = points * np.asarray(scale, np.float32) + np.asarray(shift, np.float32)
    low = np.clip(np.floor(place.min(0)), 0, size).astype(int)
    high = np.clip(np.ceil(place.max(0)), low, size).astype(int)
    across, down = (int(n) for n in high - low)
    found = np.zeros((down, across + 2), np.float32)
    marks.areas(points, starts, *scale, shift[0] - int(low[0]), shift[1] - int(low[1]), found)
    pixels = np.zeros((down, across), np.uint32)
    marks.tinted(found, np.ascontiguousarray(tints).view(np.uint32)[:, 0], pixels)
    return pixels.view(np.uint8).reshape(down, across, 4), (int(low[0]), int(low[1]))
