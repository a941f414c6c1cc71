"""Which way stairs go up."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.forms import setting
from warmgraphite.geometry.tolerances import NO_LENGTH, ROUNDING
from warmgraphite.geometry.triangles import normals
from warmgraphite.model.model import Model
from warmgraphite.notes.curves import arrow_head
from warmgraphite.notes.note import Drawn, Note
from warmgraphite.notes.setting import Setting
from warmgraphite.notes.written import Area, Line

__all__ = ["StairArrows", "treads_of"]

#: Square metres below which a triangle says nothing of a tread.
SLIVER = 1e-5

#: What stairs are called, in layers and names.
NAMES = ("*stair*", "*Stair*", "*STAIR*", "*Steps*", "*steps*", "*Treppe*", "*escalier*")
#: Metres that one tread rises above the one before, at least and at most; and how many make a stair.
LOW, HIGH, LEAST = 0.08, 0.35, 3


class StairArrows(Note):
    """An arrow up each stair, from its first tread to its last, with the number of risers.
    A stair is told by its treads: level faces one above another.
    """

    label: ClassVar[str] = "Stair arrows"
    sign: ClassVar[str] = "M3 4V12M7 4V12M11 4V12M3 8H16M16 8L13 6M16 8L13 10"
    rank: ClassVar[int] = 0

    kind: Literal["stair-arrows"] = "stair-arrows"
    risers: bool = setting(True, "With the number of risers")
    parts: tuple[str, ...] = Field(default=(), max_length=100, json_schema_extra={"hidden": True})

    def draw(self, there: Setting) -> Drawn:
        out = Drawn()
        if not there.looks_down:
            out.told = "Stair arrows stand in plans."
            return out
        model = there.model.bare or there.model
        cut = next((c for c in there.view.cuts if c.role == "cut" and c.normal[2] > 0.99), None)
        colour, size = there.colour(self.theme), there.capitals(self.size)
        for line in treads_of(model, self.parts or NAMES):
            shown = line[line[:, 2] <= cut.point[2] + 0.4] if cut is not None else line
            if len(shown) < 2:
                continue
            places = there.at(shown)
            if not np.isfinite(places).all():
                continue
            keep = [
                0,
                *[k for k in range(1, len(places) - 1) if _bends(places[k - 1], places[k], places[k + 1])],
                len(places) - 1,
            ]
            path = places[keep]
            out.marks.append(Line(path, there.stroke(colour)))
            out.marks.append(arrow_head(path[-1], path[-1] - path[-2], 1.5 * size, colour))
            turn = np.linspace(0, 2 * np.pi, 17)
            out.marks.append(Area([path[0] + 0.28 * size * np.column_stack([np.cos(turn), np.sin(turn)])], colour))
            if self.risers:
                way = path[1] - path[0]
                tread = float(np.linalg.norm(places[1] - places[0]))
                at = path[0] - way / max(float(np.linalg.norm(way)), ROUNDING) * (size * 1.2 + tread / 2)
                text = there.block(f"{len(line)}", self.size)
                out.marks += text.at(float(at[0]), float(at[1]) - text.capitals / 2, colour, "middle")
                out.boxes.append(text.box(float(at[0]), float(at[1]) - text.capitals / 2, "middle"))
        if not out.marks:
            out.told = "No stair is known here: parts whose name or layer says stair, or steps, and that have treads."
        return out


def _bends(a: NDArray[np.float64], b: NDArray[np.float64], c: NDArray[np.float64]) -> bool:
    p, q = b - a, c - b
    return abs(p[0] * q[1] - p[1] * q[0]) > 0.05 * max(float(np.linalg.norm(p) * np.linalg.norm(q)), NO_LENGTH)


def treads_of(model: Model, patterns: tuple[str, ...]) -> list[NDArray[np.float64]]:
    """Of each stair the middles (N, 3) of its treads, from the lowest up."""
    chosen = model.parts.selected(patterns) & model.parts.present
    rows = np.flatnonzero(chosen[model.triangle_part])
    corners = model.vertices[model.triangles[rows]]
    normal = normals(corners) / 2
    up = normal[:, 2] > 0.999 * np.linalg.norm(normal, axis=1)
    corners, area = corners[up], normal[up, 2]
    good = area > SLIVER
    corners, area, owner = corners[good], area[good], model.triangle_part[rows][up][good]
    # Treads may be one part each, or all in one: those of one layer belong together.
    layers = np.array([model.parts[p].layer for p in owner.tolist()])
    out: list[NDArray[np.float64]] = []
    for layer in dict.fromkeys(layers.tolist()):
        mine = layers == layer
        height = np.round(corners[mine].mean(1)[:, 2] / 0.02).astype(int)
        at = np.unique(height, return_inverse=True)[1]
        size = np.bincount(at, area[mine])
        middle = np.column_stack([np.bincount(at, corners[mine].mean(1)[:, k] * area[mine]) / size for k in range(3)])
        real = size >= 0.08
        middle, size = middle[real], size[real]
        if len(size) < LEAST:
            continue
        usual = float(np.median(size))
        run: list[NDArray[np.float64]] = []
        for point in middle:
            if run and not LOW <= point[2] - run[-1][2] <= HIGH:
                if len(run) >= LEAST:
                    out.append(np.array(run))
                run = []
            run.append(point)
        if len(run) >= LEAST and usual > 0:
            out.append(np.array(run))
    return out
