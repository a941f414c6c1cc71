"""The elevation."""

from __future__ import annotations

from typing import ClassVar, Literal

from warmgraphite.view.kinds._kind import Box, Degrees, Kind, Outlook, level, triple
from warmgraphite.view.specification import Parallel


class Elevation(Kind):
    """Level, straight on, looking along ``bearing``."""

    order: ClassVar[int] = 2
    straight: ClassVar[bool] = True

    kind: Literal["elevation"] = "elevation"  # type: ignore[assignment]
    bearing: Degrees = 0

    def projection(self, at: Box) -> Parallel:
        return Parallel(direction=triple(level(self.bearing)), centre=triple(at.mean(0)))

    @classmethod
    def seen(cls, look: Outlook) -> Elevation | None:
        return cls(bearing=look.bearing) if look.is_parallel and look.is_level and look.cut is None else None
