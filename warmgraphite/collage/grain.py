"""Unevenness with a real size: the tooth of paper and the mottle of a wash, repeatable for a seed.

Value noise: heights on a lattice of so many millimetres, joined smoothly, in octaves (Perlin, "An image synthesizer", 1985, in
its simplest form). A height is a hash of its place on the lattice, so that noise is a function of place and seed alone: the same
in a window, at another zoom, and when the paper is drawn out.
"""

from __future__ import annotations

from functools import lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from warmgraphite.passes.surface import Raster
from warmgraphite.threads import in_stretches

__all__ = ["Ground", "value_noise"]

#: Pixels up to which unevenness is kept: the desk's, which is laid anew with every sun, and no export's.
KEPT = 4_000_000


class Ground(NamedTuple):
    """Where pixels lie on the paper: their ``raster`` over a ``frame`` in millimetres, and the ``middle`` of the drawing, from
    which places are counted, because it stays where it is when the paper is drawn out."""

    raster: Raster
    frame: tuple[float, float]
    middle: tuple[float, float]

    def along(self, axis: int) -> NDArray[np.float64]:
        """Millimetres from the middle of the pixels' centres, along x (0) or y (1)."""
        r = self.raster
        first, count = ((r.x, r.width), (r.y, r.height))[axis]
        places = (np.arange(first, first + count) + 0.5) * (self.frame[axis] / r.size[axis]) - self.middle[axis]
        return np.asarray(places, np.float64)


def value_noise(ground: Ground, cell: float, octaves: int, seed: int) -> NDArray[np.float32]:
    """(h, w) float32 from −1 to 1; not to be written to.

    ``cell`` is the coarsest lattice in millimetres; each further octave halves it and its strength.
    """
    r = ground.raster
    made = _kept if (r.width, r.height) == r.size and r.width * r.height <= KEPT else _made
    return made(ground, cell, octaves, seed)


def _heights(x: NDArray[np.int64], y: NDArray[np.int64], seed: int) -> NDArray[np.float32]:
    """(ny, nx) from −1 to 1: a hash of the lattice's points and the seed."""
    h = x.astype(np.uint32)[None, :] * np.uint32(0x9E3779B1) ^ y.astype(np.uint32)[:, None] * np.uint32(0x85EBCA77)
    h ^= np.uint32(seed * 0x27D4EB2F & 0xFFFFFFFF)
    # The finalizer of MurmurHash3 (Appleby, 2011).
    h ^= h >> np.uint32(16)
    h *= np.uint32(0x85EBCA6B)
    h ^= h >> np.uint32(13)
    h *= np.uint32(0xC2B2AE35)
    h ^= h >> np.uint32(16)
    return h.astype(np.float32) * np.float32(2 / 0xFFFFFFFF) - np.float32(1)


def _weights(t: NDArray[np.float32]) -> NDArray[np.float32]:
    """(4, n) of the four heights around a place, by Catmull and Rom (1974)."""
    u = 1 - t
    return np.stack([-0.5 * t * u * u, 1 + t * t * (1.5 * t - 2.5), 1 + u * u * (1.5 * u - 2.5), -0.5 * t * t * u]).astype(
        np.float32
    )


def _made(ground: Ground, cell: float, octaves: int, seed: int) -> NDArray[np.float32]:
    x, y = ground.along(0), ground.along(1)
    out = np.zeros((len(y), len(x)), np.float32)
    pixel = max(ground.frame[0] / ground.raster.size[0], ground.frame[1] / ground.raster.size[1])
    strength, total = 1.0, 0.0
    for octave in range(octaves):
        total += strength
        own = seed * 8 + octave
        if cell < pixel:
            # Finer than the pixels: what is left of it is its own noise, weaker by the averaging.
            weak = np.float32(strength * cell / pixel)
            out += weak * _heights(np.floor(x / cell).astype(np.int64), np.floor(y / cell).astype(np.int64), own)
            break
        _add_octave(out, x / cell, y / cell, own, np.float32(strength))
        cell /= 2
        strength /= 2
    out /= np.float32(total)
    out.flags.writeable = False
    return out


def _add_octave(
    out: NDArray[np.float32], x: NDArray[np.float64], y: NDArray[np.float64], seed: int, strength: np.float32
) -> None:
    i, j = np.floor(x).astype(np.int64), np.floor(y).astype(np.int64)
    columns, rows = np.arange(i[0] - 1, i[-1] + 3), np.arange(j[0] - 1, j[-1] + 3)
    lattice = _heights(columns, rows, seed) * strength
    wx, wy = _weights((x - i).astype(np.float32)), _weights((y - j).astype(np.float32))
    i, j = i - i[0], j - j[0]
    wide = sum(lattice[:, i + k] * wx[k] for k in range(4))

    def stretch(first: int, last: int) -> None:
        for k in range(4):
            out[first:last] += wide[j[first:last] + k] * wy[k, first:last, None]

    in_stretches(stretch, len(out), 64)


_kept = lru_cache(maxsize=24)(_made)
