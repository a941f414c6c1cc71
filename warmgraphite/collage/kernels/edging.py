"""The loop that softens, tears or grows the edge of a region, from how far each place lies within it."""

from __future__ import annotations

from numba import njit

from warmgraphite.collage.kernels.noise import layered, noise

__all__ = ["edge_rows"]


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def _smooth(t):
    t = min(max(t, 0.0), 1.0)
    return t * t * (3.0 - 2.0 * t)


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def _deep(away, within, across, down, x, y):
    """Millimetres within the border at a place of the paper, below zero beside it."""
    height, width = away.shape
    c = min(max(x / across - 0.5, 0.0), width - 1.001)
    r = min(max(y / down - 0.5, 0.0), height - 1.001)
    i, j = int(c), int(r)
    u, v = c - i, r - j
    total = 0.0
    for dj in range(2):
        for di in range(2):
            weight = (u if di else 1.0 - u) * (v if dj else 1.0 - v)
            own = away[j + dj, i + di] / 128.0
            total += weight * (own if within[j + dj, i + di] else -own)
    return total


@njit(nogil=True, cache=True, error_model="numpy", fastmath=True)
def edge_rows(
    first, last, x0, y0, across, down, middle_x, middle_y, away, within, step_x, step_y, kind, reach, outward, seed, out
):
    """Fill rows ``first`` to ``last`` of ``out`` (h, w) float32: the share of each pixel that an edge leaves.

    ``kind`` is 1 feathered, 2 torn, 3 wet, 4 grown; ``reach`` the millimetres that it takes, inwards or ``outward``.
    """
    pixel = max(across, down)
    soft = max(0.10, pixel)
    for r in range(first, last):
        fy = y0 + (r + 0.5) * down
        for c in range(out.shape[1]):
            fx = x0 + (c + 0.5) * across
            deep = _deep(away, within, step_x, step_y, fx, fy)
            if outward:
                deep += reach
            if deep > 1.3 * reach + soft:
                out[r, c] = 1.0
                continue
            if deep <= -soft:
                out[r, c] = 0.0
                continue
            x, y = fx - middle_x, fy - middle_y
            if kind == 1:
                share = _smooth(deep / reach)
            elif kind == 2:  # torn paper: a ragged line, and beside it a thin strip where only fibres are left
                line = reach * (0.5 + 0.75 * layered(x, y, max(2.4 * reach, 1.0), 5, seed, pixel))
                fibres = 0.18 * reach * (1.0 + layered(x, y, max(0.5 * reach, 0.4), 3, seed + 1, pixel))
                share = 0.45 * _smooth((deep - line + fibres) / soft) + 0.55 * _smooth((deep - line) / soft)
            elif kind == 3:  # water that went its own way
                deep += 0.45 * reach * layered(x, y, max(1.6 * reach, 1.0), 4, seed, pixel)
                share = _smooth(deep / (reach * (0.35 + 0.3 * (1.0 + noise(x / (3.0 * reach), y / (3.0 * reach), seed + 3)))))
            else:  # blades that stand up over it, each with its own height
                lean = 0.25 * layered(x, y, 3.0 * reach, 2, seed + 5, pixel) * reach
                blade = abs(noise((x + lean) / (0.16 * reach), y / (1.4 * reach), seed)) * 1.3
                tuft = 0.5 + 0.6 * layered(x, y, 2.2 * reach, 2, seed + 1, pixel)
                share = _smooth((deep - reach * min(blade * (0.4 + tuft), 1.0)) / soft)
            out[r, c] = share
