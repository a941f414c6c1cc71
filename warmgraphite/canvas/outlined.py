"""A canvas that draws letters as outlines on another one, for receivers that have no way with fonts."""

from __future__ import annotations

from typing import Any

from fontTools.pens.basePen import BasePen
from fontTools.ttLib import TTFont

from warmgraphite.canvas.fonts import face_file
from warmgraphite.canvas.lettering import shaped
from warmgraphite.canvas.passing import Passing
from warmgraphite.canvas.protocol import Anchor, Face, Path
from warmgraphite.memory import remembered

__all__ = ["Outlined"]


class _Steps(BasePen):
    """Takes down a glyph's outline as steps of a path, y upwards in units of the em.
    Quadratic curves become cubic ones.
    """

    def __init__(self, glyphs: Any) -> None:
        super().__init__(glyphs)
        self.steps: list[tuple[str, tuple[float, ...]]] = []

    def _moveTo(self, pt: tuple[float, float]) -> None:
        self.steps.append(("M", (*pt,)))

    def _lineTo(self, pt: tuple[float, float]) -> None:
        self.steps.append(("L", (*pt,)))

    def _curveToOne(self, pt1: tuple[float, float], pt2: tuple[float, float], pt3: tuple[float, float]) -> None:
        self.steps.append(("C", (*pt1, *pt2, *pt3)))

    def _closePath(self) -> None:
        self.steps.append(("Z", ()))


@remembered("typefaces")
def _font(face: Face) -> tuple[Any, list[str], float]:
    font = TTFont(face_file(face).path)
    return font.getGlyphSet(), font.getGlyphOrder(), float(font["head"].unitsPerEm)


@remembered("lettering")
def _outline(face: Face, glyph: int) -> tuple[tuple[str, tuple[float, ...]], ...]:
    """The outline of a glyph at a size of 1, y downwards."""
    glyphs, order, em = _font(face)
    pen = _Steps(glyphs)
    glyphs[order[glyph]].draw(pen)
    return tuple((step, tuple(n / em * (1, -1)[i % 2] for i, n in enumerate(numbers))) for step, numbers in pen.steps)


class Outlined(Passing):
    """Draws on ``canvas``, a line of text as one filled path in a group that is called what it says."""

    def text(
        self, x: float, y: float, words: str, face: Face, size: float, colour: str, anchor: Anchor = "start"
    ) -> None:
        line = shaped(words, face)
        left = x - {"start": 0.0, "middle": line.width / 2, "end": line.width}[anchor] * size
        path = Path()
        for glyph, dx, dy in zip(line.glyphs, line.x, line.y, strict=True):
            at = (left + dx * size, y - dy * size)
            for step, numbers in _outline(face, glyph):
                path.steps.append((step, tuple(n * size + at[i % 2] for i, n in enumerate(numbers))))
        if path.steps:
            with self.group(f"text {words}"):
                self.path(path, colour, rule="nonzero")
