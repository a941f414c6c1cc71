"""Models of different character to judge the engine on. Each is made here, none by the product."""

from __future__ import annotations

from functools import cache

import numpy as np
import trimesh

from tests.conftest import GLASS, STONE, WOOD, box, model_of
from warmgraphite.drawing import PASSES
from warmgraphite.model import Material, Model, Part, build_model

#: Every pass that a drawing has without being asked what of it is meant.
PLAIN = tuple(name for name, record in PASSES.items() if not (record.of_where or record.tool))

__all__ = ["FAR", "pavilion", "rotunda", "terrain", "town", "tubes"]

#: Metres from the origin at which a survey may place a building.
FAR = (420_000.0, -170_000.0, 350.0)


@cache
def town(blocks: int = 500, seed: int = 4) -> Model:
    """Boxes at any angle that touch, stand on, run into and lie flush with each other, on a floor."""
    rng = np.random.default_rng(seed)
    rows = [("Floor", box((-4, -4, -1), (64, 64, 0)), 0)]
    for i in range(blocks):
        size, at = rng.uniform([1, 1, 1], [6, 6, 9]), rng.uniform(0, 60, 2)
        if i % 2 == 0:  # these often lie flush; where unlike ones did, nobody could say which of them is seen
            size, at = np.round(size, 1), np.round(at, 1)
        body = box((0, 0, 0), tuple(size))
        if i % 3 == 0:
            body.apply_transform(trimesh.transformations.rotation_matrix(rng.uniform(0, np.pi), [0, 0, 1]))
        body.apply_translation([*at, 0.0])
        rows.append((f"Block {i}", body, i % 2 * 2))
    return model_of(*rows, name="Town")


@cache
def tubes() -> Model:
    """Bent and straight tubes, balls and a turned vase that run through each other: nothing is flat."""
    ring = trimesh.creation.torus(2.0, 0.7, major_sections=96, minor_sections=48)
    upright = ring.copy()
    upright.apply_transform(trimesh.transformations.rotation_matrix(np.pi / 2, [1, 0, 0]))
    upright.apply_translation([2.0, 0.3, 0])
    ball = trimesh.creation.icosphere(subdivisions=4, radius=1.1)
    ball.apply_translation([-2, -1.2, 0.6])
    height = np.linspace(0, 5, 60)
    profile = np.column_stack([np.r_[0, 0.8 + 0.4 * np.sin(height * 2), 0], np.r_[0, height, 5]])
    vase = trimesh.creation.revolve(profile, sections=64)
    vase.apply_translation([6, 0, -1])
    rod = trimesh.creation.cylinder(0.4, 14, sections=40)
    rod.apply_transform(trimesh.transformations.rotation_matrix(np.pi / 2, [0.1, 1, 0.2]))
    rod.apply_translation([2, 0.2, 0.8])
    return model_of(
        ("Ring", ring, 0),
        ("Upright ring", upright, 2),
        ("Ball", ball, 2),
        ("Vase", vase, 0),
        ("Rod", rod, 0),
        name="Tubes",
    )


@cache
def pavilion() -> Model:
    """A pavilion of single sheets, some given twice, some the wrong way round, one closed body inside out.
    Nobody cleaned it.
    """

    def sheet(*corners: tuple[float, float, float]) -> trimesh.Trimesh:
        return trimesh.Trimesh(corners, [[0, 1, 2], [0, 2, 3]], process=False)

    doubled = sheet((0, 0, 0), (10, 0, 0), (10, 0, 3), (0, 0, 3))
    doubled = trimesh.Trimesh(doubled.vertices, np.concatenate([doubled.faces, doubled.faces[:, ::-1]]), process=False)
    inside_out = box((4, 3, 0), (5, 4, 2.2))
    inside_out.invert()
    shell = box((7, 4, 0), (9, 5.5, 1.2))
    shell = trimesh.Trimesh(shell.vertices, shell.faces[:-2], process=False)
    roof = sheet((-1, -1, 3.2), (11, -1, 3.2), (11, 3.5, 5), (-1, 3.5, 5))
    rows = [
        ("Floor", sheet((-2, -2, 0), (12, -2, 0), (12, 9, 0), (-2, 9, 0)), 0),
        ("Front", doubled, 0),
        ("Side", sheet((0, 0, 0), (0, 0, 3), (0, 7, 3), (0, 7, 0)), 0),
        ("Back, cut short", sheet((0, 7, 0), (0, 7, 3), (6, 7, 3), (6, 7, 0)), 2),
        ("Roof", roof, 2),
        ("Roof, other half", sheet((-1, 3.5, 5), (11, 3.5, 5), (11, 8, 3.2), (-1, 8, 3.2)), 2),
        ("Chest, inside out", inside_out, 2),
        ("Box without a lid", shell, 0),
        ("Pane", sheet((10, 0, 0), (10, 7, 0), (10, 7, 3), (10, 0, 3)), 1),
        ("Needle", trimesh.Trimesh([[3, 1, 0], [3, 1.006, 0], [8, 6, 2.8]], [[0, 1, 2]], process=False), 2),
    ]
    posts = [
        (f"Post {i}", trimesh.creation.cylinder(0.12, 3.6, sections=20,
            transform=trimesh.transformations.translation_matrix([2.5 * i, -0.6, 1.8])), 2)
        for i in range(5)
    ]  # fmt: skip
    return model_of(*rows, *posts, name="Pavilion")


@cache
def terrain(side: int = 48) -> Model:
    """Rolling open ground of one sheet with a path, houses half sunk into it and poles standing in it."""
    x, y = np.meshgrid(np.linspace(0, 60, side), np.linspace(0, 60, side))
    z = 3 * np.sin(x / 9) * np.cos(y / 11) + 0.04 * x
    points = np.column_stack([x.ravel(), y.ravel(), z.ravel()])
    at = np.arange(side * side).reshape(side, side)
    a, b, c, d = (k.ravel() for k in (at[:-1, :-1], at[:-1, 1:], at[1:, 1:], at[1:, :-1]))
    faces = np.concatenate([np.column_stack([a, b, c]), np.column_stack([a, c, d])])
    path = ((points[faces, 0] - points[faces, 1]).mean(1) > -2) & ((points[faces, 0] - points[faces, 1]).mean(1) < 3)
    rows = [
        (Part("Meadow", "Site", 0, "ground"), points, faces[~path]),
        (Part("Path", "Site", 1, "ground"), points, faces[path]),
    ]
    rng = np.random.default_rng(2)
    for i in range(12):
        place, size = rng.uniform(6, 54, 2), rng.uniform([3, 3, 5], [7, 7, 8])
        body = box((0, 0, 0), tuple(size))
        body.apply_transform(trimesh.transformations.rotation_matrix(rng.uniform(0, 3), [0, 0, 1]))
        ground = 3 * np.sin(place[0] / 9) * np.cos(place[1] / 11) + 0.04 * place[0]
        body.apply_translation([*place, ground - 2.5])
        rows.append((Part(f"House {i}", "Houses", 2, "structure"), np.array(body.vertices), np.array(body.faces)))
    for i in range(20):
        pole = trimesh.creation.cylinder(0.15, 7, sections=16)
        pole.apply_translation([*rng.uniform(2, 58, 2), 3])
        rows.append((Part(f"Pole {i}", "Poles", 2, "structure"), np.array(pole.vertices), np.array(pole.faces)))
    return build_model(
        "Terrain", rows, [Material("Grass", "#a8b080"), Material("Gravel", "#c8c0b0"), STONE, WOOD, GLASS]
    )


@cache
def rotunda() -> Model:
    """A ring of walls that run into each other, every other one inside out, under an open dome, far from the origin.
    Within, a winding stair round a pole; its floor is given twice.
    """

    def turned(body: trimesh.Trimesh, angle: float) -> trimesh.Trimesh:
        body.apply_transform(trimesh.transformations.rotation_matrix(angle, [0, 0, 1]))
        return body

    rows = [(f"Floor {k}", box((-9, -9, -0.3), (9, 9, 0)), 0) for k in range(2)]
    for k in range(24):
        wall = turned(box((6.85, -1.05, 0), (7.15, 1.05, 3.2)), np.pi * k / 12)
        if k % 2:
            wall.invert()
        rows.append((f"Wall {k}", wall, 1 if k == 18 else 0))
    turn, rise = np.meshgrid(np.linspace(0, 2 * np.pi, 64, endpoint=False), np.linspace(0, 1.45, 15))
    dome = np.stack([7.3 * np.cos(rise) * np.cos(turn), 7.3 * np.cos(rise) * np.sin(turn), 3.2 + 4 * np.sin(rise)], -1)
    at = np.arange(dome.size // 3).reshape(turn.shape)
    a, b = at[:-1], np.roll(at, -1, 1)[:-1]
    c, d = np.roll(at, -1, 1)[1:], at[1:]
    faces = np.concatenate([np.stack(t, -1).reshape(-1, 3) for t in ((a, b, c), (a, c, d))])
    rows.append(("Dome", trimesh.Trimesh(dome.reshape(-1, 3), faces, process=False), 2))
    rows += [
        (f"Step {k}", turned(box((0.2, -0.2, 0.16 * k), (1.6, 0.25, 0.16 * k + 0.2)), np.pi * k / 10), 2)
        for k in range(20)
    ]
    pole = trimesh.creation.cylinder(0.25, 6.8, sections=24)
    pole.apply_translation([0, 0, 3.4])
    rows.append(("Pole", pole, 0))
    for _, body, _ in rows:
        body.apply_translation(FAR)
    return model_of(*rows, name="Rotunda")
