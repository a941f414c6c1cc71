"""Lettering: words shaped and measured with the shipped faces, and those faces cut down to what was written.

Shaping is HarfBuzz's, so that pairs are kerned and marks stand on their letters, and what is measured is what is drawn; faces are
cut down by fontTools.
"""

from __future__ import annotations

import io
from dataclasses import dataclass
from functools import cache

import uharfbuzz
from fontTools import subset
from fontTools.ttLib import TTFont

from warmgraphite.canvas.fonts import FACES
from warmgraphite.canvas.protocol import Face

__all__ = ["Shaped", "measured", "shaped", "subset_font"]


@dataclass(frozen=True)
class Shaped:
    """A line of text at a size of 1: ``glyphs`` with the place ``x``, ``y`` (upwards) of each, and how wide all is."""

    glyphs: tuple[int, ...]
    x: tuple[float, ...]
    y: tuple[float, ...]
    width: float


@cache
def _font(face: str) -> tuple[uharfbuzz.Font, int]:
    found = uharfbuzz.Face(uharfbuzz.Blob.from_file_path(str(FACES[face][0])))
    return uharfbuzz.Font(found), found.upem


@cache
def shaped(words: str, face: Face) -> Shaped:
    """The glyphs of a line of text."""
    font, em = _font(face)
    buffer = uharfbuzz.Buffer()
    buffer.add_str(words)
    buffer.guess_segment_properties()
    uharfbuzz.shape(font, buffer)
    at, x, y = 0.0, [], []
    for place in buffer.glyph_positions:
        x.append((at + place.x_offset) / em)
        y.append(place.y_offset / em)
        at += place.x_advance
    return Shaped(tuple(g.codepoint for g in buffer.glyph_infos), tuple(x), tuple(y), at / em)


def measured(words: str, face: Face, size: float) -> float:
    """How wide a line of text is, in the unit of ``size``."""
    return shaped(words, face).width * size


def subset_font(face: str, words: str) -> bytes:
    """A face as a TrueType file with the glyphs that these words need, and how they are put together."""
    options = subset.Options(layout_features=["*"], notdef_outline=True, name_IDs=["*"], hinting=False)
    font = TTFont(FACES[face][0], recalcTimestamp=False)  # the same words give the same file
    cut = subset.Subsetter(options)
    cut.populate(text=words)
    cut.subset(font)
    out = io.BytesIO()
    font.save(out)
    return out.getvalue()
