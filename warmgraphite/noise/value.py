"""Value noise: heights on a lattice, joined smoothly, in octaves.
After Perlin ("An image synthesizer", 1985), in its simplest form.

A height is a hash of its place on the lattice: noise is a function of place and seed alone.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from warmgraphite.noise.easing import eased
from warmgraphite.noise.hashing import STEP, finished, unit_share
from warmgraphite.threads import in_stretches

__all__ = ["random_of", "ridge", "value_noise", "value_over"]

Floats = NDArray[np.float32]


def value_noise(
    x: NDArray[np.float64], y: NDArray[np.float64], pixel: float, cell: float, octaves: int, seed: int
) -> NDArray[np.float32]:
    """(h, w) float32 from −1 to 1 at evenly spaced columns ``x`` (w,) and rows ``y`` (h,), all in one unit.
    Not to be written to.

    ``cell`` is the coarsest lattice; each further octave halves it and its strength, down to what a ``pixel`` shows.
    """
    out = np.zeros((len(y), len(x)), np.float32)
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


def value_over(key: int, u: NDArray[np.float64], v: NDArray[np.float64]) -> NDArray[np.float64]:
    """(N,) value noise from −1 to 1 at places of a plane, in cells.
    It is joined by Perlin's quintic ("Improving noise", 2002): what :func:`warmgraphite.noise.kernels.value_over` gives
    in loops.
    """
    i, j = np.floor(u), np.floor(v)
    s, t = ((w * w * w * (w * (6 * w - 15) + 10)) for w in (u - i, v - j))
    total = np.zeros(len(u))
    for di in (0, 1):
        for dj in (0, 1):
            place = ((i + di + 100_000).astype(np.int64) * 1_000_003 + (j + dj + 100_000).astype(np.int64)).astype(
                np.uint64
            )
            height = 2.0 * unit_share(_mixed(key, place)) - 1.0
            total += (s if di else 1.0 - s) * (t if dj else 1.0 - t) * height
    return total


def _mixed(key: int, place: NDArray[np.uint64]) -> NDArray[np.uint64]:
    """(N,) a number of a key and a place: splitmix64 of both, begun with the key."""
    with np.errstate(over="ignore"):
        z = (np.uint64(key) ^ (place * STEP)) + STEP
    return finished(z)


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
    return np.stack(
        [-0.5 * t * u * u, 1 + t * t * (1.5 * t - 2.5), 1 + u * u * (1.5 * u - 2.5), -0.5 * t * t * u]
    ).astype(np.float32)


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


def random_of(*seeds: int) -> np.random.Generator:
    """Chance that belongs to a place and a seed."""
    return np.random.default_rng([abs(s) * 2 + (s < 0) for s in seeds])


def ridge(u: NDArray, cell: float, octaves: int, seed: int) -> Floats:
    """(n,) heights from −1 to 1 along a line, as unevenness with lattice cells so wide."""
    total, strength, out = 0.0, 1.0, np.zeros(len(u), np.float32)
    for octave in range(octaves):
        place = np.asarray(u, np.float64) / cell
        first = np.floor(place).astype(np.int64)
        at = np.arange(first.min(), first.max() + 2)
        heights = (
            np.array([random_of(seed, octave, int(k)).random() * 2 - 1 for k in at])
            if len(at) < 4000
            else np.zeros(len(at))
        )
        t = eased(place - first)
        k = first - at[0]
        out += strength * (heights[k] * (1 - t) + heights[k + 1] * t)
        total, strength, cell = total + strength, strength * 0.5, cell * 0.5
    return np.asarray(out / total, np.float32)
