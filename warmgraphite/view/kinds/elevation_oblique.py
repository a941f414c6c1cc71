"""The elevation oblique."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field

from warmgraphite.view.kinds._kind import Box, Degrees, Kind, Outlook, level, triple
from warmgraphite.view.specification import Oblique


class ElevationOblique(Kind):
    """A front in its true shape; depth at ``angle`` from the paper's right, ``ratio`` of its length."""

    order: ClassVar[int] = 9
    straight: ClassVar[bool] = True

    kind: Literal["elevation oblique"] = "elevation oblique"  # type: ignore[assignment]
    bearing: Degrees = 0
    angle: Degrees = 45
    ratio: float = Field(default=0.5, ge=0, le=4)

    def projection(self, at: Box) -> Oblique:
        way = triple(level(self.bearing))
        return Oblique(
            direction=way, centre=triple(at.mean(0)), receding_angle=self.angle % 360, receding_ratio=self.ratio
        )

    @classmethod
    def seen(cls, look: Outlook) -> ElevationOblique | None:
        spec = look.projection
        if not isinstance(spec, Oblique) or look.is_upright:
            return None
        return cls(bearing=look.bearing, angle=spec.receding_angle % 360, ratio=spec.receding_ratio)
