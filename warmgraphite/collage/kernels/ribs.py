"""Corrugations and standing seams, and wire."""

from __future__ import annotations

import numpy as np

from warmgraphite.collage.kernels.filtering import BEVEL, BULGE, JOINT, LENGTH, fading, lines
from warmgraphite.kernels import device

__all__ = ["mesh_row", "ribs_row"]

_F = np.float32


@device(fast=True)
def ribs_row(us, many_u, t, joint, nx):
    """Fill for places (n,): share of joint, where ribs have one, and the slope across them."""
    length, half, bevel, bulge = t[LENGTH], _F(0.5 * t[JOINT]), _F(t[BEVEL]), _F(t[BULGE])
    apart, per_length = _F(length), 1.0 / length
    if half > 0.0:
        for n in range(len(us)):
            at = us[n] * per_length
            at, foot = _F(at - np.floor(at)) * apart, _F(1) / many_u[n]
            seen = min(max(_F(0.5) * apart * many_u[n] - _F(1), _F(0)), _F(1))
            joint[n] = lines(at, apart, half, foot, many_u[n])
            round_ = _F(1) / (bevel + _F(0.5) * foot)
            nx[n] = (fading((apart - at) * round_) - fading(at * round_)) * seen
        return
    for n in range(len(us)):
        at = us[n] * per_length
        at = _F(at - np.floor(at))
        seen = min(max(_F(0.5) * apart * many_u[n] - _F(1), _F(0)), _F(1))
        # A wave out of two parabolas, which is within a tenth of a cosine.
        z = abs(at - _F(0.5)) * _F(4) - _F(1)
        nx[n] = bulge * z * (_F(2) - abs(z)) * seen


@device(fast=True)
def mesh_row(us, vs, many_u, many_v, t, alpha):
    """Fill for places (n,) the share of wire in a mesh of squares that stand on a corner."""
    apart, half = t[LENGTH], 0.5 * t[JOINT]
    for n in range(len(us)):
        foot = 0.7071 * (1.0 / many_u[n] + 1.0 / many_v[n])
        a, b, many = 0.7071 * (us[n] + vs[n]), 0.7071 * (vs[n] - us[n]), 1.0 / foot
        one = lines(a - np.floor(a / apart) * apart, apart, half, foot, many)
        two = lines(b - np.floor(b / apart) * apart, apart, half, foot, many)
        alpha[n] = 1.0 - (1.0 - one) * (1.0 - two)
