"""What notes are drawn of: lines, areas, ribbons and lines of text in millimetres of the frame.
And text that is set.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

from warmgraphite.canvas.lettering import capital_height, measured
from warmgraphite.canvas.protocol import Anchor, Canvas, Stroke
from warmgraphite.ink.work import Work, draw_rows
from warmgraphite.memory import remembered

__all__ = [
    "Area",
    "Block",
    "Box",
    "Inked",
    "Line",
    "Mark",
    "Ribbon",
    "Text",
    "block",
    "draw_marks",
    "line_width",
    "patch",
    "plain",
    "set_line",
]

Array: TypeAlias = NDArray[np.float64]
#: Left, top, right, bottom in millimetres.
Box: TypeAlias = tuple[float, float, float, float]

#: From one line to the next, of the height of capitals.
LEADING = 1.9
#: Raised and lowered text: how large it is, and how far it is moved, of the height of capitals.
SMALL, RAISED, LOWERED = 0.64, 0.48, -0.22
_RUNS = re.compile(r"\^\{([^}]*)\}|\^([0-9+\-a-zA-Z])|_\{([^}]*)\}|\{(\d+)/(\d+)\}")


@dataclass(frozen=True)
class Line:
    """A polyline (n, 2)."""

    points: Array
    stroke: Stroke
    opacity: float = 1.0


@dataclass(frozen=True)
class Area:
    """Closed outlines, filled."""

    rings: list[Array]
    colour: str
    opacity: float = 1.0
    blend: str = "normal"


@dataclass(frozen=True)
class Ribbon:
    """A stroke along points (n, 2), ``width`` (n,) millimetres wide."""

    points: Array
    width: Array
    colour: str
    opacity: float = 1.0


@dataclass(frozen=True)
class Text:
    """One line of text on its baseline; ``size`` is its em, ``turn`` in degrees, counter-clockwise."""

    x: float
    y: float
    words: str
    face: str
    size: float
    colour: str
    anchor: Anchor = "start"
    turn: float = 0.0


@dataclass(frozen=True)
class Inked:
    """Marks of a hatch, as the hand of the drawing makes them."""

    work: Work


Mark: TypeAlias = Line | Area | Ribbon | Text | Inked


def draw_marks(canvas: Canvas, marks: Iterable[Mark]) -> None:
    """Draw them, in their order."""
    for mark in marks:
        if isinstance(mark, Text):
            _draw_text(canvas, mark)
        elif isinstance(mark, Inked):
            draw_rows(canvas, mark.work)
        elif isinstance(mark, Area):
            if mark.opacity == 1 and mark.blend == "normal":
                canvas.fill(mark.rings, mark.colour)
            else:
                with canvas.group("wash", mark.opacity, mark.blend):
                    canvas.fill(mark.rings, mark.colour)
        elif mark.opacity < 1:
            with canvas.group("stroke", mark.opacity):
                _draw_line(canvas, mark)
        else:
            _draw_line(canvas, mark)


def _draw_line(canvas: Canvas, mark: Line | Ribbon) -> None:
    if isinstance(mark, Line):
        canvas.stroke([mark.points], mark.stroke)
    elif len(mark.points) > 1:
        canvas.ribbons(mark.points, mark.width, np.array([0, len(mark.points)], np.int64), mark.colour)


def _draw_text(canvas: Canvas, text: Text) -> None:
    if not text.turn:
        canvas.text(text.x, text.y, text.words, text.face, text.size, text.colour, text.anchor)
        return
    c, s = float(np.cos(np.radians(text.turn))), float(np.sin(np.radians(text.turn)))
    with canvas.transform((c, -s, s, c, text.x, text.y)):
        canvas.text(0, 0, text.words, text.face, text.size, text.colour, text.anchor)


def _runs(words: str) -> Iterator[tuple[str, int]]:
    """What of a line is written as it stands (0), raised (1) or lowered (−1): ``m^2``, ``CO_{2}``, ``{3/4}``."""
    at = 0
    for found in _RUNS.finditer(words):
        if found.start() > at:
            yield words[at : found.start()], 0
        at = found.end()
        if found[4] is not None:
            yield found[4], 1
            yield "\u2044", 0
            yield found[5], -1
        elif found[3] is not None:
            yield found[3], -1
        else:
            yield found[1] if found[1] is not None else found[2], 1
    if at < len(words):
        yield words[at:], 0


def plain(words: str) -> str:
    """The letters of a line, without what raises or lowers them."""
    return "".join(run for run, _ in _runs(words))


@remembered("lettering")
def line_width(words: str, face: str, capitals: float) -> float:
    """How wide a line is, in millimetres, whose capitals are so high."""
    em = capitals / capital_height(face)
    return sum(measured(run, face, em * (SMALL if rise else 1.0)) for run, rise in _runs(words))


def set_line(
    words: str, x: float, y: float, face: str, capitals: float, colour: str, anchor: Anchor = "start", turn: float = 0.0
) -> list[Text]:
    """A line on its baseline at (x, y), with what of it is raised or lowered."""
    em = capitals / capital_height(face)
    left = -{"start": 0.0, "middle": 0.5, "end": 1.0}[anchor] * line_width(words, face, capitals)
    along = np.array([np.cos(np.radians(turn)), -np.sin(np.radians(turn))])
    up = np.array([-np.sin(np.radians(turn)), -np.cos(np.radians(turn))])
    out = []
    for run, rise in _runs(words):
        size = em * (SMALL if rise else 1.0)
        moved = np.array([x, y]) + along * left + up * ({1: RAISED, 0: 0.0, -1: LOWERED}[rise] * capitals)
        out.append(Text(float(moved[0]), float(moved[1]), run, face, size, colour, "start", turn))
        left += measured(run, face, size)
    return out


@dataclass(frozen=True)
class Block:
    """Lines of text, one below another, from (0, 0) at their left and top: how ``wide`` and ``high`` they are."""

    lines: tuple[str, ...]
    face: str
    capitals: float
    wide: float
    high: float

    def at(self, x: float, y: float, colour: str, anchor: Anchor = "start") -> list[Text]:
        """The block with its top at y, its left, middle or right at x."""
        out: list[Text] = []
        for number, line in enumerate(self.lines):
            out += set_line(
                line, x, y + self.capitals * (1 + LEADING * number), self.face, self.capitals, colour, anchor
            )
        return out

    def box(self, x: float, y: float, anchor: Anchor = "start") -> Box:
        """The room that it takes there."""
        left = x - {"start": 0.0, "middle": self.wide / 2, "end": self.wide}[anchor]
        return left, y, left + self.wide, y + self.high


def block(words: str | Sequence[str], face: str, capitals: float, wide: float | None = None) -> Block:
    """Text in lines, broken where it is wider than ``wide`` millimetres.
    The room below the last line is that of its descenders.
    """
    rows = words.split("\n") if isinstance(words, str) else list(words)
    lines = tuple(part for row in rows for part in (_broken(row, face, capitals, wide) if wide else [row]))
    widest = max((line_width(line, face, capitals) for line in lines), default=0.0)
    return Block(lines, face, capitals, widest, capitals * (1 + LEADING * (len(lines) - 1) + 0.35) if lines else 0.0)


def patch(box: Box, by: float) -> Array:
    """A rounded outline round a box, ``by`` millimetres larger."""
    x0, y0, x1, y1 = box
    turn = np.radians(np.arange(0, 90.1, 15))
    quarter = by * np.column_stack([np.cos(turn), np.sin(turn)])
    corners = [(x1, y1, 1, 1), (x0, y1, -1, 1), (x0, y0, -1, -1), (x1, y0, 1, -1)]
    rows = [np.array([x, y]) + (quarter if sx * sy > 0 else quarter[::-1]) * [sx, sy] for x, y, sx, sy in corners]
    ring = np.vstack(rows)
    return np.vstack([ring, ring[:1]])


def _broken(row: str, face: str, capitals: float, wide: float) -> list[str]:
    out: list[str] = []
    for word in row.split(" "):
        if out and line_width(f"{out[-1]} {word}", face, capitals) <= wide:
            out[-1] = f"{out[-1]} {word}"
        else:
            out.append(word)
    return out
