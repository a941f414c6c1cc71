"""Wire mesh; one sees through it."""

from __future__ import annotations

from warmgraphite.collage.texture import Layer, Texture

TEXTURE = Texture(
    name="mesh", label="Mesh", group="metal", sort="mesh", colour="#6f7274", second="#6f7274", length=0.05, joint=0.004,
    layers=(Layer(0.4, 0.4, 0.06, 2),),
)  # fmt: skip
