"""Clay roof tiles, each a little round."""

from __future__ import annotations

from warmgraphite.collage.texture import Layer, Texture

TEXTURE = Texture(
    name="tiles", label="Tiles", group="roofs", sort="units", colour="#c4805c", second="#a96a4e", joints="#7d4e3b",
    length=0.20, height=0.32, joint=0.006, rough=0.002, unit_tone=0.10, unit_hue=0.9, lap=0.32, bulge=0.9, weather=0.35,
    layers=(Layer(0.02, 0.03, 0.05, 2), Layer(2.0, 1.6, 0.07, 2)),
)  # fmt: skip
