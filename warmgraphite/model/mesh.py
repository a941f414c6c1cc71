"""The mesh of a model: triangles and line elements in metres, and whose they are."""

from __future__ import annotations

import hashlib
import math
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import ROUNDING
from warmgraphite.memory import derived

__all__ = ["FAR_TIMES", "Mesh"]

#: A part is far away when it lies this many times farther out than the middle one of the others.
FAR_TIMES = 25.0


@dataclass(frozen=True, eq=False)
class Mesh:
    """Triangles and line elements of numbered parts.

    ``vertices`` (V, 3) float64 metres, Z up; ``triangles`` (T, 3) int32 indices of them; ``triangle_part`` (T,) int32;
    ``uv`` (T, 3, 2) float32 texture coordinates of their corners, or ``None``. Line elements without faces are
    ``line_ends`` (L, 2, 3) in metres, with ``line_part`` (L,) int32.
    """

    vertices: NDArray[np.float64]
    triangles: NDArray[np.int32]
    triangle_part: NDArray[np.int32]
    uv: NDArray[np.float32] | None = None
    line_ends: NDArray[np.float64] = field(default_factory=lambda: np.empty((0, 2, 3)))
    line_part: NDArray[np.int32] = field(default_factory=lambda: np.empty(0, np.int32))

    @derived
    def count(self) -> int:
        """One more than the highest number of a part that has anything."""
        return 1 + max(int(self.triangle_part.max(initial=-1)), int(self.line_part.max(initial=-1)))

    @derived
    def bounds(self) -> NDArray[np.float64]:
        """(2, 3) lowest and highest corner in metres of what the triangles touch.
        Of the line elements where there are none.
        """
        used = np.zeros(len(self.vertices), bool)
        used[self.triangles] = True
        points = self.vertices[used] if used.any() else self.line_ends.reshape(-1, 3)
        return np.stack([points.min(0), points.max(0)]) if len(points) else np.zeros((2, 3))

    @derived
    def part_bounds(self) -> NDArray[np.float64]:
        """(count, 2, 3) lowest and highest corner of each part in metres.
        Infinite, the wrong way round, where it has none.
        """
        found = np.stack([np.full((self.count, 3), np.inf), np.full((self.count, 3), -np.inf)], 1)
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

    @derived
    def part_shape(self) -> NDArray[np.uint64]:
        """(count,) a hash of each part's triangles and line elements where they stand; 0 for a part that has none."""
        order = np.argsort(self.triangle_part, kind="stable")
        corners = np.ascontiguousarray(self.vertices[self.triangles[order]])
        limits = np.searchsorted(self.triangle_part[order], np.arange(self.count + 1))
        view = memoryview(corners.reshape(-1).view(np.uint8))  # type: ignore[arg-type]
        size = corners.itemsize * 9
        found = np.zeros(self.count, np.uint64)
        for i, (a, b) in enumerate(zip(limits[:-1].tolist(), limits[1:].tolist(), strict=True)):
            if b > a:
                found[i] = _hashed(view[a * size : b * size])
        for i in np.unique(self.line_part).tolist():
            found[i] = _hashed(found[i].tobytes() + self.line_ends[self.line_part == i].tobytes())
        return found

    @derived
    def median_centre(self) -> NDArray[np.float64]:
        """(3,) the middle of the middle parts in metres: one lost part a continent away does not move it."""
        boxes = self.part_bounds[np.isfinite(self.part_bounds).all((1, 2))]
        return np.median(boxes.mean(1), axis=0) if len(boxes) else np.zeros(3)

    @derived
    def far_parts(self) -> NDArray[np.int64]:
        """Numbers of small parts that lie so far out that nobody meant them to be drawn."""
        rows = np.flatnonzero(np.isfinite(self.part_bounds).all((1, 2)))
        if len(rows) < 4:
            return np.empty(0, np.int64)
        boxes = self.part_bounds[rows]
        size = np.linalg.norm(boxes[:, 1] - boxes[:, 0], axis=1)
        away = np.linalg.norm(boxes.mean(1) - self.median_centre, axis=1)
        usual = max(float(np.median(away)), float(np.median(size)))
        return rows[(away > FAR_TIMES * usual) & (size < 0.2 * away)]

    @derived
    def extent(self) -> float:
        """Metres across, rounded to two figures.
        Tolerances stand on it, and a small change far away must not move them.
        """
        size = float(np.linalg.norm(self.bounds[1] - self.bounds[0]))
        return float(f"{size:.1e}") or ROUNDING

    @derived
    def anchor(self) -> NDArray[np.float64]:
        """(3,) a point near the middle in metres, on a grid as coarse as the mesh.
        Coordinates in a plane count from it.
        """
        step = 2.0 ** math.ceil(math.log2(self.extent))
        return np.round(self.bounds.mean(0) / step) * step

    @derived
    def geometry(self) -> str:
        """A hash of the triangles and the line elements, and whose they are."""
        digest = hashlib.sha256()
        for array in (self.vertices, self.triangles, self.triangle_part, self.line_ends, self.line_part):
            digest.update(np.ascontiguousarray(array).tobytes())
        return digest.hexdigest()[:24]

    def only(self, rows: NDArray[np.bool_]) -> Mesh:
        """The chosen triangles (T,), and all line elements; points that no triangle uses are dropped."""
        used, local = np.unique(self.triangles[rows], return_inverse=True)
        return Mesh(
            self.vertices[used], local.reshape(-1, 3).astype(np.int32), self.triangle_part[rows],
            None if self.uv is None else self.uv[rows], self.line_ends, self.line_part,
        )  # fmt: skip

    def moved(self, matrix: NDArray[np.float64]) -> Mesh:
        """The mesh after a 4×4 affine ``matrix``; triangles are turned over where it mirrors."""
        turn, move = matrix[:3, :3], matrix[:3, 3]
        mirrors = np.linalg.det(turn) < 0
        return Mesh(
            np.ascontiguousarray(self.vertices @ turn.T + move),
            np.ascontiguousarray(self.triangles[:, ::-1] if mirrors else self.triangles), self.triangle_part,
            np.ascontiguousarray(self.uv[:, ::-1]) if mirrors and self.uv is not None else self.uv,
            self.line_ends @ turn.T + move, self.line_part,
        )  # fmt: skip


def _hashed(data: bytes | memoryview) -> int:
    return int.from_bytes(hashlib.blake2b(data, digest_size=8).digest(), "little")
