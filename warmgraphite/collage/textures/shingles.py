"""Split shingles, in courses."""

from __future__ import annotations

from warmgraphite.collage.texture import Layer, Texture

TEXTURE = Texture(
    name="shingles", label="Shingles", group="roofs", sort="units", colour="#b3a48f", second="#8f8270",
    joints="#6a6053",
    length=0.13, height=0.16, joint=0.007, bond=-1.0, loose=0.7, rough=0.003, unit_tone=0.16, unit_hue=1.0, lap=0.35,
    weather=0.3,
    layers=(Layer(0.008, 0.3, 0.10, 2), Layer(1.8, 1.4, 0.06, 2)),
)  # fmt: skip
