"""Models written by script: a house as IFC, a town of blocks as GLB. Made up, and of any size that is asked for."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np

from demo.ifc import Ifc
from warmgraphite.model import Material, Model, Part, build_model

__all__ = ["Ifc", "block_model", "box_model", "box_rows", "write_ifc_house"]


def _turned(profile: list[tuple[float, float]], sides: int) -> tuple[np.ndarray, np.ndarray]:
    """A closed body of revolution about Z from (radius, height) pairs that begin and end on the axis."""
    angle = np.arange(sides) * 2 * np.pi / sides
    inner = profile[1:-1]
    rings = [np.column_stack([r * np.cos(angle), r * np.sin(angle), np.full(sides, z)]) for r, z in inner]
    points = np.concatenate([*rings, [[0, 0, profile[0][1]]], [[0, 0, profile[-1][1]]]])
    this, following = np.arange(sides), (np.arange(sides) + 1) % sides
    faces = []
    for ring in range(len(inner) - 1):
        a, b = this + ring * sides, following + ring * sides
        faces += [np.column_stack([a, b, b + sides]), np.column_stack([a, b + sides, a + sides])]
    faces += [np.column_stack([following, this, np.full(sides, len(points) - 2)])]
    top = (len(inner) - 1) * sides
    faces += [np.column_stack([this + top, following + top, np.full(sides, len(points) - 1)])]
    return points, np.concatenate(faces)


def write_ifc_house(path: Path, storeys: int = 3, bays: int = 8, sides: int = 28, schema: str = "IFC4",
    prefix: str | None = None,
                    origin: tuple[float, float, float] = (0, 0, 0), ids: dict[str, str] | None = None,
                    leave_out: tuple[str, ...] = (), moved: dict[str, tuple[float, float, float]] | None = None,
                    gap: float = 0.0) -> None:  # fmt: skip
    """A row house: walls with windows, slabs, columns, stools and lamps, a roof, a site, rooms.
    3 × 8 bays have about 40,000 triangles.

    ``ids`` keeps global ids by product name from one writing to the next; ``leave_out`` and ``moved`` (metres) make a
    newer version.
    """
    ifc = Ifc(schema, prefix, origin)
    known = ids if ids is not None else {}
    brick, plaster, glass, oak, steel = (
        ifc.style("Brick", "#b2705a"), ifc.style("Plaster", "#e8e2d6"), ifc.style("Glass", "#bcd3d4", 0.25),
        ifc.style("Oak", "#b08a5a"), ifc.style("Steel", "#8d9399"),
    )  # fmt: skip
    width, depth, height, bay = bays * 3.0, 7.0, 2.9, 3.0
    stool = _turned(
        [(0, 0), (0.2, 0), (0.2, 0.04), (0.05, 0.06), (0.05, 0.38), (0.19, 0.4), (0.21, 0.43), (0.2, 0.46), (0, 0.46)],
        sides,
    )
    lamp = _turned(
        [(0, 2.1), (0.02, 2.1), (0.16, 2.16), (0.2, 2.26), (0.14, 2.36), (0.02, 2.4), (0.01, 2.6), (0, 2.6)], sides
    )

    def add(kind: str, name: str, storey: Any, items: list[Any], at: tuple[float, float, float] = (0, 0, 0)) -> Any:
        if name in leave_out:
            return None
        shift = (moved or {}).get(name, (0, 0, 0))
        at = (at[0] + shift[0], at[1] + shift[1], at[2] + shift[2])
        found = ifc.product(kind, name, storey, items, at)
        if name in known:
            found.GlobalId = known[name]
        known[name] = found.GlobalId
        return found

    ground = ifc.storey("Ground floor", 0.0)
    levels = [ground, *(ifc.storey(f"Floor {i}", i * height) for i in range(1, storeys))]
    for number, storey in enumerate(levels):
        where = f"{number}"
        add(
            "IfcSlab", f"Slab {where}", storey, [ifc.block((-0.2, -0.2, -0.25), (width + 0.2, depth + 0.2, 0), plaster)]
        )
        for side, y in (("south", 0.0), ("north", depth)):
            wall = add(
                "IfcWall",
                f"Wall {side} {where}",
                storey,
                [ifc.block((0, y - 0.18, 0), (width, y + 0.18, height - 0.25), brick)],
            )
            for k in range(bays):
                low, high = k * bay + 0.8, k * bay + 2.2
                if wall is not None:
                    ifc.void(wall, storey, (low, y - 0.4, 0.9), (high, y + 0.4, 2.2))
                frame = [
                    ifc.block((low, y - 0.05, 0.9), (low + 0.06, y + 0.05, 2.2), oak),
                    ifc.block((high - 0.06, y - 0.05, 0.9), (high, y + 0.05, 2.2), oak),
                    ifc.block((low, y - 0.05, 0.9), (high, y + 0.05, 0.96), oak),
                    ifc.block((low, y - 0.05, 2.14), (high, y + 0.05, 2.2), oak),
                    ifc.block((low + 0.06, y - 0.01, 0.96), (high - 0.06, y + 0.01, 2.14), glass),
                ]  # fmt: skip
                add("IfcWindow", f"Window {side} {where}.{k}", storey, frame)
        for side, x in (("west", 0.0), ("east", width)):
            add(
                "IfcWall",
                f"Wall {side} {where}",
                storey,
                [ifc.block((x - 0.18, 0.18, 0), (x + 0.18, depth - 0.18, height - 0.25), brick)],
            )
        for k in range(bays):
            if k:
                add(
                    "IfcColumn",
                    f"Column {where}.{k}",
                    storey,
                    [
                        ifc.block(
                            (k * bay - 0.1, depth / 2 - 0.1, 0), (k * bay + 0.1, depth / 2 + 0.1, height - 0.25), steel
                        )
                    ],
                )
            room = ifc.product(
                "IfcSpace",
                f"{number}{k + 1:02d}",
                storey,
                [ifc.block((k * bay + 0.2, 0.2, 0), (k * bay + 2.8, depth - 0.2, 2.6))],
            )
            room.LongName = ("Throwing room", "Glaze store", "Office", "Drying room")[k % 4]
            for n, (x, y) in enumerate(((0.8, 1.6), (1.5, 1.6), (2.2, 1.6))):
                add(
                    "IfcFurnishingElement",
                    f"Stool {where}.{k}.{n}",
                    storey,
                    [ifc.faces(*stool, oak)],
                    (k * bay + x, y, 0),
                )
            add(
                "IfcLightFixture" if schema == "IFC4" else "IfcFlowTerminal",
                f"Lamp {where}.{k}",
                storey,
                [ifc.faces(*lamp, steel)],
                (k * bay + 1.5, 3.2, 0),
            )
    add(
        "IfcCovering",
        "Roof covering",
        levels[-1],
        [ifc.block((-0.3, -0.3, height - 0.25), (width + 0.3, depth + 0.3, height), steel)],
    )
    xs, ys = np.meshgrid(np.linspace(-20, width + 20, 41), np.linspace(-20, depth + 20, 31), indexing="ij")
    away = np.hypot(
        np.maximum(np.maximum(-1 - xs, xs - width - 1), 0), np.maximum(np.maximum(-1 - ys, ys - depth - 1), 0)
    )
    land = np.column_stack([xs.ravel(), ys.ravel(), (-0.3 - 0.08 * away * (1 + 0.2 * np.sin(xs / 5))).ravel()])
    i, j = np.meshgrid(np.arange(40), np.arange(30), indexing="ij")
    a = (i * 31 + j).ravel()
    mesh = np.concatenate([np.column_stack([a, a + 31, a + 32]), np.column_stack([a, a + 32, a + 1])])
    site = ifc.product(
        "IfcBuildingElementProxy", "Terrain", ground, [ifc.faces(land, mesh, ifc.style("Grass", "#8f9a6a"))]
    )
    site.ObjectType = "Site"
    add("IfcBuildingElementProxy", "Neighbour's barn", ground, [ifc.block((-14, 0, -1.5), (-8, depth, 5), plaster)])
    if gap:  # a garden wall whose back stands off by that much
        x, y, z = np.meshgrid((1.0, 7.0), (-5.0, -4.7), (-0.6, 1.6), indexing="ij")
        shell = np.column_stack([x.ravel(), y.ravel(), z.ravel()])
        sides_of = np.array(
            [
                [0, 4, 5],
                [0, 5, 1],
                [0, 1, 3],
                [0, 3, 2],
                [4, 6, 7],
                [4, 7, 5],
                [1, 5, 7],
                [1, 7, 3],
                [0, 2, 6],
                [0, 6, 4],
            ]
        )
        back = shell[[2, 3, 7, 6]] + np.array([0, gap, 0])
        points = np.concatenate([shell, back])
        body = ifc.faces(points, np.concatenate([sides_of, [[8, 9, 10], [8, 10, 11]]]), brick)
        add("IfcWall", "Garden wall", ground, [body])
    ifc.write(path)


def block_model(triangles: int = 500_000, seed: int = 1) -> Model:
    """A town of boxes and round towers, a part each, with about so many triangles."""
    import trimesh

    rng = np.random.default_rng(seed)
    bodies = [trimesh.creation.box(), trimesh.creation.cylinder(radius=0.5, height=1, sections=24)]
    tones = [Material(f"Render {i}", f"#{200 - 6 * i:02x}{190 - 5 * i:02x}{176 - 4 * i:02x}") for i in range(12)]
    rows, count, i = [], 0, 0
    while count < triangles:
        body = bodies[i % 3 == 0]
        scale = rng.uniform([6, 6, 4], [13, 13, 22])
        at = np.array([i % 100 * 16.0, i // 100 * 16.0, scale[2] / 2])
        rows.append(
            (
                Part(f"House {i}", f"Block {i // 100}", i % 12),
                body.vertices * scale + at,
                np.asarray(body.faces, np.int32),
            )
        )
        count += len(body.faces)
        i += 1
    return build_model("Town", rows, tones)


def box_rows(count: int, seed: int = 1) -> list[tuple[np.ndarray, np.ndarray]]:
    """Low and high corners of so many boxes in a square of blocks."""
    rng = np.random.default_rng(seed)
    side = int(np.ceil(np.sqrt(count)))
    rows = []
    for i in range(count):
        size = rng.uniform([6, 6, 4], [13, 13, 22])
        low = np.array([i % side * 16.0 - size[0] / 2, i // side * 16.0 - size[1] / 2, 0.0])
        rows.append((low, low + size))
    return rows


def box_model(count: int) -> Model:
    """Those boxes as a model of twelve triangles each."""
    import trimesh

    body = trimesh.creation.box(bounds=[[0, 0, 0], [1, 1, 1]])
    faces = np.asarray(body.faces, np.int32)
    rows = [
        (Part(f"Box {i}", f"Block {i // 100}", i % 12), low + body.vertices * (high - low), faces)
        for i, (low, high) in enumerate(box_rows(count))
    ]
    return build_model("Boxes", rows, [Material(f"Render {i}", f"#{200 - 6 * i:02x}b0a0") for i in range(12)])
