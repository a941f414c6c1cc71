"""A cut-out of one's own: a card that stands in the model and turns to whoever looks."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from warmgraphite.figures.cutouts import Ground, PictureSource, as_file, card_from, card_of, texture_of
from warmgraphite.figures.drawn import drawn_cut_out
from warmgraphite.figures.figure import Figure, Seen
from warmgraphite.figures.piece import WHOLE, Piece, moved_pieces
from warmgraphite.forms import setting
from warmgraphite.geometry.tolerances import NEAR
from warmgraphite.memory import remembered
from warmgraphite.model.behaviour import Role

#: Degrees into which the way that a card faces is rounded: another camera near by has the same card.
TURNS = 3.0
#: What is shown where a picture is not there: a grey card half as wide as tall.
MISSING = "#b9b2a6"


class CutOut(Figure):
    """A ``picture`` by its digest, as ``height`` metres tall as what is seen of it, with its ``ground`` taken away.
    Seen from ``above`` and ``slanting``, as in an axonometric, there may be other pictures. In a plan without one of
    its own it lies on its side as it is.
    """

    label: ClassVar[str] = "Cut-out"
    plural: ClassVar[str] = "Cut-outs"
    role: ClassVar[Role] = "context"
    cards: ClassVar[bool] = True

    kind: Literal["cut-out"] = "cut-out"  # type: ignore[assignment]
    picture: str = Field(default="", max_length=80, json_schema_extra={"hidden": True})
    above: str = Field(default="", max_length=80, json_schema_extra={"hidden": True})
    slanting: str = Field(default="", max_length=80, json_schema_extra={"hidden": True})
    height: float = Field(default=1.75, ge=0.02, le=60, title="Height", json_schema_extra={"hidden": True})
    ground: Ground = setting(
        "white",
        "Its ground",
        json_schema_extra={
            "options": [["white", "white, taken away"], ["even", "even, taken away"], ["kept", "clear already"]]
        },
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
        return [
            self._shown(seen),
            seen.down,
            self.turned(seen),
            seen.kept is not None and seen.kept.has(self._shown(seen)),
        ]

    def turned(self, seen: Seen) -> float:
        # It faces whoever looks; only seen from above it is turned as it is told to be.
        return self.turn if seen.down else round(-seen.bearing / TURNS) * TURNS

    def pieces(self, seen: Seen) -> tuple[Piece, ...]:
        digest, kept = self._shown(seen), seen.kept
        if kept is None or not kept.has(digest):
            return (_missing(self.height),)
        flat = _flat(kept, digest, self.ground)
        if not flat:
            return (_missing(self.height),)
        # Whoever looks at it from ahead has its left on the right; in a plan it lies on its back, its middle over its
        # foot where it is drawn from above.
        if seen.down:
            matrix = self.height * np.array([(1.0, 0, 0), (0, 1.0, 0), (0, 0, 0)])
            by = np.array([0.0, -self.height / 2 if self.above else 0.0, 0.02])
        else:
            matrix, by = self.height * np.array([(-1.0, 0, 0), (0, 0, 1.0), (0, 0, 0)]), np.zeros(3)
        return moved_pieces(flat, matrix.T, 1.0, by)


def _missing(height: float) -> Piece:
    points = height * np.array([(-0.25, 0, 0.0), (0.25, 0, 0), (0.25, 0, 1), (-0.25, 0, 1)])
    return Piece("cut-out", MISSING, points, np.array([(0, 1, 2), (0, 2, 3)], np.int32), WHOLE)


@remembered("cut-outs")
def _flat(kept: PictureSource, digest: str, ground: Ground) -> tuple[Piece, ...]:
    """A cut-out as it lies in its own plane, a metre tall: x across from its middle, y up from its foot.
    What came as a drawing has its strokes as line elements over its fills; nothing where nothing is left of it.
    """
    upright = lambda p: np.column_stack([p, np.zeros(len(p))])
    drawing = drawn_cut_out(kept, digest, ground)
    if drawing is None:
        card = card_of(kept, digest, ground)
        if card is None:
            return ()
        picture, file = f"{digest}-{ground}", texture_of(kept, digest, ground)
        return (
            Piece(
                "cut-out",
                card.colour,
                upright(card.points),
                card.triangles,
                WHOLE,
                picture=picture,
                uv=card.uv,
                file=file,
            ),
        )
    longer, bounds = max(drawing.whole.shape[:2]), drawing.bounds
    tall, middle, bottom = max(bounds[1, 1] - bounds[0, 1], NEAR), bounds[:, 0].mean(), bounds[1, 1]
    quiet, found = bool(drawing.strokes), []
    card = card_from(drawing.whole, drawing.fills, bounds * longer)
    if card is not None:
        found.append(
            Piece(
                "cut-out", card.colour, upright(card.points), card.triangles, WHOLE, picture=f"{digest}-{ground}",
                uv=card.uv,
                file=as_file(drawing.fills), quiet=quiet,
            )
        )  # fmt: skip
    for stroke in drawing.strokes:
        ends = upright(((stroke.ends.reshape(-1, 2) - (middle, bottom)) * (1, -1)) / tall).reshape(-1, 2, 3)
        nothing = (np.zeros((0, 3)), np.zeros((0, 3), np.int32))
        found.append(Piece("strokes", stroke.colour, *nothing, WHOLE, lines=ends, weight=stroke.weight))
    return tuple(found)
