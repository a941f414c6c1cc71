"""The figures of a study: put, changed, taken out; hidden in a view; how its finish draws them."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from warmgraphite.errors import ViewError
from warmgraphite.figures.figure import Figure
from warmgraphite.figures.kinds import AnyFigure
from warmgraphite.specification import Specification, valid
from warmgraphite.study.changes import Change, make_changes
from warmgraphite.study.document import StudyDocument, replaced

__all__ = ["change_figures", "moved_figures", "renamed_figures"]


class _Figures(Specification):
    figures: tuple[AnyFigure, ...] = ()


def change_figures(document: StudyDocument, changes: Sequence[Change]) -> StudyDocument:
    """The document with other figures; paths begin with ``figures``."""
    rows = [f.model_dump(mode="json") for f in document.figures]
    with valid("This figure"):
        figures = _Figures.model_validate(make_changes({"figures": rows}, changes)).figures
    views = {v.id for v in document.views}
    if any(f.paper is not None and f.paper.view not in views for f in figures):
        raise ViewError("That figure lies on the paper of a view that is not saved any more; put it on another.")
    return replaced(document, figures=figures)


def moved_figures(figures: Sequence[Figure], matrix: NDArray[np.float64]) -> tuple[Figure, ...]:
    """The figures where the model is measured otherwise.
    In other units, turned, or from another origin, by a 4×4 matrix. They keep their own size: a person is no taller in
    feet.
    """
    turn = matrix[:3, :3]
    north = turn @ np.array([0.0, 1.0, 0.0])
    by = float(np.degrees(np.arctan2(-north[0], north[1])))

    def moved(figure: Figure) -> Figure:
        if figure.paper is not None:
            return figure
        at = turn @ np.array(figure.at) + matrix[:3, 3]
        turned = (figure.turn + by + 180) % 360 - 180
        return figure.model_copy(update={"at": tuple(at.tolist()), "turn": turned})

    return tuple(moved(f) for f in figures)


def renamed_figures(figures: Sequence[Figure], followed: Callable[[str], str]) -> tuple[Figure, ...]:
    """The figures, which replace parts as those are called now."""
    return tuple(
        f.model_copy(update={"replaces": tuple(followed(p) for p in f.replaces)}) if f.replaces else f for f in figures
    )
