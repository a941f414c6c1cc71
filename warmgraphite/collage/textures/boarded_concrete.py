"""Concrete that keeps the boards it was cast in."""

from __future__ import annotations

from warmgraphite.collage.texture import Layer, Texture

TEXTURE = Texture(
    name="boarded_concrete", label="Concrete, boarded", group="walls", sort="units", colour="#c8c4bc", second="#b8b3a9",
    joints="#9f9b93",
    length=2.4, height=0.11, joint=0.004, bond=-1.0, loose=0.5, unit_tone=0.06, unit_hue=0.6, bevel=0.004, weather=0.6,
    layers=(Layer(0.7, 0.006, 0.06, 3), Layer(0.02, 0.02, 0.04, 2), Layer(2.5, 2.0, 0.07, 2)),
)  # fmt: skip
