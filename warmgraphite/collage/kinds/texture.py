"""Texture: bricks, boards, stones, grass, computed at their true size on the faces that are seen."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, field_validator

from warmgraphite.collage.kernels.texturing import Light, Texture, texture_rows
from warmgraphite.collage.on_faces import OnFaces
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.texture import rgb_rows
from warmgraphite.collage.textures import TEXTURES
from warmgraphite.needs import Need
from warmgraphite.specification import Colour
from warmgraphite.threads import in_stretches


class TextureTrace(OnFaces):
    label: ClassVar[str] = "Texture"
    about: ClassVar[str] = (
        "A material at its true size, without seam or repeat, lying on its faces, in the cut, or on the paper."
    )
    sample: ClassVar[Literal["wall", "house", "open"]] = "wall"

    kind: Literal["texture"] = "texture"
    texture: str = Field(
        default="brick", title="Texture", json_schema_extra={"options": [[t.name, t.label] for t in TEXTURES.values()]}
    )
    colours: Literal["its own", "of materials", "one tone"] = Field(default="its own", title="Colours")
    colour: Colour = Field(
        default="#b9a88d",
        title="Tone",
        description="Where it has one tone.",
        json_schema_extra={"when": {"colours": ["one tone"]}},
    )
    size: float = Field(
        default=1.0, ge=0.05, le=20, title="Size", description="1 is as large as it is.", json_schema_extra={"most": 3}
    )
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
        return (*super().needs(), Need("light"), *((Need("looks"),) if self.colours == "of materials" else ()))

    @property
    def turned(self) -> str:
        return TEXTURES[self.texture].turned

    def pixels(self, plate: Plate) -> NDArray[np.uint8]:
        made, laid = TEXTURES[self.texture], self.laid(plate)
        packed = np.empty(laid.share.shape, np.int32)
        said = Texture(
            made.numbers(self.weather * made.weather), made.uneven(), self._colours().astype(np.float32),
            float(self.size),
            *self.way, float(self.relief), float(self.joints), float(self.variation), int(self.seed),
        )  # fmt: skip
        light = Light(laid.lies.axes, plate.sun, plate.light.shadow)
        in_stretches(
            lambda a, b: texture_rows(a, b, laid.window, laid.faces, light, laid.share, said, packed), len(packed), 32
        )
        out: NDArray[np.uint8] = packed.view(np.uint8).reshape(*packed.shape, 4)
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
        return looks[np.append(model.parts.material, len(looks) - 1)[plate.surface.part]]
