"""Leaves."""

from __future__ import annotations

from warmgraphite.collage.texture import Layer, Texture

TEXTURE = Texture(
    name="foliage", label="Foliage", group="water and green", sort="strewn", colour="#a5b07c", second="#75865a",
    length=0.08, height=0.09, mark_length=0.09, mark_width=0.08, mark_turn=55.0, sheets=2, unit_tone=0.24, unit_hue=0.9,
    hue=0.4, hue_cell=0.8, layers=(Layer(0.6, 0.5, 0.16, 3),),
)  # fmt: skip
