"""Render, floated."""

from __future__ import annotations

from warmgraphite.collage.texture import Layer, Texture

TEXTURE = Texture(
    name="render", label="Render", group="walls", colour="#e2dacb", second="#d3c8b4", weather=0.55, hue=0.4,
    hue_cell=2.4,
    layers=(Layer(0.010, 0.010, 0.07, 2), Layer(0.35, 0.22, 0.04, 3), Layer(2.8, 2.2, 0.05, 2)),
)  # fmt: skip
