"""The few solids and surfaces that the sample study is built from: arrays in metres, outward winding."""

from __future__ import annotations

import mapbox_earcut
import numpy as np
import trimesh
from numpy.typing import NDArray

Mesh = tuple[NDArray[np.float64], NDArray[np.int32]]

__all__ = ["Mesh", "bar", "blob", "box", "joined", "lathe", "moved", "pane", "panel", "prism", "subtracted", "tube"]


def box(low: tuple[float, float, float], high: tuple[float, float, float]) -> Mesh:
    """A box from its lowest to its highest corner."""
    (x0, y0, z0), (x1, y1, z1) = low, high
    points = np.array([[x, y, z] for z in (z0, z1) for y in (y0, y1) for x in (x0, x1)], float)
    quads = [(0, 2, 3, 1), (4, 5, 7, 6), (0, 1, 5, 4), (2, 6, 7, 3), (0, 4, 6, 2), (1, 3, 7, 5)]
    return points, np.array([t for a, b, c, d in quads for t in ((a, b, c), (a, c, d))], np.int32)


def prism(outline: list[tuple[float, float]], axis: str, start: float, end: float) -> Mesh:
    """An outline pushed along an axis. For ``x`` it holds (y, z), for ``y`` (x, z), for ``z`` (x, y) pairs."""
    flat = np.array(outline, float)
    turn = np.cross(flat - flat[0], np.roll(flat, -1, 0) - flat[0]).sum()
    if turn < 0:
        flat = flat[::-1]
    n = len(flat)
    low = np.column_stack([flat, np.full(n, start)])
    high = np.column_stack([flat, np.full(n, end)])
    points = np.concatenate([low, high])
    lid = mapbox_earcut.triangulate_float64(np.ascontiguousarray(flat), np.array([n], np.uint32)).reshape(-1, 3).astype(int)
    a, b, c = flat[lid[:, 0]], flat[lid[:, 1]], flat[lid[:, 2]]
    lid[np.cross(b - a, c - a) < 0] = lid[np.cross(b - a, c - a) < 0][:, ::-1]
    i = np.arange(n)
    j = (i + 1) % n
    sides = np.concatenate([np.column_stack([i, j, j + n]), np.column_stack([i, j + n, i + n])])
    faces = np.concatenate([lid[:, ::-1], lid + n, sides]).astype(np.int32)
    order = {"z": [0, 1, 2], "x": [2, 0, 1], "y": [0, 2, 1]}[axis]
    return points[:, order], faces[:, ::-1] if axis == "y" else faces


def bar(a: tuple[float, float, float], b: tuple[float, float, float], width: float, height: float) -> Mesh:
    """A squared timber from a to b, ``width`` level across and ``height`` in its upright plane."""
    a_, b_ = np.array(a, float), np.array(b, float)
    along = (b_ - a_) / np.linalg.norm(b_ - a_)
    aside = np.cross(along, [0, 0, 1.0])
    aside = np.array([1.0, 0, 0]) if np.linalg.norm(aside) < 1e-6 else aside / np.linalg.norm(aside)
    above = np.cross(aside, along)
    points, faces = box((0, -width / 2, -height / 2), (float(np.linalg.norm(b_ - a_)), width / 2, height / 2))
    # along, −aside, above keeps the hand of the axes.
    return a_ + points @ np.stack([along, -aside, above]), faces


def lathe(profile: list[tuple[float, float]], segments: int = 24) -> Mesh:
    """A profile of (radius, z) turned about the upright axis; ends on the axis close the body."""
    angles = np.linspace(0, 2 * np.pi, segments, endpoint=False)
    points = [np.column_stack([r * np.cos(angles), r * np.sin(angles), np.full(segments, z)]) for r, z in profile]
    i = np.arange(segments)
    j = (i + 1) % segments
    faces = []
    for k in range(len(profile) - 1):
        low, high = k * segments, (k + 1) * segments
        if profile[k][0] > 0:
            faces.append(np.column_stack([low + i, low + j, high + j]))
        if profile[k + 1][0] > 0:
            faces.append(np.column_stack([low + i, high + j, high + i]))
    return np.concatenate(points), np.concatenate(faces).astype(np.int32)


def tube(centre: tuple[float, float], outer: float, inner: float, z0: float, z1: float, segments: int = 48) -> Mesh:
    """An upright pipe; ``inner`` 0 makes it a solid round post."""
    if inner <= 0:
        return moved(lathe([(0, z0), (outer, z0), (outer, z1), (0, z1)], segments), (*centre, 0))
    return moved(lathe([(inner, z0), (outer, z0), (outer, z1), (inner, z1), (inner, z0)], segments), (*centre, 0))


def blob(centre: tuple[float, float, float], radii: tuple[float, float, float], seed: int) -> Mesh:
    """A crown of leaves: a sphere pulled about a little."""
    sphere = trimesh.creation.icosphere(subdivisions=3)
    rng = np.random.default_rng(seed)
    bumps = rng.normal(size=(6, 3))
    points = np.array(sphere.vertices)
    swell = 1 + 0.10 * np.sin(points @ bumps.T * 2.4 + rng.uniform(0, 6, 6)).mean(1) * 2
    return points * swell[:, None] * np.array(radii) + np.array(centre), np.array(sphere.faces, np.int32)


def pane(a: tuple[float, float, float], b: tuple[float, float, float], height: float) -> Mesh:
    """A single upright face above the line from a to b."""
    top = (0, 0, height)
    points = np.array([a, b, np.add(b, top), np.add(a, top)], float)
    return points, np.array([(0, 1, 2), (0, 2, 3)], np.int32)


def panel(corners: list[tuple[float, float, float]]) -> Mesh:
    """A single flat face with four corners."""
    return np.array(corners, float), np.array([(0, 1, 2), (0, 2, 3)], np.int32)


def moved(mesh: Mesh, by: tuple[float, float, float]) -> Mesh:
    return mesh[0] + np.array(by, float), mesh[1]


def joined(*meshes: Mesh) -> Mesh:
    """Several meshes as one part."""
    offsets = np.cumsum([0] + [len(m[0]) for m in meshes])
    return (
        np.concatenate([m[0] for m in meshes]),
        np.concatenate([m[1] + o for m, o in zip(meshes, offsets, strict=False)]).astype(np.int32),
    )


def subtracted(mesh: Mesh, *holes: Mesh) -> Mesh:
    """A closed body less other closed bodies."""
    body = trimesh.Trimesh(*mesh, process=True)
    cut = trimesh.boolean.difference([body, *(trimesh.Trimesh(*h, process=True) for h in holes)], engine="manifold")
    return np.array(cut.vertices, float), np.array(cut.faces, np.int32)
