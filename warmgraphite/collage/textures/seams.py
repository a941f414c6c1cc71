"""Metal sheet with standing seams."""

from __future__ import annotations

from warmgraphite.collage.texture import Layer, Texture

TEXTURE = Texture(
    name="seams", label="Seamed metal", group="metal", sort="ribs", colour="#c3c8c9", second="#b2b4b0",
    joints="#8d9497",
    length=0.53, joint=0.022, bevel=0.02, weather=0.4, hue=0.35, hue_cell=1.8,
    layers=(Layer(0.25, 1.6, 0.04, 3), Layer(3.0, 3.0, 0.05, 2)),
)  # fmt: skip
