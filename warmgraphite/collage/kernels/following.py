"""The loop that follows lines one pixel wide."""

from __future__ import annotations

import numpy as np

from warmgraphite.kernels import kernel

__all__ = ["followed"]


@kernel("u1[:,::1], i4[:,::1], i8[::1]", division="numpy")
def followed(ink, points, first):  # type: ignore[no-untyped-def]
    """Follow a skeleton, which is eaten up.
    Lines of pixels (row, column) into ``points`` (n, 2), each beginning at ``first``; gives how many lines there are.
    Lines begin at ends and at branches; what goes round has neither, and is taken last.
    """
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
