"""Hue and strength of colours."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from warmgraphite.collage.adjusting import AdjustingTrace, Colours


def saturating(s: float) -> Colours:
    """(3, 3) the matrix of saturate(), after the W3C's Filter Effects Module Level 1."""
    return np.array([
        [0.213 + 0.787 * s, 0.715 - 0.715 * s, 0.072 - 0.072 * s],
        [0.213 - 0.213 * s, 0.715 + 0.285 * s, 0.072 - 0.072 * s],
        [0.213 - 0.213 * s, 0.715 - 0.715 * s, 0.072 + 0.928 * s],
    ], np.float32)  # fmt: skip


def turning(degrees: float) -> Colours:
    """(3, 3) the matrix of hue-rotate(), after the same."""
    c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
    own = np.array([[0.213, 0.715, 0.072]] * 3)
    cosine = np.array([[0.787, -0.715, -0.072], [-0.213, 0.285, -0.072], [-0.213, -0.715, 0.928]])
    sine = np.array([[-0.213, -0.715, 0.928], [0.143, 0.140, -0.283], [-0.787, 0.715, 0.072]])
    return np.asarray(own + c * cosine + s * sine, np.float32)


class HueAndStrength(AdjustingTrace):
    label: ClassVar[str] = "Hue and strength"
    about: ClassVar[str] = "All hues turned, and stronger or greyer."

    kind: Literal["hue-and-strength"] = "hue-and-strength"
    turn: float = Field(
        default=0.0, ge=-180, le=180, title="Turn", description="Of all hues.", json_schema_extra={"unit": "°"}
    )
    strength: float = Field(
        default=1.0, ge=0, le=4, title="Saturation", description="0 is grey, 1 as it is.", json_schema_extra={"most": 2}
    )

    def change(self, colours: Colours) -> Colours:
        return np.asarray(np.clip(colours @ turning(self.turn).T, 0, 1) @ saturating(self.strength).T, np.float32)
