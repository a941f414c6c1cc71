"""Traces: what each sheet of tracing paper shows and how it is laid down."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from warmgraphite.sheet.canvas import BlendMode
from warmgraphite.specification import Colour, Specification

__all__ = ["SOURCES", "Source", "Trace", "default_traces"]

Source = Literal["paper", "sky", "tint", "glass", "shade", "shadow", "occlusion", "poche", "lines"]
SOURCES: tuple[str, ...] = Source.__args__  # type: ignore[attr-defined]


class Trace(Specification):
    """One trace. ``colour`` is its tone (of a sky: the zenith), ``horizon`` the second tone of a sky.

    ``part_set`` confines it to the parts of a part set. ``mottle`` 0–1 is how uneven a wash lies; ``grain`` 0–1 how much tooth a paper has.
    """

    id: str = Field(pattern=r"^[a-z0-9-]{1,40}$")
    source: Source
    name: str = Field(max_length=60)
    on: bool = True
    opacity: float = Field(default=1.0, ge=0, le=1)
    blend: BlendMode = "normal"
    colour: Colour = "#fbf8f1"
    horizon: Colour = "#f0e6d2"
    mottle: float = Field(default=0.4, ge=0, le=1)
    grain: float = Field(default=0.4, ge=0, le=1)
    part_set: str = Field(default="", max_length=200)


def default_traces() -> tuple[Trace, ...]:
    """The traces of a fresh drawing, from the paper up."""
    return (
        Trace(id="paper", source="paper", name="Paper", colour="#fbf8f1"),
        Trace(id="sky", source="sky", name="Sky wash", colour="#b4c3c2", horizon="#efe3cd", opacity=0.85, blend="multiply"),
        Trace(id="tint", source="tint", name="Material tint", opacity=0.42, blend="multiply"),
        Trace(id="glass", source="glass", name="Glass", colour="#c3d6d5", opacity=0.55, blend="multiply"),
        Trace(id="shade", source="shade", name="Shade", colour="#83705c", opacity=0.38, blend="multiply"),
        Trace(id="shadow", source="shadow", name="Shadow", colour="#6f5c4c", opacity=0.48, blend="multiply"),
        Trace(id="occlusion", source="occlusion", name="Corners", colour="#7a6552", opacity=0.42, blend="multiply", mottle=0.2),
        Trace(id="poche", source="poche", name="Poche", colour="#2e2a27"),
        Trace(id="lines", source="lines", name="Lines", colour="#2e2a27"),
    )
