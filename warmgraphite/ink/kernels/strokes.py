"""Loops over strokes: corners, dashes, and the ribbons of a hand."""

from __future__ import annotations

import numpy as np

from warmgraphite.kernels import device, kernel
from warmgraphite.noise.kernels import mixed, ramp, share, value_along

__all__ = ["corners", "dashed", "lengths", "oriented", "ribbons", "room", "split_at_corners"]

#: Millimetres between the points of a ribbon.
STEP = 1.2
#: Millimetres in which the pen may be lifted once.
LIFT = 32.0
#: Millimetres over which a stroke comes to its full width.
TAPER = 1.8
#: Shortest and longest gap where the pen is lifted.
GAP = (0.7, 2.2)
#: Millimetres from the ends within which a stroke does not leave its line.
HELD = 2.5


@kernel("f8[:,::1], i8[::1], f8")
def split_at_corners(xy, first, least):
    n_out = 0
    for s in range(first.size - 1):
        for k in range(first[s], first[s + 1]):
            n_out += 1 if k == first[s] or k == first[s + 1] - 1 else 2
    out = np.empty((n_out, 2))
    begins = np.empty(n_out + 1, np.int64)
    of = np.empty(n_out, np.int32)
    n, pieces = 0, 0
    for s in range(first.size - 1):
        a, b = first[s], first[s + 1]
        if b - a < 2:
            continue
        begins[pieces], of[pieces] = n, s
        pieces += 1
        for k in range(a, b):
            out[n, 0], out[n, 1] = xy[k, 0], xy[k, 1]
            n += 1
            if k == a or k == b - 1:
                continue
            ux, uy, vx, vy = xy[k, 0] - xy[k - 1, 0], xy[k, 1] - xy[k - 1, 1], xy[k + 1, 0] - xy[k, 0], xy[k + 1, 1] - xy[k, 1]
            size = np.sqrt((ux * ux + uy * uy) * (vx * vx + vy * vy))
            if ux * vx + uy * vy < least * size:
                begins[pieces], of[pieces] = n, s
                pieces += 1
                out[n, 0], out[n, 1] = xy[k, 0], xy[k, 1]
                n += 1
    begins[pieces] = n
    return out[:n].copy(), begins[: pieces + 1].copy(), of[:pieces].copy()


#: A direction that no line of a drawing is likely to be at right angles to.
TILT = 0.61803


@kernel("f8[:,::1], i8[::1]")
def oriented(xy, first):
    """Polylines that begin at the end that lies first along one slanting direction; closed ones at their first point, all round
    the same way. So a stroke is the same, however its pieces were found."""
    out = np.empty_like(xy)
    for s in range(first.size - 1):
        a, b = first[s], first[s + 1]
        last = b - 1
        if b - a > 3 and xy[a, 0] == xy[last, 0] and xy[a, 1] == xy[last, 1]:
            count, start, area = b - a - 1, a, 0.0
            for k in range(a, last):
                if xy[k, 0] + TILT * xy[k, 1] < xy[start, 0] + TILT * xy[start, 1]:
                    start = k
                area += xy[k, 0] * xy[k + 1, 1] - xy[k + 1, 0] * xy[k, 1]
            for k in range(count + 1):
                step = k if area > 0 else -k
                p = a + (start - a + step) % count
                out[a + k, 0], out[a + k, 1] = xy[p, 0], xy[p, 1]
        elif xy[last, 0] + TILT * xy[last, 1] < xy[a, 0] + TILT * xy[a, 1]:
            for k in range(b - a):
                out[a + k, 0], out[a + k, 1] = xy[last - k, 0], xy[last - k, 1]
        else:
            for k in range(a, b):
                out[k, 0], out[k, 1] = xy[k, 0], xy[k, 1]
    return out, first


@kernel("f8[:,::1], i8[::1], i8[::1]")
def corners(way, begins, other):
    """For ends with the unit ``way`` (N, 2) into their strokes, and the ``other`` ends at each: which are real corners."""
    found = np.zeros(len(way), np.bool_)
    for e in range(len(way)):
        a, b = begins[e], begins[e + 1]
        turned = False
        through = False
        for i in range(a, b):
            p = other[i]
            dot = way[e, 0] * way[p, 0] + way[e, 1] * way[p, 1]
            if dot < -0.94:
                through = True  # it goes on with another pen
            elif dot < 0.98:
                turned = True
            for j in range(i + 1, b):
                q = other[j]
                if way[p, 0] * way[q, 0] + way[p, 1] * way[q, 1] < -0.94:
                    through = True
        found[e] = turned and not through
    return found


@kernel("f8[:,::1], i8[::1]")
def lengths(xy, first):
    out = np.zeros(first.size - 1)
    for s in range(out.size):
        for k in range(first[s], first[s + 1] - 1):
            out[s] += np.hypot(xy[k + 1, 0] - xy[k, 0], xy[k + 1, 1] - xy[k, 1])
    return out


@kernel("f8[:,::1], i8[::1], f8[::1]")
def dashed(xy, first, dash):
    whole = dash.sum()
    marks = dash.size // 2
    out, begins, of = [(0.0, 0.0)], [0], [0]
    out.pop()
    begins.pop()
    of.pop()
    for s in range(first.size - 1):
        total = 0.0
        for k in range(first[s], first[s + 1] - 1):
            total += np.hypot(xy[k + 1, 0] - xy[k, 0], xy[k + 1, 1] - xy[k, 1])
        # As many whole patterns as fit best, and one mark more, which ends it.
        times = max(np.round((total - dash[0]) / whole), 0.0)
        stretch = total / (times * whole + dash[0]) if times > 0 else 1.0
        if times == 0.0:
            begins.append(len(out))
            of.append(s)
            for k in range(first[s], first[s + 1]):
                out.append((xy[k, 0], xy[k, 1]))
            continue
        k, at = first[s], 0.0
        size = np.hypot(xy[k + 1, 0] - xy[k, 0], xy[k + 1, 1] - xy[k, 1])
        start = 0.0
        for m in range(int(times) * marks + 1):
            until = start + dash[2 * (m % marks)] * stretch
            if m == int(times) * marks:
                until = total
            while k < first[s + 1] - 2 and at + size <= start:
                at += size
                k += 1
                size = np.hypot(xy[k + 1, 0] - xy[k, 0], xy[k + 1, 1] - xy[k, 1])
            begins.append(len(out))
            of.append(s)
            t = (start - at) / max(size, 1e-12)
            out.append((xy[k, 0] + t * (xy[k + 1, 0] - xy[k, 0]), xy[k, 1] + t * (xy[k + 1, 1] - xy[k, 1])))
            while k < first[s + 1] - 2 and at + size < until:
                at += size
                k += 1
                out.append((xy[k, 0], xy[k, 1]))
                size = np.hypot(xy[k + 1, 0] - xy[k, 0], xy[k + 1, 1] - xy[k, 1])
            t = min((until - at) / max(size, 1e-12), 1.0)
            out.append((xy[k, 0] + t * (xy[k + 1, 0] - xy[k, 0]), xy[k, 1] + t * (xy[k + 1, 1] - xy[k, 1])))
            start = until + dash[2 * (m % marks) + 1] * stretch
    points = np.empty((len(out), 2))
    for k in range(len(out)):
        points[k, 0], points[k, 1] = out[k]
    begins.append(len(out))
    return points, np.array(begins, np.int64), np.array(of, np.int32)


@kernel("f8[::1], i8[::1], f8[:,::1], i4[::1]")
def room(length, first, dials, hand):
    """How many points the ribbons of each stroke may need."""
    out = np.empty(length.size, np.int64)
    for s in range(length.size):
        dial = dials[hand[s]]
        total = length[s] + 2.0 * dial[2]
        points = int(total / STEP) + 4 + (first[s + 1] - first[s])
        lifts = int(total / LIFT) + 1 if dial[3] > 0 else 0
        points += 4 * lifts
        out[s] = 2 * points if dial[5] > 0 else points
    return out


@device()
def _place(xy, a, b, at, s):
    """The point, the unit way and the segment at ``s`` millimetres along a polyline, from segment ``at`` with its start; before
    and after its ends it goes straight on."""
    k, start = at
    size = np.hypot(xy[k + 1, 0] - xy[k, 0], xy[k + 1, 1] - xy[k, 1])
    while s > start + size and k < b - 2:
        start += size
        k += 1
        size = np.hypot(xy[k + 1, 0] - xy[k, 0], xy[k + 1, 1] - xy[k, 1])
    inv = 1.0 / max(size, 1e-12)
    wx, wy = (xy[k + 1, 0] - xy[k, 0]) * inv, (xy[k + 1, 1] - xy[k, 1]) * inv
    return xy[k, 0] + wx * (s - start), xy[k, 1] + wy * (s - start), wx, wy, k, start


@device()
def _pass_along(xy, a, b, total, low, high, shift, weight, key, dial, free, out, width, begins, n):
    """One going of the pen from ``low`` to ``high`` millimetres along a polyline; returns where the next point goes."""
    waver, length_of_wave, pressure, mismatch, lifts = dial[0], dial[1], dial[4], dial[6], dial[3]
    waves, swell = mixed(key, np.uint64(1)), mixed(key, np.uint64(2))
    lift = mixed(key, np.uint64(3))
    at_start = mismatch * (2.0 * share(key, np.uint64(4)) - 1.0)
    at_end = mismatch * (2.0 * share(key, np.uint64(5)) - 1.0)
    span = high - low
    steps = max(int(np.ceil(span / STEP)), 2)
    k, start = a, 0.0
    _, _, _, _, k, start = _place(xy, a, b, (k, start), low)
    opened = False
    vertex, vertex_at = a + 1, 0.0
    if b - a > 2:
        vertex_at = np.hypot(xy[a + 1, 0] - xy[a, 0], xy[a + 1, 1] - xy[a, 1])
    else:
        vertex = b - 1
    i = 0
    held = min(HELD, 0.25 * span)
    taper = min(TAPER, 0.3 * span)
    while i <= steps:
        s = low + span * i / steps
        if vertex < b - 1 and vertex_at <= s:
            # The polyline's own points are kept, so that curves stay as round as they were found.
            own = vertex_at
            gap = np.hypot(xy[vertex + 1, 0] - xy[vertex, 0], xy[vertex + 1, 1] - xy[vertex, 1])
            vertex += 1
            vertex_at += gap
            if own <= low + 0.05 or own >= s - 0.05:
                continue
            s = own
        else:
            i += 1
        from_end = min(s - low, high - s)
        # Where the pen is lifted: at most once in each stretch, never near an end.
        lifted = 0.0
        if lifts > 0.0 and from_end > 0.2 * LIFT:
            stretch = np.floor(s / LIFT)
            mark = np.uint64(np.int64(stretch) + 1000)
            if share(lift, mark) < lifts:
                middle = (stretch + 0.2 + 0.6 * share(lift, mark + np.uint64(7919))) * LIFT
                gap = 0.5 * (GAP[0] + (GAP[1] - GAP[0]) * share(lift, mark + np.uint64(104729)))
                lifted = gap - abs(s - middle) if abs(s - middle) < gap else 0.0
        if lifted > 0.0:
            opened = False
            continue
        x, y, wx, wy, k, start = _place(xy, a, b, (k, start), s)
        ax, ay = wx, wy
        if k + 1 < b - 1 and start + np.hypot(xy[k + 1, 0] - xy[k, 0], xy[k + 1, 1] - xy[k, 1]) - s < 1e-6:
            # At a point of a curve the side is between those of both segments.
            gap = max(np.hypot(xy[k + 2, 0] - xy[k + 1, 0], xy[k + 2, 1] - xy[k + 1, 1]), 1e-12)
            ax, ay = wx + (xy[k + 2, 0] - xy[k + 1, 0]) / gap, wy + (xy[k + 2, 1] - xy[k + 1, 1]) / gap
            size = max(np.hypot(ax, ay), 1e-12)
            ax, ay = ax / size, ay / size
        ease = min(from_end / held, 1.0) if held > 0 else 0.0
        ease = ramp(ease)
        off = (
            waver
            * ease
            * (0.78 * value_along(waves, s / length_of_wave) + 0.22 * value_along(swell, 1000.0 + 2.7 * s / length_of_wave))
        )
        t = (s - low) / span
        off += shift + at_start * (1.0 - t) * (1.0 - t) * (1.0 - ease) + at_end * t * t * (1.0 - ease)
        press = 1.0 + pressure * (0.26 * value_along(swell, s / 14.0) + 0.10 * value_along(waves, 500.0 + s / 3.7))
        if taper > 0.0 and not free:
            near = min(from_end / taper, 1.0)
            press *= 1.0 - pressure * 0.7 * (1.0 - near) * (1.0 - near)
        begins[n] = not opened
        opened = True
        out[n, 0], out[n, 1] = x - ay * off, y + ax * off
        width[n] = weight * max(press, 0.15)
        n += 1
    # What a lift left of a single point is no stroke.
    return n


@kernel(
    "f8[:,::1], i8[::1], f8[::1], f8[::1], u8[::1], b1[:,::1], f8[:,::1], u8[::1], i4[::1], i8[::1], f4[:,::1], f4[::1], "
    "b1[::1], i8[::1]",
)
def ribbons(xy, first, length, weight, identity, corner, dials, seeds, hand, slot, out, width, begins, used):
    for s in range(length.size):
        a, b = first[s], first[s + 1]
        if b - a < 2 or length[s] <= 0.0:
            continue
        dial = dials[hand[s]]
        key = mixed(identity[s], seeds[hand[s]])
        low, high = 0.0, length[s]
        reach = min(dial[2], 0.15 * length[s])
        if corner[s, 0]:
            low -= reach * (0.35 + 0.65 * share(key, np.uint64(11)))
        if corner[s, 1]:
            high += reach * (0.35 + 0.65 * share(key, np.uint64(12)))
        closed = (
            b - a > 2 and abs(xy[a, 0] - xy[b - 1, 0]) < 1e-9 and abs(xy[a, 1] - xy[b - 1, 1]) < 1e-9
        )  # a ring without a corner is drawn round without a taper
        n = slot[s]
        n = _pass_along(xy, a, b, length[s], low, high, 0.0, weight[s], key, dial, closed, out, width, begins, n)
        if dial[5] > 0.0 and length[s] > 6.0 and share(key, np.uint64(13)) < dial[5]:
            again = mixed(key, np.uint64(14))
            aside = (0.12 + 0.22 * share(again, np.uint64(15))) * (1.0 if share(again, np.uint64(16)) < 0.5 else -1.0)
            begin = low + 0.3 * length[s] * share(again, np.uint64(17))
            end = high - 0.3 * length[s] * share(again, np.uint64(18))
            n = _pass_along(xy, a, b, length[s], begin, end, aside, 0.8 * weight[s], again, dial, False, out, width, begins, n)
        used[s] = n - slot[s]
