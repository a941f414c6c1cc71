"""Rules of ink: which pen draws what, and what fills what is cut. Both are asked for in the one query language.

Rules stand in order, and a later one prevails over those before it, in whatever it says: one gives a pen, the next makes it
thinner on what is soft, the last one paler with distance.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Literal, TypeVar

from pydantic import Field, field_validator, model_validator

from warmgraphite.regions.query import LINE_WORDS, PART_WORDS, Match, Query, Rank, understood
from warmgraphite.specification import Colour, Specification, Words

__all__ = [
    "GRAPHITE",
    "Dash",
    "Fading",
    "Flat",
    "Pen",
    "PenRule",
    "PocheRule",
    "Rule",
    "default_pens",
    "default_poche",
    "with_ids",
]

GRAPHITE = "#2e2a27"

Dash = Annotated[tuple[Annotated[float, Field(ge=0.05, le=100)], ...], Field(max_length=8)]


class Pen(Specification):
    """What a rule says of the pen: ``weight`` and ``dash`` (mark, gap, …) in millimetres of paper. What it does not say stays
    as the rules before it have it."""

    weight: float | None = Field(default=None, ge=0.02, le=5)
    colour: Colour | None = None
    dash: Dash | None = None
    opacity: float | None = Field(default=None, ge=0, le=1)

    @model_validator(mode="after")
    def _pairs(self) -> Pen:
        if self.dash is not None and len(self.dash) % 2:
            raise ValueError("a dash needs pairs of mark and gap")
        return self


class Fading(Specification):
    """How much thinner and paler, as shares, the farthest lines are than the nearest."""

    thinner: float = Field(default=0.0, ge=0, le=1)
    paler: float = Field(default=0.0, ge=0, le=1)


class Rule(Specification):
    """One rule: what it takes hold of, while it is ``on``. ``id`` tells it from the others of its list."""

    id: str = Field(default="", pattern=r"^([a-z0-9-]{1,40})?$")
    name: Words = Field(default="", max_length=100)
    on: bool = True
    where: Query = Match()


class PenRule(Rule):
    """What draws the lines that ``where`` means: a ``pen``, or a change of the one that they have by then, whose weight is
    multiplied by ``times`` and whose colour goes the share ``paler`` of the way to the paper's.

    Lines to which no rule gives a weight are not drawn. With ``round`` it means parts, and draws once round all that is seen of
    them, over all other lines.
    """

    pen: Pen = Pen()
    times: float = Field(default=1.0, ge=0.1, le=10)
    paler: float = Field(default=0.0, ge=0, le=1)
    fading: Fading = Fading()
    round: bool = False

    @model_validator(mode="after")
    def _of_lines(self) -> PenRule:
        words, what = (PART_WORDS, "an outline") if self.round else (LINE_WORDS, "a line")
        understood(self.where, words, what)
        return self


class Flat(Specification):
    """A fill of one colour."""

    kind: Literal["flat"] = "flat"
    colour: Colour = GRAPHITE
    opacity: float = Field(default=1.0, ge=0, le=1)


class PocheRule(Rule):
    """What fills the parts that ``where`` means where they are cut, from the lowest fill up; none leaves them void."""

    fills: tuple[Flat, ...] = Field(default=(Flat(),), max_length=8)

    @field_validator("where")
    @classmethod
    def _of_masses(cls, where: Query) -> Query:
        return understood(where, PART_WORDS, "what is cut")


_R = TypeVar("_R", bound=Rule)


def with_ids(rules: Sequence[_R]) -> tuple[_R, ...]:
    """The rules, each with an id: those that have none are numbered."""
    taken = {r.id for r in rules}
    free = (f"rule-{k}" for k in range(1, 2 * len(rules) + 2) if f"rule-{k}" not in taken)
    return tuple(r if r.id else r.model_copy(update={"id": next(free)}) for r in rules)


#: Ranks that grow thinner and paler: what is cut stays as it is.
_BEYOND: tuple[Rank, ...] = ("outline", "edge", "surface")


def default_pens() -> tuple[PenRule, ...]:
    """The pens of a fresh drawing: one for each rank, and what makes them softer or stronger."""

    def of_rank(rank: Rank, weight: float) -> PenRule:
        where = Match(ranks=(rank,), hidden=False)
        return PenRule(id=rank, where=where, pen=Pen(weight=weight, colour=GRAPHITE, dash=()))

    return (
        of_rank("cut", 0.50),
        of_rank("outline", 0.30),
        of_rank("edge", 0.18),
        of_rank("surface", 0.09),
        PenRule(id="hidden", on=False, where=Match(hidden=True), pen=Pen(weight=0.13, colour="#6b635b", dash=(1.6, 0.9))),
        PenRule(id="soft", where=Match(drawn=("soft",), ranks=_BEYOND, hidden=False), times=0.55, paler=0.38),
        PenRule(id="strong", where=Match(drawn=("strong",), ranks=_BEYOND, hidden=False), times=1.4),
        PenRule(id="fading", where=Match(ranks=_BEYOND, hidden=False), fading=Fading(thinner=0.2475, paler=0.2025)),
        PenRule(id="glazed", where=Match(glass=True, hidden=False), times=0.8, paler=0.3),
        PenRule(
            id="profile", on=False, round=True, where=Match(roles=("subject",)), pen=Pen(weight=0.70, colour=GRAPHITE, dash=())
        ),
    )


def default_poche() -> tuple[PocheRule, ...]:
    """The poche of a fresh drawing: graphite, earth and water in tones of their own."""
    return (
        PocheRule(id="all", name="All that is cut"),
        PocheRule(id="ground", where=Match(roles=("ground",)), fills=(Flat(colour="#c9b9a1"),)),
        PocheRule(id="water", where=Match(roles=("water",)), fills=(Flat(colour="#7f9797"),)),
    )
