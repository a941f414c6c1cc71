"""Linen, woven."""

from __future__ import annotations

from warmgraphite.collage.texture import Layer, Texture

TEXTURE = Texture(
    name="linen", label="Linen", group="cloth and paper", sort="units", colour="#e2d8c4", second="#d3c7af",
    joints="#b9ad97",
    length=0.0022, height=0.0016, joint=0.0003, bond=0.5, loose=0.3, unit_tone=0.10, unit_hue=0.6,
    layers=(Layer(0.05, 0.0016, 0.08, 2), Layer(0.0022, 0.05, 0.08, 2), Layer(0.25, 0.2, 0.03, 3)),
)  # fmt: skip
