"""Photographed sketch: a drawing on paper, straight on and clean, on nothing."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.canvas.protocol import BlendMode, Canvas, Path
from warmgraphite.collage.of_picture import OfPicture
from warmgraphite.collage.pictures.laying import laid_picture
from warmgraphite.collage.pictures.placing import moved_points
from warmgraphite.collage.pictures.sheet import CleanSheet
from warmgraphite.collage.pictures.specification import Corner, SheetSpec
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import PixelTrace, rgb
from warmgraphite.forms import number, setting, share
from warmgraphite.ink.along import ringed
from warmgraphite.needs import Need
from warmgraphite.specification import Colour


class SketchTrace(PixelTrace, OfPicture):
    label: ClassVar[str] = "Photographed sketch"
    about: ClassVar[str] = (
        "A photograph of a drawing on paper: laid straight, evenly lit, and nothing of the paper left."
    )

    kind: Literal["sketch"] = "sketch"
    blend: BlendMode = "multiply"
    corners: tuple[Corner, Corner, Corner, Corner] = Field(default=((0, 0), (1, 0), (1, 1), (0, 1)),
        title="Corners of the sheet", json_schema_extra={"hidden": True})  # fmt: skip
    faint: float = share(0.5, "Faint lines", "How faint a line may be and still be one.")
    as_: Literal["drawn", "lines"] = setting("drawn", "As", "As it was drawn, or as lines that are vectors.")
    lead: Literal["its own", "one tone"] = setting("its own", "Colours", when={"as_": ["drawn"]})
    colour: Colour = setting("#3b3733", "Tone")
    times: float = number(
        1.0, "Line weight", "1 is as thick as it was drawn.", low=0.1, high=5, most=2.5, when={"as_": ["lines"]}
    )

    @property
    def spec(self) -> SheetSpec:
        return SheetSpec(digest=self.picture, corners=self.corners, faint=self.faint, lines=self.as_ == "lines")

    def needs(self) -> tuple[Need, ...]:
        room = (Need("room", self.where),) if self.where is not None and self.as_ == "lines" else ()
        return (*super().needs(), Need("clean sheet", self.spec), *room)

    def pixels(self, plate: Plate) -> NDArray[np.uint8]:
        found: CleanSheet | None = plate.results[Need("clean sheet", self.spec)]
        raster = plate.raster
        if found is None:  # it is not in the stock here
            return np.zeros((raster.height, raster.width, 4), np.uint8)
        height, width = found.pixels.shape[:2]
        matrix = self.lies(plate.frame, plate.middle, height / width) @ np.diag([1 / width, 1 / height, 1.0])
        x, y = (plate.ground.along(axis) + plate.middle[axis] for axis in (0, 1))
        laid = laid_picture(found.pixels, x, y, (0, 0, 1, 1), matrix)
        if self.lead == "one tone":
            laid[..., :3] = np.round(rgb(self.colour) * (laid[..., 3:] / np.float32(255)))
        return laid

    def draw(self, canvas: Canvas, plate: Plate) -> None:
        found: CleanSheet | None = plate.results[Need("clean sheet", self.spec)]
        if self.as_ == "drawn" or found is None:
            return super().draw(canvas, plate)
        if self.where is None:
            return self._draw_lines(canvas, plate, found)
        with canvas.clip_path(Path.of(ringed(plate.of("room", self.where).shape))):
            self._draw_lines(canvas, plate, found)

    def _draw_lines(self, canvas: Canvas, plate: Plate, found: CleanSheet) -> None:
        height, width = found.pixels.shape[:2]
        matrix = self.lies(plate.frame, plate.middle, height / width)
        across = float(np.hypot(*matrix[:2, 0]))
        if len(found.first) > 1:
            with canvas.group("sketched lines"):
                canvas.ribbons(
                    moved_points(found.points, matrix), found.width * (across * self.times), found.first, self.colour
                )
