"""What figures there are to take: each with what it is, in the order in which they are offered."""

from __future__ import annotations

from typing import Any

from warmgraphite.figures.kinds import KINDS
from warmgraphite.figures.people.poses import POSES
from warmgraphite.figures.planting.habits import HABITS
from warmgraphite.figures.things import THINGS
from warmgraphite.specification import Specification

__all__ = ["FigureItem", "figure_stock"]

_GROUPS = {"trees": "trees", "conifers": "conifers", "shrubs": "shrubs and climbers", "low": "low planting"}


class FigureItem(Specification):
    """One figure of the stock: what it is offered under, and the figure itself, as JSON."""

    id: str
    sort: str
    label: str
    figure: dict[str, Any]


def _item(sort: str, label: str, kind: str, **said: Any) -> FigureItem:
    name = next(str(v) for k, v in said.items() if k in ("pose", "habit", "thing"))
    return FigureItem(id=f"{kind}-{name}".replace(" ", "-"), sort=sort, label=label, figure={"kind": kind, **said})


def figure_stock() -> list[FigureItem]:
    """The stock of figures: people by what they do, planting by habit, things."""
    order = ("standing", "going", "carrying", "sitting", "working", "wheels")
    people = sorted(POSES.values(), key=lambda p: order.index(p.group))
    rows = [
        _item(f"people, {p.group}" if p.group != "wheels" else "people, with wheels", p.label, "person", pose=p.name, seed=k + 2)
        for k, p in enumerate(people)
        if p.name != "wheel already there"
    ]
    rows += [_item(_GROUPS[h.group], h.label, "plant", habit=h.name, seed=3) for h in HABITS.values()]
    rows += [_item(t.group, t.label, "thing", thing=t.name, seed=2) for t in THINGS.values()]
    assert all(KINDS[r.figure["kind"]].model_validate(r.figure) for r in rows)
    return rows
