"""What traces made of a picture of the stock have in common: where it lies, and what is said when it does not."""

from __future__ import annotations

from collections.abc import Callable
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from warmgraphite.canvas.protocol import Canvas, Path
from warmgraphite.collage.pictures.following import Followed
from warmgraphite.collage.pictures.placing import Placed
from warmgraphite.collage.pictures.specification import PictureSpec
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import Trace
from warmgraphite.ink.along import ringed
from warmgraphite.needs import Need
from warmgraphite.view.specification import ViewSpecification

__all__ = ["FollowedPicture", "OfPicture"]


class OfPicture(Trace, Placed):
    """A trace that shows a picture where it is placed."""

    def remarks(self, view: ViewSpecification, kept: Callable[[str], bool]) -> tuple[str, ...]:
        return (*super().remarks(view, kept), *self.stale(view))

    def places(self, plate: Plate) -> dict[str, float]:
        return {"two points": 1.0} if self.fit == "by two points" else {}


class FollowedPicture(OfPicture):
    """A picture followed by outlines, which stay vectors."""

    under_ink: ClassVar[bool] = True
    #: The pass that follows it.
    follows: ClassVar[str] = ""

    @property
    def spec(self) -> PictureSpec:
        """How it is followed."""
        raise NotImplementedError

    def needs(self) -> tuple[Need, ...]:
        room = (Need("room", self.where),) if self.where is not None else ()
        return (*super().needs(), Need(self.follows, self.spec), *room)

    def draw(self, canvas: Canvas, plate: Plate) -> None:
        found: Followed | None = plate.results[Need(self.follows, self.spec)]
        if found is None:  # it is not in the stock here
            return
        matrix = self.lies(plate.frame, plate.middle, float(found.aspect[0]))
        if self.where is None:
            return self.draw_followed(canvas, plate, found, matrix)
        with canvas.clip_path(Path.of(ringed(plate.of("room", self.where).shape))):
            self.draw_followed(canvas, plate, found, matrix)

    def draw_followed(self, canvas: Canvas, plate: Plate, found: Followed, matrix: NDArray[np.float64]) -> None:
        """Draw what was followed; ``matrix`` (3, 3) takes shares of the picture to frame millimetres."""
        raise NotImplementedError
