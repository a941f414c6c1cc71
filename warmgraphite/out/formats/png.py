"""PNG (ISO/IEC 15948): pixels without loss, with what is transparent."""

from __future__ import annotations

from collections.abc import Sequence

from warmgraphite.out.format import About, Format, straight_pixels
from warmgraphite.out.leaf import Leaf
from warmgraphite.out.png import packed
from warmgraphite.out.settings import OutSettings


def _write(leaves: Sequence[Leaf], settings: OutSettings, _about: About) -> bytes:
    return packed(straight_pixels(leaves[0], settings), settings.resolution)


FORMAT = Format(
    "png", "PNG", "Pixels without loss; without the paper what is bare is transparent.", 3, _write, is_pixels=True
)
