"""The perspective with three vanishing points."""

from __future__ import annotations

from typing import ClassVar, Literal

from warmgraphite.view.kinds._kind import Box, Central, Degrees, Metres, Outlook, triple
from warmgraphite.view.specification import Perspective


class ThreePoint(Central):
    """Looking at the middle of the model from above or below its level: three vanishing points."""

    order: ClassVar[int] = 12

    kind: Literal["three-point perspective"] = "three-point perspective"  # type: ignore[assignment]
    bearing: Degrees = 35
    eye_height: Metres = 12

    def projection(self, at: Box) -> Perspective:
        eye, _, _ = self._eye(at)
        return Perspective(eye=triple(eye), target=triple(at.mean(0)), field_of_view=self.angle)

    @classmethod
    def seen(cls, look: Outlook) -> ThreePoint | None:
        return cls._seen(look) if look.is_central and look.is_slanted else None
