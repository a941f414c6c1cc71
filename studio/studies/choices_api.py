"""What the forms offer, and what they put things back to, over HTTP."""

from __future__ import annotations

from django.http import HttpRequest
from ninja import Router, Schema

from warmgraphite.board.specification import Board
from warmgraphite.canvas.protocol import BLEND_MODES
from warmgraphite.collage.specification import KINDS, KindForm, form_of
from warmgraphite.collage.stock import StockItem, shipped
from warmgraphite.forms import Setting, settings_of
from warmgraphite.ink.buildups.kit import KIT
from warmgraphite.ink.buildups.specification import BuildUp
from warmgraphite.ink.fills import Hatch
from warmgraphite.ink.hand import PRESETS as HANDS
from warmgraphite.ink.hand import Hand
from warmgraphite.ink.patterns import PATTERNS
from warmgraphite.ink.rules import PenRule, PocheRule, default_pens, default_poche
from warmgraphite.model.behaviour import ROLES
from warmgraphite.model.read import FORMATS
from warmgraphite.model.units import METRES_PER
from warmgraphite.proof.proof import LIFTS
from warmgraphite.regions.words import WORDS
from warmgraphite.regions.words._word import Word
from warmgraphite.view.frame import PAPERS
from warmgraphite.view.kinds import KIND_LABELS
from warmgraphite.view.scales import SCALES
from warmgraphite.view.specification import Lines
from warmgraphite.view.sun import CITIES, PRESETS

__all__ = ["Choices", "CityOut", "InkChoices", "PatternOut", "ScaleOut", "WordOut", "choices", "router"]

router = Router()


class CityOut(Schema):
    name: str
    latitude: float
    longitude: float
    zone: str


class ScaleOut(Schema):
    scale: float
    label: str
    system: str


class PatternOut(Schema):
    """A pattern: its usual ``spacing`` in millimetres of paper, and in ``metres`` on a face."""

    name: str
    label: str
    group: str
    spacing: float
    metres: float


class InkChoices(Schema):
    """Patterns, hands and build-ups to begin with, and the settings of a hand and of a hatch."""

    patterns: list[PatternOut]
    hands: dict[str, Hand]
    hand: list[Setting]
    hatch: list[Setting]
    build_ups: list[BuildUp]


class WordOut(Schema):
    """A word by which parts, lines and regions are asked for, as a form shows it.

    ``options`` are what can be said by it, in words; ``shown`` the things of which a form asks it; ``either`` is
    whether it is so or not so, ``named`` whether it names things of the model.
    """

    name: str
    label: str
    options: dict[str, str]
    shown: list[str]
    either: bool
    named: bool

    @staticmethod
    def of(word: Word) -> WordOut:
        return WordOut(
            name=word.name, label=word.label, options=dict(word.options), shown=sorted(word.shown),
            either=word.says == bool | None, named=word.names is not None,
        )  # fmt: skip


class Choices(Schema):
    """What the forms offer, and what they put things back to; written down once, in the core."""

    blend_modes: list[str]
    #: By how much darks are lifted for print, from a little on, and how light the darkest is then.
    lifts: list[tuple[float, float]]
    traces: list[KindForm]
    scales: list[ScaleOut]
    papers: dict[str, tuple[float, float]]
    units: dict[str, float]
    formats: list[str]
    cities: list[CityOut]
    sun_presets: list[str]
    kinds: dict[str, str]
    lines: Lines
    pens: tuple[PenRule, ...]
    poche: tuple[PocheRule, ...]
    #: A board with nothing on it.
    board: Board
    roles: list[str]
    words: list[WordOut]
    ink: InkChoices
    stock: list[StockItem]


@router.get("/choices", response=Choices)
def choices(request: HttpRequest) -> Choices:
    """What the forms offer; written down once, in the core."""
    return Choices(
        blend_modes=list(BLEND_MODES),
        lifts=list(LIFTS),
        traces=[form_of(k) for k in KINDS.values()],
        scales=[ScaleOut(scale=s.n, label=s.label, system=s.system) for s in SCALES],
        papers=PAPERS,
        units=METRES_PER,
        formats=list(FORMATS.values()),
        cities=[CityOut(**c._asdict()) for c in CITIES],
        sun_presets=list(PRESETS),
        kinds=KIND_LABELS,
        lines=Lines(),
        pens=default_pens(),
        poche=default_poche(),
        board=Board(),
        roles=list(ROLES),
        words=[WordOut.of(w) for w in WORDS.values()],
        ink=InkChoices(
            patterns=[
                PatternOut(name=p.name, label=p.label, group=p.group, spacing=p.spacing, metres=p.metres)
                    for p in PATTERNS.values()
            ],
            hands=HANDS, hand=list(settings_of(Hand)),
            hatch=list(settings_of(Hatch, ("kind", "pattern", "lies", "spacing", "tile"))),
            build_ups=list(KIT.values()),
        ),
        stock=list(shipped()),
    )  # fmt: skip
