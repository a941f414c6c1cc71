"""How a drawing leaves the house: what a person says of the file that is asked for."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from warmgraphite.specification import Specification, Words

__all__ = ["LEAST_RESOLUTION", "MOST_RESOLUTION", "LayersBy", "OutSettings"]

#: What becomes a layer that can be switched: a trace, a rank of lines or a material that is cut or hatched, a layer of
#: the model.
LayersBy = Literal["traces", "ranks", "model"]
#: Pixels to the inch of a file.
LEAST_RESOLUTION, MOST_RESOLUTION = 10.0, 2400.0


class OutSettings(Specification):
    """``resolution`` is in pixels per inch: of a picture, and of tones in a document.
    ``layers`` become layers that can be switched, each kind within the one before; ``only`` are the traces that have
    one, all where none is named. ``archival`` writes PDF/A-2b, ``text`` as letters of embedded fonts or as outlines,
    ``quality`` is of pictures that are packed with loss.
    """

    resolution: float = Field(default=150.0, ge=LEAST_RESOLUTION, le=MOST_RESOLUTION)
    paper: bool = True
    layers: Annotated[tuple[LayersBy, ...], Field(max_length=3)] = ("traces",)
    only: Annotated[tuple[Words, ...], Field(max_length=200)] = ()
    archival: bool = False
    text: Literal["fonts", "outlines"] = "fonts"
    quality: int = Field(default=92, ge=30, le=100)
