"""The model: triangles in metres, Z up, +Y north, each belonging to a named part."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

__all__ = ["ROLES", "SEE_THROUGH", "UNCUT_ROLES", "Material", "Model", "Part", "build_model", "select_parts"]

ROLES = (
    "structure",
    "envelope",
    "glass",
    "furniture",
    "ground",
    "water",
    "planting",
    "people",
    "context",
    "subject",
)

#: Roles that a cutting plane leaves whole, as the trade does: nobody saws a chair or a tree in half.
UNCUT_ROLES = frozenset({"furniture", "planting", "people"})

#: Materials with less opacity than this are seen through and count as glass.
SEE_THROUGH = 0.6


@dataclass(frozen=True)
class Material:
    """A surface: ``colour`` as ``#rrggbb``, ``opacity`` from 0 (clear) to 1."""

    name: str
    colour: str = "#cfc8bc"
    opacity: float = 1.0


@dataclass(frozen=True)
class Part:
    """One named piece of the model. ``layer`` is a path such as ``Hall/Roof``; ``material`` an index."""

    name: str
    layer: str = ""
    material: int = 0
    role: str = "structure"

    @property
    def path(self) -> str:
        """``layer/name``, the string that glob patterns of a view are matched against."""
        return f"{self.layer}/{self.name}" if self.layer else self.name


@dataclass(frozen=True)
class Model:
    """Triangles with their parts and materials.

    ``vertices`` (V, 3) float64 metres; ``triangles`` (T, 3) int32 indices; ``triangle_part`` (T,) int32.
    """

    name: str
    vertices: NDArray[np.float64]
    triangles: NDArray[np.int32]
    triangle_part: NDArray[np.int32]
    parts: tuple[Part, ...]
    materials: tuple[Material, ...]

    @cached_property
    def bounds(self) -> NDArray[np.float64]:
        """(2, 3) lowest and highest corner in metres of what the triangles touch."""
        used = self.vertices[np.unique(self.triangles)]
        return np.stack([used.min(0), used.max(0)])

    @cached_property
    def focus(self) -> NDArray[np.float64]:
        """(2, 3) bounds of the building: of all parts but ground, water, planting, people and context, where there are any."""
        building = ~np.isin(self.part_role, ["ground", "water", "planting", "people", "context"])
        rows = building[self.triangle_part]
        if not rows.any():
            return self.bounds
        corners = self.vertices[self.triangles[rows]].reshape(-1, 3)
        return np.stack([corners.min(0), corners.max(0)])

    @cached_property
    def version(self) -> str:
        """A hash of everything that a drawing can depend on, the name excepted."""
        digest = hashlib.sha256()
        for array in (self.vertices, self.triangles, self.triangle_part):
            digest.update(np.ascontiguousarray(array).tobytes())
        digest.update(json.dumps([[asdict(p) for p in self.parts], [asdict(m) for m in self.materials]]).encode())
        return digest.hexdigest()[:24]

    @cached_property
    def part_is_glass(self) -> NDArray[np.bool_]:
        """(P,) whether a part is seen through: by its role, or because its material is."""
        return np.array([p.role == "glass" or self.materials[p.material].opacity < SEE_THROUGH for p in self.parts], dtype=bool)

    @cached_property
    def part_role(self) -> NDArray[np.str_]:
        return np.array([p.role for p in self.parts])

    @cached_property
    def part_material(self) -> NDArray[np.int32]:
        return np.array([p.material for p in self.parts], dtype=np.int32)

    def transformed(self, matrix: NDArray[np.float64]) -> Model:
        """The model after a 4×4 affine ``matrix``; triangles are turned over when it mirrors."""
        vertices = self.vertices @ matrix[:3, :3].T + matrix[:3, 3]
        triangles = self.triangles if np.linalg.det(matrix[:3, :3]) > 0 else self.triangles[:, ::-1]
        return replace(self, vertices=np.ascontiguousarray(vertices), triangles=np.ascontiguousarray(triangles))


def build_model(
    name: str,
    meshes: Sequence[tuple[Part, NDArray[np.float64], NDArray[np.int32]]],
    materials: Sequence[Material],
) -> Model:
    """A model from ``(part, vertices (v, 3), triangles (t, 3))`` rows."""
    offsets = np.cumsum([0] + [len(v) for _, v, _ in meshes])
    return Model(
        name=name,
        vertices=np.concatenate([np.asarray(v, float) for _, v, _ in meshes]),
        triangles=np.concatenate([np.asarray(t, np.int32) + o for (_, _, t), o in zip(meshes, offsets, strict=False)]).astype(
            np.int32
        ),
        triangle_part=np.repeat(np.arange(len(meshes), dtype=np.int32), [len(t) for _, _, t in meshes]),
        parts=tuple(p for p, _, _ in meshes),
        materials=tuple(materials),
    )


def select_parts(model: Model, patterns: Sequence[str]) -> NDArray[np.bool_]:
    """(P,) which parts match any glob of ``patterns``, compared with ``layer/path/name`` and with the bare name."""
    import re
    from fnmatch import translate

    if not patterns:
        return np.zeros(len(model.parts), bool)
    test = re.compile("|".join(f"(?:{translate(p)})" for p in patterns))
    return np.array([bool(test.match(p.path) or test.match(p.name)) for p in model.parts], dtype=bool)
