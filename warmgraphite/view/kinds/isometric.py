"""The isometric."""

from __future__ import annotations

from typing import ClassVar, Literal

from warmgraphite.geometry.tolerances import FINEST
from warmgraphite.view.kinds._kind import ISOMETRIC, Box, Kind, Outlook, tipped, triple
from warmgraphite.view.specification import Parallel


class Isometric(Kind):
    """Parallel, with the three axes of a square building equally long; ``corner`` is the bearing of sight."""

    order: ClassVar[int] = 4

    kind: Literal["isometric"] = "isometric"  # type: ignore[assignment]
    corner: Literal[45, 135, 225, 315] = 45
    below: bool = False

    def projection(self, at: Box) -> Parallel:
        down = -ISOMETRIC if self.below else ISOMETRIC
        return Parallel(direction=triple(tipped(self.corner, down)), centre=triple(at.mean(0)))

    @classmethod
    def seen(cls, look: Outlook) -> Isometric | None:
        if not look.is_askew or not look.corner or abs(abs(look.down) - ISOMETRIC) >= FINEST:
            return None
        return cls(corner=look.corner, below=look.down < 0)  # type: ignore[arg-type]
