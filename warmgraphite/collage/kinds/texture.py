"""Texture: bricks, boards, stones, grass, computed at their true size on the faces that are seen."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, field_validator

from warmgraphite.collage.kernels.texturing import texture_rows
from warmgraphite.collage.lying import on_paper
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.texture import rgb_rows
from warmgraphite.collage.textures import TEXTURES
from warmgraphite.collage.trace import PixelTrace
from warmgraphite.needs import Need
from warmgraphite.regions.query import PartCells, answer
from warmgraphite.regions.reading import of_parts
from warmgraphite.specification import Colour
from warmgraphite.threads import in_stretches

_PASSES = {"": "lies", "along": "lies along", "viewer": "lies to the viewer"}
#: The scale that a drawing without one counts as, for what lies on the paper.
UNSCALED = 100.0


class TextureTrace(PixelTrace):
    label: ClassVar[str] = "Texture"
    about: ClassVar[str] = "A material at its true size, without seam or repeat, lying on its faces, in the cut, or on the paper."

    kind: Literal["texture"] = "texture"
    texture: str = Field(
        default="brick", title="Texture", json_schema_extra={"options": [[t.name, t.label] for t in TEXTURES.values()]}
    )
    lies: Literal["face", "cut", "paper"] = Field(default="face", title="Lies on the")
    colours: Literal["its own", "of materials", "one tone"] = Field(default="its own", title="Colours")
    colour: Colour = Field(default="#b9a88d", title="Tone", description="Where it has one tone.")
    size: float = Field(
        default=1.0, ge=0.05, le=20, title="Size", description="1 is as large as it is.", json_schema_extra={"most": 3}
    )
    angle: float = Field(default=0.0, ge=-180, le=180, title="Turned", json_schema_extra={"unit": "°"})
    variation: float = Field(default=1.0, ge=0, le=3, title="Variation", description="How unlike its pieces are.")
    joints: float = Field(default=1.0, ge=0, le=1, title="Joints", description="How clearly they are seen.")
    weather: float = Field(default=0.5, ge=0, le=1, title="Weathering")
    relief: float = Field(default=0.5, ge=0, le=1, title="Relief", description="Edges towards the sun are lighter.")
    seed: int = Field(default=1, ge=0, le=9999, title="Another piece")

    @field_validator("texture")
    @classmethod
    def _there_is(cls, texture: str) -> str:
        if texture not in TEXTURES:
            raise ValueError(f"there is no texture “{texture[:60]}”; the textures are {', '.join(sorted(TEXTURES))}")
        return texture

    def needs(self) -> tuple[Need, ...]:
        lies = () if self.lies == "paper" else (Need(_PASSES[TEXTURES[self.texture].turned]),)
        looks = (Need("looks"),) if self.colours == "of materials" else ()
        cells = () if self.where is None or of_parts(self.where) else (Need("regions"),)
        return (*super().needs(), *cells, Need("surface"), Need("light"), *lies, *looks)

    def confined(self, plate: Plate) -> NDArray[np.uint8]:
        return self.pixels(plate)  # only what it is confined to is painted

    def pixels(self, plate: Plate) -> NDArray[np.uint8]:
        raster, seen = plate.raster, plate.surface
        made = TEXTURES[self.texture]
        left, top, _, _ = plate.place
        step = (plate.frame[0] / raster.size[0], plate.frame[1] / raster.size[1])
        shape = (raster.height, raster.width)
        if self.lies == "paper":
            lies, triangle = on_paper(plate.projection.scale or UNSCALED, plate.middle), np.zeros(shape, np.int32)
            share = np.full(shape, 255, np.uint8)
        else:
            lies, triangle = plate.of(_PASSES[made.turned]), self._seen(plate)
            share = seen.cap if self.lies == "cut" else np.where(triangle >= 0, 255 - seen.cap, 0).astype(np.uint8)
        if self.where is not None and not self.runs_over:
            share = (share.astype(np.uint16) * plate.of("mask", self.where) // 255).astype(np.uint8)
        rows = lies.rows()
        triangle = np.where(triangle < len(rows), triangle, len(rows) - 1).astype(np.int32)
        turn = np.radians(self.angle)
        out = np.empty((*shape, 4), np.uint8)
        said = (
            made.numbers(self.weather * made.weather), made.uneven(), self._colours(), self.size, np.array([np.cos(turn), np.sin(turn)]),
            self.relief, self.joints, self.variation, self.seed,
        )  # fmt: skip

        def stretch(first: int, last: int) -> None:
            texture_rows(
                first, last, left, top, *step, triangle, rows, lies.table, lies.usual, lies.lying, lies.axes, plate.sun,
                plate.light.shadow, share, *said, out,
            )  # fmt: skip

        in_stretches(stretch, raster.height, 32)
        if self.colours == "of materials":
            out[..., :3] = (out[..., :3].astype(np.uint16) * self._materials(plate) // 255).astype(np.uint8)
        return out

    def _colours(self) -> NDArray[np.float64]:
        made = TEXTURES[self.texture]
        own = rgb_rows(made.colour, made.second, made.joints)
        if self.colours == "its own":
            return own
        # Its own differences, about another tone.
        middle = np.ones(3) if self.colours == "of materials" else rgb_rows(self.colour)[0]
        return (
            np.clip(own / np.maximum(own[0], 0.05) * middle, 0, 1)
            if self.colours == "one tone"
            else np.clip(own / own.max(), 0, 1)
        )

    def _materials(self, plate: Plate) -> NDArray[np.uint8]:
        """(h, w, 3) the colour of the material that each pixel sees."""
        model = plate.model
        looks = np.round(rgb_rows(*plate.of("looks"), "#ffffff") * 255).astype(np.uint8)
        return looks[np.append(model.part_material, len(looks) - 1)[plate.surface.part]]

    def _seen(self, plate: Plate) -> NDArray[np.int32]:
        """(h, w) the triangle that each pixel shows of what it is confined to: where another one lies in the middle of a pixel at an
        edge, that at one of its sides."""
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
