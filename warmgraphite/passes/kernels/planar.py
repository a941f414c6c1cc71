"""Loops of a planar map on a grid: segments rounded so that none crosses another, and the faces between them.

Places are whole numbers of a grid's step. Rounding is snap rounding (Hobby 1999; Guibas and Marimont 1998): ends and
crossings are hot, each stands for the square about it, and a segment goes through the middle of every hot square that
it touches. Then no two segments meet but at their ends. Faces are traced along half-edges.
"""

from __future__ import annotations

import numpy as np

from warmgraphite.geometry.tolerances import NEAR, NO_LENGTH
from warmgraphite.kernels import kernel
from warmgraphite.kernels.arrays import grown, grown_rows

__all__ = ["binned", "crossings", "drawn_in", "labelled", "loops", "rounded"]


@kernel("f8[:,::1], f8[:,::1], i8, i8, i8, f8")
def binned(start, end, cell, nx, ny, reach):
    """Segments (S, 2) listed by the cells of a grid that come within ``reach`` of them.
    Where each list begins, and the segments.
    """
    first = np.zeros(nx * ny + 1, np.int64)
    held = np.empty(0, np.int32)
    for sweep in range(2):
        if sweep == 1:
            for k in range(nx * ny):
                first[k + 1] += first[k]
            held = np.empty(first[nx * ny], np.int32)
            fill = first[:-1].copy()
        for s in range(len(start)):
            x0, y0, x1, y1 = start[s, 0], start[s, 1], end[s, 0], end[s, 1]
            if y0 > y1:
                x0, y0, x1, y1 = x1, y1, x0, y0
            low, high = max(int((y0 - reach) // cell), 0), min(int((y1 + reach) // cell), ny - 1)
            for r in range(low, high + 1):
                a, b = x0, x1
                if high > low and y1 > y0:
                    # What of the segment lies in this row of cells.
                    slope = (x1 - x0) / (y1 - y0)
                    ya, yb = max(r * cell - reach, y0), min((r + 1) * cell + reach, y1)
                    a, b = x0 + (ya - y0) * slope, x0 + (yb - y0) * slope
                left, right = max(int((min(a, b) - reach) // cell), 0), min(int((max(a, b) + reach) // cell), nx - 1)
                for c in range(left, right + 1):
                    if sweep == 0:
                        first[r * nx + c + 1] += 1
                    else:
                        held[fill[r * nx + c]] = s
                        fill[r * nx + c] += 1
    return first, held


@kernel("f8[:,::1], f8[:,::1], i8[::1], i4[::1], i8, i8")
def crossings(start, end, first, held, cell, nx):
    """Where segments cross one another, rounded (C, 2); each once, in the cell that it lies in."""
    out = np.empty((1024, 2), np.int64)
    n = 0
    for k in range(first.size - 1):
        for i in range(first[k], first[k + 1]):
            p = held[i]
            ax, ay = start[p, 0], start[p, 1]
            dx, dy = end[p, 0] - ax, end[p, 1] - ay
            for j in range(i + 1, first[k + 1]):
                q = held[j]
                bx, by = start[q, 0], start[q, 1]
                ex, ey = end[q, 0] - bx, end[q, 1] - by
                across = dx * ey - dy * ex
                if across == 0.0:
                    continue
                gx, gy = bx - ax, by - ay
                t, u = gx * ey - gy * ex, gx * dy - gy * dx
                if across < 0:
                    across, t, u = -across, -t, -u
                if t < 0 or t > across or u < 0 or u > across:
                    continue
                if (t == 0.0 or t == across) and (u == 0.0 or u == across):
                    continue  # they only share an end, which is hot anyway
                share = t / across
                x, y = ax + share * dx, ay + share * dy
                if int(y // cell) * nx + int(x // cell) != k:
                    continue
                if n == len(out):
                    out = grown_rows(out, 2 * n)
                out[n, 0], out[n, 1] = int(np.floor(x + 0.5)), int(np.floor(y + 0.5))
                n += 1
    return out[:n].copy()


@kernel("f8[:,::1], f8[:,::1], i8[:,::1], i8[::1], i4[::1], i8, i8, i8")
def rounded(start, end, hot, first, held, cell, nx, ny):
    """Segments through the hot squares that they touch: pairs of hot places (E, 2).
    ``first``, ``held`` list the hot places by cells, each in all that its square touches.
    """
    out = np.empty((2 * len(start) + 16, 2), np.int32)
    n = 0
    names, places = np.empty(4096, np.int32), np.empty(4096)
    for s in range(len(start)):
        x0, y0, x1, y1 = start[s, 0], start[s, 1], end[s, 0], end[s, 1]
        dx, dy = x1 - x0, y1 - y0
        size = max(dx * dx + dy * dy, NO_LENGTH)
        m = 0
        low, high = max(int(min(y0, y1) // cell), 0), min(int(max(y0, y1) // cell), ny - 1)
        for r in range(low, high + 1):
            a, b = x0, x1
            if high > low and dy != 0:
                slope = dx / dy
                ya, yb = max(r * cell, min(y0, y1)), min((r + 1) * cell, max(y0, y1))
                a, b = x0 + (ya - y0) * slope, x0 + (yb - y0) * slope
            left, right = (
                max(int((min(a, b) - NEAR) // cell), 0),
                min(int((max(a, b) + NEAR) // cell), nx - 1),
            )
            for c in range(left, right + 1):
                for k in range(first[r * nx + c], first[r * nx + c + 1]):
                    h = held[k]
                    # Whether the segment touches the square about it: cut to its sides (Liang and Barsky 1984).
                    hx, hy = hot[h, 0] - x0, hot[h, 1] - y0
                    near, far = 0.0, 1.0
                    if dx == 0:
                        if abs(hx) > 0.5:
                            continue
                    else:
                        ta, tb = (hx - 0.5) / dx, (hx + 0.5) / dx
                        near, far = max(near, min(ta, tb)), min(far, max(ta, tb))
                    if dy == 0:
                        if abs(hy) > 0.5:
                            continue
                    else:
                        ta, tb = (hy - 0.5) / dy, (hy + 0.5) / dy
                        near, far = max(near, min(ta, tb)), min(far, max(ta, tb))
                    if near > far:
                        continue
                    if m == len(names):
                        names, places = grown(names), grown(places)
                    names[m], places[m] = h, (hx * dx + hy * dy) / size
                    m += 1
        for i in range(1, m):  # few; a place may have been found in several cells
            name, place, k = names[i], places[i], i
            while k > 0 and places[k - 1] > place:
                names[k], places[k] = names[k - 1], places[k - 1]
                k -= 1
            names[k], places[k] = name, place
        if n + m > len(out):
            out = grown_rows(out, 2 * (n + m))
        before = -1
        for i in range(m):
            if before >= 0 and names[i] != before:
                out[n, 0], out[n, 1] = before, names[i]
                n += 1
            before = names[i]
    return out[:n].copy()


@kernel("i4[:,::1], i8")
def drawn_in(edges, count):
    """(E,) which edges, pairs of ``count`` nodes, are left when all that hang loose at one end are taken away."""
    degree = np.zeros(count, np.int32)
    for e in range(len(edges)):
        degree[edges[e, 0]] += 1
        degree[edges[e, 1]] += 1
    first = np.zeros(count + 1, np.int64)
    for k in range(count):
        first[k + 1] = first[k] + degree[k]
    own, fill = np.empty(first[count], np.int64), first[:-1].copy()
    for e in range(len(edges)):
        for k in range(2):
            own[fill[edges[e, k]]] = e
            fill[edges[e, k]] += 1
    kept = np.ones(len(edges), np.bool_)
    loose = [0]
    loose.pop()
    for k in range(count):
        if degree[k] == 1:
            loose.append(k)
    while len(loose) > 0:
        node = loose.pop()
        for i in range(first[node], first[node + 1]):
            e = own[i]
            if kept[e]:
                kept[e] = False
                other = edges[e, 0] + edges[e, 1] - node
                degree[node] -= 1
                degree[other] -= 1
                if degree[other] == 1:
                    loose.append(other)
    return kept


@kernel("i8[::1]")
def labelled(after):
    """The ring of each half-edge, from the one that comes ``after`` each (H,); and how many there are."""
    label = np.full(len(after), -1, np.int64)
    n = 0
    for h in range(len(after)):
        if label[h] >= 0:
            continue
        k = h
        while label[k] < 0:
            label[k] = n
            k = after[k]
        n += 1
    return label, n


@kernel("i8[::1], i8[::1], i8[:,::1], i8[::1], i8")
def loops(after, origin, xy, label, count):
    """The rings taken apart where they come back to a place.
    Nodes (V,), where each loop begins, the ring that each is of, and twice its area, which is above zero where the face
    lies within.
    """
    nodes, begins = np.empty(len(after), np.int64), np.empty(len(after) + 1, np.int64)
    of, area = np.empty(len(after), np.int64), np.empty(len(after), np.int64)
    seen = np.full(len(xy), -1, np.int64)  # where on the stack a node stands
    stack = np.empty(len(after) + 1, np.int64)
    done = np.zeros(count, np.bool_)
    n, made = 0, 0
    for h in range(len(after)):
        if done[label[h]]:
            continue
        done[label[h]] = True
        top, k = 0, h
        while True:
            node = origin[k]
            if seen[node] >= 0:
                # Back at a place: what was gone since is a loop of its own.
                begins[made], of[made] = n, label[h]
                total = 0
                start = seen[node]
                for i in range(start, top):
                    a, b = stack[i], stack[i + 1] if i + 1 < top else node
                    total += xy[a, 0] * xy[b, 1] - xy[b, 0] * xy[a, 1]
                    nodes[n] = a
                    n += 1
                    if i > start:
                        seen[a] = -1
                area[made] = total
                made += 1
                top = start
                seen[node] = -1
            if k == h and top == 0 and made > 0 and of[made - 1] == label[h]:
                break
            stack[top] = node
            seen[node] = top
            top += 1
            k = after[k]
            if k == h and top > 0 and seen[origin[h]] < 0:
                break
        for i in range(top):
            seen[stack[i]] = -1
    begins[made] = n
    return nodes[:n].copy(), begins[: made + 1].copy(), of[:made].copy(), area[:made].copy()
