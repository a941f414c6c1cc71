"""Concrete blocks in half bond."""

from __future__ import annotations

from warmgraphite.collage.texture import Layer, Texture

TEXTURE = Texture(
    name="blocks", label="Blocks", group="walls", sort="units", colour="#c7c3ba", second="#b9b4a8", joints="#a9a59b",
    length=0.45, height=0.225, joint=0.010, bond=0.5, rough=0.001, unit_tone=0.06, unit_hue=0.7, bevel=0.008,
    weather=0.3,
    layers=(Layer(0.008, 0.008, 0.07, 2), Layer(1.4, 1.2, 0.05, 2)),
)  # fmt: skip
