"""Texture from a picture: a photograph of material, at its real width and without end."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from warmgraphite.collage.kernels import picturing
from warmgraphite.collage.on_faces import OnFaces
from warmgraphite.collage.pictures.example import Example
from warmgraphite.collage.pictures.specification import Corner, Digest, Endless, ExampleSpec
from warmgraphite.collage.plate import Plate
from warmgraphite.needs import Need
from warmgraphite.threads import in_stretches


class PictureTrace(OnFaces):
    label: ClassVar[str] = "Texture from a picture"
    about: ClassVar[str] = (
        "A picture of material from the stock, at its real width, made endless without a tile that is seen."
    )
    sample: ClassVar[Literal["wall", "house", "open"]] = "wall"

    kind: Literal["picture"] = "picture"
    picture: Digest = Field(default="", title="Picture", json_schema_extra={"hidden": True})
    real_width: float = Field(default=1.0, ge=0.001, le=1000, title="Real width",
        description="How wide what it shows is in nature.", json_schema_extra={"unit": "m", "most": 6})  # fmt: skip
    endless: Endless = Field(
        default="strewn",
        title="Goes on",
        description="Strewn for what has no order, in patches for what has one, in rows for what is made to be tiled.",
    )
    evened: float = Field(
        default=0.5, ge=0, le=1, title="Evened out", description="What is lighter or darker in large is taken out."
    )
    corners: tuple[Corner, Corner, Corner, Corner] = Field(default=((0, 0), (1, 0), (1, 1), (0, 1)), title="Corners",
        json_schema_extra={"hidden": True})  # fmt: skip
    seed: int = Field(default=1, ge=0, le=9999, title="Another piece")

    @model_validator(mode="after")
    def _can_be_made(self) -> PictureTrace:
        _ = self.example  # which says what is not right with its corners
        return self

    @property
    def example(self) -> ExampleSpec:
        """What is made of the picture."""
        return ExampleSpec(digest=self.picture, corners=self.corners, evened=self.evened, endless=self.endless)

    def needs(self) -> tuple[Need, ...]:
        return (*super().needs(), Need("example", self.example))

    def pixels(self, plate: Plate) -> NDArray[np.uint8]:
        found: Example | None = plate.results[Need("example", self.example)]
        laid = self.laid(plate)
        if found is None:  # it is not in the stock here
            return np.zeros((*laid.share.shape, 4), np.uint8)
        out = np.empty((*laid.share.shape, 4), np.uint8)
        example = picturing.Example(
            found.texels, found.start, found.shape, found.table, np.ascontiguousarray(found.axes), found.mean
        )
        wide = float(self.real_width * found.span)
        look = picturing.Repeat(int(found.kind), wide, wide * float(found.aspect), *self.way, int(self.seed))
        in_stretches(
            lambda a, b: picturing.picture_rows(a, b, laid.window, laid.faces, laid.share, example, look, out),
            len(out),
            32,
        )
        return out
