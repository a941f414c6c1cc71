"""Upright boards."""

from __future__ import annotations

from warmgraphite.collage.texture import Layer, Texture

TEXTURE = Texture(
    name="boards", label="Boards", group="timber", sort="units", colour="#c9a679", second="#a98a66", joints="#6d5843",
    length=0.145, height=3.6, joint=0.008, loose=0.12, unit_tone=0.11, unit_hue=0.9, bevel=0.008, weather=0.5,
    layers=(Layer(0.008, 0.9, 0.10, 3), Layer(0.05, 1.7, 0.06, 2)),
)  # fmt: skip
