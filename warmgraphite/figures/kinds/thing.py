"""A vehicle, a piece of furniture, an animal or birds."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field, field_validator

from warmgraphite.figures.figure import Figure, FigureItem, Seen
from warmgraphite.figures.piece import Piece, merged, moved_pieces
from warmgraphite.figures.things import THINGS
from warmgraphite.forms import setting
from warmgraphite.memory import remembered
from warmgraphite.model.behaviour import Role
from warmgraphite.specification import Colour


class Thing(Figure):
    """A thing by its name.
    It is as high in metres as is said or as is usual, in a ``colour``, or one of its own by the seed.
    """

    label: ClassVar[str] = "Thing"
    plural: ClassVar[str] = "Things"
    least: ClassVar[tuple[float, float, float]] = (4.0, 2.0, 0.8)

    kind: Literal["thing"] = "thing"  # type: ignore[assignment]
    thing: str = setting("bench", "Thing", json_schema_extra={"options": [[t.name, t.label] for t in THINGS.values()]})
    height: float | None = Field(default=None, ge=0.02, le=60, title="Height", json_schema_extra={"hidden": True})
    colour: Colour | None = Field(default=None, title="Colour", json_schema_extra={"hidden": True})
    seed: int = Field(default=1, ge=0, le=1_000_000, title="Seed", json_schema_extra={"most": 60})

    @field_validator("thing")
    @classmethod
    def _known(cls, name: str) -> str:
        if name not in THINGS:
            raise ValueError(f"there is no thing “{name}”; there are {', '.join(sorted(THINGS))}")
        return name

    @property
    def sort(self) -> str:
        return self.thing

    @property
    def on_water(self) -> Literal["none", "on", "under"]:
        return "on" if THINGS[self.thing].floats else "none"

    @classmethod
    def stock(cls) -> list[FigureItem]:
        return [FigureItem.of("thing", t.name, t.group, t.label, thing=t.name, seed=2) for t in THINGS.values()]

    @property
    def what(self) -> str:
        return THINGS[self.thing].label

    @property
    def is_a(self) -> Role:
        return THINGS[self.thing].role

    @property
    def tall(self) -> float:
        return self.height or THINGS[self.thing].height

    def pieces(self, seen: Seen) -> tuple[Piece, ...]:
        return _made(self.thing, self.height, self.colour, self.seed)


@remembered("things")
def _made(name: str, height: float | None, colour: str | None, seed: int) -> tuple[Piece, ...]:
    thing, chance = THINGS[name], np.random.default_rng([seed, 13])
    own = str(chance.choice(thing.colours))
    found = merged(thing.make(chance, colour or own))
    return found if height is None else moved_pieces(found, np.eye(3), height / thing.height, np.zeros(3))
