"""Sand."""

from __future__ import annotations

from warmgraphite.collage.texture import Layer, Texture

TEXTURE = Texture(
    name="sand", label="Sand", group="ground", colour="#e0d0aa", second="#cdb88d", hue=0.5, hue_cell=1.2,
    layers=(Layer(0.003, 0.003, 0.10, 2), Layer(0.25, 0.10, 0.05, 3), Layer(2.0, 1.4, 0.05, 2)), turned="viewer",
)  # fmt: skip
