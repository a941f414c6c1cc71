"""A soft shadow behind what is cut, which lifts it off the page."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
import shapely
from numpy.typing import NDArray
from PIL import Image
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
    distance: float = Field(default=1.2, ge=0, le=50, title="Distance",
        description="How far it falls from what is cut.", json_schema_extra={"unit": "mm", "most": 8})  # fmt: skip
    angle: float = Field(default=315.0, ge=0, le=360, title="Falls towards",
        description="Degrees counter-clockwise from the right.", json_schema_extra={"unit": "°"})  # fmt: skip
    blur: float = Field(default=1.6, ge=0, le=50, title="Blur", description="How soft its edge is.",
        json_schema_extra={"unit": "mm", "most": 10})  # fmt: skip
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
            s
            for row in found
            if not row.earth
            for s in shapely.get_parts(shape_of(row.rings))
            if shapely.get_type_id(s) == 3
        ]
        if not solid:
            return np.zeros((raster.height, raster.width), np.uint8)
        width, height = plate.place[2:]
        across, down = raster.width / width, raster.height / height
        shapes = np.array(solid, dtype=object)

        def cover(x: int, y: int, wide: int, high: int, step: int, moved: NDArray[np.float64]) -> NDArray[np.float32]:
            """The share that shapes take of cells of so many pixels of the whole drawing, from a corner on."""
            size, frame = (wide // step, high // step), (wide / across, high / down)
            own = shapely.transform(shapes, lambda xy: xy + moved - [x / across, y / down])
            kept = [
                p
                for p in shapely.get_parts(shapely.intersection(own, shapely.box(0, 0, *frame)))
                if shapely.get_type_id(p) == 3 and p.area > 0
            ]
            if not kept:
                return np.zeros(size[::-1], np.float32)
            found = cover_of(np.array(kept, dtype=object), size, frame)
            return np.asarray(found.mask(np.ones(len(kept), bool)), np.float32)

        # What is blurred is smooth: cells of a fourth of the blur are fine enough, and they lie alike in every window.
        step = max(1, int(self.blur * min(across, down) / 4))
        # A margin all round, so that what lies beside a window falls into it.
        more = self.distance + 3 * self.blur
        x0, y0 = (int(np.floor((at - more * per) / step)) * step for at, per in ((raster.x, across), (raster.y, down)))
        x1 = int(np.ceil((raster.x + raster.width + more * across) / step)) * step
        y1 = int(np.ceil((raster.y + raster.height + more * down) / step)) * step
        way = self.distance * np.array([np.cos(np.radians(self.angle)), -np.sin(np.radians(self.angle))])
        soft = cover(x0, y0, x1 - x0, y1 - y0, step, way)
        if self.blur:
            soft = ndimage.gaussian_filter(soft, (self.blur * down / step, self.blur * across / step), truncate=3.0)
        if step > 1:
            soft = np.asarray(Image.fromarray(soft, "F").resize((x1 - x0, y1 - y0), Image.Resampling.BILINEAR))
        soft = soft[raster.y - y0 :, raster.x - x0 :][: raster.height, : raster.width]
        own = cover(raster.x, raster.y, raster.width, raster.height, 1, np.zeros(2))
        return np.round(self.strength * np.maximum(soft - own, 0)).astype(np.uint8)
