"""The reflected plan of a ceiling."""

from __future__ import annotations

from typing import ClassVar, Literal

from warmgraphite.view.kinds._kind import Box, Outlook, level, level_cut, tidy, triple
from warmgraphite.view.kinds.plan import Plan
from warmgraphite.view.specification import Cut, Parallel


class ReflectedPlan(Plan):
    """The ceiling over a cut, as a mirror on the floor shows it: the same way round as the plan."""

    order: ClassVar[int] = 1

    kind: Literal["reflected plan"] = "reflected plan"  # type: ignore[assignment]

    def cut(self) -> Cut:
        return level_cut(self.storey + self.height, -1)

    def projection(self, at: Box) -> Parallel:
        return Parallel(direction=(0, 0, 1), up=triple(level(self.top)), centre=triple(at.mean(0)), mirrored=True)

    @classmethod
    def seen(cls, look: Outlook) -> ReflectedPlan | None:
        if not (look.is_parallel and look.is_upright) or look.ahead[2] <= 0:
            return None
        return cls(storey=0, height=look.cut.point[2] if look.cut else tidy(look.box.mean(0)[2]), top=look.top)
