"""PDF (ISO 32000): true size, vectors with tones beneath them, layers that are switched; or PDF/A-2b, which is kept."""

from __future__ import annotations

from collections.abc import Sequence

from warmgraphite.canvas.document import Document
from warmgraphite.canvas.outlined import Outlined
from warmgraphite.out.format import About, Format
from warmgraphite.out.layering import Layering
from warmgraphite.out.leaf import Leaf
from warmgraphite.out.settings import OutSettings


def _write(leaves: Sequence[Leaf], settings: OutSettings, about: About) -> bytes:
    document = Document(about.title, about.subject, ", ".join(about.keywords), settings.archival, settings.quality)
    for leaf in leaves:
        layering = Layering.of(settings, leaf.holds_drawings)
        document.page(
            leaf.size,
            lambda c, leaf=leaf: leaf.draw(Outlined(c) if settings.text == "outlines" else c),  # type: ignore[misc]
            layering,
        )
    return document.bytes()


FORMAT = Format(
    "pdf", "PDF", "True size, vector lines and letters over pictures of tones, layers that a reader switches.", 1,
    _write,
    is_pixels=False, many=True, options=("paper", "layers", "archival", "text", "quality"),
)  # fmt: skip
