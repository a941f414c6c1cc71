"""Rules as sentences: what a rule takes hold of, in words."""

from __future__ import annotations

from warmgraphite.ink.rules import PenRule, Rule, SurfaceRule
from warmgraphite.regions.query import All, Any, Kept, Match, Not, Query, Through

__all__ = ["held_words", "listed", "sentence"]

_RANKS = {
    "cut": "cut lines",
    "outline": "outlines",
    "edge": "edges",
    "surface": "surface joints",
    "figure": "outlines of figures",
    "detail": "lines within figures",
}
_KINDS = {
    "cut": "cut lines", "silhouette": "turning edges", "border": "free edges", "crease": "bends",
    "intersection": "intersections",
    "material": "changes of material", "smooth": "smooth edges", "terrain": "ground contours", "line": "line elements",
}  # fmt: skip
_DRAWN = {"soft": "softly drawn", "plain": "plainly drawn", "strong": "strongly drawn"}


_LIGHT = {"lit": "lit", "shadow": "in cast shadow", "shade": "in shade", "none": "neither lit nor dark"}
_WHERE = {"building": "the building", "sky": "the sky", "outside": "the ground beyond"}


def listed(words: list[str], joint: str = "and") -> str:
    """Words in a row, the last one with a joint; nothing where there is none."""
    if not words:
        return ""
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} {joint} {words[-1]}"


def _match(query: Match, what: str) -> str:
    lines = what == "lines"
    bare = not (query.drawn or query.glass is not None or query.sets or query.layers or query.parts or query.roles)
    if lines and set(query.ranks) == {"outline", "edge", "surface"}:
        head = "lines beyond the cut"
    elif lines and (query.ranks or query.kinds):
        head = listed([*(_RANKS[r] for r in query.ranks), *(_KINDS[k] for k in query.kinds)])
    elif lines:
        head = "hidden lines" if query.hidden else "all lines" if bare and not query.materials else "lines"
    else:
        head = listed([_WHERE[w] for w in query.where]) if query.where else "all"
    found = [head]
    if lines and query.hidden and (query.ranks or query.kinds):
        found.append("where hidden")
    if query.glass is not None and (lines or what == "regions"):
        found.append("behind glass" if query.glass else "not behind glass")
    if query.drawn:
        found.append(f"of {listed([_DRAWN[d] for d in query.drawn], 'and')} parts")
    named = [
        *(f"“{n}”" for n in query.sets), *query.layers, *(n.rpartition("/")[2] for n in query.parts), *query.materials,
        *query.roles, *query.storeys,
    ]  # fmt: skip
    if named:
        shown = named[:3] + ([f"{len(named) - 3} more"] if len(named) > 3 else [])
        found.append(f"of {listed(shown)}" if lines or head != "all" else listed(shown))
    if query.depth is not None:
        near, far = query.depth
        found.append(
            f"from {near or 0:g} m on"
            if far is None
            else f"up to {far:g} m away"
            if not near
            else f"{near:g} to {far:g} m away"
        )
    if query.light:
        found.append(listed([_LIGHT[w] for w in query.light], "or"))
    if query.facing:
        found.append(f"facing {listed(list(query.facing), 'or')}")
    if query.face is not None:
        found.append(f"the face of {query.face.part.rpartition('/')[2]}")
    if query.cut is not None and query.face is None:
        found.append("cut" if query.cut else "not cut")
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
