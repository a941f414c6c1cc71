"""The language in which regions are asked for: data, not text, so that it is kept, sent and edited as it is.

A :class:`Match` is a region of which everything that it says is so; :class:`All`, :class:`Any` and :class:`Not` put matches
together. What a query names is looked up in the model as it is now: it follows the model, and no shape is kept.
"""

from __future__ import annotations

from collections.abc import Callable
from fnmatch import fnmatchcase
from typing import Annotated, Literal, Protocol

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, field_validator

from warmgraphite.errors import ViewError
from warmgraphite.model.behaviour import Role
from warmgraphite.model.landmarks import landmarks_of
from warmgraphite.model.model import Model, select_parts
from warmgraphite.passes.edges import topology_of
from warmgraphite.specification import Specification, Words

__all__ = [
    "FACING",
    "LIGHT",
    "WHERE",
    "All",
    "Any",
    "Face",
    "Match",
    "NamedRegion",
    "Not",
    "Query",
    "answer",
    "named_parts",
    "part_storeys",
    "with_parts",
]

Light = Literal["lit", "shadow", "shade", "none"]
Facing = Literal["up", "down", "north", "east", "south", "west", "sloping"]
Where = Literal["building", "sky", "outside"]
LIGHT: tuple[str, ...] = Light.__args__  # type: ignore[attr-defined]
FACING: tuple[str, ...] = Facing.__args__  # type: ignore[attr-defined]
WHERE: tuple[str, ...] = Where.__args__  # type: ignore[attr-defined]

Number = Annotated[float, Field(allow_inf_nan=False, ge=-1e12, le=1e12)]
Names = Annotated[tuple[Annotated[str, Field(max_length=1000)], ...], Field(max_length=500)]

#: Metres that a part may begin below a storey's floor and still belong to it.
BELOW_FLOOR = 0.6
#: How deeply queries may be put into each other.
DEEPEST = 24


class Face(Specification):
    """The face of a part, flat or curved, that is nearest to a ``point`` in metres."""

    part: str = Field(max_length=1000)
    point: tuple[Number, Number, Number]


class Match(Specification):
    """Regions of which all that is said here is so; where several words are given for one thing, any of them.

    ``parts`` and ``layers`` are globs, ``sets`` part sets, ``depth`` the nearest and farthest metres from the viewer or the
    nearest cut; ``glass`` is whether a pane lies in front.
    """

    kind: Literal["match"] = "match"
    parts: Names = ()
    layers: Names = ()
    materials: Names = ()
    roles: tuple[Role, ...] = ()
    sets: Names = ()
    storeys: Names = ()
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


Query = Annotated[Match | All | Any | Not, Field(discriminator="kind")]
All.model_rebuild()
Any.model_rebuild()
Not.model_rebuild()


def _height(query: Match | All | Any | Not) -> int:
    if isinstance(query, Match):
        return 1
    return 1 + max(_height(q) for q in (query.of if isinstance(query, All | Any) else (query.of,)))


class NamedRegion(Specification):
    """A query kept under a name. It follows the model and every view of it."""

    id: str = Field(pattern=r"^[a-z0-9-]{1,40}$")
    name: Words = Field(min_length=1, max_length=100)
    query: Query

    @field_validator("query")
    @classmethod
    def _not_too_deep(cls, query: Match | All | Any | Not) -> Match | All | Any | Not:
        if _height(query) > DEEPEST:
            raise ValueError(f"is put together more than {DEEPEST} deep; say it more plainly")
        return query


def named_parts(query: Match | All | Any | Not) -> set[str]:
    """The names and patterns of parts that a query holds."""
    if isinstance(query, Match):
        return {*query.parts, *({query.face.part} if query.face else ())}
    return {name for q in (query.of if isinstance(query, All | Any) else (query.of,)) for name in named_parts(q)}


def with_parts(query: Match | All | Any | Not, followed: Callable[[tuple[str, ...]], tuple[str, ...]]) -> Match | All | Any | Not:
    """The query with its names and patterns of parts taken for what they are called now."""
    if isinstance(query, Match):
        changes: dict[str, object] = {"parts": followed(query.parts)}
        if query.face:
            changes["face"] = query.face.model_copy(update={"part": followed((query.face.part,))[0]})
        return query.model_copy(update=changes)
    if isinstance(query, Not):
        return query.model_copy(update={"of": with_parts(query.of, followed)})
    return query.model_copy(update={"of": tuple(with_parts(q, followed) for q in query.of)})


def part_storeys(model: Model) -> list[str]:
    """For each part the storey it stands on: the highest whose floor is not far above its foot; empty where there is none."""
    levels = landmarks_of(model).levels
    foot = model.part_bounds[:, 0, 2]
    heights = np.array([z for _, z in levels])
    at = np.searchsorted(heights - BELOW_FLOOR, np.where(np.isfinite(foot), foot, -np.inf), side="right") - 1
    return [levels[k][0] if k >= 0 else "" for k in at]


def _face_number(model: Model, face: Face) -> int:
    import trimesh  # takes a third of a second, which only a face pointed at should

    rows = np.flatnonzero(select_parts(model, (face.part,))[model.triangle_part])
    if not len(rows):
        return -2
    corners = model.vertices[model.triangles[rows]]
    point = np.broadcast_to(np.array(face.point), (len(rows), 3))
    gap = np.linalg.norm(trimesh.triangles.closest_point(corners, point) - point, axis=1)
    return int(topology_of(model).face[rows[int(np.argmin(gap))]])


class Cells(Protocol):
    """What is asked of the cells (N) of a map; their words are numbered as here."""

    @property
    def part(self) -> NDArray[np.int32]: ...
    @property
    def face(self) -> NDArray[np.int32]: ...
    @property
    def light(self) -> NDArray[np.uint8]: ...
    @property
    def facing(self) -> NDArray[np.uint8]: ...
    @property
    def where(self) -> NDArray[np.uint8]: ...
    @property
    def cut(self) -> NDArray[np.bool_]: ...
    @property
    def panes(self) -> NDArray[np.uint8]: ...
    @property
    def depth(self) -> NDArray[np.float64]: ...
    def __len__(self) -> int: ...


def _match(query: Match, cells: Cells, model: Model) -> NDArray[np.bool_]:
    found = np.ones(len(cells), bool)
    has = cells.part >= 0

    def by_part(chosen: NDArray[np.bool_]) -> None:
        found[:] &= has & chosen[cells.part]

    if query.parts:
        by_part(select_parts(model, query.parts))
    if query.layers:
        by_part(_by_layer(model, query.layers))
    if query.materials:
        numbers = [n for n in (model.material_named(name) for name in query.materials) if n is not None]
        by_part(np.isin(model.part_material, numbers))
    if query.roles:
        by_part(np.isin(model.part_role, np.array(query.roles)))
    if query.sets:
        chosen = np.zeros(len(model.parts), bool)
        for name in query.sets:
            in_set = model.in_set(name)
            if in_set is None:
                raise ViewError(f"There is no part set “{name}” in this model; choose another.")
            chosen |= in_set
        by_part(chosen)
    if query.storeys:
        by_part(np.isin(part_storeys(model), query.storeys))
    if query.facing:
        found &= np.isin(cells.facing, [FACING.index(f) for f in query.facing])
    if query.light:
        found &= np.isin(cells.light, [LIGHT.index(f) for f in query.light])
    if query.where:
        found &= np.isin(cells.where, [WHERE.index(f) for f in query.where])
    if query.cut is not None:
        found &= cells.cut == query.cut
    if query.glass is not None:
        found &= (cells.panes > 0) == query.glass
    if query.depth is not None:
        near, far = query.depth
        found &= (cells.depth >= (-np.inf if near is None else near)) & (cells.depth < (np.inf if far is None else far))
    if query.face is not None:
        found &= cells.face == _face_number(model, query.face)
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


def answer(query: Match | All | Any | Not, cells: Cells, model: Model) -> NDArray[np.bool_]:
    """(N,) which cells of a map a query means. Raises :class:`ViewError` for a part set that the model has not."""
    ask: Callable = lambda q: answer(q, cells, model)
    if isinstance(query, Match):
        return _match(query, cells, model)
    if isinstance(query, Not):
        return ~ask(query.of)
    rows = [ask(q) for q in query.of]
    return np.logical_and.reduce(rows) if isinstance(query, All) else np.logical_or.reduce(rows)
