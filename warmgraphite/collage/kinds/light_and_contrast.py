"""Light and contrast."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from warmgraphite.collage.adjusting import AdjustingTrace, Colours


class LightAndContrast(AdjustingTrace):
    label: ClassVar[str] = "Light and contrast"
    about: ClassVar[str] = "Lighter or darker, with more contrast or less."
    by_tones: ClassVar[bool] = True

    kind: Literal["light-and-contrast"] = "light-and-contrast"
    light: float = Field(
        default=1.0, ge=0, le=3, title="Light", description="1 is as it is.", json_schema_extra={"most": 2}
    )
    contrast: float = Field(
        default=1.0, ge=0, le=4, title="Contrast", description="1 is as it is.", json_schema_extra={"most": 2}
    )

    def change(self, colours: Colours) -> Colours:
        # As the W3C's Filter Effects Module Level 1 has brightness() and contrast().
        return np.asarray((np.clip(colours * self.light, 0, 1) - 0.5) * self.contrast + 0.5, np.float32)
