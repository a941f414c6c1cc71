"""Rules of ink: which pen draws what, and what fills what is cut.
Both are asked for in the one query language.

Rules stand in order, and a later one prevails over those before it, in whatever it says: one gives a pen, the next
makes it thinner on what is soft, the last one paler with distance.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any, Literal, TypeVar

from pydantic import Field, field_validator, model_validator

from warmgraphite.canvas.protocol import Join
from warmgraphite.geometry.tolerances import ROUNDING
from warmgraphite.ink.buildups.specification import BuildUp, Outer, numbered
from warmgraphite.ink.entourage import FigureRule
from warmgraphite.ink.fills import GRAPHITE, Fill, Flat
from warmgraphite.ink.hand import Hand, HandChange
from warmgraphite.regions.query import CELL_WORDS, LINE_WORDS, PART_WORDS, Match, Query, understood
from warmgraphite.regions.words._word import Number
from warmgraphite.regions.words.ranks import Rank
from warmgraphite.specification import Colour, Specification, Words

__all__ = [
    "Away",
    "BuildUpRule",
    "Dash",
    "Fading",
    "Ink",
    "Pen",
    "PenRule",
    "PocheRule",
    "Rule",
    "SurfaceRule",
    "WeightStep",
    "default_pens",
    "default_poche",
    "with_ids",
]

Dash = Annotated[tuple[Annotated[float, Field(ge=0.05, le=100)], ...], Field(max_length=8)]


class Pen(Specification):
    """What a rule says of the pen: ``weight`` and ``dash`` (mark, gap, …) in millimetres of paper.
    What it does not say stays as the rules before it have it.
    """

    weight: float | None = Field(default=None, ge=0.02, le=5)
    colour: Colour | None = None
    dash: Dash | None = None
    opacity: float | None = Field(default=None, ge=0, le=1)
    cap: Literal["round", "butt", "square"] | None = None
    join: Join | None = None

    @model_validator(mode="after")
    def _pairs(self) -> Pen:
        if self.dash is not None and len(self.dash) % 2:
            raise ValueError("a dash needs pairs of mark and gap")
        return self


class Fading(Specification):
    """How much thinner and paler, as shares, the farthest lines are than the nearest."""

    thinner: float = Field(default=0.0, ge=0, le=1)
    paler: float = Field(default=0.0, ge=0, le=1)


class Away(Specification):
    """Where lines end softly.
    Over ``reach`` millimetres away from the parts that ``of`` means, or into an ``outline`` drawn on the paper, corners
    in millimetres from the middle of the drawing.
    """

    of: Query | None = None
    outline: tuple[tuple[Number, Number], ...] = Field(default=(), max_length=500)
    reach: float = Field(default=40.0, ge=0, le=2000)

    @model_validator(mode="after")
    def _one(self) -> Away:
        if self.of is not None:
            understood(self.of, PART_WORDS, "a subject")
        if (self.of is None) == (not self.outline):
            raise ValueError("lines end away from parts (“of”) or within an “outline”; say one of them")
        if self.outline and len(self.outline) < 3:
            raise ValueError("an outline has three corners at least")
        return self


class Rule(Specification):
    """One rule: what it takes hold of, while it is ``on``. ``id`` tells it from the others of its list."""

    id: str = Field(default="", pattern=r"^([a-z0-9-]{1,40})?$")
    name: Words = Field(default="", max_length=100)
    on: bool = True
    where: Query = Match()


class PenRule(Rule):
    """What draws the lines that ``where`` means.
    A ``pen``, or a change of the one that they have by then, whose weight is multiplied by ``times`` and whose colour
    goes the share ``paler`` of the way to the paper's; ``hand`` is what it changes of the drawing's hand. ``light`` is
    how far lines on the lit side are lost and those in shade and shadow found: at 1 the former are half as heavy, the
    latter half as heavy again. ``away`` is where they end. Lines of cuts between layers that are thinner than ``least``
    millimetres on paper are not drawn.

    Lines to which no rule gives a weight are not drawn. Instead of ``lines`` a rule may mean parts, and draw over all
    lines, ``along`` the outline of all that is seen of them (``subject``), the outline of all that is cut of them as
    one (``cut``), or where they stand on the ground (``base``), ``run_on`` to the frame with ends that taper.
    """

    pen: Pen = Pen()
    times: float = Field(default=1.0, ge=0.1, le=10)
    paler: float = Field(default=0.0, ge=0, le=1)
    fading: Fading = Fading()
    light: float = Field(default=0.0, ge=0, le=1)
    hand: HandChange = HandChange()
    away: Away | None = None
    least: float = Field(default=0.0, ge=0, le=20)
    along: Literal["lines", "subject", "cut", "base"] = "lines"
    run_on: bool = False

    @model_validator(mode="after")
    def _of_lines(self) -> PenRule:
        words, what = (LINE_WORDS, "a line") if self.along == "lines" else (PART_WORDS, "an outline")
        understood(self.where, words, what)
        return self


class PocheRule(Rule):
    """What fills the parts that ``where`` means where they are cut, from the lowest fill up; none leaves them void."""

    fills: tuple[Fill, ...] = Field(default=(Flat(),), max_length=8)

    @field_validator("where")
    @classmethod
    def _of_masses(cls, where: Query) -> Query:
        return understood(where, PART_WORDS, "what is cut")


class BuildUpRule(Rule):
    """Which build-up the parts that ``where`` means are built of.
    The one of the finish with the id ``build_up``, none where it is empty. Its outer side is where the sky is,
    ``turned`` where rooms are, or where a direction of the model says.
    """

    build_up: str = Field(default="", max_length=40)
    outer: Outer = "auto"

    @field_validator("where")
    @classmethod
    def _of_masses(cls, where: Query) -> Query:
        return understood(where, PART_WORDS, "what is built")


class SurfaceRule(Rule):
    """What is laid onto the faces seen, the sky and the ground beyond that ``where`` means, from the lowest fill up.
    In the place of what rules before it lay there, or ``over`` it.
    """

    fills: tuple[Fill, ...] = Field(default=(), max_length=8)
    over: bool = False

    @field_validator("where")
    @classmethod
    def _of_regions(cls, where: Query) -> Query:
        return understood(where, CELL_WORDS | {"kept"}, "a region")


_R = TypeVar("_R", bound=Rule | FigureRule)


def with_ids(rules: Sequence[_R]) -> tuple[_R, ...]:
    """The rules, each with an id: those that have none are numbered."""
    taken = {r.id for r in rules}
    free = (f"rule-{k}" for k in range(1, 2 * len(rules) + 2) if f"rule-{k}" not in taken)
    return tuple(r if r.id else r.model_copy(update={"id": next(free)}) for r in rules)  # type: ignore[misc]


class WeightStep(Specification):
    """At a scale of 1:``scale`` or smaller all weights are multiplied by ``times``."""

    scale: float = Field(gt=0, le=1e6)
    times: float = Field(ge=0.1, le=4)


class Ink(Specification):
    """The ink of a drawing.
    Rules of ``pens``, of ``poche`` for what is cut and of ``surfaces`` for what is seen, the ``build_ups`` that it
    knows and the rules of ``construction`` that say what is built of which, and the ``hand`` that draws. ``weight``
    multiplies the weights of all lines; ``steps`` do so by the view's scale. Where hatches of tone and of material lie
    over one another, no more than the share ``darkest`` of the paper is covered.
    """

    pens: tuple[PenRule, ...] = Field(default_factory=lambda: default_pens(), max_length=500)
    poche: tuple[PocheRule, ...] = Field(default_factory=lambda: default_poche(), max_length=500)
    surfaces: tuple[SurfaceRule, ...] = Field(default=(), max_length=500)
    build_ups: tuple[BuildUp, ...] = Field(default=(), max_length=100)
    construction: tuple[BuildUpRule, ...] = Field(default=(), max_length=500)
    entourage: tuple[FigureRule, ...] = Field(default=(), max_length=200)
    weight: float = Field(default=1.0, ge=0.25, le=4)
    steps: tuple[WeightStep, ...] = Field(default=(), max_length=12)
    hand: Hand = Hand()
    darkest: float = Field(default=0.42, ge=0.05, le=1)

    @field_validator("pens", "poche", "surfaces", "construction", "entourage")
    @classmethod
    def _numbered(cls, rules: tuple[Any, ...]) -> tuple[Any, ...]:
        return with_ids(rules)

    @field_validator("build_ups")
    @classmethod
    def _known(cls, rows: tuple[BuildUp, ...]) -> tuple[BuildUp, ...]:
        return numbered(rows, "build-up")

    @model_validator(mode="after")
    def _built_of_known(self) -> Ink:
        known = {b.id for b in self.build_ups}
        for rule in self.construction:
            if rule.build_up and rule.build_up not in known:
                raise ValueError(
                    f"something is built of “{rule.build_up}”, which is not among the build-ups; add it, or take the "
                    f"rule out"
                )
        return self

    def times(self, scale: float | None) -> float:
        """What weights are multiplied by in a view of this scale, 1:n; ``None`` in a perspective."""
        steps = sorted((s for s in self.steps if scale and s.scale <= scale * (1 + ROUNDING)), key=lambda s: s.scale)
        return self.weight * (steps[-1].times if steps else 1.0)


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
        of_rank("figure", 0.15),
        of_rank("detail", 0.07),
        PenRule(
            id="hidden", on=False, where=Match(hidden=True), pen=Pen(weight=0.13, colour="#6b635b", dash=(1.6, 0.9))
        ),
        PenRule(id="soft", where=Match(drawn=("soft",), ranks=_BEYOND, hidden=False), times=0.55, paler=0.38),
        PenRule(id="strong", where=Match(drawn=("strong",), ranks=_BEYOND, hidden=False), times=1.4),
        PenRule(
            id="fading",
            where=Match(ranks=(*_BEYOND, "figure", "detail"), hidden=False),
            fading=Fading(thinner=0.2475, paler=0.2025),
        ),
        PenRule(id="glazed", where=Match(glass=True, hidden=False), times=0.8, paler=0.3),
        PenRule(
            id="profile",
            on=False,
            along="subject",
            where=Match(roles=("subject",)),
            pen=Pen(weight=0.70, colour=GRAPHITE, dash=()),
        ),
    )


def default_poche() -> tuple[PocheRule, ...]:
    """The poche of a fresh drawing: graphite, earth and water in tones of their own."""
    return (
        PocheRule(id="all", name="All that is cut"),
        PocheRule(id="ground", where=Match(roles=("ground",)), fills=(Flat(colour="#c9b9a1"),)),
        PocheRule(id="water", where=Match(roles=("water",)), fills=(Flat(colour="#7f9797"),)),
    )
