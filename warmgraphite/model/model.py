"""The model: triangles in metres, Z up, +Y north, each belonging to a named part."""

from __future__ import annotations

import hashlib
import json
import math
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field, fields, replace
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from warmgraphite.geometry.ragged import firsts_of
from warmgraphite.geometry.tolerances import NO_LENGTH
from warmgraphite.memory import beside, derived, tell
from warmgraphite.model.axes import Axis, Door, transformed
from warmgraphite.model.joining import Joined, OntoMap
from warmgraphite.model.mesh import Mesh
from warmgraphite.model.palette import Material, as_card
from warmgraphite.model.parts import USUAL, Part, Parts

__all__ = ["FAR", "OF_FIGURES", "Contours", "Model", "Put", "Room", "build_model", "far_origin", "localised"]

#: Part sets that figures make are called so at first; where none of them stands, they are empty.
OF_FIGURES = "figures "

#: Metres from the origin beyond which a model is moved to an origin of its own: there single precision, which screens
#: use, still tells a twentieth of a millimetre.
FAR = 1000.0

#: The fields of a mesh, by which a model is given another one.
_OF_MESH = frozenset(f.name for f in fields(Mesh))


@dataclass(frozen=True)
class Room:
    """A space of the building.
    No geometry, but a name for notes at a ``place`` (x, y, z in metres), its ``area`` in m².
    """

    name: str
    number: str = ""
    layer: str = ""
    place: tuple[float, float, float] = (0.0, 0.0, 0.0)
    area: float = 0.0


@dataclass(frozen=True)
class Contours:
    """Level lines on the ground, ``interval`` metres apart; every ``index``-th is drawn stronger."""

    interval: float
    index: int = 5


@dataclass(frozen=True)
class Put:
    """A body that was put into a model.
    As it is about its foot, turned by a matrix ``turn`` (3, 3), and moved ``by`` (3,) metres.
    """

    body: Model
    turn: NDArray[np.float64]
    by: NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Model:
    """A mesh, with what is said of its parts, its materials and its rooms.

    ``textures`` are encoded pictures by name; ``origin`` (x, y, z) is where the zero of its coordinates lies in the
    file's, in metres. A part may have no triangle. ``units`` and ``up`` are how the file was read; ``hidden`` the parts
    hidden on the bench; ``sets`` the part sets by name; ``white_card`` shows every opaque material as card, without
    losing any. ``cut_order`` names materials, the one that prevails where cut bodies overlap first.
    """

    name: str
    mesh: Mesh
    #: Given as any rows of parts.
    parts: Parts
    materials: tuple[Material, ...]
    textures: Mapping[str, bytes] = field(default_factory=dict)
    rooms: tuple[Room, ...] = ()
    axes: tuple[Axis, ...] = ()
    doors: tuple[Door, ...] = ()
    origin: tuple[float, float, float] = (0.0, 0.0, 0.0)
    contours: Contours | None = None
    units: str = "m"
    up: Literal["z", "y"] = "z"
    hidden: tuple[int, ...] = ()
    sets: Mapping[str, tuple[int, ...]] = field(default_factory=dict)
    white_card: bool = False
    cut_order: tuple[str, ...] = ()
    #: The files that are joined to it, and how the coordinates of its own file, in metres, lie on the map, where that
    #: says so.
    joined: tuple[Joined, ...] = ()
    onto_map: OntoMap | None = None
    #: The model that this is with more parts after all of its own, of which nothing need be found again, and the bodies
    #: that those are, in order.
    bare: Model | None = None
    put: tuple[Put, ...] = ()

    def __post_init__(self) -> None:
        given = self.parts
        rows = given.rows if isinstance(given, Parts) else tuple(given)
        if not isinstance(given, Parts) or (given.materials, given.cut_order) != (self.materials, self.cut_order):
            object.__setattr__(self, "parts", Parts(rows, self.materials, self.cut_order))

    # The mesh, as it is asked for everywhere.

    @property
    def vertices(self) -> NDArray[np.float64]:
        return self.mesh.vertices

    @property
    def triangles(self) -> NDArray[np.int32]:
        return self.mesh.triangles

    @property
    def triangle_part(self) -> NDArray[np.int32]:
        return self.mesh.triangle_part

    @property
    def bounds(self) -> NDArray[np.float64]:
        """(2, 3) lowest and highest corner of all, in metres."""
        return self.mesh.bounds

    @property
    def extent(self) -> float:
        """Metres across, on which tolerances stand; without what was put in, so that no figure moves them."""
        return (self.bare or self).mesh.extent

    @property
    def anchor(self) -> NDArray[np.float64]:
        """(3,) the point in metres that coordinates in a plane count from; no figure moves it, either."""
        return (self.bare or self).mesh.anchor

    @property
    def median_centre(self) -> NDArray[np.float64]:
        """(3,) the middle of the middle parts of its own, in metres."""
        return (self.bare or self).mesh.median_centre

    @derived
    def part_bounds(self) -> NDArray[np.float64]:
        """(P, 2, 3) lowest and highest corner of each part in metres.
        Infinite, the wrong way round, where it has none.
        """
        found = np.stack([np.full((len(self.parts), 3), np.inf), np.full((len(self.parts), 3), -np.inf)], 1)
        found[: self.mesh.count] = self.mesh.part_bounds
        return found

    @derived
    def part_shape(self) -> NDArray[np.uint64]:
        """(P,) a hash of each part's triangles and line elements where they stand; 0 for a part that has none."""
        found = np.zeros(len(self.parts), np.uint64)
        found[: self.mesh.count] = self.mesh.part_shape
        return found

    @derived
    def focus(self) -> NDArray[np.float64]:
        """(2, 3) bounds of the building.
        Of all parts but ground, water, planting, people and context, where there are any.
        """
        if self.bare is not None:
            return self.bare.focus
        near = self.parts.present & ~np.isin(np.arange(len(self.parts)), self.mesh.far_parts)
        boxes = self.part_bounds[near & ~np.isin(self.parts.role, ["ground", "water", "planting", "people", "context"])]
        boxes = boxes[np.isfinite(boxes).all((1, 2))]
        return np.stack([boxes[:, 0].min(0), boxes[:, 1].max(0)]) if len(boxes) else self.bounds

    # What is kept of it.

    @derived
    def version(self) -> str:
        """A hash of everything but the model's name."""
        digest = hashlib.sha256()
        digest.update(self.body.encode())
        digest.update(json.dumps(self.about()).encode())
        return digest.hexdigest()[:24]

    @derived
    def body(self) -> str:
        """A hash of what takes the room: triangles, texture coordinates, pictures."""
        digest = hashlib.sha256(self.mesh.geometry.encode())
        if self.mesh.uv is not None:
            digest.update(np.ascontiguousarray(self.mesh.uv).tobytes())
        for name, data in self.textures.items():
            digest.update(name.encode() + b"\0" + data)
        return digest.hexdigest()[:24]

    def about(self) -> dict[str, Any]:
        """All but the body, as JSON: what is said of parts and materials, rooms, axes, doors, sets, origin."""
        return {
            "parts": [
                {k: v for k, v in vars(p).items() if k == "name" or (v is not None and v != USUAL[k])}
                for p in self.parts
            ],
            "materials": [vars(m) for m in self.materials],
            "rooms": [vars(r) for r in self.rooms],
            **({"axes": [vars(a) for a in self.axes]} if self.axes else {}),
            **({"doors": [vars(d) for d in self.doors]} if self.doors else {}),
            **({"joined": [vars(j) for j in self.joined]} if self.joined else {}),
            **({"onto_map": self.onto_map} if self.onto_map else {}),
            "origin": self.origin,
            "contours": asdict(self.contours) if self.contours else None,
            "units": self.units,
            "up": self.up,
            "hidden": self.hidden,
            "sets": dict(self.sets),
            "white_card": self.white_card,
            "cut_order": self.cut_order,
        }

    def said(self, **changes: Any) -> Model:
        """The model with other words about the same triangles; what was worked out of the mesh is kept."""
        found = replace(self, **changes)
        if found.textures is self.textures and "body" in beside(self):
            tell(found, "body", self.body)
        return found

    def reshaped(self, **changes: Any) -> Model:
        """The model with other fields of its mesh, and whatever else is said.
        It is no model with something put in any more.
        """
        of_mesh = {n: v for n, v in changes.items() if n in _OF_MESH}
        rest = {n: v for n, v in changes.items() if n not in _OF_MESH}
        return replace(self, **{"bare": None, "put": (), "mesh": replace(self.mesh, **of_mesh), **rest})

    @derived
    def looks(self) -> tuple[Material, ...]:
        """The materials as they are shown: as they are, or as white card where they are opaque."""
        return as_card(self.materials) if self.white_card else self.materials

    def in_set(self, name: str) -> NDArray[np.bool_] | None:
        """(P,) the parts of a part set; ``None``, for all, when there is no such set."""
        if name not in self.sets:
            return np.zeros(len(self.parts), bool) if name.startswith(OF_FIGURES) else None
        found = np.zeros(len(self.parts), bool)
        found[[n for n in self.sets[name] if n < len(found)]] = True
        return found

    def transformed(self, matrix: NDArray[np.float64]) -> Model:
        """The model after a 4×4 affine ``matrix``; triangles are turned over when it mirrors."""
        turn, move = matrix[:3, :3], matrix[:3, 3]
        scale = abs(np.linalg.det(turn)) ** (1 / 3)
        rooms = tuple(
            replace(r, place=tuple((turn @ np.array(r.place) + move).tolist()), area=r.area * scale**2)
            for r in self.rooms
        )
        axes, doors = transformed(self.axes, self.doors, matrix)
        materials = self.materials
        if self.textures and not math.isclose(scale, 1.0, rel_tol=NO_LENGTH):
            materials = tuple(replace(m, size=(m.size[0] * scale, m.size[1] * scale)) for m in materials)
        mesh = self.mesh.moved(matrix)
        return replace(self, mesh=mesh, rooms=rooms, axes=axes, doors=doors, bare=None, put=(), materials=materials)

    def only(self, rows: NDArray[np.bool_]) -> Model:
        """The model with the chosen triangles (T,); parts keep their numbers, points that nothing uses are dropped."""
        return replace(self, mesh=self.mesh.only(rows), bare=None, put=())


def far_origin(model: Model, origin: tuple[float, float, float] | None) -> Model:
    """The model moved to ``origin`` (file coordinates in metres); without one, by :func:`localised`."""
    if origin is None:
        return localised(model)
    if origin == model.origin:
        return model
    matrix = np.eye(4)
    matrix[:3, 3] = np.array(model.origin) - np.array(origin)
    return replace(model.transformed(matrix), origin=origin)


def localised(model: Model) -> Model:
    """The model moved to an origin of its own when it lies far from zero.
    By whole hundreds of metres, in double precision.
    """
    middle = model.mesh.median_centre
    if np.abs(middle).max() <= FAR:
        return model
    shift = np.round(middle / 100) * 100
    shift[2] = 0.0 if abs(middle[2]) <= FAR else shift[2]  # levels keep their meaning
    return far_origin(model, tuple((np.array(model.origin) + shift).tolist()))


def build_model(
    name: str,
    meshes: Sequence[tuple[Part, NDArray[np.float64], NDArray[np.int32]]],
    materials: Sequence[Material],
    uv: Sequence[NDArray[np.float32] | None] = (),
    textures: Mapping[str, bytes] | None = None,
    rooms: Sequence[Room] = (),
    lines: Mapping[int, NDArray[np.float64]] | None = None,
) -> Model:
    """A model from ``(part, vertices (v, 3), triangles (t, 3))`` rows.
    With ``uv`` (t, 3, 2) for each row that has one, and line elements ``lines`` (l, 2, 3) by the numbers of rows.
    """
    own = {n: np.asarray(ends, float).reshape(-1, 2, 3) for n, ends in (lines or {}).items()}
    offsets = firsts_of([v for _, v, _ in meshes])
    counts = [len(t) for _, _, t in meshes]
    has_uv = bool(textures) and any(u is not None for u in uv)
    mesh = Mesh(
        vertices=np.concatenate([np.empty((0, 3)), *(np.asarray(v, float) for _, v, _ in meshes)]),
        triangles=np.concatenate(
            [
                np.empty((0, 3), np.int32),
                *(np.asarray(t, np.int32) + o for (_, _, t), o in zip(meshes, offsets, strict=False)),
            ]
        ).astype(np.int32),
        triangle_part=np.repeat(np.arange(len(meshes), dtype=np.int32), counts),
        uv=np.concatenate(
            [
                np.zeros((n, 3, 2), np.float32) if u is None else np.asarray(u, np.float32)
                for u, n in zip(uv, counts, strict=True)
            ]
        )
        if has_uv
        else None,
        line_ends=np.concatenate([np.empty((0, 2, 3)), *own.values()]),
        line_part=np.repeat(np.array(list(own), np.int32), [len(ends) for ends in own.values()]),
    )
    parts = Parts(tuple(p for p, _, _ in meshes), tuple(materials))
    return Model(name, mesh, parts, tuple(materials), textures=dict(textures or {}), rooms=tuple(rooms))
