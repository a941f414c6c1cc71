"""Shadow: what the sun casts."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import Flat, ToneTrace
from warmgraphite.needs import Need
from warmgraphite.regions.query import depth_bounds
from warmgraphite.regions.words.light import LIGHTS
from warmgraphite.specification import Colour


class Shadow(ToneTrace):
    label: ClassVar[str] = "Shadow"
    about: ClassVar[str] = "Shadow cast by the sun, and only that."
    passes: ClassVar[tuple[str, ...]] = ("surface", "light")

    kind: Literal["shadow"] = "shadow"
    colour: Colour = Field(default="#6f5c4c", title="Tone")

    @property
    def is_flat(self) -> bool:
        """Whether it is one tone with edges that the map of regions knows."""
        return not self.mottle and not (self.where is not None and depth_bounds(self.where))

    def vector_needs(self) -> tuple[Need, ...]:
        return (Need("regions"),) if self.is_flat else ()

    def flat(self, plate: Plate) -> Flat | None:
        if not self.is_flat:
            return None
        cells, model = plate.of("regions"), plate.model
        dark = cells.light == LIGHTS.index("shadow")
        return Flat.of(cells.shape(dark if self.where is None else dark & cells.chosen(self.where, model)), self.colour)

    def share(self, plate: Plate) -> NDArray[np.uint8]:
        return plate.light.shadow
