"""Dots in rows."""

from __future__ import annotations

from warmgraphite.ink.pattern import Pattern, Tile

PATTERN = Pattern(
    name="dots", label="Dots in rows", spacing=1.4, metres=0.06, group="lines",
    tile=Tile(2.0, 2.0, (((0.5, 0.5),), ((1.5, 1.5),), ((1.5, 0.5),), ((0.5, 1.5),))),
)  # fmt: skip
