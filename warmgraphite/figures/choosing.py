"""Which figures a view shows, and its ink with them.
Also what a finish's rules for figures are called.
"""

from __future__ import annotations

from pydantic import Field

from warmgraphite.figures.figure import Figure
from warmgraphite.figures.kinds import KINDS, AnyFigure
from warmgraphite.ink.entourage import FigureRule
from warmgraphite.ink.marks.specification import AnyMark
from warmgraphite.ink.rules import Ink
from warmgraphite.view.specification import FigureChoice
from warmgraphite.wording import listed

__all__ = ["Marked", "figure_sentence", "shows"]


class Marked(Ink):
    """Ink with the marks that are drawn on what it draws, and the figures that stand in it."""

    marks: tuple[AnyMark, ...] = Field(default=(), max_length=2000)
    figures: tuple[AnyFigure, ...] = Field(default=(), max_length=5000)


def figure_sentence(rule: FigureRule) -> str:
    """What a rule for figures is called: by its name, or by what it takes hold of."""
    if rule.name:
        return rule.name
    held = listed([*rule.sorts, *rule.groups, *(KINDS[k].plural.lower() if k in KINDS else k for k in rule.kinds)])
    return (held[:1].upper() + held[1:]) or "All figures"


def shows(choice: FigureChoice, figure: Figure) -> bool:
    """Whether a view shows a figure."""
    return (
        choice.on and figure.on and figure.id not in choice.hidden and figure.kind not in choice.kinds
        and not (figure.group and figure.group in choice.groups)
    )  # fmt: skip
