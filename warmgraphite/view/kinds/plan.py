"""The plan."""

from __future__ import annotations

from typing import ClassVar, Literal

from warmgraphite.view.kinds._kind import Box, Degrees, Kind, Metres, Outlook, level, level_cut, tidy, triple
from warmgraphite.view.specification import Cut, Parallel


class Plan(Kind):
    """From above, cut ``height`` metres above the storey at ``storey`` metres.
    ``top`` is the bearing at the paper's top.
    """

    order: ClassVar[int] = 0

    kind: Literal["plan"] = "plan"  # type: ignore[assignment]
    storey: Metres = 0
    height: Metres = 1.2
    top: Degrees = 0

    def cut(self) -> Cut:
        return level_cut(self.storey + self.height, 1)

    def projection(self, at: Box) -> Parallel:
        return Parallel(direction=(0, 0, -1), up=triple(level(self.top)), centre=triple(at.mean(0)))

    @classmethod
    def seen(cls, look: Outlook) -> Plan | None:
        if not (look.is_parallel and look.is_upright) or look.ahead[2] > 0:
            return None
        return cls(storey=0, height=look.cut.point[2] if look.cut else tidy(look.box.mean(0)[2]), top=look.top)
