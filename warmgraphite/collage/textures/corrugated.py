"""Corrugated sheet."""

from __future__ import annotations

from warmgraphite.collage.texture import Layer, Texture

TEXTURE = Texture(
    name="corrugated", label="Corrugated sheet", group="metal", sort="ribs", colour="#bcc2c3", second="#a9aba6",
    length=0.076, bulge=0.9, weather=0.45, hue=0.3, hue_cell=1.5, layers=(Layer(0.3, 2.0, 0.04, 3),),
)  # fmt: skip
