"""Flat drawing: a vector drawing made elsewhere, at its scale, with its own pens or with those that are said here."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.canvas.protocol import Canvas, Path
from warmgraphite.collage.of_picture import OfPicture
from warmgraphite.collage.pictures.placing import moved_points
from warmgraphite.collage.pictures.specification import PictureSpec
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import grained
from warmgraphite.colour import written
from warmgraphite.forms import number, setting
from warmgraphite.ink.along import ringed
from warmgraphite.ink.assign import Style
from warmgraphite.ink.strokes import Strokes
from warmgraphite.ink.work import draw_rows
from warmgraphite.needs import Need
from warmgraphite.specification import Colour
from warmgraphite.vectors import Vectors

#: The scale that a drawing without one counts as.
_UNSCALED = 100.0


class FlatDrawing(OfPicture):
    label: ClassVar[str] = "Flat drawing"
    about: ClassVar[str] = (
        "A vector drawing made elsewhere, PDF or SVG, laid at its scale: its lines take pens, and the hand that draws."
    )

    kind: Literal["flat-drawing"] = "flat-drawing"
    fit: Literal["to scale", "fills the frame", "by two points"] = setting("to scale", "Lies")  # type: ignore[assignment]
    at_scale: float = number(100.0, "Its scale, 1 to", low=0.01, high=100000, most=500, when={"fit": ["to scale"]})
    aside: float = number(0.0, "Aside", low=-5000, high=5000, unit="mm", most=200, when={"fit": ["to scale"]})
    lower: float = number(0.0, "Lower", low=-5000, high=5000, unit="mm", most=200, when={"fit": ["to scale"]})
    turned: float = number(0.0, "Turned", low=-180, high=180, unit="°", when={"fit": ["to scale"]})
    pens: Literal["its own", "one pen"] = setting("its own", "Pens")
    times: float = number(1.0, "Line weights times", low=0.05, high=20, most=3, when={"pens": ["its own"]})
    weight: float = number(0.18, "Weight", low=0.02, high=5, unit="mm", most=0.9, when={"pens": ["one pen"]})
    ink: Colour = setting("#2e2a27", "Ink", when={"pens": ["one pen"]})
    fills: bool = Field(default=True, title="Fills", description="Whether its filled areas are filled.")
    by_hand: bool = Field(default=False, title="By hand", description="Whether the hand of the finish draws its lines.")

    def needs(self) -> tuple[Need, ...]:
        room = (Need("room", self.where),) if self.where is not None else ()
        return (*super().needs(), Need("lines of a picture", PictureSpec(digest=self.picture)), *room)

    def onto_paper(self, plate: Plate, page: NDArray[np.float64]) -> NDArray[np.float64]:
        """(3, 3) from millimetres of the drawing's page to frame millimetres."""
        if self.fit != "to scale":
            return self.lies(plate.frame, plate.middle, float(page[1] / page[0])) @ np.diag(
                [1 / page[0], 1 / page[1], 1.0]
            )
        times = self.at_scale / (plate.projection.scale or _UNSCALED)
        c, s = np.cos(np.radians(self.turned)) * times, np.sin(np.radians(self.turned)) * times
        x, y = plate.middle[0] + self.aside, plate.middle[1] + self.lower
        turn = np.array([[c, -s, x], [s, c, y], [0, 0, 1.0]])
        return turn @ np.array([[1, 0, -page[0] / 2], [0, 1, -page[1] / 2], [0, 0, 1.0]])

    def draw(self, canvas: Canvas, plate: Plate) -> None:
        found: Vectors | None = plate.results[Need("lines of a picture", PictureSpec(digest=self.picture))]
        if found is None:  # it is not in the stock here, or is no drawing
            return
        if self.where is None:
            return self._draw(canvas, plate, found)
        with canvas.clip_path(Path.of(ringed(plate.of("room", self.where).shape))):
            self._draw(canvas, plate, found)

    def _draw(self, canvas: Canvas, plate: Plate, found: Vectors) -> None:
        points = moved_points(found.points, self.onto_paper(plate, found.page))
        line = lambda k: points[found.first[k] : found.first[k + 1]]
        if self.fills:
            for path in np.unique(found.path[found.filled]):
                rows = np.flatnonzero(found.path == path)
                with canvas.group("filled"):
                    canvas.fill([line(int(k)) for k in rows], written(found.fill[rows[0]]))
        work = list(self._strokes(found, line))
        with grained(canvas, plate):
            if self.by_hand:
                draw_rows(canvas, plate.by_hand(work), "flat ")
                return
            for strokes in work:
                with canvas.group(f"flat {strokes.style.group}", strokes.style.opacity):
                    canvas.stroke(strokes.lines, strokes.style.stroke)

    def _strokes(self, found: Vectors, line: Callable[[int], NDArray[np.float64]]) -> Sequence[Strokes]:
        """The lines by pen: one, or one for each weight and colour of its own."""
        drawn = np.flatnonzero(found.weight > 0)
        if self.pens == "one pen" or not len(drawn):
            return [Strokes(Style("lines", self.weight, self.ink), [line(int(k)) for k in drawn])] if len(drawn) else []
        said = np.column_stack([np.round(found.weight[drawn], 2), found.colour[drawn]])
        kinds, which = np.unique(said, axis=0, return_inverse=True)
        return [
            Strokes(Style(f"{w:.2f} mm", max(float(w) * self.times, 0.02), written(colour)),
                [line(int(k)) for k in drawn[which.reshape(-1) == n]])
            for n, (w, *colour) in enumerate(kinds)
        ]  # fmt: skip
