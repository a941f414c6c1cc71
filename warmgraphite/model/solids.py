"""Solids and surfaces made of numbers: arrays in metres, outward winding."""

from __future__ import annotations

import manifold3d
import mapbox_earcut
import numpy as np
from numpy.typing import NDArray

from warmgraphite.geometry.ragged import firsts_of
from warmgraphite.geometry.tolerances import FINEST, NEAR, ROUNDING

Mesh = tuple[NDArray[np.float64], NDArray[np.int32]]

__all__ = [
    "Mesh", "bar", "box", "disc", "flipped", "joined", "lathe", "limb", "limb_rings", "loft", "moved", "pane", "panel",
    "prism", "rotation", "sheet", "stretched",
    "subtracted", "trimmed", "tube", "turned", "united",
]  # fmt: skip


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
    lid = (
        mapbox_earcut.triangulate_float64(np.ascontiguousarray(flat), np.array([n], np.uint32))
        .reshape(-1, 3)
        .astype(int)
    )
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
    aside = np.array([1.0, 0, 0]) if np.linalg.norm(aside) < NEAR else aside / np.linalg.norm(aside)
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
    offsets = firsts_of([m[0] for m in meshes])
    return (
        np.concatenate([m[0] for m in meshes]),
        np.concatenate([m[1] + o for m, o in zip(meshes, offsets, strict=False)]).astype(np.int32),
    )


def subtracted(mesh: Mesh, *holes: Mesh) -> Mesh:
    """A closed body less other closed bodies."""
    import trimesh  # it takes a second, and few processes cut one body out of another

    body = trimesh.Trimesh(*mesh, process=True)
    cut = trimesh.boolean.difference([body, *(trimesh.Trimesh(*h, process=True) for h in holes)], engine="manifold")
    return np.array(cut.vertices, float), np.array(cut.faces, np.int32)


def turned(mesh: Mesh, degrees: float, axis: str = "z") -> Mesh:
    """A mesh turned counter-clockwise about an axis through the origin."""
    return mesh[0] @ rotation(degrees, axis).T, mesh[1]


def rotation(degrees: float, axis: str = "z") -> NDArray[np.float64]:
    """(3, 3) the turn by ``degrees``, counter-clockwise as one looks against the axis."""
    c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
    rows = {
        "x": [[1, 0, 0], [0, c, -s], [0, s, c]],
        "y": [[c, 0, s], [0, 1, 0], [-s, 0, c]],
        "z": [[c, -s, 0], [s, c, 0], [0, 0, 1]],
    }
    return np.array(rows[axis])


def stretched(mesh: Mesh, by: tuple[float, float, float]) -> Mesh:
    """A mesh stretched along the axes from the origin; turned over where that mirrors it."""
    faces = mesh[1][:, ::-1] if np.prod(by) < 0 else mesh[1]
    return mesh[0] * np.array(by), np.ascontiguousarray(faces)


def flipped(mesh: Mesh) -> Mesh:
    """A mesh that faces the other way."""
    return mesh[0], np.ascontiguousarray(mesh[1][:, ::-1])


def loft(rings: NDArray[np.float64], ends: tuple[bool, bool] = (True, True)) -> Mesh:
    """A skin over rings (R, S, 3) of points, one after another, shut at its ``ends``.
    It faces outward whichever way they run.
    """
    count, around = rings.shape[:2]
    points = rings.reshape(-1, 3)
    i = np.arange(around)
    j = (i + 1) % around
    rows = [np.array([k * around + i, k * around + j, (k + 1) * around + j]).T for k in range(count - 1)]
    rows += [np.array([k * around + i, (k + 1) * around + j, (k + 1) * around + i]).T for k in range(count - 1)]
    middles: list[NDArray[np.float64]] = []
    for end, shut in zip((0, count - 1), ends, strict=True):
        if shut:
            middle = len(points) + len(middles)
            middles.append(rings[end].mean(0))
            fan = np.array([np.full(around, middle), end * around + j, end * around + i]).T
            rows.append(fan if end == 0 else fan[:, ::-1])
    found = np.concatenate([points, *(m[None] for m in middles)]) if middles else points
    faces = np.concatenate(rows).astype(np.int32)
    a, b, c = (found[faces[:, k]] - found.mean(0) for k in range(3))
    inward = float(np.einsum("ij,ij->", a, np.cross(b, c))) < 0
    return found, np.ascontiguousarray(faces[:, ::-1]) if inward else faces


def limb(
    path: NDArray[np.float64], wide: NDArray[np.float64], deep: NDArray[np.float64], side: NDArray[np.float64],
    around: int = 10,
    square: float = 2.0, ends: tuple[bool, bool] = (True, True),
) -> Mesh:  # fmt: skip
    """A skin along a path (N, 3).
    Half as ``wide`` (N,) towards ``side`` and half as ``deep`` (N,) across it, in metres. Where the path bends, its
    rings stand in the bend; ``square`` is 2 for ellipses and more for fuller sections.
    """
    return loft(limb_rings(path, wide, deep, side, around, square), ends)


def limb_rings(
    path: NDArray[np.float64], wide: NDArray[np.float64], deep: NDArray[np.float64], side: NDArray[np.float64],
    around: int = 10,
    square: float = 2.0,
) -> NDArray[np.float64]:  # fmt: skip
    """The rings of :func:`limb`."""
    steps = np.diff(path, axis=0)
    steps /= np.maximum(np.linalg.norm(steps, axis=1, keepdims=True), ROUNDING)
    along = np.concatenate([steps[:1], steps[:-1] + steps[1:], steps[-1:]])
    along /= np.maximum(np.linalg.norm(along, axis=1, keepdims=True), ROUNDING)
    across = (
        side - (along @ side)[:, None] * along
        if side.ndim == 1
        else side - (along * side).sum(1, keepdims=True) * along
    )
    short = np.linalg.norm(across, axis=1) < FINEST
    across[short] = np.cross(along[short], [0.0, 0.0, 1.0]) + NEAR
    across /= np.linalg.norm(across, axis=1, keepdims=True)
    up = np.cross(along, across)
    angle = 2 * np.pi * np.arange(around) / around
    c, s = np.cos(angle), np.sin(angle)
    c, s = np.sign(c) * np.abs(c) ** (2 / square), np.sign(s) * np.abs(s) ** (2 / square)
    return np.asarray(
        path[:, None] + (wide[:, None] * c)[..., None] * across[:, None] + (deep[:, None] * s)[..., None] * up[:, None],
        float,
    )


def disc(centre: tuple[float, float, float], radius: float, thick: float, axis: str = "z", around: int = 24) -> Mesh:
    """A round plate, ``thick`` along its axis."""
    flat = lathe([(0, -thick / 2), (radius, -thick / 2), (radius, thick / 2), (0, thick / 2)], around)
    return moved(flat if axis == "z" else turned(flat, 90, "y" if axis == "x" else "x"), centre)


def sheet(outline: list[tuple[float, float]], thick: float, axis: str = "x") -> Mesh:
    """An outline, as :func:`prism` has it, made ``thick`` about the plane of the other two axes."""
    return prism(outline, axis, -thick / 2, thick / 2)


def _solid(mesh: Mesh) -> manifold3d.Manifold:
    return manifold3d.Manifold(
        manifold3d.Mesh(np.ascontiguousarray(mesh[0], np.float32), np.ascontiguousarray(mesh[1], np.uint32))
    )


def _mesh_of(solid: manifold3d.Manifold) -> Mesh:
    found = solid.to_mesh()
    return np.asarray(found.vert_properties[:, :3], float), np.asarray(found.tri_verts, np.int32)


def united(*meshes: Mesh) -> Mesh:
    """Closed bodies as one: nothing of one is left inside another. What cannot be united is put side by side."""
    solids = [_solid(m) for m in meshes]
    if any(s.status() != manifold3d.Error.NoError or s.is_empty() for s in solids):
        return joined(*meshes)
    found = manifold3d.Manifold.batch_boolean(solids, manifold3d.OpType.Add)
    return joined(*meshes) if found.is_empty() else _mesh_of(found)


def trimmed(mesh: Mesh, normal: tuple[float, float, float], offset: float) -> Mesh:
    """What of a closed body lies where ``normal`` · point is ``offset`` or more, shut where it was cut."""
    solid = _solid(mesh)
    return mesh if solid.status() != manifold3d.Error.NoError else _mesh_of(solid.trim_by_plane(normal, offset))
