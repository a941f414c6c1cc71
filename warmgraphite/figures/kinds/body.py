"""A body of one's own: a model of one thing that stands as it is."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

from pydantic import Field

from warmgraphite.figures.bodies import pieces_of
from warmgraphite.figures.figure import Figure, Seen
from warmgraphite.figures.piece import Piece
from warmgraphite.forms import number
from warmgraphite.model.behaviour import Role
from warmgraphite.model.solids import box

#: What stands where a body is not there: a grey box half as wide as tall.
MISSING = "#b9b2a6"


class Body(Figure):
    """A body by the digest that it is kept under, as its ``picture`` is, ``height`` metres tall.
    Its edges are drawn from a bend of ``folds`` degrees.
    """

    label: ClassVar[str] = "Own body"
    plural: ClassVar[str] = "Own bodies"
    role: ClassVar[Role] = "context"

    kind: Literal["body"] = "body"  # type: ignore[assignment]
    picture: str = Field(default="", max_length=80, json_schema_extra={"hidden": True})
    height: float = Field(default=1.0, ge=0.005, le=60, title="Height", json_schema_extra={"hidden": True})
    folds: float = number(30.0, "Edges from a bend of", low=1, high=180, unit="°", most=120)

    @property
    def tall(self) -> float:
        return self.height

    @property
    def pictures(self) -> tuple[str, ...]:
        return (self.picture,) if self.picture else ()

    def shape_key(self, seen: Seen) -> Any:
        return seen.kept is not None and seen.kept.has(self.picture)

    def pieces(self, seen: Seen) -> tuple[Piece, ...]:
        kept = seen.kept if seen.kept is not None and seen.kept.has(self.picture) else None
        found = pieces_of(kept, self.picture, self.height, self.folds) if kept is not None else ()
        half = self.height / 4
        return found or (
            Piece.of("body", MISSING, box((-half, -half, 0), (half, half, self.height)), crease=self.folds),
        )
