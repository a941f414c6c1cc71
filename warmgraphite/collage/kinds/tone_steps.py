"""Tone steps: light, shade, shadow and corners together, in a few flat tones."""

from __future__ import annotations

from contextlib import nullcontext
from typing import Any, ClassVar, Literal

import shapely
from pydantic import Field

from warmgraphite.canvas.protocol import BlendMode, Canvas, Path
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.tones.specification import TonesSpec
from warmgraphite.collage.trace import Trace, rgb
from warmgraphite.colour import written
from warmgraphite.needs import Need
from warmgraphite.specification import Colour


class ToneSteps(Trace):
    label: ClassVar[str] = "Tone steps"
    about: ClassVar[str] = (
        "Light, shade, shadow and corners taken together and drawn as a few flat tones, each a clean shape."
    )
    under_ink: ClassVar[bool] = True

    kind: Literal["tone-steps"] = "tone-steps"
    blend: BlendMode = "multiply"
    steps: int = Field(default=5, ge=2, le=10, title="Tones", description="How many there are, the paper's among them.")
    colour: Colour = Field(default="#5f544b", title="Darkest")
    shade: float = Field(default=0.45, ge=0, le=1, title="Shade", description="What turns away from the sun.")
    shadow: float = Field(default=0.55, ge=0, le=1, title="Shadow", description="What the sun does not reach.")
    corners: float = Field(default=0.5, ge=0, le=1, title="Corners", description="What stands close together.")

    @property
    def tones(self) -> TonesSpec:
        """What is followed."""
        return TonesSpec(steps=self.steps, shade=self.shade, shadow=self.shadow, corners=self.corners)

    def needs(self) -> tuple[Need, ...]:
        return (Need("tones", self.tones), *((Need("room", self.where),) if self.where else ()))

    def shows(self) -> dict[str, Any]:
        return {**super().shows(), "where": self.where and self.where.model_dump(mode="json")}

    def draw(self, canvas: Canvas, plate: Plate) -> None:
        shapes = plate.results[Need("tones", self.tones)]
        rings = lambda shape: [shapely.get_coordinates(r) for r in shapely.get_rings(shapely.get_parts(shape))]
        room = None if self.where is None else rings(plate.of("room", self.where).shape)
        if room == []:
            return
        with nullcontext() if room is None else canvas.clip_path(Path.of(room)):
            # Each lies over the one before, so that no hairline is left between two.
            for step, shape in enumerate(shapes, 1):
                share = self.tones.darkest * step / (self.steps - 1)
                if not shape.is_empty:
                    canvas.fill(rings(shape), written(255 + share * (rgb(self.colour) - 255)))
