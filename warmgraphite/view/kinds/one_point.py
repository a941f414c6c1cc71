"""The perspective with one vanishing point."""

from __future__ import annotations

from typing import ClassVar, Literal

from warmgraphite.view.kinds._kind import Box, Central, Outlook, triple
from warmgraphite.view.specification import Perspective


class OnePoint(Central):
    """Level and square to a front: one vanishing point; the frame is shifted to show the building's height."""

    order: ClassVar[int] = 10
    straight: ClassVar[bool] = True

    kind: Literal["one-point perspective"] = "one-point perspective"  # type: ignore[assignment]

    def projection(self, at: Box) -> Perspective:
        eye, way, reach = self._eye(at)
        target = eye + way * reach
        target[2] = at.mean(0)[2]
        return Perspective(eye=triple(eye), target=triple(target), field_of_view=self.angle, upright=True)

    @classmethod
    def seen(cls, look: Outlook) -> OnePoint | None:
        return cls._seen(look) if look.is_central and not look.is_slanted and look.is_square else None
