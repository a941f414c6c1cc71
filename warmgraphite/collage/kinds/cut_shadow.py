"""A soft shadow behind what is cut, which lifts it off the page."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
import shapely
from numpy.typing import NDArray
from pydantic import Field
from scipy import ndimage

from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import ToneTrace
from warmgraphite.ink.layer import shape_of
from warmgraphite.needs import Need
from warmgraphite.regions.masks import cover_of
from warmgraphite.regions.reading import of_parts
from warmgraphite.specification import Colour


class CutShadow(ToneTrace):
    label: ClassVar[str] = "Shadow behind the cut"
    about: ClassVar[str] = "A soft shadow of all that is cut, laid under it."

    kind: Literal["cut-shadow"] = "cut-shadow"
    colour: Colour = Field(default="#4a4038", title="Tone")
    distance: float = Field(default=1.2, ge=0, le=50, title="Distance", description="How far it falls from what is cut.", json_schema_extra={"unit": "mm", "most": 8})  # fmt: skip
    angle: float = Field(default=315.0, ge=0, le=360, title="Falls towards", description="Degrees counter-clockwise from the right.", json_schema_extra={"unit": "°"})  # fmt: skip
    blur: float = Field(default=1.6, ge=0, le=50, title="Blur", description="How soft its edge is.", json_schema_extra={"unit": "mm", "most": 10})  # fmt: skip
    strength: float = Field(default=0.45, ge=0, le=1, title="Strength")

    def needs(self) -> tuple[Need, ...]:
        if self.where is None or of_parts(self.where):
            return (Need("shapes", self.where),)
        return (Need("shapes"), Need("mask", self.where))

    def confined(self, plate: Plate) -> NDArray[np.uint8]:
        return self.pixels(plate) if self.where is None or of_parts(self.where) else super().confined(plate)

    def share(self, plate: Plate) -> NDArray[np.uint8]:
        raster = plate.raster
        found = plate.of("shapes", self.where if self.where is not None and of_parts(self.where) else None)
        solid = [
            s for row in found if not row.earth for s in shapely.get_parts(shape_of(row.rings)) if shapely.get_type_id(s) == 3
        ]
        if not solid:
            return np.zeros((raster.height, raster.width), np.uint8)
        left, top, width, height = plate.place
        across, down = raster.width / width, raster.height / height
        # A margin all round, so that what lies beside a window falls into it.
        reach = self.distance + 3 * self.blur
        more_x, more_y = int(np.ceil(reach * across)), int(np.ceil(reach * down))
        size = (raster.width + 2 * more_x, raster.height + 2 * more_y)
        way = self.distance * np.array([np.cos(np.radians(self.angle)), -np.sin(np.radians(self.angle))])
        frame = (size[0] / across, size[1] / down)
        own = shapely.transform(np.array(solid, dtype=object), lambda xy: xy - [left, top] + [more_x / across, more_y / down])

        def mask(shapes: NDArray[np.object_]) -> NDArray[np.float32]:
            box = shapely.box(0, 0, *frame)
            kept = [p for p in shapely.get_parts(shapely.intersection(shapes, box)) if shapely.get_type_id(p) == 3 and p.area > 0]
            if not kept:
                return np.zeros(size[::-1], np.float32)
            cover = cover_of(np.array(kept, dtype=object), size, frame)
            return cover.mask(np.ones(len(kept), bool)).astype(np.float32)

        fallen = mask(shapely.transform(own, lambda xy: xy + way))
        soft = ndimage.gaussian_filter(fallen, (self.blur * down, self.blur * across), truncate=3.0) if self.blur else fallen
        share = self.strength * np.maximum(soft - mask(own), 0)
        return np.round(share[more_y : more_y + raster.height, more_x : more_x + raster.width]).astype(np.uint8)
