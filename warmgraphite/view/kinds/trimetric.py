"""The trimetric."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field

from warmgraphite.view.kinds._kind import Box, Degrees, Kind, Outlook, tipped, triple
from warmgraphite.view.specification import Parallel


class Trimetric(Kind):
    """Parallel, at any angle: ``bearing`` and degrees ``down`` from level, negative for a worm's eye."""

    order: ClassVar[int] = 6
    general: ClassVar[int] = 2

    kind: Literal["trimetric"] = "trimetric"  # type: ignore[assignment]
    bearing: Degrees = 30
    down: float = Field(default=35, ge=-90, le=90)

    def projection(self, at: Box) -> Parallel:
        return Parallel(direction=triple(tipped(self.bearing, self.down)), centre=triple(at.mean(0)))

    @classmethod
    def seen(cls, look: Outlook) -> Trimetric | None:
        return cls(bearing=look.bearing, down=look.down) if look.is_askew else None
