"""The model: triangles in metres, Z up, +Y north, each belonging to a named part."""

from __future__ import annotations

import hashlib
import json
import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field, fields, replace
from fnmatch import translate
from functools import cached_property
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from warmgraphite.model.axes import Axis, Door, transformed
from warmgraphite.model.behaviour import BEHAVIOUR, CUT_ORDER, Behaviour
from warmgraphite.model.joining import Joined, OntoMap

__all__ = [
    "CARD",
    "FAR",
    "OF_FIGURES",
    "SEE_THROUGH",
    "Contours",
    "Material",
    "Model",
    "Part",
    "Put",
    "Room",
    "build_model",
    "far_origin",
    "localised",
    "select_parts",
]

#: Materials with less opacity than this are seen through and count as glass.
SEE_THROUGH = 0.6

#: The colour of white card.
CARD = "#f4f1ea"

#: Part sets that figures make are called so at first; where none of them stands, they are empty.
OF_FIGURES = "figures "

#: Metres from the origin beyond which a model is moved to an origin of its own: there single precision, which screens
#: use, still tells a twentieth of a millimetre.
FAR = 1000.0


#: Selections of parts by patterns that a model remembers.
MOST_SELECTIONS = 1000
#: Bytes that a part takes with its names.
BYTES_OF_PART = 700

#: A part is far away when it lies this many times farther out than the middle one of the others.
FAR_TIMES = 25.0


@dataclass(frozen=True)
class Material:
    """A surface: ``colour`` as ``#rrggbb``, ``opacity`` from 0 (clear) to 1; ``texture`` names a picture of the model,
    which spans ``size`` (width, height) metres, or is empty. ``was`` are the names in the file that it stands for."""

    name: str
    colour: str = "#cfc8bc"
    opacity: float = 1.0
    texture: str = ""
    size: tuple[float, float] = (1.0, 1.0)
    was: tuple[str, ...] = ()

    @property
    def names(self) -> tuple[str, ...]:
        """The materials of the file that this one stands for."""
        return self.was or (self.name,)


@dataclass(frozen=True)
class Part:
    """One named piece of the model. ``layer`` is a path such as ``Hall/Roof``; ``material`` an index.

    ``id`` is the file's own lasting name where its format has one. ``absent`` parts were dropped from the study, or are
    no more in the newer file: they keep their number and what was said of them, and have no triangle. The rest overrules
    the role's behaviour, field by field, and is ``None`` where the role decides (:mod:`warmgraphite.model.behaviour`).
    ``cut_as`` names another material that its cut is filled as.

    A part of a figure knows which by ``figure``. ``crease`` is how far its edges bend, in degrees, before they are drawn, where the view does
    not say it; what ``casts`` no shadow and what ``receives`` none say so; of a ``plain`` one only the outline is drawn,
    and of a ``quiet`` one its line elements alone. ``source`` is the joined file that it comes from, empty for the model's own.
    """

    name: str
    layer: str = ""
    material: int = 0
    role: str = "structure"
    id: str = ""
    absent: bool = False
    cut: bool | None = None
    clear: bool | None = None
    drawn: Literal["soft", "plain", "strong"] | None = None
    poche: Literal["solid", "earth", "void"] | None = None
    cut_as: str | None = None
    figure: str = ""
    crease: float | None = None
    casts: bool = True
    receives: bool = True
    plain: bool = False
    quiet: bool = False
    source: str = ""

    @property
    def path(self) -> str:
        """``layer/name``, the string that glob patterns of a view are matched against."""
        return f"{self.layer}/{self.name}" if self.layer else self.name

    @property
    def behaviour(self) -> Behaviour:
        """How it behaves in a drawing: as its role does, but for what was said of this part alone."""
        usual = BEHAVIOUR[self.role]
        return Behaviour(
            usual.cut if self.cut is None else self.cut,
            usual.clear if self.clear is None else self.clear,
            self.drawn or usual.drawn,
            self.poche or usual.poche,
            usual.glazing,
        )


#: What a part is when nothing is said; left out of what is kept.
USUAL: dict[str, Any] = {f.name: f.default for f in fields(Part)}


@dataclass(frozen=True)
class Room:
    """A space of the building: no geometry, but a name for notes at a ``place`` (x, y, z in metres), its ``area`` in m²."""

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
    """A body that was put into a model: as it is about its foot, turned by a matrix ``turn`` (3, 3), and moved ``by`` (3,) metres."""

    body: Model
    turn: NDArray[np.float64]
    by: NDArray[np.float64]


#: What is known of a model by its triangles alone, however many parts it has; and what has a row for each part.
_OF_TRIANGLES = ("bounds", "heart", "far_parts", "extent", "anchor", "geometry", "body")
_OF_EACH_PART = ("part_bounds", "part_shape", "forms")


@dataclass(frozen=True)
class Model:
    """Triangles with their parts and materials.

    ``vertices`` (V, 3) float64 metres; ``triangles`` (T, 3) int32 indices; ``triangle_part`` (T,) int32; ``uv`` (T, 3, 2)
    float32 texture coordinates of their corners, or ``None``; ``textures`` encoded pictures by name; ``origin`` (x, y, z)
    where the zero of these coordinates lies in the file's, in metres. A part may have no triangle.

    ``units`` and ``up`` are how the file was read; ``hidden`` the parts hidden on the bench; ``sets`` the part sets by
    name; ``white_card`` shows every opaque material as card, without losing any. ``cut_order`` names materials, the one
    that prevails where cut bodies overlap first.
    """

    name: str
    vertices: NDArray[np.float64]
    triangles: NDArray[np.int32]
    triangle_part: NDArray[np.int32]
    parts: tuple[Part, ...]
    materials: tuple[Material, ...]
    uv: NDArray[np.float32] | None = None
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
    #: The files that are joined to it, and how the coordinates of its own file, in metres, lie on the map, where that says so.
    joined: tuple[Joined, ...] = ()
    onto_map: OntoMap | None = None
    #: Line elements without faces: their ends (L, 2, 3) in metres, and the part (L,) of each. Those of absent parts stay.
    line_ends: NDArray[np.float64] = field(default_factory=lambda: np.empty((0, 2, 3)))
    line_part: NDArray[np.int32] = field(default_factory=lambda: np.empty(0, np.int32))
    #: The model that this is with more parts after all of its own, of which nothing need be found again, and the bodies that those are, in order.
    bare: Model | None = None
    put: tuple[Put, ...] = ()

    @cached_property
    def bounds(self) -> NDArray[np.float64]:
        """(2, 3) lowest and highest corner in metres of what the triangles touch; of its line elements where there are none."""
        used = np.zeros(len(self.vertices), bool)
        used[self.triangles] = True
        points = self.vertices[used] if used.any() else self.line_ends.reshape(-1, 3)
        return np.stack([points.min(0), points.max(0)]) if len(points) else np.zeros((2, 3))

    @cached_property
    def part_bounds(self) -> NDArray[np.float64]:
        """(P, 2, 3) lowest and highest corner of each part in metres; infinite, the wrong way round, where it has none."""
        found = np.stack([np.full((len(self.parts), 3), np.inf), np.full((len(self.parts), 3), -np.inf)], 1)
        order = np.argsort(self.triangle_part, kind="stable")
        if len(order):
            corners = self.vertices[self.triangles[order]]
            owner = self.triangle_part[order]
            first = np.flatnonzero(np.append(True, owner[1:] != owner[:-1]))
            found[owner[first], 0] = np.minimum.reduceat(corners.min(1), first)
            found[owner[first], 1] = np.maximum.reduceat(corners.max(1), first)
        np.minimum.at(found[:, 0], self.line_part, self.line_ends.min(1))
        np.maximum.at(found[:, 1], self.line_part, self.line_ends.max(1))
        return found

    @cached_property
    def heart(self) -> NDArray[np.float64]:
        """(3,) the middle of the middle parts in metres: one lost part a continent away does not move it."""
        boxes = self.part_bounds[np.isfinite(self.part_bounds).all((1, 2))]
        return np.median(boxes.mean(1), axis=0) if len(boxes) else np.zeros(3)

    @cached_property
    def far_parts(self) -> NDArray[np.int64]:
        """Numbers of small parts that lie so far out that nobody meant them to be drawn."""
        rows = np.flatnonzero(np.isfinite(self.part_bounds).all((1, 2)))
        if len(rows) < 4:
            return np.empty(0, np.int64)
        boxes = self.part_bounds[rows]
        size = np.linalg.norm(boxes[:, 1] - boxes[:, 0], axis=1)
        away = np.linalg.norm(boxes.mean(1) - self.heart, axis=1)
        usual = max(float(np.median(away)), float(np.median(size)))
        return rows[(away > FAR_TIMES * usual) & (size < 0.2 * away)]

    @cached_property
    def focus(self) -> NDArray[np.float64]:
        """(2, 3) bounds of the building: of all parts but ground, water, planting, people and context, where there are any."""
        near = self.present & ~np.isin(np.arange(len(self.parts)), self.far_parts)
        boxes = self.part_bounds[near & ~np.isin(self.part_role, ["ground", "water", "planting", "people", "context"])]
        boxes = boxes[np.isfinite(boxes).all((1, 2))]
        return np.stack([boxes[:, 0].min(0), boxes[:, 1].max(0)]) if len(boxes) else self.bounds

    @cached_property
    def extent(self) -> float:
        """Metres across, rounded to two figures: tolerances stand on it, and a small change far away must not move them."""
        size = float(np.linalg.norm(self.bounds[1] - self.bounds[0]))
        return float(f"{size:.1e}") or 1e-9

    @cached_property
    def anchor(self) -> NDArray[np.float64]:
        """(3,) a point near the middle in metres, on a grid as coarse as the model: coordinates in a plane count from it."""
        step = 2.0 ** math.ceil(math.log2(self.extent))
        return np.round(self.bounds.mean(0) / step) * step

    @cached_property
    def geometry(self) -> str:
        """A hash of the triangles and the line elements, and whose they are."""
        digest = hashlib.sha256()
        for array in (self.vertices, self.triangles, self.triangle_part, self.line_ends, self.line_part):
            digest.update(np.ascontiguousarray(array).tobytes())
        return digest.hexdigest()[:24]

    @cached_property
    def version(self) -> str:
        """A hash of everything but the model's name."""
        digest = hashlib.sha256()
        digest.update(self.body.encode())
        digest.update(json.dumps(self.about()).encode())
        return digest.hexdigest()[:24]

    @cached_property
    def body(self) -> str:
        """A hash of what takes the room: triangles, texture coordinates, pictures."""
        digest = hashlib.sha256(self.geometry.encode())
        if self.uv is not None:
            digest.update(np.ascontiguousarray(self.uv).tobytes())
        for name, data in self.textures.items():
            digest.update(name.encode() + b"\0" + data)
        return digest.hexdigest()[:24]

    def about(self) -> dict[str, Any]:
        """All but the body, as JSON: what is said of parts and materials, rooms, axes, doors, sets, origin."""
        return {
            "parts": [{k: v for k, v in vars(p).items() if k == "name" or (v is not None and v != USUAL[k])} for p in self.parts],
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
        """The model with other words about the same triangles; what was computed of the triangles is kept."""
        found = replace(self, **changes)
        # States of the same triangles may differ in how many parts they have: those that are gone from a newer file stay, as rows.
        same = len(found.parts) == len(self.parts)
        for name in _OF_TRIANGLES + (_OF_EACH_PART if same else ()):
            if name in self.__dict__:
                found.__dict__[name] = self.__dict__[name]
        return found

    @cached_property
    def present(self) -> NDArray[np.bool_]:
        """(P,) which parts are there: neither dropped nor gone from the file."""
        return np.array([not p.absent for p in self.parts], dtype=bool)

    @cached_property
    def looks(self) -> tuple[Material, ...]:
        """The materials as they are shown: as they are, or as white card where they are opaque."""
        if not self.white_card:
            return self.materials
        return tuple(m if m.opacity < SEE_THROUGH else replace(m, colour=CARD, texture="") for m in self.materials)

    @cached_property
    def part_shape(self) -> NDArray[np.uint64]:
        """(P,) a hash of each part's triangles and line elements where they stand; 0 for a part that has none."""
        order = np.argsort(self.triangle_part, kind="stable")
        corners = np.ascontiguousarray(self.vertices[self.triangles[order]])
        limits = np.searchsorted(self.triangle_part[order], np.arange(len(self.parts) + 1))
        view = memoryview(corners.reshape(-1).view(np.uint8))  # type: ignore[arg-type]
        size = corners.itemsize * 9
        found = np.zeros(len(self.parts), np.uint64)
        for i, (a, b) in enumerate(zip(limits[:-1].tolist(), limits[1:].tolist(), strict=True)):
            if b > a:
                found[i] = int.from_bytes(hashlib.blake2b(view[a * size : b * size], digest_size=8).digest(), "little")
        for i in np.unique(self.line_part).tolist():
            data = found[i].tobytes() + self.line_ends[self.line_part == i].tobytes()
            found[i] = int.from_bytes(hashlib.blake2b(data, digest_size=8).digest(), "little")
        return found

    @cached_property
    def behaviours(self) -> tuple[Behaviour, ...]:
        return tuple(p.behaviour for p in self.parts)

    @cached_property
    def part_is_cut(self) -> NDArray[np.bool_]:
        """(P,) whether a cutting plane goes into a part when the view says nothing else."""
        return np.array([b.cut for b in self.behaviours], dtype=bool)

    @cached_property
    def part_is_glass(self) -> NDArray[np.bool_]:
        """(P,) whether a part is seen through: by what was said of it, by its role, or because its material is."""
        return np.array(
            [
                b.clear or (p.clear is None and self.materials[p.material].opacity < SEE_THROUGH)
                for p, b in zip(self.parts, self.behaviours, strict=True)
            ],
            dtype=bool,
        )

    @cached_property
    def part_is_glazing(self) -> NDArray[np.bool_]:
        """(P,) whether a part, where one sees through it, counts as glass."""
        return np.array([b.glazing for b in self.behaviours], dtype=bool)

    @cached_property
    def part_figure(self) -> NDArray[np.int32]:
        """(P,) the number of the figure that a part belongs to, −1 for parts of the model."""
        number: dict[str, int] = {"": -1}
        return np.array([number.setdefault(p.figure, len(number) - 1) for p in self.parts], dtype=np.int32)

    @cached_property
    def part_crease(self) -> NDArray[np.float64]:
        """(P,) degrees of bend from which edges of a part are drawn; NaN where the view says it."""
        return np.array([np.nan if p.crease is None else p.crease for p in self.parts])

    @cached_property
    def part_casts(self) -> NDArray[np.bool_]:
        """(P,) which parts cast a shadow, as far as the sun lets them."""
        return np.array([p.casts for p in self.parts], dtype=bool)

    @cached_property
    def part_receives(self) -> NDArray[np.bool_]:
        """(P,) which parts shadow falls on, as far as the sun lets it."""
        return np.array([p.receives for p in self.parts], dtype=bool)

    @cached_property
    def part_plain(self) -> NDArray[np.bool_]:
        """(P,) the parts of which only the outline is drawn."""
        return np.array([p.plain for p in self.parts], dtype=bool)

    @cached_property
    def part_quiet(self) -> NDArray[np.bool_]:
        """(P,) the parts of figures of which only line elements are drawn."""
        return np.array([p.quiet for p in self.parts], dtype=bool)

    @cached_property
    def part_drawn(self) -> NDArray[np.str_]:
        """(P,) ``soft``, ``plain`` or ``strong``."""
        return np.array([b.drawn for b in self.behaviours])

    def material_named(self, name: str) -> int | None:
        """The number of the material of this name, or of one that took its place."""
        for names in ([(m.name,) for m in self.materials], [m.names for m in self.materials]):
            for number, known in enumerate(names):
                if name in known:
                    return number
        return None

    @cached_property
    def part_cut_as(self) -> NDArray[np.int64]:
        """(P,) the material that a part is filled as where it is cut."""
        found = self.part_material.astype(np.int64)
        for number, part in enumerate(self.parts):
            other = self.material_named(part.cut_as) if part.cut_as else None
            if other is not None:
                found[number] = other
        return found

    @cached_property
    def cut_rank(self) -> NDArray[np.int64]:
        """(M,) the place of each material in the order in which they prevail where cut bodies overlap.

        Those of ``cut_order`` come first; the others follow by what they are used for, the most solid first.
        """
        usual = np.full(len(self.materials), len(CUT_ORDER))
        for part in self.parts:
            if not part.absent:
                usual[part.material] = min(usual[part.material], CUT_ORDER.index(part.role))
        numbers = [self.material_named(name) for name in self.cut_order]
        said = list(dict.fromkeys(n for n in numbers if n is not None))
        rest = sorted(set(range(len(self.materials))) - set(said), key=lambda n: (usual[n], n))
        rank = np.empty(len(self.materials), np.int64)
        rank[[*said, *rest]] = np.arange(len(self.materials))
        return rank

    @cached_property
    def part_poche(self) -> NDArray[np.str_]:
        """(P,) what was said of how a part is filled where it is cut, or what is usual: solid, earth or void."""
        said = [p.poche or f"usually {b.poche}" for p, b in zip(self.parts, self.behaviours, strict=True)]
        return np.array(said, dtype=np.str_)

    @cached_property
    def part_earth(self) -> NDArray[np.bool_]:
        """(P,) whether a part is hatched as earth where it is cut."""
        return np.array([b.poche == "earth" for b in self.behaviours], dtype=bool)

    def in_set(self, name: str) -> NDArray[np.bool_] | None:
        """(P,) the parts of a part set; ``None``, for all, when there is no such set."""
        if name not in self.sets:
            return np.zeros(len(self.parts), bool) if name.startswith(OF_FIGURES) else None
        found = np.zeros(len(self.parts), bool)
        found[[n for n in self.sets[name] if n < len(found)]] = True
        return found

    @cached_property
    def part_role(self) -> NDArray[np.str_]:
        return np.array([p.role for p in self.parts])

    @cached_property
    def part_material(self) -> NDArray[np.int32]:
        return np.array([p.material for p in self.parts], dtype=np.int32)

    @cached_property
    def selections(self) -> dict[tuple[str, ...], NDArray[np.bool_]]:
        """What :func:`select_parts` found, by patterns."""
        return {}

    def weighed(self) -> tuple[int, list[Any]]:
        """What it weighs in memory: bytes of what is said of its parts, and what it holds beside that."""
        return BYTES_OF_PART * len(self.parts), [v for k, v in self.__dict__.items() if k not in ("parts", "behaviours")]

    def transformed(self, matrix: NDArray[np.float64]) -> Model:
        """The model after a 4×4 affine ``matrix``; triangles are turned over when it mirrors."""
        turn, move = matrix[:3, :3], matrix[:3, 3]
        mirrors = np.linalg.det(turn) < 0
        scale = abs(np.linalg.det(turn)) ** (1 / 3)
        rooms = tuple(
            replace(r, place=tuple((turn @ np.array(r.place) + move).tolist()), area=r.area * scale**2) for r in self.rooms
        )
        axes, doors = transformed(self.axes, self.doors, matrix)
        return replace(
            self,
            vertices=np.ascontiguousarray(self.vertices @ turn.T + move),
            line_ends=self.line_ends @ turn.T + move,
            triangles=np.ascontiguousarray(self.triangles[:, ::-1] if mirrors else self.triangles),
            uv=np.ascontiguousarray(self.uv[:, ::-1]) if mirrors and self.uv is not None else self.uv,
            rooms=rooms,
            axes=axes,
            doors=doors,
            bare=None,
            put=(),
            materials=tuple(replace(m, size=(m.size[0] * scale, m.size[1] * scale)) for m in self.materials)
            if self.textures and not math.isclose(scale, 1.0, rel_tol=1e-12)
            else self.materials,
        )

    def only(self, rows: NDArray[np.bool_]) -> Model:
        """The model with the chosen triangles (T,); parts keep their numbers, points that nothing uses are dropped."""
        used, local = np.unique(self.triangles[rows], return_inverse=True)
        return replace(
            self,
            vertices=self.vertices[used],
            triangles=local.reshape(-1, 3).astype(np.int32),
            triangle_part=self.triangle_part[rows],
            uv=None if self.uv is None else self.uv[rows],
            bare=None,
            put=(),
        )


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
    """The model moved to an origin of its own when it lies far from zero, by whole hundreds of metres, in double precision."""
    middle = model.heart
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
    """A model from ``(part, vertices (v, 3), triangles (t, 3))`` rows, with ``uv`` (t, 3, 2) for each row that has one, and line elements
    ``lines`` (l, 2, 3) by the numbers of rows."""
    own = {n: np.asarray(ends, float).reshape(-1, 2, 3) for n, ends in (lines or {}).items()}
    offsets = np.cumsum([0] + [len(v) for _, v, _ in meshes])
    counts = [len(t) for _, _, t in meshes]
    has_uv = bool(textures) and any(u is not None for u in uv)
    return Model(
        name=name,
        vertices=np.concatenate([np.empty((0, 3)), *(np.asarray(v, float) for _, v, _ in meshes)]),
        triangles=np.concatenate(
            [np.empty((0, 3), np.int32), *(np.asarray(t, np.int32) + o for (_, _, t), o in zip(meshes, offsets, strict=False))]
        ).astype(np.int32),
        triangle_part=np.repeat(np.arange(len(meshes), dtype=np.int32), counts),
        parts=tuple(p for p, _, _ in meshes),
        materials=tuple(materials),
        uv=np.concatenate(
            [np.zeros((n, 3, 2), np.float32) if u is None else np.asarray(u, np.float32) for u, n in zip(uv, counts, strict=True)]
        )
        if has_uv
        else None,
        textures=dict(textures or {}),
        rooms=tuple(rooms),
        line_ends=np.concatenate([np.empty((0, 2, 3)), *own.values()]),
        line_part=np.repeat(np.array(list(own), np.int32), [len(ends) for ends in own.values()]),
    )


def select_parts(model: Model, patterns: Sequence[str]) -> NDArray[np.bool_]:
    """(P,) which parts match any glob of ``patterns``, compared with ``layer/path/name`` and with the bare name.

    A part that is called just so matches too, whatever its name means as a glob: “Wall [2]” is that wall.
    """
    if not patterns:
        return np.zeros(len(model.parts), bool)
    # The rules of a finish ask the same of the same parts over and over: for each key of a pass, of each picture, of each export.
    asked = tuple(patterns)
    found = model.selections.get(asked)
    if found is None:
        found = _selected(model, asked)
        found.flags.writeable = False
        if len(model.selections) >= MOST_SELECTIONS:
            model.selections.clear()
        model.selections[asked] = found
    return found


def _selected(model: Model, patterns: tuple[str, ...]) -> NDArray[np.bool_]:
    plain = set(patterns)
    globs = [p for p in patterns if set(p) & set("*?[")]
    test = re.compile("|".join(f"(?:{translate(p)})" for p in globs)) if globs else None

    def match(text: str) -> bool:
        return text in plain or (test is not None and bool(test.match(text)))

    return np.array([match(p.path) or match(p.name) for p in model.parts], dtype=bool)
