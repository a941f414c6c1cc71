"""The dimetric."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field

from warmgraphite.view.kinds._kind import Box, Outlook, tipped, triple
from warmgraphite.view.kinds.isometric import Isometric
from warmgraphite.view.specification import Parallel


class Dimetric(Isometric):
    """Parallel, with two axes of a square building equally long, looking ``down`` degrees from level."""

    order: ClassVar[int] = 5
    general: ClassVar[int] = 1

    kind: Literal["dimetric"] = "dimetric"  # type: ignore[assignment]
    down: float = Field(default=20, ge=1, le=89)

    def projection(self, at: Box) -> Parallel:
        return Parallel(
            direction=triple(tipped(self.corner, -self.down if self.below else self.down)), centre=triple(at.mean(0))
        )

    @classmethod
    def seen(cls, look: Outlook) -> Dimetric | None:
        if not look.is_askew or not look.corner or not 1 <= abs(look.down) <= 89:
            return None
        return cls(corner=look.corner, below=look.down < 0, down=abs(look.down))  # type: ignore[arg-type]
