"""The perspective with two vanishing points."""

from __future__ import annotations

from typing import ClassVar, Literal

from warmgraphite.view.kinds._kind import Degrees, Outlook
from warmgraphite.view.kinds.one_point import OnePoint


class TwoPoint(OnePoint):
    """Level, at an angle to the fronts: two vanishing points, verticals upright."""

    order: ClassVar[int] = 11
    general: ClassVar[int] = 1
    straight: ClassVar[bool] = False

    kind: Literal["two-point perspective"] = "two-point perspective"  # type: ignore[assignment]
    bearing: Degrees = 35

    @classmethod
    def seen(cls, look: Outlook) -> TwoPoint | None:
        return cls._seen(look) if look.is_central and not look.is_slanted else None
