"""Lighten for print: so that darks do not fill in on paper."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from warmgraphite.collage.adjusting import AdjustingTrace, Colours


class ForPrint(AdjustingTrace):
    label: ClassVar[str] = "Lighten for print"
    about: ClassVar[str] = "Darks are opened and nothing is quite black, so that the print does not fill in."
    by_tones: ClassVar[bool] = True

    kind: Literal["for-print"] = "for-print"
    lift: float = Field(default=0.5, ge=0, le=1, title="Lift", description="How much darks are opened.")
    black: float = Field(default=0.06, ge=0, le=0.5, title="Black is", description="How light the darkest becomes.")

    def change(self, colours: Colours) -> Colours:
        # What ink spreads is worst in the darks: these are opened most, and white stays white.
        opened = np.clip(colours, 0, 1) ** (1 - 0.35 * self.lift)
        return np.asarray(self.black + (1 - self.black) * opened, np.float32)
