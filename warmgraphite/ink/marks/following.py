"""Marks as a view shows them, and as the model goes on: measured otherwise, its parts called otherwise."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from warmgraphite.errors import NotThere
from warmgraphite.ink.marks.specification import Ground, Mark, OnCut, OnFace, OnPaper
from warmgraphite.regions.query import NamedRegion, resolved

__all__ = ["marks_in", "moved_marks", "renamed_marks"]


def marks_in(marks: Sequence[Mark | Ground], view_id: str, regions: Sequence[NamedRegion]) -> tuple[Mark | Ground, ...]:
    """The marks that a view shows: those on its own paper, and all that lie on the model.
    Kept regions taken for what they mean. What is confined to one that is not kept any more is off.
    """

    def meant(mark: Mark | Ground) -> Mark | Ground:
        if isinstance(mark, Ground) or mark.where is None:
            return mark
        try:
            return mark.model_copy(update={"where": resolved(mark.where, tuple(regions))})
        except NotThere:
            return mark.model_copy(update={"on": False, "where": None})

    here = (m for m in marks if isinstance(m, Ground) or not isinstance(m.plane, OnPaper) or m.plane.view == view_id)
    return tuple(meant(m) for m in here)


def moved_marks(marks: Sequence[Mark | Ground], matrix: NDArray[np.float64]) -> tuple[Mark | Ground, ...]:
    """The marks where the model is measured otherwise.
    In other units, turned, or from another origin, by a 4×4 matrix.
    """
    turn = matrix[:3, :3]
    size = float(abs(np.linalg.det(turn)) ** (1 / 3))

    def moved(mark: Mark | Ground) -> Mark | Ground:
        if isinstance(mark, Mark) and isinstance(mark.plane, OnPaper):
            return mark
        points = np.array(mark.points) @ turn.T + matrix[:3, 3]
        said: dict[str, Any] = {"points": tuple(tuple(p) for p in points.tolist())}
        if isinstance(mark, Ground):
            said["depth"] = min(mark.depth * size, 200.0)
        elif isinstance(mark.plane, OnFace | OnCut):
            normal = turn @ np.array(mark.plane.normal) / size
            said |= {
                "plane": mark.plane.model_copy(update={"normal": tuple(normal.tolist())}),
                "lift": mark.lift * size,
                "width": mark.width * size,
            }
        return mark.model_copy(update=said)

    return tuple(moved(m) for m in marks)


def renamed_marks(marks: Sequence[Mark | Ground], followed: Callable[[str], str]) -> tuple[Mark | Ground, ...]:
    """The marks on faces of parts as those are called now."""

    def renamed(mark: Mark | Ground) -> Mark | Ground:
        if isinstance(mark, Ground) or not isinstance(mark.plane, OnFace):
            return mark
        return mark.model_copy(update={"plane": mark.plane.model_copy(update={"part": followed(mark.plane.part)})})

    return tuple(renamed(m) for m in marks)
