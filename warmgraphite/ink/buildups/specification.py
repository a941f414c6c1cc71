"""What a build-up says: its layers from outside in, and what stands in them at a rhythm."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Literal, TypeVar

from pydantic import Field, field_validator, model_validator

from warmgraphite.ink.fills import GRAPHITE, Fill
from warmgraphite.specification import Colour, Specification, Words

__all__ = ["Boundary", "BuildUp", "Identity", "Layer", "Outer", "Profile", "Rhythm", "Runs", "numbered"]

Identity = Annotated[str, Field(pattern=r"^([a-z0-9-]{1,40})?$")]
#: What says which side of a part is its outer one: rooms and sky, the other way round, or a direction of the model.
Outer = Literal["auto", "turned", "up", "down", "north", "east", "south", "west"]
Profile = Literal["rectangle", "i", "channel", "angle", "tube", "round", "anchor"]
#: Which way members run: a cut shows them where it goes across.
Runs = Literal["any", "up", "level", "north", "east"]


class Boundary(Specification):
    """The pen of a boundary: ``weight`` and ``dash`` in millimetres of paper; none is drawn where the weight is 0."""

    weight: float = Field(default=0.13, ge=0, le=2, title="Line", json_schema_extra={"unit": "mm", "most": 0.7})
    colour: Colour = GRAPHITE
    dash: tuple[Annotated[float, Field(ge=0.05, le=100)], ...] = Field(default=(), max_length=8)

    @model_validator(mode="after")
    def _pairs(self) -> Boundary:
        if len(self.dash) % 2:
            raise ValueError("a dash needs pairs of mark and gap")
        return self


class Rhythm(Specification):
    """What stands in a layer again and again.
    Studs, battens, joists, hangers, anchors, beams, ``spacing`` metres from one to the next, counted along the middle
    of the layer and on round corners; the first stands ``at`` metres from the layer's end.

    Each is ``width`` metres wide along the layer and ``depth`` metres through it, the whole layer where nothing is
    said, and lies at the ``outer``, the ``inner`` side or in the ``middle``. ``runs`` is the way they run, by which a
    cut goes across them or not.
    """

    id: Identity = ""
    name: Words = Field(default="Studs", max_length=60)
    profile: Profile = "rectangle"
    spacing: float = Field(default=0.625, ge=0.02, le=50, title="Every", json_schema_extra={"unit": "m", "most": 3})
    width: float = Field(default=0.06, ge=0.001, le=5, title="Wide", json_schema_extra={"unit": "m", "most": 0.4})
    depth: float | None = Field(
        default=None, ge=0.001, le=5, title="Deep", json_schema_extra={"unit": "m", "most": 0.6}
    )
    seat: Literal["outer", "middle", "inner"] = "middle"
    at: float = Field(default=0.0, ge=-50, le=50, title="First at", json_schema_extra={"unit": "m", "most": 3})
    runs: Runs = "any"
    fills: tuple[Fill, ...] = Field(default=(), max_length=4)
    boundary: Boundary = Boundary()


class Layer(Specification):
    """One layer.
    ``thickness`` in metres, ``None`` for the rest of what is cut, 0 for a sheet that is drawn as one line. Where there
    is no room for all, those of least ``importance`` go first. What ``goes_on`` runs on through other parts that meet
    its own, as insulation does past the end of a floor. A ``bed`` lies outside of what is cut, in the earth that
    touches it.
    """

    id: Identity = ""
    name: Words = Field(min_length=1, max_length=60)
    thickness: float | None = Field(default=0.1, ge=0, le=10)
    material: Words = Field(default="", max_length=100)
    fills: tuple[Fill, ...] = Field(default=(), max_length=6)
    boundary: Boundary = Boundary()
    importance: int = Field(default=5, ge=1, le=9, title="Importance")
    goes_on: bool = False
    bed: bool = False
    rhythms: tuple[Rhythm, ...] = Field(default=(), max_length=4)

    @field_validator("rhythms")
    @classmethod
    def _numbered(cls, rows: tuple[Rhythm, ...]) -> tuple[Rhythm, ...]:
        return numbered(rows, "rhythm")


class BuildUp(Specification):
    """Layers from outside in.
    None of them, and none of their members, is drawn that would be thinner than ``least`` millimetres of paper.
    """

    id: Identity = ""
    name: Words = Field(min_length=1, max_length=100)
    layers: tuple[Layer, ...] = Field(min_length=1, max_length=16)
    least: float = Field(
        default=0.3, ge=0, le=10, title="Nothing thinner than", json_schema_extra={"unit": "mm", "most": 2}
    )

    @field_validator("layers")
    @classmethod
    def _numbered(cls, rows: tuple[Layer, ...]) -> tuple[Layer, ...]:
        return numbered(rows, "layer")

    @model_validator(mode="after")
    def _one_rest(self) -> BuildUp:
        rest = [row.name for row in self.layers if row.thickness is None]
        if len(rest) > 1:
            raise ValueError(
                f"“{rest[0]}” and “{rest[1]}” are both the rest of what is cut; give one of them a thickness"
            )
        beds = [row.bed for row in self.layers]
        if all(beds):
            raise ValueError("a build-up of beds alone fills nothing; add a layer that is no bed")
        if beds != sorted(beds, reverse=True):
            raise ValueError("beds lie outside: they stand before all other layers")
        if any(row.bed and not row.thickness for row in self.layers):
            raise ValueError("a bed needs a thickness")
        return self

    @property
    def rest(self) -> int:
        """The number of the layer that takes what the others leave: the thickest one where none says so."""
        for number, layer in enumerate(self.layers):
            if layer.thickness is None:
                return number
        return max(
            (n for n, row in enumerate(self.layers) if not row.bed), key=lambda n: self.layers[n].thickness or 0.0
        )


_R = TypeVar("_R", BuildUp, Layer, Rhythm)


def numbered(rows: Sequence[_R], word: str) -> tuple[_R, ...]:
    """The rows, each with an id of its own: those that have none are numbered, and of two alike the second is."""
    given = {r.id for r in rows}
    free = (f"{word}-{k}" for k in range(1, 2 * len(rows) + 2) if f"{word}-{k}" not in given)
    out: list[_R] = []
    for row in rows:
        taken = not row.id or any(row.id == other.id for other in out)
        out.append(row.model_copy(update={"id": next(free)}) if taken else row)
    return tuple(out)
