"""The language in which regions, lines and cut masses are asked for.
Data, not text, so that it is kept, sent and edited as it is.

A :class:`Match` is one of which everything that it says is so; :class:`All`, :class:`Any` and :class:`Not` put matches
together. What a query names is looked up in the model as it is now: it follows the model, and no shape is kept. What is
asked (cells of a map, lines, parts that are cut) has columns for the words that mean something of it; the other words
are refused.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from fnmatch import fnmatchcase
from typing import Annotated, Literal, Protocol
from typing import Any as Any_

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, field_validator

from warmgraphite.errors import ViewError
from warmgraphite.model.behaviour import Role
from warmgraphite.model.bodies import bodies_of
from warmgraphite.model.landmarks import landmarks_of
from warmgraphite.model.model import Model
from warmgraphite.model.palette import number_named
from warmgraphite.passes.edges import topology_of
from warmgraphite.passes.lines import KINDS, RANKS
from warmgraphite.specification import Specification, Words

__all__ = [
    "CELL_WORDS",
    "FACING",
    "LIGHT",
    "LINE_WORDS",
    "PART_WORDS",
    "WHERE",
    "All",
    "Any",
    "Face",
    "Kept",
    "Match",
    "NamedRegion",
    "Not",
    "PartCells",
    "Query",
    "Rank",
    "Table",
    "Through",
    "answer",
    "asked_words",
    "depth_bounds",
    "named_parts",
    "part_storeys",
    "resolved",
    "understood",
    "with_parts",
]

Light = Literal["lit", "shadow", "shade", "none"]
Facing = Literal["up", "down", "north", "east", "south", "west", "sloping"]
Where = Literal["building", "sky", "outside"]
Rank = Literal["cut", "outline", "edge", "surface", "figure", "detail"]
Kind = Literal["cut", "silhouette", "border", "crease", "intersection", "material", "smooth", "terrain", "line"]
Drawn = Literal["soft", "plain", "strong"]
LIGHT: tuple[str, ...] = Light.__args__  # type: ignore[attr-defined]
FACING: tuple[str, ...] = Facing.__args__  # type: ignore[attr-defined]
WHERE: tuple[str, ...] = Where.__args__  # type: ignore[attr-defined]

Number = Annotated[float, Field(allow_inf_nan=False, ge=-1e12, le=1e12)]
Names = Annotated[tuple[Annotated[str, Field(max_length=1000)], ...], Field(max_length=500)]

#: Words of a match that every asked thing has an answer to, because it belongs to a part; and those that only lines,
#: and only cells of a map, have.
PART_WORDS = frozenset({"parts", "layers", "materials", "roles", "sets", "storeys", "drawn"})
LINE_WORDS = PART_WORDS | {"ranks", "kinds", "hidden", "glass", "depth", "cut"}
CELL_WORDS = PART_WORDS | {"facing", "light", "where", "cut", "glass", "depth", "face"}

#: Metres that a part may begin below a storey's floor and still belong to it.
BELOW_FLOOR = 0.6
#: How deeply queries may be put into each other.
DEEPEST = 24


class Face(Specification):
    """The face of a part, flat or curved, that is nearest to a ``point`` in metres."""

    part: str = Field(max_length=1000)
    point: tuple[Number, Number, Number]


class Match(Specification):
    """What all that is said here is so of; where several words are given for one thing, any of them.

    ``parts`` and ``layers`` are globs, ``sets`` part sets, ``depth`` the nearest and farthest metres from the viewer or
    the nearest cut; ``glass`` is whether a pane lies in front; ``drawn`` how strongly a part's role has it drawn.
    ``ranks``, ``kinds`` and ``hidden`` are words for lines, ``facing``, ``light``, ``where`` and ``face`` for regions.
    """

    kind: Literal["match"] = "match"
    parts: Names = ()
    layers: Names = ()
    materials: Names = ()
    roles: tuple[Role, ...] = ()
    sets: Names = ()
    storeys: Names = ()
    drawn: tuple[Drawn, ...] = ()
    ranks: tuple[Rank, ...] = ()
    kinds: tuple[Kind, ...] = ()
    hidden: bool | None = None
    facing: tuple[Facing, ...] = ()
    light: tuple[Light, ...] = ()
    where: tuple[Where, ...] = ()
    cut: bool | None = None
    glass: bool | None = None
    depth: tuple[Number | None, Number | None] | None = None
    face: Face | None = None


class All(Specification):
    """Regions that every one of these queries means."""

    kind: Literal["all"] = "all"
    of: tuple[Query, ...] = Field(min_length=1, max_length=100)


class Any(Specification):
    """Regions that at least one of these queries means."""

    kind: Literal["any"] = "any"
    of: tuple[Query, ...] = Field(min_length=1, max_length=100)


class Not(Specification):
    """Regions that this query does not mean."""

    kind: Literal["not"] = "not"
    of: Query


class Kept(Specification):
    """What a kept region means, by its name in the study."""

    kind: Literal["kept"] = "kept"
    name: Words = Field(max_length=100)


class Through(Specification):
    """What the discs and painted masks of a name show of the view that has them; nothing in one that has none."""

    kind: Literal["through"] = "through"
    name: Words = Field(max_length=60)


Query = Annotated[Match | All | Any | Not | Kept | Through, Field(discriminator="kind")]
_Query = Match | All | Any | Not | Kept | Through
All.model_rebuild()
Any.model_rebuild()
Not.model_rebuild()


def _inner(query: _Query) -> tuple[_Query, ...]:
    """The queries that one is put together of."""
    return query.of if isinstance(query, All | Any) else (query.of,) if isinstance(query, Not) else ()


def _height(query: _Query) -> int:
    return 1 + max((_height(q) for q in _inner(query)), default=0)


class NamedRegion(Specification):
    """A query kept under a name. It follows the model and every view of it."""

    id: str = Field(pattern=r"^[a-z0-9-]{1,40}$")
    name: Words = Field(min_length=1, max_length=100)
    query: Query

    @field_validator("query")
    @classmethod
    def _of_regions(cls, query: _Query) -> _Query:
        return understood(query, CELL_WORDS, "a region")


#: What the words of a match are where nothing is said by them.
_UNASKED = {n: f.default for n, f in Match.model_fields.items() if n != "kind"}


def asked_words(query: _Query) -> set[str]:
    """The words of matches that a query says something by.
    ``kept`` where it means a kept region, ``through`` where a window.
    """
    if isinstance(query, Match):
        return {n for n in query.model_fields_set if n in _UNASKED and getattr(query, n) != _UNASKED[n]}
    if isinstance(query, Kept | Through):
        return {query.kind}
    return {word for q in _inner(query) for word in asked_words(q)}


def depth_bounds(query: _Query) -> list[float]:
    """The bounds of depth, in metres, that a query says anything about."""
    if isinstance(query, Match):
        return [b for b in query.depth or () if b is not None]
    return [b for q in _inner(query) for b in depth_bounds(q)]


def understood(query: _Query, words: frozenset[str] | set[str], what: str) -> _Query:
    """The query, if it says nothing but ``words``.
    Raises :class:`ValueError` where it asks of ``what`` something it has not.
    """
    if _height(query) > DEEPEST:
        raise ValueError(f"is put together more than {DEEPEST} deep; say it more plainly")
    other = sorted(asked_words(query) - words)
    if other:
        raise ValueError(f"says “{other[0]}”, which {what} has not; take it out")
    return query


def resolved(query: _Query, regions: tuple[NamedRegion, ...]) -> _Query:
    """The query with kept regions taken for what they mean.
    Raises :class:`ViewError` for one that is not kept any more.
    """
    if isinstance(query, Kept):
        for region in regions:
            if region.name == query.name:
                return region.query
        raise ViewError(f"There is no kept region “{query.name}” in this study; choose another, or keep it anew.")
    return _rebuilt(query, lambda q: resolved(q, regions))


def _rebuilt(query: _Query, change: Callable[[_Query], _Query]) -> _Query:
    """The query with each of those that it is put together of changed."""
    if isinstance(query, Not):
        return query.model_copy(update={"of": change(query.of)})
    if isinstance(query, All | Any):
        return query.model_copy(update={"of": tuple(change(q) for q in query.of)})
    return query


def named_parts(query: _Query) -> set[str]:
    """The names and patterns of parts that a query holds."""
    if isinstance(query, Match):
        return {*query.parts, *({query.face.part} if query.face else ())}
    return {name for q in _inner(query) for name in named_parts(q)}


def with_parts(query: _Query, followed: Callable[[tuple[str, ...]], tuple[str, ...]]) -> _Query:
    """The query with its names and patterns of parts taken for what they are called now."""
    if isinstance(query, Match):
        changes: dict[str, object] = {"parts": followed(query.parts)}
        if query.face:
            changes["face"] = query.face.model_copy(update={"part": followed((query.face.part,))[0]})
        return query.model_copy(update=changes)
    return _rebuilt(query, lambda q: with_parts(q, followed))


def part_storeys(model: Model) -> list[str]:
    """For each part the storey it stands on: the highest whose floor is not far above its foot.
    Empty where there is none.
    """
    levels = landmarks_of(model).levels
    foot = model.part_bounds[:, 0, 2]
    heights = np.array([z for _, z in levels])
    at = np.searchsorted(heights - BELOW_FLOOR, np.where(np.isfinite(foot), foot, -np.inf), side="right") - 1
    return [levels[k][0] if k >= 0 else "" for k in at]


def _face_number(model: Model, face: Face) -> int:
    import trimesh  # takes a third of a second, which only a face pointed at should

    rows = np.flatnonzero(model.parts.selected((face.part,))[model.triangle_part])
    if not len(rows):
        return -2
    corners = model.vertices[model.triangles[rows]]
    point = np.broadcast_to(np.array(face.point), (len(rows), 3))
    gap = np.linalg.norm(trimesh.triangles.closest_point(corners, point) - point, axis=1)
    return int(topology_of(bodies_of(model)).face[rows[int(np.argmin(gap))]])


class Table(Protocol):
    """What is asked (N rows): the ``part`` of each, −1 for none, and a column for each other word that it has an answer
    to.
    """

    @property
    def part(self) -> NDArray[np.int32]: ...
    def __len__(self) -> int: ...


@dataclass(frozen=True)
class PartCells:
    """The parts themselves (P), as what a query asks; ``material`` (P,) is what each counts as."""

    part: NDArray[np.int32]
    material: NDArray[np.int64]

    def __len__(self) -> int:
        return len(self.part)

    @staticmethod
    def of(model: Model, cut: bool = False) -> PartCells:
        """All parts; ``cut`` as what they are filled as where they are cut."""
        return PartCells(
            np.arange(len(model.parts), dtype=np.int32),
            model.parts.cut_as if cut else model.parts.material.astype(np.int64),
        )


def _numbered(asked: Any_, column: str, words: tuple[str, ...], said: tuple[str, ...]) -> NDArray[np.bool_]:
    return np.isin(getattr(asked, column), [words.index(w) for w in said])


def _chosen_parts(query: Match, asked: Any_, model: Model) -> NDArray[np.bool_]:
    """(P,) the parts that the match means by what parts are called, made of, and for."""
    chosen = np.ones(len(model.parts), bool)
    if query.parts:
        chosen &= model.parts.selected(query.parts)
    if query.layers:
        chosen &= _by_layer(model, query.layers)
    if query.materials:
        numbers = [n for n in (number_named(model.materials, name) for name in query.materials) if n is not None]
        chosen &= np.isin(asked.material if isinstance(asked, PartCells) else model.parts.material, numbers)
    if query.roles:
        chosen &= np.isin(model.parts.role, np.array(query.roles))
    if query.drawn:
        chosen &= np.isin(model.parts.drawn, np.array(query.drawn))
    if query.sets:
        member = np.zeros(len(model.parts), bool)
        for name in query.sets:
            in_set = model.in_set(name)
            if in_set is None:
                raise ViewError(f"There is no part set “{name}” in this model; choose another.")
            member |= in_set
        chosen &= member
    if query.storeys:
        chosen &= np.isin(part_storeys(model), query.storeys)
    return chosen


def _match(query: Match, asked: Any_, model: Model) -> NDArray[np.bool_]:
    found = np.ones(len(asked), bool)
    if any(getattr(query, word) for word in PART_WORDS):
        found &= (asked.part >= 0) & _chosen_parts(query, asked, model)[asked.part]
    if query.facing:
        found &= _numbered(asked, "facing", FACING, query.facing)
    if query.light:
        found &= _numbered(asked, "light", LIGHT, query.light)
    if query.where:
        found &= _numbered(asked, "where", WHERE, query.where)
    if query.ranks:
        found &= _numbered(asked, "rank", RANKS, query.ranks)
    if query.kinds:
        found &= _numbered(asked, "kind", KINDS, query.kinds)
    if query.hidden is not None:
        found &= asked.hidden == query.hidden
    if query.cut is not None:
        found &= asked.cut == query.cut
    if query.glass is not None:
        found &= (asked.panes > 0) == query.glass
    if query.depth is not None:
        near, far = query.depth
        found &= (asked.depth >= (-np.inf if near is None else near)) & (asked.depth < (np.inf if far is None else far))
    if query.face is not None:
        found &= asked.face == _face_number(model, query.face)
    return found


def _by_layer(model: Model, patterns: tuple[str, ...]) -> NDArray[np.bool_]:
    """(P,) parts on layers that match a glob, or on layers within one that is called just so."""
    plain = set(patterns)
    layers = sorted({p.layer for p in model.parts})
    chosen = {
        layer
        for layer in layers
        if any(layer == p or layer.startswith(p + "/") for p in plain) or any(fnmatchcase(layer, p) for p in patterns)
    }
    return np.array([p.layer in chosen for p in model.parts], bool)


def answer(query: _Query, asked: Table, model: Model) -> NDArray[np.bool_]:
    """(N,) which rows of what is asked a query means.
    Raises :class:`ViewError` for a part set that the model has not.
    """
    if isinstance(query, Match):
        return _match(query, asked, model)
    if isinstance(query, Kept):
        raise ViewError(f"There is no kept region “{query.name}” here; keep it in the study first.")
    if isinstance(query, Through):
        raise ViewError(f"“{query.name}” is a soft window, which has no part in a region; confine a trace to it.")
    rows = [answer(q, asked, model) for q in _inner(query)]
    if isinstance(query, Not):
        return ~rows[0]
    return np.logical_and.reduce(rows) if isinstance(query, All) else np.logical_or.reduce(rows)
