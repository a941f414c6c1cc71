"""Discs and painted masks: soft windows of one view, to which traces are confined by the name of a window.

Sizes are millimetres of the paper. What lies on the paper is told from the middle of the drawing, so that it stays
where it is when the paper is drawn out; a disc may be tied to a point of the model instead, and then goes with it.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, field_validator

from warmgraphite.specification import Specification, Words

__all__ = ["Disc", "OnModel", "OnPaper", "PaintedMask", "Windows"]

Number = Annotated[float, Field(allow_inf_nan=False, ge=-1e12, le=1e12)]
Millimetres = Annotated[float, Field(allow_inf_nan=False, ge=-1e5, le=1e5)]
Identity = Annotated[str, Field(pattern=r"^[a-z0-9-]{1,40}$")]
Name = Annotated[Words, Field(min_length=1, max_length=60)]


class OnPaper(Specification):
    """A place on the paper, in millimetres from the middle of the drawing, y downwards."""

    kind: Literal["paper"] = "paper"
    at: tuple[Millimetres, Millimetres] = (0, 0)


class OnModel(Specification):
    """A point of the model in metres."""

    kind: Literal["model"] = "model"
    at: tuple[Number, Number, Number]


class Disc(Specification):
    """A window, round or of a drawn ``outline`` about its middle.
    Across its edge it fades within ``softness`` millimetres.
    """

    id: Identity
    name: Name
    middle: Annotated[OnPaper | OnModel, Field(discriminator="kind")] = OnPaper()
    radius: float = Field(default=30.0, ge=0.5, le=5000)
    outline: tuple[tuple[Millimetres, Millimetres], ...] = Field(default=(), max_length=400)
    softness: float = Field(default=10.0, ge=0, le=1000)

    @field_validator("outline")
    @classmethod
    def _encloses(cls, outline: tuple[tuple[float, float], ...]) -> tuple[tuple[float, float], ...]:
        if outline and len(outline) < 3:
            raise ValueError("an outline needs three corners at least")
        return outline


class PaintedMask(Specification):
    """A mask painted by hand; ``tiles`` names what was painted, nothing where nothing was."""

    id: Identity
    name: Name
    tiles: str = Field(default="", pattern="^([0-9a-f]{32})?$")


#: Discs and masks of a view by name; those of one name are one window.
Windows = tuple[Disc | PaintedMask, ...]
