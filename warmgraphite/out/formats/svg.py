"""SVG 1.1: the same groups by name, letters of embedded fonts or as outlines."""

from __future__ import annotations

from collections.abc import Sequence

from warmgraphite.canvas.outlined import Outlined
from warmgraphite.canvas.svg import SvgCanvas
from warmgraphite.out.format import About, Format
from warmgraphite.out.leaf import Leaf
from warmgraphite.out.settings import OutSettings


def _write(leaves: Sequence[Leaf], settings: OutSettings, about: About) -> bytes:
    canvas = SvgCanvas(*leaves[0].size, title=about.title)
    leaves[0].draw(Outlined(canvas) if settings.text == "outlines" else canvas)
    return canvas.document().encode()


FORMAT = Format(
    "svg", "SVG", "Vectors in named groups, for a drawing program or a page.", 2, _write, is_pixels=False,
    options=("paper", "layers", "text"),
)  # fmt: skip
