"""Fills: what is laid into what is cut, and onto faces seen, from the lowest up."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, field_validator, model_validator

from warmgraphite.ink.own import OwnTile
from warmgraphite.ink.pattern import Pattern
from warmgraphite.ink.patterns import PATTERNS
from warmgraphite.specification import Colour, Specification

__all__ = ["GRAPHITE", "Fill", "Flat", "Hatch"]

GRAPHITE = "#2e2a27"
#: The name of a pattern of one's own.
OWN = "own"


class Flat(Specification):
    """A fill of one colour."""

    kind: Literal["flat"] = "flat"
    colour: Colour = GRAPHITE
    opacity: float = Field(default=1.0, ge=0, le=1)


class Hatch(Specification):
    """A fill of marks in a pattern.

    It ``lies`` on the ``paper``, in millimetres, or on what it fills, the ``face`` seen or the face of the ``cut``, in
    metres. ``spacing``, in those units, is the pattern's own where nothing is said; ``scale`` stretches it, and never
    the ``weight`` of its lines in millimetres. ``angle`` is in degrees counter-clockwise from the paper's right, or
    from the face's level line. ``disorder`` is how far marks leave their order, ``suggested`` how much of the pattern
    is left out, most of it where it is light and far from edges, as shares. Where marks would come closer than
    ``least`` millimetres of paper, every other course is left out. ``by`` is what makes the marks closer, in ``steps``,
    up to the full pattern where it is darkest: the shade of faces turned from the sun, or corners; ``even`` marks are
    as close everywhere. A pattern of one’s ``own`` is drawn in its ``tile``.
    """

    kind: Literal["hatch"] = "hatch"
    pattern: str = Field(default="parallel", max_length=40)
    lies: Literal["paper", "face", "cut"] = "paper"
    spacing: float | None = Field(default=None, ge=0.001, le=1000, title="Spacing")
    angle: float = Field(default=0.0, ge=-360, le=360, title="Angle", json_schema_extra={"unit": "°", "most": 180})
    scale: float = Field(default=1.0, ge=0.01, le=100, title="Scale", json_schema_extra={"unit": "×", "most": 5})
    weight: float = Field(default=0.13, ge=0.02, le=5, title="Weight", json_schema_extra={"unit": "mm", "most": 0.7})
    colour: Colour = GRAPHITE
    opacity: float = Field(default=1.0, ge=0, le=1, title="Opacity")
    disorder: float = Field(default=0.0, ge=0, le=1, title="Disorder")
    suggested: float = Field(default=0.0, ge=0, le=1, title="Only suggested")
    least: float = Field(
        default=0.45, ge=0, le=20, title="Never closer than", json_schema_extra={"unit": "mm", "most": 4}
    )
    by: Literal["even", "shade", "corners"] = Field(default="even", title="Closer by")
    steps: int = Field(default=3, ge=1, le=5, title="Steps of tone")
    tile: OwnTile | None = None

    @field_validator("pattern")
    @classmethod
    def _known(cls, name: str) -> str:
        if name not in PATTERNS and name != OWN:
            raise ValueError(
                f"there is no pattern “{name}”; the patterns are {', '.join(sorted(PATTERNS))}, and {OWN} with a tile"
            )
        return name

    @model_validator(mode="after")
    def _with_tile(self) -> Hatch:
        if self.pattern == OWN and self.tile is None:
            raise ValueError("a pattern of one’s own needs a “tile”")
        return self

    @property
    def drawn(self) -> Pattern:
        """The pattern that it is drawn in."""
        return self.tile.pattern if self.pattern == OWN and self.tile is not None else PATTERNS[self.pattern]


Fill = Annotated[Flat | Hatch, Field(discriminator="kind")]
