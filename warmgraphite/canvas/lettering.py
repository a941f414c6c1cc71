"""Lettering: words shaped and measured with the shipped faces, and those faces cut down to what was written.

Shaping is HarfBuzz's, so that pairs are kerned and marks stand on their letters, and what is measured is what is drawn;
faces are cut down by fontTools.
"""

from __future__ import annotations

import io
from dataclasses import dataclass

import uharfbuzz
from fontTools.ttLib import TTFont

from warmgraphite.canvas.fonts import face_file
from warmgraphite.canvas.protocol import Face
from warmgraphite.memory import remembered

__all__ = ["Shaped", "capital_height", "measured", "missing_in", "postscript_name", "shaped", "subset_font"]


@dataclass(frozen=True)
class Shaped:
    """A line of text at a size of 1.
    ``glyphs`` with the place ``x``, ``y`` (upwards) of each, what of the text each stands for (``letters``), and how
    wide all is.
    """

    glyphs: tuple[int, ...]
    letters: tuple[str, ...]
    x: tuple[float, ...]
    y: tuple[float, ...]
    width: float


@remembered("typefaces")
def _font(face: str) -> tuple[uharfbuzz.Font, int]:
    found = uharfbuzz.Face(uharfbuzz.Blob.from_file_path(str(face_file(face).path)))
    return uharfbuzz.Font(found), found.upem


@remembered("lettering")
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
    infos = buffer.glyph_infos
    # Of several glyphs that come from the same letters the first stands for them.
    starts = sorted({g.cluster for g in infos})
    ends = dict(zip(starts, [*starts[1:], len(words)], strict=True))
    said, letters = set(), []
    for info in infos:
        letters.append("" if info.cluster in said else words[info.cluster : ends[info.cluster]])
        said.add(info.cluster)
    return Shaped(tuple(g.codepoint for g in infos), tuple(letters), tuple(x), tuple(y), at / em)


@remembered("typefaces")
def capital_height(face: Face) -> float:
    """How tall a capital is, at a size of 1: lettering is measured by it (ISO 3098)."""
    font = TTFont(face_file(face).path, lazy=True)
    found = getattr(font["OS/2"], "sCapHeight", 0) / font["head"].unitsPerEm
    return float(found) if 0.3 < found < 1.2 else 0.7


@remembered("typefaces")
def postscript_name(face: Face) -> str:
    """What a face is called in documents."""
    return str(TTFont(face_file(face).path, lazy=True)["name"].getDebugName(6) or "")


@remembered("typefaces")
def _letters(face: Face) -> frozenset[int]:
    return frozenset(TTFont(face_file(face).path, lazy=True).getBestCmap() or ())


def missing_in(words: str, face: Face) -> str:
    """The letters that a face has not, each once, in their order."""
    there = _letters(face)
    return "".join(dict.fromkeys(c for c in words if not c.isspace() and ord(c) not in there))


def measured(words: str, face: Face, size: float) -> float:
    """How wide a line of text is, in the unit of ``size``."""
    return shaped(words, face).width * size


def subset_font(face: str, words: str) -> bytes:
    """A face as a TrueType file with the glyphs that these words need, and how they are put together."""
    from fontTools import subset  # it takes half a second, and only files that leave the house need it

    options = subset.Options(layout_features=["*"], notdef_outline=True, name_IDs=["*"], hinting=False)
    font = TTFont(face_file(face).path, recalcTimestamp=False)  # the same words give the same file
    cut = subset.Subsetter(options)
    cut.populate(text=words)
    cut.subset(font)
    out = io.BytesIO()
    font.save(out)
    return out.getvalue()
