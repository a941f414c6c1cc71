"""Black and white points: where black and white begin, and how light the middle is."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from warmgraphite.collage.adjusting import AdjustingTrace, Colours
from warmgraphite.geometry.tolerances import FINEST


class BlackAndWhite(AdjustingTrace):
    label: ClassVar[str] = "Black and white points"
    about: ClassVar[str] = "Where black and white begin, and how light what lies between is."
    by_tones: ClassVar[bool] = True

    kind: Literal["black-and-white"] = "black-and-white"
    black: float = Field(
        default=0.0, ge=0, le=1, title="Black from", description="What is as dark as this becomes black."
    )
    white: float = Field(
        default=1.0, ge=0, le=1, title="White from", description="What is as light as this becomes white."
    )
    middle: float = Field(
        default=1.0,
        ge=0.1,
        le=5,
        title="Middle",
        description="Above 1 the middle is lighter.",
        json_schema_extra={"most": 3},
    )
    darkest: float = Field(default=0.0, ge=0, le=1, title="Darkest", description="What black is laid down as.")
    lightest: float = Field(default=1.0, ge=0, le=1, title="Lightest", description="What white is laid down as.")

    def change(self, colours: Colours) -> Colours:
        spread = np.clip((colours - self.black) / max(self.white - self.black, FINEST), 0, 1)
        return np.asarray(self.darkest + (self.lightest - self.darkest) * spread ** (1 / self.middle), np.float32)
