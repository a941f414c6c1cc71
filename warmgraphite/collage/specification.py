"""Traces: what each sheet of tracing paper shows and how it is laid down."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from warmgraphite.sheet.canvas import BlendMode
from warmgraphite.specification import Colour, Specification, Words

__all__ = ["ABOUT", "NEEDS", "SOURCES", "Source", "Trace", "default_traces", "needs"]

Source = Literal["paper", "sky", "tint", "glass", "shade", "shadow", "occlusion", "poche", "lines"]
SOURCES: tuple[str, ...] = Source.__args__  # type: ignore[attr-defined]

#: The passes that what each source shows is made of; another one of these is another picture.
NEEDS: dict[str, tuple[str, ...]] = {
    "paper": (),
    "sky": ("surface",),
    "tint": ("surface", "colour"),
    "glass": ("surface",),
    "shade": ("surface", "light"),
    "shadow": ("surface", "light"),
    "occlusion": ("surface", "occlusion"),
    "poche": ("cut", "poche"),
    "lines": ("lines",),
}
ABOUT: dict[str, str] = {
    "paper": "The sheet under everything, with its tooth.",
    "sky": "A wash confined to the sky: where nothing stands before it. A drawing that looks down has none.",
    "tint": "Each material's own colour, laid on thinly. Never on what is cut.",
    "glass": "A cool tone over what is seen through panes.",
    "shade": "The tone of surfaces by how they face the sun.",
    "shadow": "Shadow cast by the sun, and only that.",
    "occlusion": "The soft dark of corners, where things stand close to each other.",
    "poche": "What is cut, filled per material. Its colours are chosen at the Ink bench.",
    "lines": "All lines with their pens. They are chosen at the Ink bench.",
}


class Trace(Specification):
    """One trace. ``colour`` is its tone (of a sky: the zenith), ``horizon`` the second tone of a sky.

    ``part_set`` confines it to the parts of a part set. ``mottle`` 0–1 is how uneven a wash lies; ``grain`` 0–1 how much tooth a paper has.
    """

    id: str = Field(pattern=r"^[a-z0-9-]{1,40}$")
    source: Source
    name: Words = Field(max_length=60)
    on: bool = True
    opacity: float = Field(default=1.0, ge=0, le=1)
    blend: BlendMode = "normal"
    colour: Colour = "#fbf8f1"
    horizon: Colour = "#f0e6d2"
    mottle: float = Field(default=0.4, ge=0, le=1)
    grain: float = Field(default=0.4, ge=0, le=1)
    part_set: str = Field(default="", max_length=200)


def needs(trace: Trace) -> tuple[str, ...]:
    """The passes that a trace shows; one confined to a part set is masked by the surface, whatever its source is."""
    return tuple(dict.fromkeys((*NEEDS[trace.source], *(("surface",) if trace.part_set else ()))))


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
