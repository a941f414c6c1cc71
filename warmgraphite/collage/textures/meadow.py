"""Meadow, with grass that leans."""

from __future__ import annotations

from warmgraphite.collage.texture import Layer, Texture

TEXTURE = Texture(
    name="meadow", label="Meadow", group="water and green", sort="strewn", colour="#b7b888", second="#8f9a63",
    length=0.030, height=0.20, mark_length=0.20, mark_width=0.016, mark_turn=12.0, sheets=2, unit_tone=0.20,
    unit_hue=0.9,
    hue=0.45, hue_cell=1.4, layers=(Layer(0.9, 0.7, 0.12, 4),),
)  # fmt: skip
