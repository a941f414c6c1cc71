"""Loops that lay layers over one another, as maps of what lies below."""

from __future__ import annotations

import numpy as np

from warmgraphite.kernels import kernel

__all__ = ["over", "then"]


@kernel("u2[:,:,::1], u2[:,:,::1], u1[:,:,::1], u4, i8, i8, i8")
def then(scale, shift, layer, opacity, mode, first, last):
    """Lay rows ``first`` to ``last`` of a layer (h, w, 4) over maps (h, w, 3) in 65,535ths; ``opacity`` in 257ths."""
    half, one, bits = np.uint32(32768), np.uint32(65535), np.uint32(16)
    for r in range(first, last):
        for c in range(layer.shape[1]):
            alpha = np.uint32(layer[r, c, 3]) * opacity
            if alpha == 0:
                continue
            for k in range(3):
                colour = np.uint32(layer[r, c, k]) * opacity
                p = one - alpha if mode == 0 else one - alpha + colour if mode == 1 else one - colour
                # A product of 65,535ths, rounded, without dividing.
                x = scale[r, c, k] * p + half
                scale[r, c, k] = np.uint16((x + (x >> bits)) >> bits)
                x = shift[r, c, k] * p + half
                x = (x + (x >> bits)) >> bits
                shift[r, c, k] = np.uint16(x if mode == 1 else min(x + colour, one))


@kernel("u2[:,:,::1], u2[:,:,::1], u1[:,:,::1], i8, i8, u1[:,:,::1]")
def over(scale, shift, below, first, last, out):
    for r in range(first, last):
        for c in range(below.shape[1]):
            for k in range(3):
                value = (below[r, c, k] * np.float32(scale[r, c, k]) + np.float32(255.0) * shift[r, c, k]) / np.float32(
                    65535.0
                )
                out[r, c, k] = np.uint8(min(value + np.float32(0.5), np.float32(255.0)))
            out[r, c, 3] = 255
