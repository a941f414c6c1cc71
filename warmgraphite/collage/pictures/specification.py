"""What is made of a picture, as it is asked for."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from warmgraphite.geometry.tolerances import HAIR
from warmgraphite.specification import Wanted

__all__ = ["ContourSpec", "Corner", "Digest", "Endless", "ExampleSpec", "PictureSpec", "SheetSpec", "TracedSpec"]

Endless = Literal["in rows", "strewn", "patches"]
Share = Annotated[float, Field(ge=-0.5, le=1.5, allow_inf_nan=False)]
Digest = Annotated[str, Field(max_length=64, pattern="^[0-9a-f]*$")]
Corner = tuple[Share, Share]


class PictureSpec(Wanted):
    """A picture of the stock as it is."""

    digest: Digest = ""


class ContourSpec(PictureSpec):
    """The contours of a picture's tones.
    How many ``levels``, over how large a share of its longer side it is made even first, and whether they bound
    ``areas``.
    """

    levels: int = Field(default=4, ge=1, le=16)
    smooth: float = Field(default=0.002, ge=0, le=0.05)
    areas: bool = False


class TracedSpec(PictureSpec):
    """A picture in so many ``colours``, made even first as contours are."""

    colours: int = Field(default=6, ge=2, le=24)
    smooth: float = Field(default=0.002, ge=0, le=0.05)


class ExampleSpec(Wanted):
    """What is made of a picture.
    Its ``digest``, the ``corners`` of what is taken of it (top left, top right, bottom right, bottom left, as shares of
    its width and height), how much its tones are ``evened`` out, and how it becomes endless.
    """

    digest: Digest = ""
    corners: tuple[Corner, Corner, Corner, Corner] = ((0, 0), (1, 0), (1, 1), (0, 1))
    evened: float = Field(default=0.0, ge=0, le=1)
    endless: Endless = "strewn"

    @model_validator(mode="after")
    def _is_a_shape(self) -> ExampleSpec:
        area = 0.5 * sum(
            a[0] * b[1] - b[0] * a[1] for a, b in zip(self.corners, (*self.corners[1:], self.corners[0]), strict=True)
        )
        if area < HAIR:
            raise ValueError("the four corners must go round a shape: top left, top right, bottom right, bottom left")
        return self


class SheetSpec(PictureSpec):
    """A photographed sheet made clean.
    Its ``corners`` in shares of the picture (top left, top right, bottom right, bottom left), how ``faint`` lines may
    be, and whether they are followed as ``lines``.
    """

    corners: tuple[Corner, Corner, Corner, Corner] = ((0, 0), (1, 0), (1, 1), (0, 1))
    faint: float = Field(default=0.5, ge=0, le=1)
    lines: bool = False
