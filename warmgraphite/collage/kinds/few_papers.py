"""Few papers: a picture as areas of a few colours, which stay vectors."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.canvas.protocol import Canvas
from warmgraphite.collage.of_picture import FollowedPicture
from warmgraphite.collage.pictures.following import Followed
from warmgraphite.collage.pictures.placing import moved_points
from warmgraphite.collage.pictures.specification import TracedSpec
from warmgraphite.collage.plate import Plate
from warmgraphite.colour import written
from warmgraphite.forms import number


class FewPapers(FollowedPicture):
    label: ClassVar[str] = "Few papers"
    about: ClassVar[str] = "A picture cut out of a few papers, laid one over the other."
    follows: ClassVar[str] = "traced picture"

    kind: Literal["few-papers"] = "few-papers"
    colours: int = Field(default=5, ge=2, le=24, title="Papers")
    smooth: float = number(0.25, "Made even", "Of the picture's longer side.", low=0, high=5, unit="%", most=1.5)

    @property
    def spec(self) -> TracedSpec:
        return TracedSpec(digest=self.picture, colours=self.colours, smooth=self.smooth / 100)

    def draw_followed(self, canvas: Canvas, plate: Plate, found: Followed, matrix: NDArray[np.float64]) -> None:
        for level, colour in enumerate(found.colours):
            rings = [moved_points(ring, matrix) for ring in found.rings(level)]
            with canvas.group(f"colour {level + 1}"):
                canvas.fill(rings, written(colour))
