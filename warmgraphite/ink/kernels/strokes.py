"""Loops over strokes: corners, dashes, and the ribbons of a hand."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from warmgraphite.geometry.tolerances import NEAR, NO_LENGTH, ROUNDING
from warmgraphite.kernels import device, kernel
from warmgraphite.kernels.records import B1, B2, F1, F2, I1, S1, S2, U1, W1
from warmgraphite.noise.kernels import mixed, ramp, share, value_along

__all__ = [
    "Dial",
    "Hands",
    "Ribbon",
    "Strokes",
    "corners",
    "dashed",
    "lengths",
    "oriented",
    "ribbons",
    "room",
    "split_at_corners",
]

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
            ux, uy, vx, vy = (
                xy[k, 0] - xy[k - 1, 0],
                xy[k, 1] - xy[k - 1, 1],
                xy[k + 1, 0] - xy[k, 0],
                xy[k + 1, 1] - xy[k, 1],
            )
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
    """Polylines that begin at the end that lies first along one slanting direction.
    Closed ones at their first point, all round the same way. So a stroke is the same, however its pieces were found.
    """
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
    """For ends with the unit ``way`` (N, 2) into their strokes, and the ``other`` ends at each.
    Which are real corners.
    """
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
            t = (start - at) / max(size, NO_LENGTH)
            out.append((xy[k, 0] + t * (xy[k + 1, 0] - xy[k, 0]), xy[k, 1] + t * (xy[k + 1, 1] - xy[k, 1])))
            while k < first[s + 1] - 2 and at + size < until:
                at += size
                k += 1
                out.append((xy[k, 0], xy[k, 1]))
                size = np.hypot(xy[k + 1, 0] - xy[k, 0], xy[k + 1, 1] - xy[k, 1])
            t = min((until - at) / max(size, NO_LENGTH), 1.0)
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


class Strokes(NamedTuple):
    """Polylines (S), each from ``first[s]`` to ``first[s + 1]``.
    Length and weight in millimetres, what tells them apart, which of their ends (S, 2) are corners, and the hand that
    draws each.
    """

    xy: F2
    first: W1
    length: F1
    weight: F1
    identity: U1
    corner: B2
    hand: I1


class Hands(NamedTuple):
    """Hands: the :class:`Dial` of each as a row, and what its disorder is made of."""

    dial: F2
    seed: U1


class Ribbon(NamedTuple):
    """Points of ribbons, how wide they are there, and where one begins."""

    xy: S2
    width: S1
    begins: B1


class Dial(NamedTuple):
    """How a hand draws; see :class:`warmgraphite.ink.hand.Hand`."""

    waver: float
    wave: float
    overrun: float
    breaks: float
    pressure: float
    doubled: float
    mismatch: float


class _Going(NamedTuple):
    """One going of the pen along a polyline, from ``low`` to ``high`` millimetres, ``shift`` beside it.
    ``free`` of a taper.
    """

    low: float
    high: float
    shift: float
    weight: float
    key: np.uint64
    free: bool


@device(borrows=True)
def _place(xy, a, b, at, s):
    """The point, the unit way and the segment at ``s`` millimetres along a polyline.
    From segment ``at`` with its start; before and after its ends it goes straight on.
    """
    k, start = at
    size = np.hypot(xy[k + 1, 0] - xy[k, 0], xy[k + 1, 1] - xy[k, 1])
    while s > start + size and k < b - 2:
        start += size
        k += 1
        size = np.hypot(xy[k + 1, 0] - xy[k, 0], xy[k + 1, 1] - xy[k, 1])
    inv = 1.0 / max(size, NO_LENGTH)
    wx, wy = (xy[k + 1, 0] - xy[k, 0]) * inv, (xy[k + 1, 1] - xy[k, 1]) * inv
    return xy[k, 0] + wx * (s - start), xy[k, 1] + wy * (s - start), wx, wy, k, start


@device(borrows=True)
def _is_lifted(s, from_end, breaks, lift):
    """Whether the pen is lifted at a place: at most once in each stretch, never near an end."""
    if breaks <= 0.0 or from_end <= 0.2 * LIFT:
        return False
    stretch = np.floor(s / LIFT)
    mark = np.uint64(np.int64(stretch) + 1000)
    if share(lift, mark) >= breaks:
        return False
    middle = (stretch + 0.2 + 0.6 * share(lift, mark + np.uint64(7919))) * LIFT
    gap = 0.5 * (GAP[0] + (GAP[1] - GAP[0]) * share(lift, mark + np.uint64(104729)))
    return abs(s - middle) < gap


@device(borrows=True)
def _way_across(xy, b, k, start, s, wx, wy):
    """The unit way of a polyline at a place: at a point of a curve between those of both segments."""
    if k + 1 >= b - 1 or start + np.hypot(xy[k + 1, 0] - xy[k, 0], xy[k + 1, 1] - xy[k, 1]) - s >= NEAR:
        return wx, wy
    gap = max(np.hypot(xy[k + 2, 0] - xy[k + 1, 0], xy[k + 2, 1] - xy[k + 1, 1]), NO_LENGTH)
    ax, ay = wx + (xy[k + 2, 0] - xy[k + 1, 0]) / gap, wy + (xy[k + 2, 1] - xy[k + 1, 1]) / gap
    size = max(np.hypot(ax, ay), NO_LENGTH)
    return ax / size, ay / size


@device(borrows=True)
def _at_place(going, dial, s, waves, swell):
    """How far beside its line a stroke runs at a place, and how hard it is pressed there."""
    span = going.high - going.low
    held, taper = min(HELD, 0.25 * span), min(TAPER, 0.3 * span)
    from_end = min(s - going.low, going.high - s)
    ease = min(from_end / held, 1.0) if held > 0 else 0.0
    ease = ramp(ease)
    at_start = dial.mismatch * (2.0 * share(going.key, np.uint64(4)) - 1.0)
    at_end = dial.mismatch * (2.0 * share(going.key, np.uint64(5)) - 1.0)
    off = (
        dial.waver
        * ease
        * (0.78 * value_along(waves, s / dial.wave) + 0.22 * value_along(swell, 1000.0 + 2.7 * s / dial.wave))
    )
    t = (s - going.low) / span
    off += going.shift + at_start * (1.0 - t) * (1.0 - t) * (1.0 - ease) + at_end * t * t * (1.0 - ease)
    press = 1.0 + dial.pressure * (0.26 * value_along(swell, s / 14.0) + 0.10 * value_along(waves, 500.0 + s / 3.7))
    if taper > 0.0 and not going.free:
        near = min(from_end / taper, 1.0)
        press *= 1.0 - dial.pressure * 0.7 * (1.0 - near) * (1.0 - near)
    return off, press


@device(borrows=True)
def _pass_along(xy, a, b, going, dial, out, n):
    """One going of the pen along a polyline; returns where the next point goes."""
    low, high = going.low, going.high
    waves, swell = mixed(going.key, np.uint64(1)), mixed(going.key, np.uint64(2))
    lift = mixed(going.key, np.uint64(3))
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
        if _is_lifted(s, min(s - low, high - s), dial.breaks, lift):
            opened = False
            continue
        x, y, wx, wy, k, start = _place(xy, a, b, (k, start), s)
        ax, ay = _way_across(xy, b, k, start, s, wx, wy)
        off, press = _at_place(going, dial, s, waves, swell)
        out.begins[n] = not opened
        opened = True
        out.xy[n, 0], out.xy[n, 1] = x - ay * off, y + ax * off
        out.width[n] = going.weight * max(press, 0.15)
        n += 1
    # What a lift left of a single point is no stroke.
    return n


@kernel(borrows=True)
def ribbons(strokes: Strokes, hands: Hands, slot: W1, out: Ribbon, used: W1):
    """Fill in the ribbons of strokes, each from its ``slot`` on, and how many points of it are ``used``."""
    xy, first, length, weight = strokes.xy, strokes.first, strokes.length, strokes.weight
    for s in range(length.size):
        a, b = first[s], first[s + 1]
        if b - a < 2 or length[s] <= 0.0:
            continue
        d = hands.dial[strokes.hand[s]]
        dial = Dial(d[0], d[1], d[2], d[3], d[4], d[5], d[6])
        key = mixed(strokes.identity[s], hands.seed[strokes.hand[s]])
        low, high = 0.0, length[s]
        reach = min(dial.overrun, 0.15 * length[s])
        if strokes.corner[s, 0]:
            low -= reach * (0.35 + 0.65 * share(key, np.uint64(11)))
        if strokes.corner[s, 1]:
            high += reach * (0.35 + 0.65 * share(key, np.uint64(12)))
        # A ring without a corner is drawn round without a taper.
        closed = b - a > 2 and abs(xy[a, 0] - xy[b - 1, 0]) < ROUNDING and abs(xy[a, 1] - xy[b - 1, 1]) < ROUNDING
        n = _pass_along(xy, a, b, _Going(low, high, 0.0, weight[s], key, closed), dial, out, slot[s])
        if dial.doubled > 0.0 and length[s] > 6.0 and share(key, np.uint64(13)) < dial.doubled:
            again = mixed(key, np.uint64(14))
            aside = (0.12 + 0.22 * share(again, np.uint64(15))) * (1.0 if share(again, np.uint64(16)) < 0.5 else -1.0)
            begin = low + 0.3 * length[s] * share(again, np.uint64(17))
            end = high - 0.3 * length[s] * share(again, np.uint64(18))
            n = _pass_along(xy, a, b, _Going(begin, end, aside, 0.8 * weight[s], again, False), dial, out, n)
        used[s] = n - slot[s]
