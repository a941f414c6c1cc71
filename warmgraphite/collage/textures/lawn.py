"""Lawn, mown."""

from __future__ import annotations

from warmgraphite.collage.texture import Layer, Texture

TEXTURE = Texture(
    name="lawn", label="Lawn", group="water and green", sort="strewn", colour="#a9b482", second="#8a9a66",
    length=0.006, height=0.034, mark_length=0.034, mark_width=0.004, mark_turn=12.0, unit_tone=0.15, unit_hue=0.8,
    hue=0.3, hue_cell=2.2, layers=(Layer(1.6, 1.6, 0.08, 2),),
)  # fmt: skip
