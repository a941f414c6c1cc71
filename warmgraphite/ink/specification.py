"""Pens per rank in paper millimetres, and poche per material."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, model_validator

from warmgraphite.model.model import Model
from warmgraphite.specification import Colour, Specification

__all__ = ["Pen", "PenSet", "Poche", "default_poche"]

GRAPHITE = "#2e2a27"


class Pen(Specification):
    """One pen: ``weight`` and ``dash`` (mark, gap, …) in millimetres of paper."""

    weight: float = Field(ge=0.02, le=5)
    colour: Colour = GRAPHITE
    dash: tuple[Annotated[float, Field(ge=0.05, le=100)], ...] = Field(default=(), max_length=8)
    on: bool = True

    @model_validator(mode="after")
    def _pairs(self) -> Pen:
        if len(self.dash) % 2:
            raise ValueError("a dash needs pairs of mark and gap")
        return self


class PenSet(Specification):
    """The pens of a study. ``fade`` 0–1 is how much thinner and lighter the farthest lines are than the nearest.

    ``profile`` goes once round all that is seen of the part set ``profile_of``, over all other lines.
    """

    cut: Pen = Pen(weight=0.50)
    outline: Pen = Pen(weight=0.30)
    edge: Pen = Pen(weight=0.18)
    surface: Pen = Pen(weight=0.09)
    hidden: Pen = Pen(weight=0.13, colour="#6b635b", dash=(1.6, 0.9), on=False)
    profile: Pen = Pen(weight=0.70, on=False)
    profile_of: str = Field(default="", max_length=200)
    fade: float = Field(default=0.45, ge=0, le=1)


class Poche(Specification):
    """The fill of one material where it is cut."""

    colour: Colour = GRAPHITE
    on: bool = True


def default_poche(model: Model) -> dict[str, Poche]:
    """A poche for each material of a model: earth and water in tones of their own, all else graphite."""
    roles: dict[int, set[str]] = {}
    for part in model.parts:
        roles.setdefault(part.material, set()).add(part.role)
    found = {}
    for index, material in enumerate(model.materials):
        uses = roles.get(index, set())
        colour = GRAPHITE
        if "ground" in uses and not uses & {"structure", "envelope"}:
            colour = "#c9b9a1"
        elif "water" in uses:
            colour = "#7f9797"
        found[material.name] = Poche(colour=colour)
    return found
