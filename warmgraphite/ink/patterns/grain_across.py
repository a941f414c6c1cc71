"""Grain of timber, cut across: rings about a heart beyond the corner of each piece."""

from __future__ import annotations

import numpy as np

from warmgraphite.ink.pattern import Mark, Pattern, Tile


def _ring(radius: float) -> Mark:
    turn = np.linspace(0.05, np.pi / 2 - 0.05, 14)
    return tuple((float(radius * np.cos(t) - 0.6), float(radius * np.sin(t) - 0.6)) for t in turn)


PATTERN = Pattern(
    name="grain_across", label="Grain across", spacing=0.9, metres=0.02, group="timber",
    tile=Tile(7.0, 7.0, tuple(_ring(r) for r in (1.6, 2.5, 3.3, 4.2, 5.0, 5.9, 6.7, 7.6))),
)  # fmt: skip
