"""Reflection: the model again, in its water and its panes."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.canvas.protocol import BlendMode
from warmgraphite.collage.grain import value_noise
from warmgraphite.collage.kernels.records import Window
from warmgraphite.collage.kernels.reflecting import Mirrored, Water, reflect_rows
from warmgraphite.collage.mirrors import MirrorSpec
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import PixelTrace, rgb
from warmgraphite.forms import number, setting, share
from warmgraphite.geometry.tolerances import NEAR
from warmgraphite.needs import Need
from warmgraphite.noise.easing import eased
from warmgraphite.passes.reflection import MARGIN, Reflection
from warmgraphite.specification import Colour
from warmgraphite.threads import in_stretches
from warmgraphite.view.projection import Projection


class ReflectionTrace(PixelTrace):
    label: ClassVar[str] = "Reflection"
    about: ClassVar[str] = (
        "What water and panes mirror of the model itself, in register: rippled, broken by strokes, fading."
    )
    pours: ClassVar[bool] = False
    sample: ClassVar[Literal["wall", "house", "open"]] = "open"

    kind: Literal["reflection"] = "reflection"
    blend: BlendMode = "multiply"
    of: Literal["water", "glass"] = setting("water", "In")
    ripple: float = share(0.35, "Ripple", "How far waves move what is mirrored.")
    size: float = number(0.5, "Waves", "How far from one to the next.", low=0.02, high=50, unit="m", most=4)
    strokes: float = share(0.45, "Broken by strokes", "How much is left bare between them.")
    fade: float = share(0.5, "Fades", "With how far away it is what is mirrored.")
    within: float = number(14.0, "Fades within", low=0.1, high=5000, unit="m", most=60, unless={"fade": [0]})
    sky: Colour = setting("#c9d6da", "Sky", "What is mirrored where nothing stands.")
    open: float = share(0.0, "Of the sky", "How much of the sky is mirrored.")
    short: float = number(
        0.0, "Stops short", "Of the frame's edge, in a line that wavers.", low=0, high=200, unit="mm", most=60
    )
    seed: int = Field(default=1, ge=0, le=9999, title="Other waves")

    def needs(self) -> tuple[Need, ...]:
        return (*super().needs(), Need("mirrors", MirrorSpec(sort=self.of)))

    def pixels(self, plate: Plate) -> NDArray[np.uint8]:
        found: Reflection = plate.results[Need("mirrors", MirrorSpec(sort=self.of))]
        raster, frame = plate.raster, plate.frame
        out = np.zeros((raster.height, raster.width, 4), np.uint8)
        step = (frame[0] / raster.size[0], frame[1] / raster.size[1])
        window = Window(raster.x * step[0], raster.y * step[1], *step)
        still = self.of == "glass"  # panes bend a little, and have no waves
        water = Water(
            float(self.ripple * (0.05 if still else 1.0)), float(self.size), 0.0 if still else float(self.strokes),
            float(self.fade),
            float(self.within), 0.9 * MARGIN / max(step), int(self.seed), float(self.open),
            *(float(v) for v in rgb(self.sky)),
        )  # fmt: skip
        side = int(found.side)
        for k, plane in enumerate(found.planes):
            first, last = (int(v) for v in found.start[k : k + 2])
            left, top, wide, high = (int(v) for v in found.boxes[k])
            mirrored = Mirrored(
                found.texels[first:last], found.away[first:last], side, left, top, wide // side, high // side,
                metres_on(plate.projection, plane),
            )  # fmt: skip
            in_stretches(
                lambda a, b, k=k, mirrored=mirrored: reflect_rows(  # type: ignore[misc]
                    a, b, window, found.label, found.share, k + 1, mirrored, water, out
                ),
                raster.height,
                32,
            )
        return out if not self.short else np.round(out * self._left(plate)[..., None]).astype(np.uint8)

    def _left(self, plate: Plate) -> NDArray[np.float32]:
        """(h, w) what is left of it where it stops short of the frame's edge."""
        ground, (width, height) = plate.ground, plate.frame
        x, y = (ground.along(axis) + ground.middle[axis] for axis in (0, 1))
        room = np.minimum(np.minimum(x, width - x)[None], np.minimum(y, height - y)[:, None])
        waver = 0.42 * value_noise(ground, 46, 3, 77 + self.seed) + 0.07 * value_noise(ground, 4, 2, 78)
        return eased((room / self.short + waver - 0.8) / 0.45)


def metres_on(projection: Projection, plane: NDArray[np.float64]) -> NDArray[np.float64]:
    """(3, 3) from homogeneous frame millimetres to metres on a plane.
    Level along the paper, and away from the viewer.
    """
    normal, offset = plane[:3], plane[3]
    sight = projection.sight
    along = np.cross(sight, normal)
    if np.linalg.norm(along) < NEAR:  # one looks straight at it
        along = np.cross([0.0, 0.0, 1.0] if abs(normal[2]) < 0.9 else [0.0, 1.0, 0.0], normal)
    along /= np.linalg.norm(along)
    deep = np.cross(normal, along)
    # Points of the plane as columns of a matrix that takes (u, v, 1) to the frame: its inverse is what is asked.
    base = normal * offset
    lift = np.column_stack([np.append(along, 0), np.append(deep, 0), np.append(base, 1)])
    rows = projection.matrix @ lift
    onto = np.stack([rows[0], rows[1], rows[3]])
    return np.asarray(np.linalg.inv(onto), np.float64)
