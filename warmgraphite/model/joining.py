"""Files that are joined to a study's model.
A site beside the building, each in its own place, with its own layers and roles.

Where both files say how their coordinates lie on the map (IFC map conversions), a joined one lies where it does there;
else it lies by the numbers of its coordinates. On top of that it may be moved and turned. All of it is reckoned in
double precision about the model's own origin, so that it lies to a hair far from zero, too.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from warmgraphite.errors import EditError

if TYPE_CHECKING:
    from warmgraphite.model.model import Model
    from warmgraphite.model.palette import Material

__all__ = [
    "Joined",
    "OntoMap",
    "free_id",
    "join",
    "joined_points",
    "keeping_bodies",
    "notes_of",
    "place_joined",
    "renewed",
    "taken_out",
]

#: Roles that parts of a joined file keep as their names tell them; all others are context.
KEPT_ROLES = ("ground", "water", "planting", "people", "context")
#: A 4×4 matrix, row by row, from a file's coordinates in metres onto the map.
OntoMap = tuple[tuple[float, float, float, float], ...]


@dataclass(frozen=True)
class Joined:
    """A file that was joined: what it is called and which parts are its by ``id``.
    Moved ``by`` (x, y, z) metres and turned by ``turn`` degrees counter-clockwise about a ``pivot`` (x, y), in the
    coordinates of the model's file. ``shared`` is whether the map says where it lies.
    """

    id: str
    name: str
    by: tuple[float, float, float] = (0.0, 0.0, 0.0)
    turn: float = 0.0
    pivot: tuple[float, float] = (0.0, 0.0)
    shared: bool = False

    @property
    def matrix(self) -> NDArray[np.float64]:
        """(4, 4) how it is moved from where its coordinates, or the map, would have it."""
        found, (x, y) = np.eye(4), self.pivot
        cos, sin = math.cos(math.radians(self.turn)), math.sin(math.radians(self.turn))
        found[:2, :2] = [[cos, -sin], [sin, cos]]
        found[:2, 3] = [x - cos * x + sin * y, y - sin * x - cos * y]
        found[:3, 3] += self.by
        return found


def free_id(model: Model) -> str:
    """An id that no joined file of a model has, nor had."""
    taken = {p.source for p in model.parts} | {j.id for j in model.joined}
    return next(f"file-{n}" for n in range(2, len(taken) + 3) if f"file-{n}" not in taken)


def _shared(model: Model, fresh: Model) -> NDArray[np.float64] | None:
    """(4, 4) from a fresh file's coordinates to those of a model's file by the map.
    ``None`` where either says nothing of it.
    """
    if model.onto_map is None or fresh.onto_map is None:
        return None
    found: NDArray[np.float64] = np.linalg.solve(np.array(model.onto_map), np.array(fresh.onto_map))
    return found


def _laid(model: Model, fresh: Model, joined: Joined) -> tuple[Model, Joined]:
    """A fresh file where it lies in a model, about the model's origin, with the parts of ``joined``."""
    shared = _shared(model, fresh)
    home, away = np.eye(4), np.eye(4)
    home[:3, 3], away[:3, 3] = fresh.origin, -np.array(model.origin)
    base = home if shared is None else shared @ home
    if joined.pivot == (0.0, 0.0) and not joined.turn:
        middle = (base @ np.append(fresh.median_centre, 1.0))[:2]
        joined = replace(joined, pivot=(round(float(middle[0]), 1), round(float(middle[1]), 1)))
    joined = replace(joined, shared=shared is not None)
    moved = fresh.transformed(away @ joined.matrix @ base)
    parts = tuple(
        replace(
            p, source=joined.id, layer=f"{joined.name}/{p.layer}" if p.layer else joined.name,
            role=p.role if p.role in KEPT_ROLES else "context",
        )
        for p in moved.parts
    )  # fmt: skip
    return moved.said(parts=parts, origin=model.origin), joined


def _materials(model: Model, fresh: Model) -> tuple[list[Material], list[int]]:
    """The materials of both, and the number of each of the fresh one's among them.
    The same where they look the same.
    """
    table, number = list(model.materials), []
    known = {m: n for n, m in enumerate(table)}
    names = {m.name for m in table}
    for material in fresh.materials:
        if material in known:
            number.append(known[material])
            continue
        name, count = material.name, 1
        while name in names:
            count += 1
            name = f"{material.name} {count}"
        names.add(name)
        number.append(len(table))
        table.append(replace(material, name=name))
    return table, number


def _together(model: Model, other: Model) -> Model:
    """Both in one, the parts of the other after those of the first; both lie about one origin."""
    table, number = _materials(model, other)
    points, parts = len(model.vertices), len(model.parts)
    uv = None
    if model.mesh.uv is not None or other.mesh.uv is not None:
        none = lambda m: np.zeros((len(m.triangles), 3, 2), np.float32)
        uv = np.concatenate([none(m) if m.mesh.uv is None else m.mesh.uv for m in (model, other)])
    return model.reshaped(vertices=np.concatenate([model.vertices, other.vertices]),
        triangles=np.concatenate([model.triangles, other.triangles + points]).astype(np.int32),
        triangle_part=np.concatenate([model.triangle_part, other.triangle_part + parts]).astype(np.int32),
        parts=(*model.parts, *(replace(p, material=number[p.material]) for p in other.parts)),
        materials=tuple(table), uv=uv, textures={**model.textures, **other.textures},
        line_ends=np.concatenate([model.mesh.line_ends, other.mesh.line_ends]),
        line_part=np.concatenate([model.mesh.line_part, other.mesh.line_part + parts]).astype(np.int32),
        rooms=model.rooms,
    )  # fmt: skip


def join(model: Model, fresh: Model, joined: Joined) -> Model:
    """The model with a file joined to it; ``fresh`` is in metres, about whatever origin."""
    laid, joined = _laid(model, fresh, joined)
    return replace(_together(model, laid), joined=(*model.joined, joined))


def notes_of(model: Model) -> tuple[str, ...]:
    """How the file that was joined last lies, in a sentence."""
    own = model.joined[-1]
    if own.shared:
        return (f"“{own.name}” lies where the map conversions of both files have it.",)
    return (
        f"“{own.name}” lies by the numbers of its coordinates, since not both files say how they lie on the map; move "
        f"it where it belongs.",
    )


def renewed(base: Model, fresh: Model, source: str) -> Model:
    """A model as its files are read in which one of them, the model's own (``""``) or a joined one, is a fresh one.
    Parts are numbered anew: they are found again by :func:`warmgraphite.model.succession.succeed`.
    """
    if not source:
        others = _alone(base, [j.id for j in base.joined])
        fresh = replace(fresh, joined=base.joined)
        return _together(fresh, others) if len(others.parts) else fresh
    own = next((j for j in base.joined if j.id == source), None)
    if own is None:
        raise EditError("That file does not belong to this study any more; join it anew.")
    laid, own = _laid(base, fresh, own)
    rest = _alone(base, ["", *(j.id for j in base.joined if j.id != source)])
    return replace(_together(rest, laid), joined=tuple(own if j.id == source else j for j in base.joined))


def _alone(model: Model, sources: Sequence[str]) -> Model:
    """The parts of some files, as they are there, numbered anew."""
    chosen = np.array([p.source in sources and not p.absent for p in model.parts], bool)
    number = np.cumsum(chosen) - 1
    kept = model.only(chosen[model.triangle_part])
    lines = chosen[kept.mesh.line_part]
    return kept.reshaped(triangle_part=number[kept.triangle_part].astype(np.int32),
        parts=tuple(p for p, c in zip(model.parts, chosen, strict=True) if c),
        line_ends=kept.mesh.line_ends[lines], line_part=number[kept.mesh.line_part[lines]].astype(np.int32), hidden=(),
        sets={},
    )  # fmt: skip


def keeping_bodies(state: Model, current: Model, source: str) -> Model:
    """A state after one file was renewed.
    In which the bodies of all other files are as they were in the state before, mends and all. Parts go by the same
    numbers in both.
    """
    mine = np.array([p.source == source for p in state.parts], bool)
    mine[len(current.parts) :] = True
    new = state.only(mine[state.triangle_part])
    old = current.only(~mine[: len(current.parts)][current.triangle_part])
    uv = None
    if new.mesh.uv is not None or old.mesh.uv is not None:
        uv = np.concatenate(
            [np.zeros((len(m.triangles), 3, 2), np.float32) if m.mesh.uv is None else m.mesh.uv for m in (old, new)]
        )
    lines = [~mine[: len(current.parts)][current.mesh.line_part], mine[state.mesh.line_part]]
    return state.reshaped(vertices=np.concatenate([old.vertices, new.vertices]),
        triangles=np.concatenate([old.triangles, new.triangles + len(old.vertices)]).astype(np.int32),
        triangle_part=np.concatenate([old.triangle_part, new.triangle_part]).astype(np.int32), uv=uv,
        line_ends=np.concatenate([current.mesh.line_ends[lines[0]], state.mesh.line_ends[lines[1]]]),
        line_part=np.concatenate([current.mesh.line_part[lines[0]], state.mesh.line_part[lines[1]]]).astype(np.int32),
    )  # fmt: skip


def joined_points(model: Model, sources: Sequence[str] | None = None) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """(V,) the points and (L,) the line elements of joined files, of all or of some."""
    wanted = [p.source != "" if sources is None else p.source in sources for p in model.parts]
    chosen = np.array(wanted, bool)
    points = np.zeros(len(model.vertices), bool)
    points[model.triangles[chosen[model.triangle_part]]] = True
    return points, chosen[model.mesh.line_part]


def place_joined(model: Model, source: str, by: tuple[float, float, float], turn: float) -> Model:
    """The model with a joined file moved and turned. Raises :class:`EditError` where there is none with that id."""
    own = next((j for j in model.joined if j.id == source), None)
    if own is None:
        raise EditError("That file does not belong to this study any more; join it anew.")
    new = replace(own, by=by, turn=turn)
    home, away = np.eye(4), np.eye(4)
    home[:3, 3], away[:3, 3] = model.origin, -np.array(model.origin)
    change = away @ new.matrix @ np.linalg.inv(own.matrix) @ home
    points, lines = joined_points(model, [source])
    vertices, ends = model.vertices.copy(), model.mesh.line_ends.copy()
    vertices[points] = vertices[points] @ change[:3, :3].T + change[:3, 3]
    ends[lines] = ends[lines] @ change[:3, :3].T + change[:3, 3]
    return model.reshaped(vertices=vertices, line_ends=ends,
        joined=tuple(new if j.id == source else j for j in model.joined),
    )  # fmt: skip


def taken_out(model: Model, source: str) -> tuple[Model, list[int]]:
    """The model without the name of a joined file, and the numbers of its parts, which are to be dropped."""
    if all(j.id != source for j in model.joined):
        raise EditError("That file does not belong to this study any more.")
    parts = [n for n, p in enumerate(model.parts) if p.source == source and not p.absent]
    return model.said(joined=tuple(j for j in model.joined if j.id != source)), parts
