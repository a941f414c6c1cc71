"""Paper with a tooth and laid lines."""

from __future__ import annotations

from warmgraphite.collage.texture import Layer, Texture

TEXTURE = Texture(
    name="laid_paper", label="Paper", group="cloth and paper", sort="ribs", colour="#f0e8d8", second="#e6dcc8",
    length=0.0012, bulge=0.10, hue=0.3, hue_cell=0.06,
    layers=(Layer(0.0008, 0.0008, 0.05, 2), Layer(0.03, 0.03, 0.02, 3)),
)  # fmt: skip
