"""Traces that lie on the faces of what is seen, in what is cut, or on the paper, at their true size."""

from __future__ import annotations

from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.collage.kernels.records import Faces, Window
from warmgraphite.collage.lying import Lies, on_paper
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import PixelTrace
from warmgraphite.needs import Need
from warmgraphite.regions.query import PartCells, answer
from warmgraphite.regions.reading import of_parts

__all__ = ["OnFaces", "TracePlacement"]

_PASSES = {"": "lies", "along": "lies along", "viewer": "lies to the viewer"}
#: The scale that a drawing without one counts as, for what lies on the paper.
UNSCALED = 100.0


class TracePlacement(NamedTuple):
    """Where such a trace lies in a ``window``, on what ``faces``; ``share`` (h, w) of 255."""

    window: Window
    faces: Faces
    lies: Lies
    share: NDArray[np.uint8]


class OnFaces(PixelTrace):
    """A trace that lies on faces."""

    lies: Literal["face", "cut", "paper"] = Field(default="face", title="Lies on the")
    angle: float = Field(default=0.0, ge=-180, le=180, title="Turned", json_schema_extra={"unit": "°"})

    @property
    def turned(self) -> str:
        """How it is turned on level faces, as patterns say."""
        return ""

    @property
    def way(self) -> tuple[float, float]:
        """Cosine and sine of its turn."""
        return float(np.cos(np.radians(self.angle))), float(np.sin(np.radians(self.angle)))

    def needs(self) -> tuple[Need, ...]:
        lies = () if self.lies == "paper" else (Need(_PASSES[self.turned]),)
        cells = () if self.where is None or of_parts(self.where) else (Need("regions"),)
        return (*super().needs(), *cells, Need("surface"), *lies)

    def confined(self, plate: Plate) -> NDArray[np.uint8]:
        return self.pixels(plate)  # only what it is confined to is painted

    def laid(self, plate: Plate) -> TracePlacement:
        """Where it lies in a plate's window, confined to its region unless it runs over that."""
        raster, seen = plate.raster, plate.surface
        left, top, _, _ = plate.place
        window = Window(float(left), float(top), plate.frame[0] / raster.size[0], plate.frame[1] / raster.size[1])
        shape = (raster.height, raster.width)
        if self.lies == "paper":
            lies, triangle = on_paper(plate.projection.scale or UNSCALED, plate.middle), np.zeros(shape, np.int32)
            share = np.full(shape, 255, np.uint8)
        else:
            lies, triangle = plate.of(_PASSES[self.turned]), self._seen(plate)
            share = seen.cap if self.lies == "cut" else np.where(triangle >= 0, 255 - seen.cap, 0).astype(np.uint8)
        if self.where is not None and not self.runs_over:
            share = (share.astype(np.uint16) * plate.of("mask", self.where) // 255).astype(np.uint8)
        rows = lies.rows()
        triangle = np.where(triangle < len(rows), triangle, len(rows) - 1).astype(np.int32)
        return TracePlacement(window, Faces(triangle, rows, lies.table, lies.usual, lies.lying), lies, share)

    def _seen(self, plate: Plate) -> NDArray[np.int32]:
        """(h, w) the triangle that each pixel shows of what it is confined to.
        Where another one lies in the middle of a pixel at an edge, that at one of its sides.
        """
        seen = plate.surface
        if self.where is None:
            return seen.triangle
        parts = PartCells.of(plate.model)
        if of_parts(self.where):
            chosen = answer(self.where, parts, plate.model)
        else:
            cells = plate.of("regions")
            chosen = np.zeros(len(plate.model.parts), bool)
            rows = cells.chosen(self.where, plate.model) & (cells.part >= 0)
            chosen[cells.part[rows]] = True
        chosen = np.append(chosen, False)
        flat = seen.triangle.reshape(-1).copy()
        other = ~chosen[seen.part.reshape(-1)[seen.edge_pixel]]
        good = chosen[seen.edge_part[other]]
        has = good.any(1)
        at = np.argmax(good[has], axis=1)
        flat[seen.edge_pixel[other][has]] = seen.edge_triangle[other][has][np.arange(int(has.sum())), at]
        return flat.reshape(seen.triangle.shape)
