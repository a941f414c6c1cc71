"""Still water, with ripples that lie to the viewer."""

from __future__ import annotations

from warmgraphite.collage.texture import Layer, Texture

TEXTURE = Texture(
    name="water", label="Water", group="water and green", colour="#a9bfbd", second="#c3cdc2", turned="viewer", hue=0.5,
    hue_cell=3.0,
    layers=(Layer(1.1, 0.09, 0.07, 2), Layer(5.0, 0.6, 0.06, 2)),
)  # fmt: skip
