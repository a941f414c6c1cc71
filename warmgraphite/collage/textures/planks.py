"""Planks laid level, with ends where it falls."""

from __future__ import annotations

from warmgraphite.collage.texture import Layer, Texture

TEXTURE = Texture(
    name="planks", label="Planks", group="timber", sort="units", colour="#cbab80", second="#b08e68", joints="#6f5a45",
    turned="along",
    length=3.2, height=0.14, joint=0.006, bond=-1.0, loose=0.6, unit_tone=0.10, unit_hue=0.9, bevel=0.006, weather=0.25,
    layers=(Layer(0.9, 0.008, 0.10, 3), Layer(1.7, 0.05, 0.06, 2)),
)  # fmt: skip
