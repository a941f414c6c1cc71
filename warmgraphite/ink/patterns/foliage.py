"""Foliage: small bent leaf marks."""

from __future__ import annotations

from warmgraphite.ink.pattern import Pattern, Scatter

_LEAF = ((-0.4, 0.0), (-0.2, 0.22), (0.08, 0.28), (0.34, 0.12))
_BENT = ((-0.3, -0.1), (-0.24, 0.14), (0.0, 0.26), (0.26, 0.18), (0.36, -0.04))

PATTERN = Pattern(
    name="foliage", label="Foliage", spacing=1.7, metres=0.2, group="water and green",
    scatters=(Scatter(marks=(_LEAF, _BENT), vary=0.5),),
)  # fmt: skip
