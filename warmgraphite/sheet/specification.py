"""What stands on the page beside the drawing."""

from __future__ import annotations

from pydantic import Field

from warmgraphite.specification import Specification, Words

__all__ = ["Sheet"]


class Sheet(Specification):
    """Title, scale bar and north point; ``margin`` millimetres of bare paper around the drawing.

    An empty title takes the view's name.
    """

    title: Words = Field(default="", max_length=120)
    subtitle: Words = Field(default="", max_length=200)
    title_on: bool = True
    scale_bar_on: bool = True
    north_on: bool = True
    margin: float = Field(default=12, ge=0, le=200)
