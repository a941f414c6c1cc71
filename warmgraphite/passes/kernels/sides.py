"""Loops that tell what lies on either side of a line, and what kind of line that makes it."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from warmgraphite.geometry.tolerances import NO_LENGTH
from warmgraphite.kernels import device, kernel
from warmgraphite.kernels.arrays import grown
from warmgraphite.kernels.records import F1, F2, I1, W1
from warmgraphite.passes.kernels.nearest import beam, envelope, stretches_for, wider
from warmgraphite.passes.kernels.planes import depth_of, is_on
from warmgraphite.passes.kernels.records import Grid, Hiders, Pieces

__all__ = ["EDGE", "JOINT", "OUTLINE", "SEAM", "Eye", "Surfaces", "rank_pieces"]

#: What a piece of line is, by what lies close to it on either side.
OUTLINE, EDGE, JOINT, SEAM = 0, 1, 2, 3
#: Millimetres beside a line at which a face that begins there must be seen.
HAIR = 5e-4
#: Cosine of the angle within which two faces are one flat surface.
FLAT = 0.99995
#: Parameters along a line that are one.
SAME = 1e-12
#: Halvings of a stretch until the place is found where it turns into an outline: to the last digit of its parameter.
HALVINGS = 40


class Surfaces(NamedTuple):
    """Triangles (T) as surfaces.
    Part, a number alike for one material and role, unit normal (T, 3), and normal · corner.
    """

    part: I1
    alike: W1
    normal: F2
    height: F1


class Eye(NamedTuple):
    """From where, and how, sides are looked at: the matrix back to metres; whether it is central.
    The millimetres to either side of a line; the metres that make an outline, and those within which a line lies in a
    face.
    """

    inverse: F2
    central: bool
    aside: float
    outline_depth: float
    flush: float


class _Piece(NamedTuple):
    """A piece from a by d in the frame; o to its right; the depth from which on something counts at its ends.
    Its own triangles.
    """

    number: int
    ax: float
    ay: float
    az: float
    dx: float
    dy: float
    dz: float
    ox: float
    oy: float
    low_a: float
    low_b: float
    own_0: int
    own_1: int


class _Rows(NamedTuple):
    """Rows (piece, begin, end, what, metres to what lies behind, part at the left, part at the right)."""

    piece: I1
    begin: F1
    end: F1
    what: np.ndarray
    behind: F1
    left: I1
    right: I1


@device()
def _rows_for(size):
    return _Rows(
        np.empty(size, np.int32), np.empty(size), np.empty(size), np.empty(size, np.int8), np.empty(size),
        np.empty(size, np.int32), np.empty(size, np.int32),
    )  # fmt: skip


@device()
def _with_room(out, rows):
    while rows > out.piece.size:
        out = _Rows(
            grown(out.piece), grown(out.begin), grown(out.end), grown(out.what), grown(out.behind), grown(out.left),
            grown(out.right),
        )  # fmt: skip
    return out


@device(borrows=True)
def _metres(z, central):
    """Distance along the direction of sight for a depth in the frame."""
    return 1.0 / max(1.0 - z, NO_LENGTH) if central else z


@device(borrows=True)
def _back(eye, x, y, z, k):
    """A coordinate, in metres, of a place in the frame."""
    inverse = eye.inverse
    w = inverse[3, 0] * x + inverse[3, 1] * y + inverse[3, 2] * z + inverse[3, 3]
    return (inverse[k, 0] * x + inverse[k, 1] * y + inverse[k, 2] * z + inverse[k, 3]) / w


@device(borrows=True)
def _excess(piece, forms, tl, tr, t, central):
    """How many metres farther than the piece the farther side lies at a place along it."""
    x, y = piece.ax + t * piece.dx, piece.ay + t * piece.dy
    own = _metres(piece.az + t * piece.dz, central)
    left = _metres(depth_of(forms[tl], x - piece.ox, y - piece.oy), central) - own
    right = _metres(depth_of(forms[tr], x + piece.ox, y + piece.oy), central) - own
    return max(max(-np.inf, left), right)


@device(borrows=True)
def _outline_turns(piece, forms, tl, tr, at, stop, eye):
    """Whether a stretch begins as an outline, and where it becomes one, or stops being one."""
    if tl < 0 or tr < 0:
        return True, stop
    far = _excess(piece, forms, tl, tr, at, eye.central) > eye.outline_depth
    if far == (_excess(piece, forms, tl, tr, stop, eye.central) > eye.outline_depth):
        return far, stop
    low, high = at, stop
    for _ in range(HALVINGS):
        middle = 0.5 * (low + high)
        if (_excess(piece, forms, tl, tr, middle, eye.central) > eye.outline_depth) == far:
            low = middle
        else:
            high = middle
    return far, low


@device(borrows=True)
def _shows(x, y, piece, z_low, hiders, grid):
    """Whether, at a point, one of a line's own two faces is seen at its depth or behind it.
    The face's triangle, or −1.
    """
    forms, source, pane, near = hiders.forms, hiders.source, hiders.pane, hiders.near
    r = min(max(int(np.floor((y - grid.top) / grid.size)), 0), grid.rows - 1)
    c = min(max(int(np.floor((x - grid.left) / grid.size)), 0), grid.columns - 1)
    cell = r * grid.columns + c
    best = np.inf
    found = -1
    for n in range(grid.start[cell], grid.start[cell + 1]):
        t = grid.triangle[n]
        if near[t] >= best:
            break
        f = forms[t]
        if pane[t] or not is_on(f, x, y):
            continue
        z = depth_of(f, x, y)
        own = source[t] >= 0 and source[t] in (piece.own_0, piece.own_1)
        if z < best and (own or z >= z_low):
            best = z
            found = t if own else -1
    return found


@device(borrows=True)
def _even(normal, s, t):
    """The cosine between two faces, whatever way either is turned."""
    return abs(normal[s, 0] * normal[t, 0] + normal[s, 1] * normal[t, 1] + normal[s, 2] * normal[t, 2])


@device(borrows=True)
def _off(surfaces, t, x, y, z):
    """Metres from a place to a triangle's plane."""
    normal = surfaces.normal
    return abs((normal[t, 0] * x + normal[t, 1] * y + normal[t, 2] * z) - surfaces.height[t])


@device(borrows=True)
def _lies_in(piece, tl, tr, begin, finish, surfaces, eye):
    """Whether a stretch lies in the one flat surface on either side of it."""
    if not _even(surfaces.normal, tl, tr) > FLAT:
        return False
    for end in range(2):
        t = begin if end == 0 else finish
        x, y, z = piece.ax + t * piece.dx, piece.ay + t * piece.dy, piece.az + t * piece.dz
        px, py, pz = _back(eye, x, y, z, 0), _back(eye, x, y, z, 1), _back(eye, x, y, z, 2)
        if _off(surfaces, tl, px, py, pz) > eye.flush or _off(surfaces, tr, px, py, pz) > eye.flush:
            return False
    return True


# Many arguments: what an inner loop goes by; a record would be made anew for each pixel or piece.
@device(borrows=True)
def _is_flush(piece, tl, tr, begin, finish, hiders, grid, surfaces, eye):
    """Whether a stretch lies in a flat surface.
    That is so where no face of its own that is turned otherwise, however narrow, is seen.
    """
    if not _lies_in(piece, tl, tr, begin, finish, surfaces, eye):
        return False
    middle = 0.5 * (begin + finish)
    for side in range(2):
        wide = (1.0 if side else -1.0) * HAIR / eye.aside
        x, y = piece.ax + middle * piece.dx + piece.ox * wide, piece.ay + middle * piece.dy + piece.oy * wide
        t = _shows(x, y, piece, piece.low_a + middle * (piece.low_b - piece.low_a), hiders, grid)
        if t >= 0 and not _even(surfaces.normal, tl, t) > FLAT:
            return False
    return True


@device(borrows=True)
def _behind(piece, forms, tl, tr, middle, central):
    """Metres to what lies behind a stretch; infinite where there is nothing on one side."""
    if tl < 0 or tr < 0:
        return np.inf
    x, y = piece.ax + middle * piece.dx, piece.ay + middle * piece.dy
    return _metres(
        max(depth_of(forms[tl], x - piece.ox, y - piece.oy), depth_of(forms[tr], x + piece.ox, y + piece.oy)), central
    )


# Many arguments: what an inner loop goes by; a record would be made anew for each pixel or piece.
@device(borrows=True)
def _put(out, base, rows, number, begin, finish, what, behind, left, right):
    """Add a row, or lengthen the one before where it is alike; how many there are."""
    k = rows - 1
    if rows > base and out.what[k] == what and out.left[k] == left and out.right[k] == right:
        out.end[k] = finish
        out.behind[k] = max(out.behind[k], behind)
        return rows
    out.piece[rows] = number
    out.begin[rows], out.end[rows] = begin, finish
    out.what[rows], out.behind[rows] = what, behind
    out.left[rows], out.right[rows] = left, right
    return rows + 1


# Many arguments: what an inner loop goes by; a record would be made anew for each pixel or piece.
@device(borrows=True)
def _told(piece, lefts, many_left, rights, many_right, hiders, grid, surfaces, eye, out, base):
    """Add rows for a piece by what is seen on either side of it; how many rows there are."""
    forms = hiders.forms
    rows = base
    i = j = 0
    at = 0.0
    while i < many_left and j < many_right:
        stop = min(lefts.high[i], rights.high[j])
        tl, tr = lefts.triangle[i], rights.triangle[j]
        if lefts.high[i] <= stop + SAME:
            i += 1
        if rights.high[j] <= stop + SAME:
            j += 1
        if stop <= at:
            continue
        far, turn = _outline_turns(piece, forms, tl, tr, at, stop, eye)
        for half in range(2):
            begin, finish = (at, turn) if half == 0 else (turn, stop)
            outline = far if half == 0 else not far
            if finish - begin <= SAME:
                continue
            what = OUTLINE if outline else EDGE
            if not outline and _is_flush(piece, tl, tr, begin, finish, hiders, grid, surfaces, eye):
                what = SEAM if surfaces.alike[tl] == surfaces.alike[tr] else JOINT
            behind = _behind(piece, forms, tl, tr, 0.5 * (begin + finish), eye.central)
            left = surfaces.part[tl] if tl >= 0 else -1
            right = surfaces.part[tr] if tr >= 0 else -1
            rows = _put(out, base, rows, piece.number, begin, finish, what, behind, left, right)
        at = stop
    return rows


@device(borrows=True)
def _tidied(out, base, rows, least):
    """Give rows shorter than ``least``, which say more of the way aside than of the line, to their neighbours.
    How many are left.
    """
    kept = base
    for k in range(base, rows):
        m = kept - 1
        alike = out.what[k] == out.what[m] and out.left[k] == out.left[m] and out.right[k] == out.right[m]
        if kept > base and (out.end[k] - out.begin[k] < least or alike):
            out.end[m] = out.end[k]
            continue
        begin = out.begin[k]
        if kept == base + 1 and out.end[base] - out.begin[base] < least:
            begin = out.begin[base]
            kept = base
        out.piece[kept] = out.piece[k]
        out.begin[kept], out.end[kept] = begin, out.end[k]
        out.what[kept], out.behind[kept] = out.what[k], out.behind[k]
        out.left[kept], out.right[kept] = out.left[k], out.right[k]
        kept += 1
    if kept > base:
        out.begin[base] = 0.0
        out.end[kept - 1] = 1.0
    return kept


@kernel()
def rank_pieces(first: int, last: int, pieces: Pieces, hiders: Hiders, grid: Grid, surfaces: Surfaces, eye: Eye):
    """Pieces ``first`` to ``last`` split where what lies beside them changes.

    Either side is looked at past all that hides the piece. Returns rows (piece, from, to, what, metres to what lies
    behind, part at the left, part at the right). Plainly: an outline where one side lies ``outline_depth`` behind the
    line or is empty; a joint where both are one flat surface, a seam where that is alike; else an edge.
    """
    lefts, rights = stretches_for(64), stretches_for(64)
    out = _rows_for(2 * (last - first) + 64)
    rows = 0
    a, b, slack_a, slack_b, beside = pieces  # out of the record once: each time would be counted
    aside = eye.aside
    for p in range(first, last):
        ax, ay, az = a[p, 0], a[p, 1], a[p, 2]
        bx, by, bz = b[p, 0], b[p, 1], b[p, 2]
        dx, dy, dz = bx - ax, by - ay, bz - az
        length = np.sqrt(dx * dx + dy * dy)
        if length <= 0.0:
            continue
        ox, oy = -dy / length * aside, dx / length * aside
        low_a, low_b = az - slack_a[p], bz - slack_b[p]
        while True:
            # The paper's y runs down: what is added turns to the right of the way from a to b.
            many_right = envelope(beam(ax, ay, low_a, bx, by, low_b, ox, oy), hiders, grid, rights)
            many_left = (
                envelope(beam(ax, ay, low_a, bx, by, low_b, -ox, -oy), hiders, grid, lefts) if many_right >= 0 else -1
            )
            if many_left >= 0:
                break
            lefts, rights = wider(lefts), wider(rights)
        out = _with_room(out, rows + 2 * (many_left + many_right) + 8)
        piece = _Piece(p, ax, ay, az, dx, dy, dz, ox, oy, low_a, low_b, beside[p, 0], beside[p, 1])
        told = _told(piece, lefts, many_left, rights, many_right, hiders, grid, surfaces, eye, out, rows)
        rows = _tidied(out, rows, told, 3.0 * aside / length)
    return (
        out.piece[:rows],
        out.begin[:rows],
        out.end[:rows],
        out.what[:rows],
        out.behind[:rows],
        out.left[:rows],
        out.right[:rows],
    )
