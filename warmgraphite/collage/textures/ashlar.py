"""Dressed stone in level courses, of unlike lengths."""

from __future__ import annotations

from warmgraphite.collage.texture import Layer, Texture

TEXTURE = Texture(
    name="ashlar", label="Stone", group="walls", sort="units", colour="#d6ccb6", second="#c3b699", joints="#b9ae9a",
    length=0.62, height=0.30, joint=0.006, bond=-1.0, loose=0.55, rough=0.002, unit_tone=0.07, unit_hue=0.9,
    bevel=0.012, weather=0.45,
    layers=(Layer(0.5, 0.05, 0.05, 3), Layer(0.015, 0.015, 0.05, 2), Layer(2.2, 1.6, 0.06, 2)),
)  # fmt: skip
