"""The kinds of figure: one module each, found by being here."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from warmgraphite.catalogue import Catalogue, any_of, classes_in, name_of
from warmgraphite.figures.figure import Figure

__all__ = ["KINDS", "AnyFigure"]

#: Each kind by its name.
KINDS: Catalogue[type[Figure]] = Catalogue(lambda: classes_in(__name__, Figure), name_of, name_of)

if TYPE_CHECKING:
    AnyFigure = Figure
else:
    AnyFigure: Any = any_of(KINDS.values())
