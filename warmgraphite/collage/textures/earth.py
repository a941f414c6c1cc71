"""Earth, in clods."""

from __future__ import annotations

from warmgraphite.collage.texture import Layer, Texture

TEXTURE = Texture(
    name="earth", label="Earth", group="ground", sort="cells", colour="#b59c7a", second="#8f7a5f", joints="#7d6a53",
    length=0.09, height=0.07, joint=0.012, loose=0.95, unit_tone=0.14, unit_hue=0.9, bevel=0.012, hue=0.3, hue_cell=1.6,
    layers=(Layer(0.012, 0.012, 0.10, 2), Layer(0.7, 0.5, 0.10, 4)),
)  # fmt: skip
