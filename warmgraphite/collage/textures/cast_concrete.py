"""Concrete cast smooth, in panels."""

from __future__ import annotations

from warmgraphite.collage.texture import Layer, Texture

TEXTURE = Texture(
    name="cast_concrete", label="Concrete, cast", group="walls", sort="units", colour="#cdc9c2", second="#bdb9b0",
    joints="#a7a39b",
    length=2.7, height=1.35, joint=0.006, unit_tone=0.03, unit_hue=0.4, weather=0.5,
    layers=(Layer(0.9, 0.7, 0.08, 5), Layer(0.012, 0.012, 0.03, 2)),
)  # fmt: skip
