"""The section perspective."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from warmgraphite.view.kinds._kind import Box, Degrees, Distance, Kind, Metres, Outlook, level, triple, upright_cut
from warmgraphite.view.specification import Cut, Perspective


class SectionPerspective(Kind):
    """One-point onto a cut, which is drawn at the frame's scale; ``distance`` is the eye's from the cutting plane."""

    order: ClassVar[int] = 13
    general: ClassVar[int] = -1
    straight: ClassVar[bool] = True
    scaled: ClassVar[bool] = True

    kind: Literal["section perspective"] = "section perspective"  # type: ignore[assignment]
    bearing: Degrees = 0
    place: Metres = 0
    distance: Distance = 15
    eye_height: Metres = 1.6
    aside: Metres = 0

    def cut(self) -> Cut:
        return upright_cut(self.bearing, self.place)

    def projection(self, at: Box) -> Perspective:
        way = level(self.bearing)
        right = np.array([way[1], -way[0], 0.0])
        middle = at.mean(0)
        eye = way * (self.place - self.distance) + right * (middle @ right + self.aside)
        eye[2] = self.eye_height
        target = eye + way * self.distance
        target[2] = middle[2]
        return Perspective(
            eye=triple(eye), target=triple(target), field_of_view=60, upright=True, scale_distance=self.distance
        )

    @classmethod
    def seen(cls, look: Outlook) -> SectionPerspective | None:
        if not look.is_central or not look.is_onto_cut or look.cut is None:
            return None
        place = float(np.array(look.cut.point) @ look.way)
        return cls(
            bearing=look.bearing,
            place=place,
            distance=max(place - float(look.eye @ look.way), 0.06),
            eye_height=float(look.eye[2]),
            aside=float((look.eye - look.box.mean(0)) @ look.right),
        )
