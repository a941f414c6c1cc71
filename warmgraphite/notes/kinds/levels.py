"""Levels: storeys, the ground and picked heights, each at its height on the paper, in one column."""

from __future__ import annotations

from itertools import pairwise
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.canvas.protocol import Stroke
from warmgraphite.forms import number, setting
from warmgraphite.geometry.tolerances import NEAR, NO_LENGTH
from warmgraphite.geometry.triangles import normals
from warmgraphite.model.landmarks import landmarks_of
from warmgraphite.model.model import Model
from warmgraphite.notes.lettering import measure
from warmgraphite.notes.note import Drawn, Note, Point, by_matrix
from warmgraphite.notes.setting import Setting
from warmgraphite.notes.written import Area, Line, Mark
from warmgraphite.specification import Specification, Words

__all__ = ["Levels", "NamedHeight", "signed"]


class NamedHeight(Specification):
    """A height that was picked, by a point at it, and its name."""

    name: Words = Field(default="", max_length=60)
    at: Point


def signed(metres: float, units: str, digits: int) -> str:
    """A height with its sign, as levels are written."""
    if abs(metres) < 0.5 * 10.0**-digits and units == "m":
        return f"±{0:.{digits}f}"
    sign = "+" if metres > 0 else "−"
    return sign + measure(abs(metres), units, digits)  # type: ignore[arg-type]


class Levels(Note):
    """Levels in a column at one side of the drawing, each with its mark exactly at its height.
    Heights are counted from ``zero``, metres of the model. In a drawing from above there are none.
    """

    label: ClassVar[str] = "Levels"
    sign: ClassVar[str] = "M2 13H18M10 13L6 7H14zM2 4H7"
    rank: ClassVar[int] = 0

    kind: Literal["levels"] = "levels"
    stands: Literal["left", "right", "both"] = setting("right", "Stand at the")
    storeys: bool = setting(True, "Storeys")
    ground: bool = setting(True, "The ground beside it")
    top: bool = setting(True, "The highest point")
    names: bool = setting(True, "With names")
    lines: bool = setting(True, "A thin line to the building")
    zero: float = number(
        0.0, "Zero at", "The height of the model that is ±0.", low=-10_000, high=10_000, unit="m", most=20
    )
    away: float = number(8.0, "Away from the building", low=0, high=300, unit="mm", most=60)
    heights: tuple[NamedHeight, ...] = Field(default=(), max_length=60, json_schema_extra={"hidden": True})

    def rows(self, model: Model, beside: NDArray[np.float64]) -> list[tuple[float, str]]:
        """Heights in metres with their names, the lowest first; ``beside`` (2,) is where the ground is asked for."""
        whole = model.bare or model
        found: list[tuple[float, str]] = [(h.at[2], h.name) for h in self.heights]
        if self.storeys:
            found += [(z, name) for name, z in landmarks_of(whole).levels]
        if self.ground and (z := _ground(whole, beside)) is not None:
            found.append((z, "Ground"))
        if self.top:
            found.append((float(whole.focus[1, 2]), "Top"))
        # What was named first stands for others at its height.
        kept: list[tuple[float, str]] = []
        for z, name in found:
            if all(abs(z - other) > 0.02 for other, _ in kept):
                kept.append((z, name))
        return sorted(kept)

    def draw(self, there: Setting) -> Drawn:
        out = Drawn()
        if not there.shows_heights:
            out.told = "A drawing from above shows no heights; levels stand in sections, elevations and axonometrics."
            return out
        for side in (-1, 1):
            if self.stands in ("both", "left" if side < 0 else "right"):
                self._column(there, side, out)
        return out

    def _column(self, there: Setting, side: int, out: Drawn) -> None:
        base = upright(there, side)
        rows = self.rows(there.model, base[:2])
        points = there.at([(base[0], base[1], z) for z, _ in rows])
        good = np.isfinite(points).all(1) & (points[:, 1] > there.inside[1]) & (points[:, 1] < there.inside[3] + 4)
        rows, points = [r for r, g in zip(rows, good, strict=True) if g], points[good]
        if not rows:
            return
        size, colour, soft = there.capitals(self.size), there.colour(self.theme), there.soft(self.theme)
        texts = []
        for z, name in rows:
            number = signed(z - self.zero, there.lettering.units, there.lettering.digits)
            texts.append(there.block(f"{number}  {name}" if self.names and name else number, self.size))
        wide = max(t.wide for t in texts) + 2.2 * size
        x0, _, x1, _ = there.inside
        edge = points[:, 0].min() - self.away if side < 0 else points[:, 0].max() + self.away
        edge = max(edge, x0 + wide) if side < 0 else min(edge, x1 - wide)
        # Texts that would stand on one another are moved apart; their lines stay where their heights are.
        step = size * 2.1
        want = points[:, 1].copy()
        order = np.argsort(want)
        stand = want.copy()
        for _ in range(40):
            moved = False
            for a, b in pairwise(order.tolist()):
                lack = step - (stand[b] - stand[a])
                if lack > NEAR:
                    stand[a] -= lack / 2
                    stand[b] += lack / 2
                    moved = True
            if not moved:
                break
        for k, text in enumerate(texts):
            y, at = float(points[k, 1]), float(stand[k])
            far = edge + side * wide
            knee = edge + side * 1.6 * size
            out.marks += _sign(edge, y, size, colour, side, full=abs(rows[k][0] - self.zero) < 0.005)
            if self.lines:
                out.marks.append(
                    Line(
                        np.array([(edge - side * 0.4, y), (float(points[k, 0]) + side * 0.8, y)]),
                        there.stroke(soft, 0.7),
                    )
                )
            bend = (
                [(edge, y), (knee, y), (knee + side * 0.6 * size, at), (far, at)]
                if abs(at - y) > NEAR
                else [(edge, y), (far, y)]
            )
            out.marks.append(Line(np.array(bend), there.stroke(colour)))
            left = far if side < 0 else far - text.wide
            top = at - size * 0.55 - size
            out.marks += text.at(left, top, colour)
            out.boxes.append((min(edge, far), top - 0.3, max(edge, far), at + 0.6))

    def moved(self, matrix: NDArray[np.float64]) -> Note:
        rows = tuple(h.model_copy(update={"at": by_matrix(h.at, matrix)}) for h in self.heights)
        zero = by_matrix((0.0, 0.0, self.zero), matrix)[2]
        return self.model_copy(update={"heights": rows, "zero": zero})


def _sign(x: float, y: float, size: float, colour: str, side: int, full: bool) -> list[Mark]:
    """A triangle that stands with its tip on the height; that of ±0 is filled."""
    middle = x + side * 0.9 * size
    ring = np.array(
        [(middle, y), (middle - 0.62 * size, y - 0.95 * size), (middle + 0.62 * size, y - 0.95 * size), (middle, y)]
    )
    return [Area([ring], colour)] if full else [Line(ring, Stroke(0.13, colour))]


def upright(there: Setting, side: int) -> NDArray[np.float64]:
    """(3,) a point of the upright edge of the building from which heights are told.
    In metres; at one side of the drawing it is the outermost on the paper, in the first cutting plane where there is
    one.
    """
    low, high = there.model.focus
    corners = np.array([(x, y, low[2]) for x in (low[0], high[0]) for y in (low[1], high[1])])
    cut = next(
        (c for c in there.view.cuts if c.role == "cut" and abs(c.normal[2]) < 0.02 * float(np.linalg.norm(c.normal))),
        None,
    )
    if cut is not None:
        normal = np.array(cut.normal, float) / np.linalg.norm(cut.normal)
        away = (corners - np.array(cut.point)) @ normal
        corners = corners - away[:, None] * normal
    found = there.at(corners)[:, 0]
    found = np.where(np.isfinite(found), found, -side * np.inf)
    return np.array(corners[int(np.argmin(found) if side < 0 else np.argmax(found))])


def _ground(model: Model, beside: NDArray[np.float64]) -> float | None:
    """The height of the ground near a place, in metres; ``None`` where the model has none."""
    rows = np.flatnonzero(np.isin(model.parts.role, ["ground"])[model.triangle_part])
    if not len(rows):
        return None
    corners = model.vertices[model.triangles[rows]]
    normal = normals(corners)
    up = normal[:, 2] > NO_LENGTH
    corners, normal = corners[up], normal[up]
    if not len(corners):
        return None
    # Over which triangle of the ground the place lies, the highest of them; else the nearest corner.
    a, b, c = corners[:, 0, :2], corners[:, 1, :2], corners[:, 2, :2]
    cross = lambda p, q, r: (q[:, 0] - p[:, 0]) * (r[1] - p[:, 1]) - (q[:, 1] - p[:, 1]) * (r[0] - p[:, 0])
    inside = (cross(a, b, beside) >= 0) & (cross(b, c, beside) >= 0) & (cross(c, a, beside) >= 0)
    if inside.any():
        n, p = normal[inside], corners[inside, 0]
        return float((p[:, 2] - ((beside - p[:, :2]) * n[:, :2]).sum(1) / n[:, 2]).max())
    points = corners.reshape(-1, 3)
    return float(points[np.argmin(((points[:, :2] - beside) ** 2).sum(1)), 2])
