"""Loops over pixels."""

from __future__ import annotations

import numpy as np
from numba import njit

__all__ = ["lit_points", "rim_pixels"]


@njit(nogil=True, cache=True)
def lit_points(points, triangle, frame, normal, source, inverse, eye, sight, central, model_corner, smooth, ray, lift, middle):
    """For frame points (N, 2) on triangles: start of the sun ray (float32, lifted), how the face and its curve face the sun.

    ``facing`` is the flat normal's cosine to the sun, −2 where nothing or a cut is seen; ``tone`` the smooth normal's.
    """
    n = len(points)
    start = np.zeros((n, 3), np.float32)
    facing = np.full(n, -2.0, np.float32)
    tone = np.zeros(n, np.float32)
    for i in range(n):
        t = triangle[i]
        if t < 0 or source[t] < 0:
            continue
        a = frame[t, 0]
        ux, uy = frame[t, 1, 0] - a[0], frame[t, 1, 1] - a[1]
        vx, vy = frame[t, 2, 0] - a[0], frame[t, 2, 1] - a[1]
        area = ux * vy - uy * vx
        if area == 0.0:
            continue
        px, py = points[i, 0] - a[0], points[i, 1] - a[1]
        p = (px * vy - py * vx) / area
        q = (ux * py - uy * px) / area
        z = a[2] + p * (frame[t, 1, 2] - a[2]) + q * (frame[t, 2, 2] - a[2])
        w = inverse[3, 0] * points[i, 0] + inverse[3, 1] * points[i, 1] + inverse[3, 2] * z + inverse[3, 3]
        at = np.empty(3)
        for k in range(3):
            at[k] = (inverse[k, 0] * points[i, 0] + inverse[k, 1] * points[i, 1] + inverse[k, 2] * z + inverse[k, 3]) / w
        away = 0.0
        for k in range(3):
            away += normal[t, k] * ((at[k] - eye[k]) if central else sight[k])
        turn = -1.0 if away > 0 else 1.0
        # Where the point lies on the whole triangle that this one was cut from.
        corner = model_corner[source[t]]
        uu = uv = vv = wu = wv = 0.0
        for k in range(3):
            u = corner[1, k] - corner[0, k]
            v = corner[2, k] - corner[0, k]
            d = at[k] - corner[0, k]
            uu += u * u
            uv += u * v
            vv += v * v
            wu += d * u
            wv += d * v
        det = uu * vv - uv * uv
        if det <= 0.0:
            continue
        b1 = min(max((vv * wu - uv * wv) / det, 0.0), 1.0)
        b2 = min(max((uu * wv - uv * wu) / det, 0.0), 1.0)
        b0 = max(1.0 - b1 - b2, 0.0)
        length = 0.0
        flat = 0.0
        bent = 0.0
        for k in range(3):
            s = b0 * smooth[source[t], 0, k] + b1 * smooth[source[t], 1, k] + b2 * smooth[source[t], 2, k]
            length += s * s
            bent += s * ray[k]
            flat += normal[t, k] * ray[k]
            start[i, k] = at[k] + turn * normal[t, k] * lift - middle[k]
        facing[i] = turn * flat
        tone[i] = turn * bent / np.sqrt(max(length, 1e-30))
    return start, facing, tone


@njit(nogil=True, cache=True)
def rim_pixels(code, triangle, normal, bend):
    """(h, w) pixels beside one with another code, or whose surface faces more than ``bend`` (per axis) another way."""
    height, width = code.shape
    rim = np.zeros((height, width), np.bool_)
    for r in range(height):
        for c in range(width):
            for step in range(2):
                r2 = r + step
                c2 = c + 1 - step
                if r2 >= height or c2 >= width:
                    continue
                differ = code[r, c] != code[r2, c2]
                if not differ:
                    s = triangle[r, c]
                    t = triangle[r2, c2]
                    if s >= 0 and t >= 0 and s != t:
                        for k in range(3):
                            if abs(normal[s, k] - normal[t, k]) > bend:
                                differ = True
                if differ:
                    rim[r, c] = True
                    rim[r2, c2] = True
    return rim
