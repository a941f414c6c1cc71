"""Unevenness as a function of place and seed, for use inside other loops.

Gradient noise (Perlin, "Improving noise", 2002) on a hashed lattice, in octaves that end before they are finer than what is asked:
the same at any zoom, only less of it where a pixel is wide.
"""

from __future__ import annotations

import numpy as np
from numba import njit

__all__ = ["chance", "layered", "noise"]

_A, _B, _C = np.uint64(0x9E3779B97F4A7C15), np.uint64(0xC2B2AE3D27D4EB4F), np.uint64(0x165667B19E3779F9)
_D, _E = np.uint64(0xFF51AFD7ED558CCD), np.uint64(0xC4CEB9FE1A85EC53)
_32, _29, _LOW = np.uint64(32), np.uint64(29), np.uint64(0xFFFFFF)


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def _mixed(i, j, seed):
    # A finalizer in the manner of MurmurHash3 (Appleby, 2011).
    h = np.uint64(np.int64(i)) * _A ^ np.uint64(np.int64(j)) * _B ^ np.uint64(np.int64(seed)) * _C
    h ^= h >> _32
    h *= _D
    h ^= h >> _29
    h *= _E
    return h ^ (h >> _32)


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def chance(i, j, seed):
    """A number from 0 to 1 that belongs to a place of the lattice."""
    return float(_mixed(i, j, seed) & _LOW) / 16777215.0


_TURN = (np.arange(16) + 0.5) * (np.pi / 8)
_GX, _GY = 1.1 * np.cos(_TURN), 1.1 * np.sin(_TURN)
_15 = np.uint64(15)


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def _slope(i, j, seed, x, y):
    k = _mixed(i, j, seed) & _15
    return _GX[k] * x + _GY[k] * y


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def noise(x, y, seed):
    """About −1 to 1, smooth, with lattice 1."""
    fx, fy = np.floor(x), np.floor(y)
    i, j = int(fx), int(fy)
    x, y = x - fx, y - fy
    u = x * x * x * (x * (6.0 * x - 15.0) + 10.0)
    v = y * y * y * (y * (6.0 * y - 15.0) + 10.0)
    a, b = _slope(i, j, seed, x, y), _slope(i + 1, j, seed, x - 1.0, y)
    c, d = _slope(i, j + 1, seed, x, y - 1.0), _slope(i + 1, j + 1, seed, x - 1.0, y - 1.0)
    low, high = a + u * (b - a), c + u * (d - c)
    return 1.35 * (low + v * (high - low))


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def layered(x, y, cell, octaves, seed, finest):
    """About −1 to 1: octaves of noise, the coarsest with lattice ``cell``; those finer than ``finest`` are left out, softly."""
    total, found, strength = 0.0, 0.0, 1.0
    for octave in range(octaves):
        total += strength
        seen = min(max(cell / finest - 1.0, 0.0), 1.0)
        if seen > 0.0:
            found += seen * strength * noise(x / cell, y / cell, seed * 8 + octave)
        # Turned a little, so that no octave's lattice lies on another's.
        x, y = 0.8 * x - 0.6 * y, 0.6 * x + 0.8 * y
        cell *= 0.5
        strength *= 0.5
    return found / total
