"""A person who does something."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any, ClassVar, Literal

import numpy as np
from pydantic import Field, field_validator

from warmgraphite.figures.figure import Figure, FigureItem, Seen
from warmgraphite.figures.floors import Floors
from warmgraphite.figures.people.build import build_of
from warmgraphite.figures.people.clothes import GARMENTS
from warmgraphite.figures.people.person import OUTFITS, person
from warmgraphite.figures.people.poses import POSES
from warmgraphite.figures.piece import Piece
from warmgraphite.forms import number, setting
from warmgraphite.model.behaviour import Role

#: Metres that one stands from what one leans on, of the reference person.
REACH = 0.50
#: The groups of poses in the order in which they are offered.
_ORDER = ("standing", "going", "carrying", "sitting", "working", "wheels")


class Person(Figure):
    """A person in a ``pose``.
    Stature goes by ``age`` in years, and by the seed, where no ``height`` in metres is given; ``fits`` is how high what
    is touched is, a seat, a rail, a bench top or a step, in metres. What is worn is an ``outfit`` with ``extras``, by
    the seed where nothing is said.
    """

    label: ClassVar[str] = "Person"
    plural: ClassVar[str] = "People"
    role: ClassVar[Role] = "people"
    fine: ClassVar[float] = 4.5
    stature: ClassVar[tuple[float, float]] = (0.5, 2.4)

    kind: Literal["person"] = "person"  # type: ignore[assignment]
    pose: str = setting("standing", "Pose", json_schema_extra={"options": [[p.name, p.label] for p in POSES.values()]})
    age: float = number(34.0, "Age", low=2, high=95, unit="years", most=90)
    height: float | None = Field(default=None, ge=0.5, le=2.4, title="Height", json_schema_extra={"hidden": True})
    fits: float | None = Field(
        default=None, ge=-1, le=3, title="Height of what is touched", json_schema_extra={"hidden": True}
    )
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
    def sort(self) -> str:
        return self.pose

    @classmethod
    def stock(cls) -> list[FigureItem]:
        rows = sorted((p for p in POSES.values() if p.offered), key=lambda p: _ORDER.index(p.group))
        groups = {"wheels": "people, with wheels"}
        return [
            FigureItem.of("person", p.name, groups.get(p.group, f"people, {p.group}"), p.label, pose=p.name, seed=k + 2)
            for k, p in enumerate(rows)
        ]

    def another(self, number: int, chance: np.random.Generator) -> dict[str, Any]:
        said = super().another(number, chance)
        if self.age > 13:
            said["age"] = float(np.clip(round(float(chance.choice([24, 31, 38, 46, 57, 69]))), 16, 90))
        return said

    def put_to(self, floors: Floors) -> Person:
        """Who sits, leans or climbs, put to what is touched: on the floor before a seat, at arm's length of a rail."""
        touches, foot = POSES[self.pose].touches, np.array(self.at)
        if touches == "seat":
            seat = floors.seat_at(foot)
            return (
                self
                if seat is None
                else self._at((foot[0], foot[1], seat[0]), fits=round(seat[1], 3), pose=self._without_chair())
            )
        if touches in ("rail", "top"):
            rail = floors.rail(foot, self.turn)
            if rail is None:
                return self
            high, gap = rail
            way = np.array([-np.sin(np.radians(self.turn)), np.cos(np.radians(self.turn))])
            moved = foot[:2] + way * (gap - REACH * self.tall / 1.72)
            z = floors.below(np.array([[*moved, foot[2] + 0.5]]))[0][0]
            return self._at((*moved, z if np.isfinite(z) and abs(z - foot[2]) < 0.3 else foot[2]), fits=round(high, 3))
        if touches == "step":
            rise = floors.step(foot, self.turn)
            return self if rise is None else self.model_copy(update={"fits": round(rise, 3)})
        return self

    def _at(self, at: Iterable[float], **more: Any) -> Person:
        return self.model_copy(update={"at": tuple(round(float(v), 4) for v in at), **more})

    def _without_chair(self) -> str:
        """On a seat that is there nobody brings a chair."""
        other = {
            "sitting": "sitting on a bench",
            "at the wheel": "wheel already there",
            "at a table": "at a table there",
        }
        name = other.get(self.pose, self.pose)
        return name if name in POSES else self.pose

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
