"""Brickwork in half bond."""

from __future__ import annotations

from warmgraphite.collage.texture import Layer, Texture

TEXTURE = Texture(
    name="brick", label="Brick", group="walls", sort="units", colour="#c58d70", second="#b17a62", joints="#d8cdbd",
    length=0.25, height=0.075, joint=0.010, bond=0.5, loose=0.04, rough=0.0015, unit_tone=0.11, unit_hue=0.8,
    bevel=0.006, weather=0.35,
    layers=(Layer(0.012, 0.012, 0.06, 2), Layer(1.7, 1.1, 0.07, 2)),
)  # fmt: skip
