"""Rules as sentences: what a rule takes hold of, in words."""

from __future__ import annotations

from warmgraphite.ink.rules import PenRule, Rule, SurfaceRule
from warmgraphite.regions.query import PART_WORDS, All, Any, Kept, Match, Not, Query, Through, asked_words
from warmgraphite.regions.words import WORDS
from warmgraphite.wording import listed

__all__ = ["held_words", "sentence"]


def _several(query: Match, names: list[str]) -> str:
    return listed([WORDS[n].head[w] for n in names for w in getattr(query, n)])


def _head(query: Match, said: list[str], what: str) -> str:
    """What a match is of before anything is left out."""
    heads = [n for n in said if WORDS[n].head and ("lines" in WORDS[n].of) == (what == "lines")]
    if what == "lines" and set(query.ranks) == {"outline", "edge", "surface"}:
        return "lines beyond the cut"
    if heads:
        return _several(query, heads)
    if what != "lines":
        return "all"
    if query.hidden:
        return "hidden lines"
    # On which storey they are, how far away or cut leaves them all lines.
    less = any(n in PART_WORDS - {"storeys"} or n == "glass" for n in said)
    return "lines" if less else "all lines"


def _match(query: Match, what: str) -> str:
    lines = what == "lines"
    said = [n for n in WORDS if n in asked_words(query)]
    head = _head(query, said, what)
    found = [head]
    if lines and query.hidden and (query.ranks or query.kinds):
        found.append("where hidden")
    if query.glass is not None and what != "parts":
        found.append("behind glass" if query.glass else "not behind glass")
    if query.drawn:
        found.append(f"of {listed([WORDS['drawn'].options[d] for d in query.drawn])} parts")
    named = [name for n in said if (names := WORDS[n].names) for name in names(getattr(query, n))]
    if named:
        shown = named[:3] + ([f"{len(named) - 3} more"] if len(named) > 3 else [])
        found.append(f"of {listed(shown)}" if lines or head != "all" else listed(shown))
    found += [tail(getattr(query, n)) for n in said if (tail := WORDS[n].tail) and not (n == "cut" and query.face)]
    if not lines and len(found) > 1 and found[0] == "all":
        found = found[1:]
    return " ".join(found)


def held_words(query: Query, what: str = "lines") -> str:
    """What a query means, in words; ``what`` is ``lines``, ``parts`` or ``regions``."""
    if isinstance(query, Match):
        return _match(query, what)
    if isinstance(query, Kept):
        return f"region “{query.name}”"
    if isinstance(query, Through):
        return f"through “{query.name}”"
    if isinstance(query, Not):
        return f"all but {held_words(query.of, what)}"
    assert isinstance(query, All | Any)
    return listed([held_words(q, what) for q in query.of], "and" if isinstance(query, Any) else "that are also")


def sentence(rule: Rule) -> str:
    """What a rule is called: by its name, or by what it takes hold of."""
    if rule.name:
        return rule.name
    if isinstance(rule, PenRule) and rule.fading.thinner + rule.fading.paler > 0:
        return "Fading with distance"
    along = rule.along if isinstance(rule, PenRule) else ""
    words = held_words(
        rule.where, "lines" if along == "lines" else "regions" if isinstance(rule, SurfaceRule) else "parts"
    )
    words = "all that is seen" if isinstance(rule, SurfaceRule) and words == "all" else words
    words = {
        "subject": f"round {words}",
        "cut": f"round what is cut of {words}",
        "base": f"where {words} stands on the ground",
    }.get(along, words)
    return words[:1].upper() + words[1:]
