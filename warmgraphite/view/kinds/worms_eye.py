"""The worm's eye."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field

from warmgraphite.view.kinds._kind import KIND_CUT, Metres, Outlook, level_cut
from warmgraphite.view.kinds.trimetric import Trimetric
from warmgraphite.view.specification import Cut


class WormsEye(Trimetric):
    """Parallel, from below: the floor plan cut and seen from underneath, with what stands above it."""

    order: ClassVar[int] = 7
    general: ClassVar[int] = -1

    kind: Literal["worm's eye"] = "worm's eye"  # type: ignore[assignment]
    down: float = Field(default=-45, ge=-90, le=0)
    storey: Metres = 0
    height: Metres = 1.2

    def cut(self) -> Cut:
        return level_cut(self.storey + self.height, -1)

    @classmethod
    def seen(cls, look: Outlook) -> WormsEye | None:
        own = look.cut
        if not look.is_askew or own is None or own.name != KIND_CUT or look.down >= 0 or own.normal[2] >= 0:
            return None
        return cls(bearing=look.bearing, down=look.down, storey=0, height=own.point[2])
