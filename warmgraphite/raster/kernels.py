"""The exact cover of pixels by areas, edge by edge."""

from __future__ import annotations

import numpy as np

from warmgraphite.kernels import device

__all__ = ["lay_edge"]


# Many arguments: what an inner loop goes by; a record would be made anew for each pixel or piece.
@device()
def lay_edge(acc, x0, y0, x1, y1, first, last, left, wide):
    """Add what an edge turns of the cover of rows ``first`` to ``last`` to differences along them (rows, columns + 2).

    Running sums along a row are then the share of each pixel that is covered, by the signed area to the right of all
    edges. Places are in pixels; columns count from ``left``. What lies left of them covers whole rows from their
    beginning; what lies right of ``wide`` columns none. After R. Levien's accumulation buffer for font outlines, 2016.
    """
    if y0 == y1:
        return
    turn = 1.0
    if y0 > y1:
        turn = -1.0
        x0, y0, x1, y1 = x1, y1, x0, y0
    begin, end = max(y0, float(first)), min(y1, float(last))
    if begin >= end:
        return
    slope = (x1 - x0) / (y1 - y0)
    x = x0 + (begin - y0) * slope - left
    for r in range(int(np.floor(begin)), min(int(np.ceil(end)), last)):
        dy = min(float(r + 1), end) - max(float(r), begin)
        if dy <= 0.0:
            continue
        onward = x + dy * slope
        d = dy * turn
        a, b = (x, onward) if x < onward else (onward, x)
        a = min(max(a, 0.0), wide)
        b = min(max(b, a), wide)
        i, j = int(np.floor(a)), int(np.ceil(b))
        row = acc[r - first]
        if j <= i + 1:
            middle = 0.5 * (a + b) - i
            row[i] += d * (1.0 - middle)
            row[i + 1] += d * middle
        else:
            # The cover of each pixel is a trapezium: of the first and the last a triangle is left out.
            s = 1.0 / (b - a)
            before, beyond = 1.0 - (a - i), b - j + 1.0
            opening, closing = 0.5 * s * before * before, 0.5 * s * beyond * beyond
            row[i] += d * opening
            if j == i + 2:
                row[i + 1] += d * (1.0 - opening - closing)
            else:
                second = s * (1.5 - (a - i))
                row[i + 1] += d * (second - opening)
                for k in range(i + 2, j - 1):
                    row[k] += d * s
                row[j - 1] += d * (1.0 - (second + (j - i - 3) * s) - closing)
            row[j] += d * closing
        x = onward
