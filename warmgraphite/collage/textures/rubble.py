"""Rubble: field stones in mortar."""

from __future__ import annotations

from warmgraphite.collage.texture import Layer, Texture

TEXTURE = Texture(
    name="rubble", label="Rubble", group="walls", sort="cells", colour="#c2b8a6", second="#a59b8b", joints="#d2c9b8",
    length=0.34, height=0.22, joint=0.022, loose=0.85, unit_tone=0.14, unit_hue=1.0, bevel=0.03, weather=0.4,
    layers=(Layer(0.03, 0.03, 0.08, 3), Layer(2.0, 1.4, 0.06, 2)),
)  # fmt: skip
