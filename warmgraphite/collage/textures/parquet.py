"""Parquet in squares of strips."""

from __future__ import annotations

from warmgraphite.collage.texture import Layer, Texture

TEXTURE = Texture(
    name="parquet", label="Parquet", group="timber", sort="units", colour="#c79f6d", second="#a98257", joints="#7c6044",
    turned="along",
    length=0.45, height=0.075, joint=0.002, unit_tone=0.12, unit_hue=1.0, basket=0.45, weather=0.1,
    layers=(Layer(0.25, 0.006, 0.08, 3),),
)  # fmt: skip
