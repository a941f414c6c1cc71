"""What loops ask of one triangle's linear forms.
Its depth, whether a place lies on it, what of a line lies between its sides.
"""

from __future__ import annotations

from warmgraphite.kernels import device

__all__ = ["between_sides", "depth_of", "is_on"]

#: Millimetres beyond a side at which a place still lies on its triangle.
ON_SIDE = -1e-9


@device(borrows=True)
def depth_of(f, x, y):
    """The depth of a triangle's plane at a place on paper."""
    return f[9] * x + f[10] * y + f[11]


@device(borrows=True)
def is_on(f, x, y):
    """Whether a place on paper lies on a triangle."""
    return not (
        f[0] * x + f[1] * y + f[2] < ON_SIDE
        or f[3] * x + f[4] * y + f[5] < ON_SIDE
        or f[6] * x + f[7] * y + f[8] < ON_SIDE
    )


@device(borrows=True)
def between_sides(f, line, low, high, over):
    """Of a stretch of a line from a to b what lies inside a triangle on paper, or ``over`` millimetres beyond it.
    Empty as (1, 0).
    """
    ax, ay, bx, by = line.ax, line.ay, line.bx, line.by
    for i in range(0, 9, 3):
        fa = f[i] * ax + f[i + 1] * ay + f[i + 2] + over
        fb = f[i] * bx + f[i + 1] * by + f[i + 2] + over
        if fa < 0.0:
            if fb < 0.0:
                return 1.0, 0.0
            low = max(low, fa / (fa - fb))
        elif fb < 0.0:
            high = min(high, fa / (fa - fb))
    return (low, high) if low < high else (1.0, 0.0)
