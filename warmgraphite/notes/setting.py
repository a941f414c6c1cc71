"""What notes are placed with: where the model lies on the paper, what is drawn there, and how it is lettered."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.canvas.protocol import Stroke
from warmgraphite.colour import channels, is_light, written
from warmgraphite.geometry.tolerances import ROUNDING
from warmgraphite.model.model import Model
from warmgraphite.needs import Need
from warmgraphite.notes.lettering import Lettering, measure
from warmgraphite.notes.note import Lies, Point
from warmgraphite.notes.written import Block, Box, block
from warmgraphite.view.specification import ViewSpecification

if TYPE_CHECKING:
    from warmgraphite.collage.plate import Plate

__all__ = ["Inks", "Setting", "filled_area"]

Array = NDArray[np.float64]

#: How much of the direction of sight runs up or down before a drawing is one from above, and none that shows heights.
STEEP, LEVEL = 0.98, 0.02


def filled_area(rings: Sequence[Array]) -> shapely.Geometry:
    """What outlines fill by the even-odd rule."""
    lines = [shapely.LineString(np.vstack([r, r[:1]])) for r in rings if len(r) > 2]
    return shapely.make_valid(shapely.build_area(shapely.GeometryCollection(lines))) if lines else shapely.Polygon()


def _lifted(colour: str) -> str:
    """A colour as it is read on a dark paper."""
    return written(c + (255 - c) * 0.45 for c in channels(colour)) if colour else ""


@dataclass(frozen=True)
class Inks:
    """What notes are written with: the ink, and a softer one; and the paper, for what is left white."""

    ink: str = "#2e2a27"
    soft: str = "#6b635b"
    paper: str = "#fbf8f1"


@dataclass(frozen=True)
class Setting:
    """One plate, as its notes see it.
    ``inside`` is the room within the margin, above the title; ``taken`` are the rooms of texts that stand already.
    """

    plate: Plate
    lettering: Lettering
    inks: Inks
    inside: Box
    taken: list[Box] = field(default_factory=list)
    #: The notes that are numbered, by their ids.
    numbers: tuple[str, ...] = ()

    @property
    def view(self) -> ViewSpecification:
        return self.plate.view

    @property
    def model(self) -> Model:
        return self.plate.model

    @property
    def frame(self) -> tuple[float, float]:
        return self.plate.frame

    # Where things lie.

    def at(self, points: Sequence[Point] | Array, lies: Lies = "model") -> Array:
        """(N, 2) places on the paper of points in metres, or in millimetres from the middle of the drawing.
        Not a number behind the viewer.
        """
        given = np.array(points, float).reshape(-1, 3)
        if lies == "paper":
            return given[:, :2] + np.array(self.plate.middle)
        paper = self.plate.projection
        with np.errstate(all="ignore"):
            found = paper.project(given)[:, :2]
        if paper.eye is not None:
            found[(given - paper.eye) @ paper.sight <= ROUNDING] = np.nan
        return found

    @cached_property
    def looks_down(self) -> bool:
        """Whether it is a plan, seen straight down or up."""
        paper = self.plate.projection
        return paper.eye is None and abs(float(paper.sight[2])) > STEEP

    @cached_property
    def shows_heights(self) -> bool:
        """Whether uprights are upright on the paper, and heights true to one another."""
        paper = self.plate.projection
        spec = self.view.projection
        if paper.eye is not None:
            return abs(float(paper.sight[2])) < LEVEL or bool(getattr(spec, "upright", False))
        return not self.looks_down

    @property
    def scale(self) -> float | None:
        """1:n."""
        return self.plate.projection.scale

    @cached_property
    def extent(self) -> Box:
        """What the building takes of the paper, within the frame."""
        width, height = self.frame
        low, high = self.model.focus
        corners = np.array(
            [[(low, high)[i][0], (low, high)[j][1], (low, high)[k][2]] for i in (0, 1) for j in (0, 1) for k in (0, 1)]
        )
        found = self.at(corners)
        found = found[np.isfinite(found).all(1)]
        if not len(found):
            return 0.0, 0.0, width, height
        (x0, y0), (x1, y1) = found.min(0).tolist(), found.max(0).tolist()
        x0, x1 = (min(max(v, 0.0), width) for v in (x0, x1))
        y0, y1 = (min(max(v, 0.0), height) for v in (y0, y1))
        return x0, y0, x1, y1

    @cached_property
    def cut(self) -> shapely.Geometry:
        """What is cut, on the paper, but for earth."""
        rows = [filled_area(row.rings) for row in self.plate.results[Need("shapes")] if not row.earth]
        found = shapely.union_all(rows) if rows else shapely.Polygon()
        shapely.prepare(found)
        return found

    # How it is written.

    def colour(self, theme: str) -> str:
        """The colour of a theme, lighter on a dark paper; or the ink."""
        found = next((t.colour for t in self.lettering.themes if t.id == theme), "")
        return (found if is_light(self.inks.paper) else _lifted(found)) or self.inks.ink

    def soft(self, theme: str) -> str:
        """The same, for what is less: the softer ink where there is no theme."""
        known = any(t.id == theme for t in self.lettering.themes)
        return self.colour(theme) if known else self.inks.soft

    @property
    def face(self) -> str:
        """The face, as canvases know it."""
        name = self.lettering.face
        if not name.startswith("own-"):
            return name
        return self.plate.kept_face(name.removeprefix("own-")) or "sans"

    def capitals(self, size: float | None) -> float:
        """Millimetres of capital height."""
        return size or self.lettering.size

    def block(self, words: str | Sequence[str], size: float | None = None, wide: float | None = None) -> Block:
        """Text in lines."""
        return block(words, self.face, self.capitals(size), wide)

    def stroke(self, colour: str, times: float = 1.0, dash: tuple[float, ...] = ()) -> Stroke:
        """The pen of notes."""
        return Stroke(round(self.lettering.weight * times, 4), colour, dash)

    def number(self, identity: str) -> int:
        """The number of a note among those that are numbered, counted from 1."""
        return self.numbers.index(identity) + 1 if identity in self.numbers else 0

    def measure(self, metres: float) -> str:
        """A length as it is written."""
        return measure(metres, self.lettering.units, self.lettering.digits)

    def free(self, box: Box, gap: float = 0.6) -> bool:
        """Whether no text stands there."""
        x0, y0, x1, y1 = box
        return all(x1 + gap <= a or c + gap <= x0 or y1 + gap <= b or d + gap <= y0 for a, b, c, d in self.taken)

    def corner(self, wide: float, high: float) -> tuple[float, float]:
        """Where a table stands, by its left and top: in the corner that is freest of what is drawn and written."""
        x0, y0, x1, y1 = self.inside
        spots = [(x1 - wide, y0), (x0, y0), (x0, y1 - high), (x1 - wide, y1 - high)]
        ext = self.extent

        def over(spot: tuple[float, float]) -> float:
            a, b = spot
            across = max(0.0, min(a + wide, ext[2]) - max(a, ext[0]))
            down = max(0.0, min(b + high, ext[3]) - max(b, ext[1]))
            return across * down + (0 if self.free((a, b, a + wide, b + high)) else 1e6)

        return min(spots, key=over)
