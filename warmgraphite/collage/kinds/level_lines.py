"""Level lines: a photograph as the level lines of its greys."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.canvas.protocol import Canvas, Stroke
from warmgraphite.collage.of_picture import FollowedPicture
from warmgraphite.collage.pictures.following import Followed
from warmgraphite.collage.pictures.placing import moved_points
from warmgraphite.collage.pictures.specification import ContourSpec
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import grained, rgb
from warmgraphite.colour import written
from warmgraphite.forms import number, setting
from warmgraphite.geometry.ragged import firsts_of
from warmgraphite.specification import Colour


class LevelLines(FollowedPicture):
    label: ClassVar[str] = "Level lines of its greys"
    about: ClassVar[str] = "The level lines of a picture's greys, as lines or as areas one within the other."
    follows: ClassVar[str] = "contours of a picture"

    kind: Literal["level-lines"] = "level-lines"
    levels: int = Field(default=4, ge=1, le=16, title="Steps of grey")
    smooth: float = number(0.25, "Made even", "Of the picture's longer side.", low=0, high=5, unit="%", most=1.5)
    as_: Literal["lines", "areas"] = setting("lines", "As")
    weight: float = number(0.18, "Weight", low=0.02, high=5, unit="mm", most=0.9, when={"as_": ["lines"]})
    dark: Colour = setting("#5d5249", "Darkest")
    light: Colour = setting("#d9cfbf", "Lightest")

    @property
    def spec(self) -> ContourSpec:
        return ContourSpec(digest=self.picture, levels=self.levels, smooth=self.smooth / 100, areas=self.as_ == "areas")

    def draw_followed(self, canvas: Canvas, plate: Plate, found: Followed, matrix: NDArray[np.float64]) -> None:
        low, high = rgb(self.dark), rgb(self.light)
        for level in range(self.levels):
            colour = written(high + (low - high) * (level / max(self.levels - 1, 1)))
            lines = [moved_points(line, matrix) for line in found.rings(level)]
            if not lines:
                continue
            with canvas.group(f"tone {level + 1}"):
                if self.as_ == "areas":
                    canvas.fill(lines, colour)
                    continue
                with grained(canvas, plate):
                    first = firsts_of(lines)
                    canvas.lines(np.concatenate(lines), first, Stroke(self.weight, colour))
