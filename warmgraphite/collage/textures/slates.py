"""Slates in half bond."""

from __future__ import annotations

from warmgraphite.collage.texture import Layer, Texture

TEXTURE = Texture(
    name="slates", label="Slates", group="roofs", sort="units", colour="#8f979c", second="#a3a3a0", joints="#646b70",
    length=0.30, height=0.20, joint=0.004, bond=0.5, rough=0.001, unit_tone=0.10, unit_hue=0.8, lap=0.3, weather=0.3,
    layers=(Layer(0.05, 0.03, 0.04, 3), Layer(2.0, 1.5, 0.06, 2)),
)  # fmt: skip
