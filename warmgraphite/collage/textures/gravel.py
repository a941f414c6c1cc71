"""Gravel."""

from __future__ import annotations

from warmgraphite.collage.texture import Layer, Texture

TEXTURE = Texture(
    name="gravel", label="Gravel", group="ground", sort="cells", colour="#cfc5b3", second="#a99f90", joints="#9b9181",
    length=0.034, height=0.034, joint=0.006, loose=0.9, unit_tone=0.18, unit_hue=1.0, bevel=0.006, hue=0.2,
    hue_cell=2.0,
    layers=(Layer(0.6, 0.6, 0.06, 3),),
)  # fmt: skip
