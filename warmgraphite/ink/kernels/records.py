"""What loops over hatches take: outlines, how hatches lie in them, and how their lines are drawn."""

from __future__ import annotations

from typing import NamedTuple

from warmgraphite.kernels.records import F1, F2, F3, I1, T2, U1, W1

__all__ = ["Dashes", "Groups", "Look", "Outlines", "Rows", "Spacing"]


class Outlines(NamedTuple):
    """Rings of several groups: those from ``group[g]`` to ``group[g + 1]`` are of group g."""

    points: F2
    first: W1
    group: W1


class Groups(NamedTuple):
    """Groups (G): matrices from places along and across the course to the ``paper`` (G, 3, 3) and back.
    Halves of the lines left out besides; how dark each is, and what its disorder is made of.
    """

    paper: F3
    back: F3
    drop: W1
    dark: F1
    key: U1


class Spacing(NamedTuple):
    """Lines of a course.
    One at ``at`` and so on at each ``step`` of the pattern, no closer than ``least`` millimetres, out of their places
    by ``disorder``; ``unit`` is the pattern's.
    """

    step: float
    at: float
    unit: float
    least: float
    disorder: float


class Rows(NamedTuple):
    """Stretches of lines: the group, the number of the line, where it begins and ends along the course."""

    group: I1
    number: W1
    begin: F1
    end: F1


class Dashes(NamedTuple):
    """What is drawn along a line: pairs of mark and gap, empty for a whole line.
    How far along they begin, how far on in each next line, and how loosely.
    """

    marks: F1
    along: float
    slip: float
    loose: float


class Look(NamedTuple):
    """What of a hatch is drawn: how far it is only ``suggested``, about the middle of the drawing.
    By a tone ``field`` (h, w), empty for none, so many of its cells to a millimetre, in so many steps.
    """

    suggested: float
    middle_x: float
    middle_y: float
    field: T2
    per_x: float
    per_y: float
    steps: int
