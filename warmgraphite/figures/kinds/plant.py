"""A plant of a habit."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

import numpy as np
from pydantic import Field, field_validator

from warmgraphite.figures.figure import Figure, FigureItem, Seen
from warmgraphite.figures.piece import Piece
from warmgraphite.figures.planting.habit import Season
from warmgraphite.figures.planting.habits import HABITS
from warmgraphite.figures.planting.plant import plant
from warmgraphite.forms import number, setting
from warmgraphite.geometry.tolerances import NEAR
from warmgraphite.model.behaviour import Role


class Plant(Figure):
    """A plant of a ``habit``, as high as is said in metres, as ``age`` in years makes it, or as is usual.
    ``spread`` and ``density`` are against what is usual.
    """

    label: ClassVar[str] = "Plant"
    plural: ClassVar[str] = "Planting"
    role: ClassVar[Role] = "planting"
    least: ClassVar[tuple[float, float, float]] = (26.0, 9.0, 2.5)
    fine: ClassVar[float] = 5.0
    any_way: ClassVar[bool] = True
    sample: ClassVar[float] = 2.0

    kind: Literal["plant"] = "plant"  # type: ignore[assignment]
    habit: str = setting(
        "broad-leaved", "Habit", json_schema_extra={"options": [[h.name, h.label] for h in HABITS.values()]}
    )
    height: float | None = Field(default=None, ge=0.05, le=60, title="Height", json_schema_extra={"hidden": True})
    age: float | None = Field(default=None, ge=0.5, le=400, title="Age", json_schema_extra={"hidden": True})
    spread: float = number(1.0, "Spread", "Against the usual one", low=0.2, high=12, unit="×", most=3)
    density: float = number(1.0, "Density", "Against the usual one", low=0.1, high=2, unit="×", most=2)
    season: Season = setting("summer", "Season")
    seed: int = Field(default=1, ge=0, le=1_000_000, title="Seed", json_schema_extra={"most": 60})

    @field_validator("habit")
    @classmethod
    def _known(cls, name: str) -> str:
        if name not in HABITS:
            raise ValueError(f"there is no habit “{name}”; the habits are {', '.join(sorted(HABITS))}")
        return name

    @property
    def sort(self) -> str:
        return self.habit

    @property
    def on_water(self) -> Literal["none", "on", "under"]:
        return "under" if HABITS[self.habit].wades else "none"

    @classmethod
    def stock(cls) -> list[FigureItem]:
        groups = {"shrubs": "shrubs and climbers", "low": "low planting"}
        return [
            FigureItem.of("plant", h.name, groups.get(h.group, h.group), h.label, habit=h.name, seed=3)
            for h in HABITS.values()
        ]

    def another(self, number: int, chance: np.random.Generator) -> dict[str, Any]:
        return {
            **super().another(number, chance),
            "height": round(self.tall * float(np.exp(chance.normal(0, 0.11))), 2),
            "age": None,
        }

    def in_place_of(self, tall: float, wide: float) -> dict[str, Any]:
        usual = HABITS[self.habit].spread * tall
        spread = float(np.clip(round(wide / max(usual, NEAR), 2), 0.5, 2.0))
        return {**super().in_place_of(tall, wide), "spread": spread, "age": None}

    @property
    def what(self) -> str:
        return HABITS[self.habit].label

    @property
    def tall(self) -> float:
        kind = HABITS[self.habit]
        return self.height or (kind.at_age(self.age) if self.age is not None else kind.height)

    def detail_at(self, mm: float) -> int:
        small = HABITS[self.habit].group in ("shrubs", "low")
        return sum(mm < limit * (0.4 if small else 1.0) for limit in self.least)

    def pieces(self, seen: Seen) -> tuple[Piece, ...]:
        return plant(
            self.habit,
            self.height,
            self.age,
            self.spread,
            self.density,
            self.season,
            self.seed,
            seen.detail,
            seen.coarsely,
        )
