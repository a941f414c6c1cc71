"""Where the other views of a study are cut, and which way they look."""

from __future__ import annotations

from collections.abc import Sequence
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.canvas.protocol import Stroke
from warmgraphite.forms import number, setting
from warmgraphite.geometry.tolerances import NEAR, NO_LENGTH
from warmgraphite.notes.note import Companion, Drawn, Note, Point, by_matrix
from warmgraphite.notes.setting import Setting
from warmgraphite.notes.written import Area, Line
from warmgraphite.specification import Specification, Words
from warmgraphite.view.specification import trace_of

__all__ = ["CutOf", "SectionMarks"]

CHAIN = (7.0, 1.4, 0.8, 1.4)


class CutOf(Specification):
    """The cut of another view.
    Its letter, a point of the plane, which way one looks, and the steps of it as metres along its trace and along the
    normal.
    """

    mark: Words = Field(max_length=40)
    point: Point
    normal: Point
    jogs: tuple[tuple[float, float], ...] = ()


class SectionMarks(Note):
    """A chain line with a letter and an arrow at each end, for each cut of other views.
    The arrow is in the direction of sight at each end, for each cut of other views that is seen here as a line. They
    follow those views.
    """

    label: ClassVar[str] = "Section marks"
    sign: ClassVar[str] = "M3 13H8M3 13V4M3 4L0.8 8M3 4L5.2 8M17 13H12M17 13V4M17 4L14.8 8M17 4L19.2 8"
    rank: ClassVar[int] = 0
    patched: ClassVar[bool] = False

    kind: Literal["section-marks"] = "section-marks"
    beyond: float = number(7.0, "Beyond the building", low=0, high=300, unit="mm", most=60)
    through: bool = setting(False, "Lines through the drawing")
    left_out: str = Field(
        default="",
        max_length=60,
        title="Without",
        description="Letters of views, with commas between them.",
        json_schema_extra={"hidden": True},
    )
    cuts: tuple[CutOf, ...] = Field(default=(), max_length=100, json_schema_extra={"hidden": True})

    def settled(self, others: Sequence[Companion]) -> Note:
        without = {w.strip() for w in self.left_out.split(",")}
        rows = [
            CutOf(mark=o.mark, point=c.point, normal=c.normal, jogs=tuple((j.at, j.by) for j in c.jogs))
            for o in others
            if o.mark not in without
            for c in [next((c for c in o.view.cuts if c.role == "cut"), None)]
            if c is not None
        ]
        return self.model_copy(update={"cuts": tuple(rows)}) if others else self

    def draw(self, there: Setting) -> Drawn:
        out = Drawn()
        if there.plate.projection.eye is not None:
            out.told = "A perspective carries no section marks; they stand in plans, sections and elevations."
            return out
        for cut in _joined(self.cuts):
            self._cut(there, cut, out)
        if not out.marks:
            out.told = "No cut of another view is seen here as a line."
        return out

    def _cut(self, there: Setting, cut: CutOf, out: Drawn) -> None:
        normal = np.array(cut.normal, float) / np.linalg.norm(cut.normal)
        sight = there.plate.projection.sight
        if abs(float(normal @ sight)) > 0.02:
            return  # it is not seen as a line here
        along = np.cross(normal, sight)
        along /= np.linalg.norm(along)
        here = np.array(cut.point, float)
        base, one, looks = there.at([tuple(here), tuple(here + along), tuple(here - normal)])
        way = (one - base) / max(np.linalg.norm(one - base), NO_LENGTH)
        look = (looks - base) / max(np.linalg.norm(looks - base), NO_LENGTH)
        x0, y0, x1, y1 = there.extent
        corners = np.array([(x0, y0), (x0, y1), (x1, y0), (x1, y1)])
        spans = (corners - base) @ way
        first, last = float(spans.min()) - self.beyond, float(spans.max()) + self.beyond
        size, colour = there.capitals(self.size) * 1.5, there.colour(self.theme)
        a, b, c, d = there.inside
        inner = np.array([a + size, b + size, c - size, d - size])
        steps = self._steps(there, cut, normal, along)
        path = [
            base + way * first,
            *[base + way * s + off for s, off in steps],
            base + way * last + (steps[-1][1] if steps else 0.0),
        ]
        for k in (0, -1):
            path[k] = np.clip(path[k], inner[:2], inner[2:])
        stroke = Stroke(round(there.lettering.weight * 2.6, 3), colour, CHAIN)
        if self.through or len(path) > 2:
            out.marks.append(Line(np.array(path), stroke))
        for end, inward in ((path[0], 1.0), (path[-1], -1.0)):
            heavy = Stroke(round(there.lettering.weight * 3.2, 3), colour, (), "butt")
            out.marks.append(Line(np.array([end, end + way * inward * 5.0]), heavy))
            tip, foot = end + look * size * 1.7, end + look * size * 0.25
            out.marks.append(Line(np.array([end, tip]), there.stroke(colour)))
            out.marks.append(Area([np.array([tip, foot + way * size * 0.5, foot - way * size * 0.5, tip])], colour))
            text = there.block(cut.mark, size)
            at = end - look * size * 1.25
            out.marks += text.at(float(at[0]), float(at[1]) - text.capitals / 2, colour, "middle")
            out.boxes.append((float(at[0]) - size, float(at[1]) - size, float(at[0]) + size, float(at[1]) + size))

    def _steps(
        self, there: Setting, cut: CutOf, normal: NDArray[np.float64], along: NDArray[np.float64]
    ) -> list[tuple[float, NDArray[np.float64]]]:
        """Where a stepped cut bends, on the paper: along its line, and off it."""
        if not cut.jogs or abs(float(there.plate.projection.sight[2])) < 0.9:
            return []
        trace = trace_of(normal)
        per = float(np.linalg.norm(np.diff(there.at(np.array([cut.point, np.array(cut.point) + along])), axis=0)))
        base, off = there.at(np.array([cut.point, np.array(cut.point) + normal]))
        out, before = [], np.zeros(2)
        for at, by in sorted(cut.jogs):
            place = at * float(trace @ along) * per
            out += [(place, before), (place, (off - base) * by)]
            before = (off - base) * by
        return sorted(out, key=lambda row: row[0])

    def moved(self, matrix: NDArray[np.float64]) -> Note:
        turned = lambda v: tuple((matrix[:3, :3] @ np.array(v)).tolist())
        rows = tuple(
            c.model_copy(update={"point": by_matrix(c.point, matrix), "normal": turned(c.normal)}) for c in self.cuts
        )
        return self.model_copy(update={"cuts": rows})


def _joined(cuts: Sequence[CutOf]) -> list[CutOf]:
    """Cuts of which those in one plane are one, with all their letters."""
    out: list[CutOf] = []
    for cut in cuts:
        normal = np.array(cut.normal, float) / np.linalg.norm(cut.normal)
        for k, other in enumerate(out):
            same = np.array(other.normal, float) / np.linalg.norm(other.normal)
            if (
                float(normal @ same) > 1 - NEAR
                and abs(float(normal @ (np.array(cut.point) - np.array(other.point)))) < 0.01
                and cut.jogs == other.jogs
            ):
                out[k] = other.model_copy(update={"mark": f"{other.mark}, {cut.mark}"})
                break
        else:
            out.append(cut)
    return out
