"""Picture in register: a rendering made elsewhere, laid on the passes that it was made from."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from warmgraphite.collage.of_picture import OfPicture
from warmgraphite.collage.pictures.laying import laid_picture
from warmgraphite.collage.pictures.specification import PictureSpec
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import PixelTrace
from warmgraphite.needs import Need


class RegisterTrace(PixelTrace, OfPicture):
    label: ClassVar[str] = "Picture in register"
    about: ClassVar[str] = (
        "A picture made elsewhere: it fills the frame to the pixel, or lies by two of its points, and keeps what is "
        "clear in it."
    )

    kind: Literal["register"] = "register"

    def needs(self) -> tuple[Need, ...]:
        return (*super().needs(), Need("whole picture", PictureSpec(digest=self.picture)))

    def pixels(self, plate: Plate) -> NDArray[np.uint8]:
        pixels: NDArray[np.uint8] | None = plate.results[Need("whole picture", PictureSpec(digest=self.picture))]
        raster = plate.raster
        if pixels is None:  # it is not in the stock here
            return np.zeros((raster.height, raster.width, 4), np.uint8)
        height, width = pixels.shape[:2]
        matrix = self.lies(plate.frame, plate.middle, height / width) @ np.diag([1 / width, 1 / height, 1.0])
        x, y = (plate.ground.along(axis) + plate.middle[axis] for axis in (0, 1))
        return laid_picture(pixels, x, y, (0, 0, 1, 1), matrix)
