"""A person who does something."""

from __future__ import annotations

from typing import ClassVar, Literal

from pydantic import Field, field_validator

from warmgraphite.figures.figure import Figure, Seen
from warmgraphite.figures.people.build import build_of
from warmgraphite.figures.people.clothes import GARMENTS
from warmgraphite.figures.people.person import OUTFITS, person
from warmgraphite.figures.people.poses import POSES
from warmgraphite.figures.piece import Piece
from warmgraphite.forms import number, setting
from warmgraphite.model.behaviour import Role


class Person(Figure):
    """A person in a ``pose``. Stature goes by ``age`` in years, and by the seed, where no ``height`` in metres is given; ``fits`` is how high what
    is touched is, a seat, a rail, a bench top or a step, in metres. What is worn is an ``outfit`` with ``extras``, by the seed where nothing is said."""

    label: ClassVar[str] = "Person"
    plural: ClassVar[str] = "People"
    role: ClassVar[Role] = "people"
    fine: ClassVar[float] = 4.5

    kind: Literal["person"] = "person"
    pose: str = setting("standing", "Pose", json_schema_extra={"options": [[p.name, p.label] for p in POSES.values()]})
    age: float = number(34.0, "Age", low=2, high=95, unit="years", most=90)
    height: float | None = Field(default=None, ge=0.5, le=2.4, title="Height", json_schema_extra={"hidden": True})
    fits: float | None = Field(default=None, ge=-1, le=3, title="Height of what is touched", json_schema_extra={"hidden": True})
    outfit: str = setting("", "Wears", json_schema_extra={"options": [["", "by chance"], *([n, n] for n in OUTFITS)]})
    extras: tuple[str, ...] = Field(default=(), max_length=8, json_schema_extra={"hidden": True})
    seed: int = Field(default=1, ge=0, le=1_000_000, title="Seed", json_schema_extra={"most": 60})

    @field_validator("pose")
    @classmethod
    def _known_pose(cls, name: str) -> str:
        if name not in POSES:
            raise ValueError(f"there is no pose “{name}”; the poses are {', '.join(sorted(POSES))}")
        return name

    @field_validator("outfit")
    @classmethod
    def _known_outfit(cls, name: str) -> str:
        if name and name not in OUTFITS:
            raise ValueError(f"there is no outfit “{name}”; there are {', '.join(OUTFITS)}")
        return name

    @field_validator("extras")
    @classmethod
    def _known_extras(cls, names: tuple[str, ...]) -> tuple[str, ...]:
        for name in names:
            if name not in GARMENTS:
                raise ValueError(f"there is no garment “{name}”; there are {', '.join(sorted(GARMENTS))}")
        return names

    @property
    def what(self) -> str:
        found = POSES[self.pose].label
        return f"Child, {found[0].lower()}{found[1:]}" if self.age < 13 else found

    @property
    def tall(self) -> float:
        return self.height or build_of(self.age).stature

    def pieces(self, seen: Seen) -> tuple[Piece, ...]:
        return person(
            self.pose, self.age, self.height, self.seed, self.fits, self.outfit, self.extras, seen.detail, seen.coarsely
        )
