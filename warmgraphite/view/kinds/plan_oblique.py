"""The plan oblique."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field

from warmgraphite.view.kinds._kind import Box, Degrees, Kind, Outlook, level, triple
from warmgraphite.view.specification import Oblique


class PlanOblique(Kind):
    """The plan in its true shape, turned; uprights at ``angle`` from the paper's right, ``ratio`` of their length."""

    order: ClassVar[int] = 8

    kind: Literal["plan oblique"] = "plan oblique"  # type: ignore[assignment]
    top: Degrees = 30
    angle: Degrees = 90
    ratio: float = Field(default=1, ge=0, le=4)

    def projection(self, at: Box) -> Oblique:
        # What lies deeper recedes the other way from what rises.
        angle, up = (self.angle + 180) % 360, triple(level(self.top))
        return Oblique(
            direction=(0, 0, -1), up=up, centre=triple(at.mean(0)), receding_angle=angle, receding_ratio=self.ratio
        )

    @classmethod
    def seen(cls, look: Outlook) -> PlanOblique | None:
        spec = look.projection
        if not isinstance(spec, Oblique) or not look.is_upright:
            return None
        return cls(top=look.top, angle=(spec.receding_angle - 180) % 360, ratio=spec.receding_ratio)
