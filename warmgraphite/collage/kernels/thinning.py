"""The loops that thin what is drawn to lines one pixel wide, and follow these."""

from __future__ import annotations

import numpy as np

from warmgraphite.kernels import kernel

__all__ = ["followed", "thin"]


@kernel("u1[:,::1]", division="numpy")
def thin(ink):  # type: ignore[no-untyped-def]
    """Thin ``ink`` (h, w) uint8 of 0 and 1, in place, bare at its rim, to its skeleton (Zhang and Suen, "A fast parallel algorithm for
    thinning digital patterns", 1984)."""
    rows, columns = np.nonzero(ink)
    live_r, live_c = rows.astype(np.int32), columns.astype(np.int32)
    count = len(live_r)
    gone = np.empty(count, np.int32)
    while True:
        changed = 0
        for half in range(2):
            out = 0
            for k in range(count):
                r, c = live_r[k], live_c[k]
                a, b, d, e = ink[r - 1, c], ink[r - 1, c + 1], ink[r, c + 1], ink[r + 1, c + 1]
                f, g, h, i = ink[r + 1, c], ink[r + 1, c - 1], ink[r, c - 1], ink[r - 1, c - 1]
                near = a + b + d + e + f + g + h + i
                if near < 2 or near > 6:
                    continue
                turns = (a == 0 and b == 1) + (b == 0 and d == 1) + (d == 0 and e == 1) + (e == 0 and f == 1)
                turns += (f == 0 and g == 1) + (g == 0 and h == 1) + (h == 0 and i == 1) + (i == 0 and a == 1)
                if turns != 1:
                    continue
                one, other = (a * d * f, d * f * h) if half == 0 else (a * d * h, a * f * h)
                if one == 0 and other == 0:
                    gone[out] = k
                    out += 1
            for j in range(out):
                ink[live_r[gone[j]], live_c[gone[j]]] = 0
            changed += out
            kept = 0
            for k in range(count):
                if ink[live_r[k], live_c[k]]:
                    live_r[kept], live_c[kept] = live_r[k], live_c[k]
                    kept += 1
            count = kept
        if changed == 0:
            return


@kernel("u1[:,::1], i4[:,::1], i8[::1]", division="numpy")
def followed(ink, points, first):  # type: ignore[no-untyped-def]
    """Follow a skeleton, which is eaten up: lines of pixels (row, column) into ``points`` (n, 2), each beginning at ``first``; gives how many
    lines there are. Lines begin at ends and at branches; what goes round has neither, and is taken last."""
    rows, columns = np.nonzero(ink)
    at, lines = 0, 0
    first[0] = 0
    for round_ in range(2):
        for k in range(len(rows)):
            r, c = rows[k], columns[k]
            if not ink[r, c]:
                continue
            near = 0
            for dr in range(-1, 2):
                for dc in range(-1, 2):
                    near += ink[r + dr, c + dc]
            near -= 1
            if round_ == 0 and near != 1:
                continue
            # Walk until nothing is left to go on to; straight on where there is a choice.
            begin = at
            pr, pc, vr, vc = r, c, 0, 0
            while True:
                points[at, 0], points[at, 1] = pr, pc
                at += 1
                ink[pr, pc] = 0
                best, br, bc = -9, 0, 0
                for dr in range(-1, 2):
                    for dc in range(-1, 2):
                        if (dr or dc) and ink[pr + dr, pc + dc]:
                            straight = 2 * (dr * vr + dc * vc) - (1 if dr and dc else 0)
                            if straight > best:
                                best, br, bc = straight, dr, dc
                if best == -9:
                    break
                vr, vc = br, bc
                pr, pc = pr + br, pc + bc
            if at - begin > 1:
                lines += 1
                first[lines] = at
            else:
                at = begin
    return lines
