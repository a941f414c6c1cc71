"""The section."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from warmgraphite.view.kinds._kind import Metres, Outlook, tidy, unit_normal, upright_cut
from warmgraphite.view.kinds.elevation import Elevation
from warmgraphite.view.specification import Cut


class Section(Elevation):
    """An elevation of what lies behind a cut; ``place`` metres from zero along the bearing."""

    order: ClassVar[int] = 3
    straight: ClassVar[bool] = True

    kind: Literal["section"] = "section"  # type: ignore[assignment]
    place: Metres = 0

    def cut(self) -> Cut:
        return upright_cut(self.bearing, self.place)

    @classmethod
    def seen(cls, look: Outlook) -> Section | None:
        if not (look.is_parallel and look.is_level) or look.cut is None:
            return None
        return cls(bearing=look.bearing, place=tidy(float(np.array(look.cut.point) @ -unit_normal(look.cut))))
