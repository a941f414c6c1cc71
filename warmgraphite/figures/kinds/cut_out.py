"""A cut-out of one's own: a card that stands in the model and turns to whoever looks."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from warmgraphite.figures.cutouts import Ground, card_of, texture_of
from warmgraphite.figures.figure import Figure, Seen
from warmgraphite.figures.piece import WHOLE, Piece
from warmgraphite.forms import setting
from warmgraphite.model.behaviour import Role

#: Degrees into which the way that a card faces is rounded: another camera near by has the same card.
TURNS = 3.0
#: What is shown where a picture is not there: a grey card half as wide as tall.
MISSING = "#b9b2a6"


class CutOut(Figure):
    """A ``picture`` by its digest, as ``height`` metres tall as what is seen of it, with its ``ground`` taken away; seen from ``above`` and
    ``slanting``, as in an axonometric, there may be other pictures. In a plan without one of its own it lies on its side as it is."""

    label: ClassVar[str] = "Cut-out"
    plural: ClassVar[str] = "Cut-outs"
    role: ClassVar[Role] = "context"

    kind: Literal["cut-out"] = "cut-out"
    picture: str = Field(default="", max_length=80, json_schema_extra={"hidden": True})
    above: str = Field(default="", max_length=80, json_schema_extra={"hidden": True})
    slanting: str = Field(default="", max_length=80, json_schema_extra={"hidden": True})
    height: float = Field(default=1.75, ge=0.02, le=60, title="Height", json_schema_extra={"hidden": True})
    ground: Ground = setting(
        "white",
        "Its ground",
        json_schema_extra={"options": [["white", "white, taken away"], ["even", "even, taken away"], ["kept", "clear already"]]},
    )

    @property
    def tall(self) -> float:
        return self.height

    @property
    def pictures(self) -> tuple[str, ...]:
        return tuple(p for p in (self.picture, self.above, self.slanting) if p)

    def _shown(self, seen: Seen) -> str:
        return (self.above if seen.down else self.slanting if seen.slanting else "") or self.picture

    def shape_key(self, seen: Seen) -> Any:
        return [self._shown(seen), seen.down, self.turned(seen), seen.kept is not None and seen.kept.has(self._shown(seen))]

    def turned(self, seen: Seen) -> float:
        # It faces whoever looks; only seen from above it is turned as it is told to be.
        return self.turn if seen.down else round(-seen.bearing / TURNS) * TURNS

    def pieces(self, seen: Seen) -> tuple[Piece, ...]:
        digest = self._shown(seen)
        card = None if seen.kept is None or not seen.kept.has(digest) else card_of(seen.kept, digest, self.ground)
        if card is None:
            flat, faces = (
                np.array([(-0.25, 0.0), (0.25, 0.0), (0.25, 1.0), (-0.25, 1.0)]),
                np.array([(0, 1, 2), (0, 2, 3)], np.int32),
            )
            uv, colour, picture = None, MISSING, ""
        else:
            flat, faces, uv, colour, picture = card.points, card.triangles, card.uv, card.colour, f"{digest}-{self.ground}"
        across, up = flat[:, 0] * self.height, flat[:, 1] * self.height
        if seen.down:
            own = up - self.height / 2 if self.above else up
            points = np.column_stack([across, own, np.full(len(flat), 0.02)])
        else:
            # Whoever looks at it from ahead has its left on the right.
            points = np.column_stack([-across, np.zeros(len(flat)), up])
        data = texture_of(seen.kept, digest, self.ground) if picture and seen.kept is not None else b""
        return (Piece("cut-out", colour, points, faces, WHOLE, picture=picture, uv=uv, file=data),)
