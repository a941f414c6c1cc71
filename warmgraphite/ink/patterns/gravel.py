"""Gravel: small closed pebbles of several shapes."""

from __future__ import annotations

import numpy as np

from warmgraphite.ink.pattern import Mark, Pattern, Scatter


def _pebble(seed: int) -> Mark:
    """A closed outline of uneven radius."""
    rng = np.random.default_rng(seed)
    turn = np.linspace(0, 2 * np.pi, 9)
    radius = 0.33 * (1 + 0.25 * rng.uniform(-1, 1, 9))
    radius[-1] = radius[0]
    return tuple((float(r * np.cos(t)), float(0.78 * r * np.sin(t))) for r, t in zip(radius, turn, strict=True))


PATTERN = Pattern(
    name="gravel", label="Gravel", spacing=1.6, metres=0.04, group="earth and stone",
    scatters=(Scatter(marks=tuple(_pebble(k) for k in range(6)), vary=0.45),),
)  # fmt: skip
