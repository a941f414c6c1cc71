"""How a finish draws figures, and which of them a view shows."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from warmgraphite.figures.figure import Drawn, Figure
from warmgraphite.figures.kinds import KINDS
from warmgraphite.specification import Colour, Specification, Words
from warmgraphite.view.specification import FigureChoice

__all__ = ["FigureRule", "shows"]

Names = Annotated[tuple[Annotated[str, Field(max_length=60)], ...], Field(max_length=2000)]


class FigureRule(Specification):
    """How a finish draws the figures of these ``kinds``, ``groups`` or ``sorts`` (poses, habits, things), all where nothing is said: whether
    they are ``shown``, how they are ``drawn``, in which ``hue``, how heavy their lines are, in millimetres. Later rules prevail."""

    id: str = Field(default="", pattern=r"^([a-z0-9-]{1,40})?$")
    name: Words = Field(default="", max_length=100)
    on: bool = True
    kinds: Names = ()
    groups: Names = ()
    sorts: Names = ()
    shown: bool = True
    drawn: Drawn | None = None
    hue: Colour | None = None
    weight: float | None = Field(default=None, ge=0.02, le=2)

    @property
    def held(self) -> list[str]:
        """What it takes hold of, in words; nothing where that is all of them."""
        return [*self.sorts, *self.groups, *(KINDS[k].plural.lower() if k in KINDS else k for k in self.kinds)]

    def means(self, figure: Figure) -> bool:
        """Whether the rule is about a figure."""
        return (
            self.on and (not self.kinds or figure.kind in self.kinds) and (not self.groups or figure.group in self.groups)
            and (not self.sorts or figure.sort in self.sorts)
        )  # fmt: skip


def shows(choice: FigureChoice, figure: Figure) -> bool:
    """Whether a view shows a figure."""
    return (
        choice.on and figure.on and figure.id not in choice.hidden and figure.kind not in choice.kinds
        and not (figure.group and figure.group in choice.groups)
    )  # fmt: skip
