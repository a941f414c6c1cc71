"""How a finish draws the figures of a drawing."""

from __future__ import annotations

from typing import Annotated, Literal, Protocol

from pydantic import Field

from warmgraphite.specification import Colour, Specification, Words

__all__ = ["FigureDrawn", "FigureRule"]

Names = Annotated[tuple[Annotated[str, Field(max_length=60)], ...], Field(max_length=2000)]
FigureDrawn = Literal["full", "outline", "stipple", "wash", "silhouette", "bare"]


class _Figure(Protocol):
    """What a rule goes by."""

    @property
    def kind(self) -> str: ...
    @property
    def group(self) -> str: ...
    @property
    def sort(self) -> str: ...


class FigureRule(Specification):
    """How a finish draws the figures of some kinds.
    ``kinds``, ``groups`` or ``sorts`` (poses, habits, things), all where nothing is said: whether they are ``shown``,
    how they are ``drawn``, in which ``hue``, how heavy their lines are, in millimetres. Later rules prevail.
    """

    id: str = Field(default="", pattern=r"^([a-z0-9-]{1,40})?$")
    name: Words = Field(default="", max_length=100)
    on: bool = True
    kinds: Names = ()
    groups: Names = ()
    sorts: Names = ()
    shown: bool = True
    drawn: FigureDrawn | None = None
    hue: Colour | None = None
    weight: float | None = Field(default=None, ge=0.02, le=2)

    def means(self, figure: _Figure) -> bool:
        """Whether the rule is about a figure."""
        return (
            self.on and (not self.kinds or figure.kind in self.kinds)
                and (not self.groups or figure.group in self.groups)
            and (not self.sorts or figure.sort in self.sorts)
        )  # fmt: skip
