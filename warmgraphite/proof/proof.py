"""The proof of a drawing.
As it will look, with what fills in, and by how much it is to be lifted so that it stays open.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from warmgraphite.collage.kinds.for_print import ForPrint
from warmgraphite.colour import encoded, lightness
from warmgraphite.geometry.tolerances import ROUNDING
from warmgraphite.progress import Progress, silent
from warmgraphite.proof.filling import filled_in
from warmgraphite.proof.printer import PrintPaper, in_steps, printed
from warmgraphite.threads import in_stretches, in_threads

__all__ = ["LIFTS", "Lifting", "Proof", "lifting_of", "proof_of"]

#: How much darks can be lifted, from a little on: the lift, and how light the darkest becomes.
LIFTS: tuple[tuple[float, float], ...] = ((0.2, 0.02), (0.4, 0.05), (0.6, 0.08), (0.8, 0.12), (1.0, 0.17))
#: The share of what fills in that may be left; and how many times what the most lifting leaves, where that is more:
#: gaps between lines are not opened by it.
LEFT, NEARLY = 0.25, 1.15
#: The share of a drawing below which nothing is worth lifting.
NOTHING = 0.0002
#: Pixels of a side of what is lifted to see what it leaves, and how many places are.
_SIDE, _PLACES = 800, 6


@dataclass(frozen=True)
class Lifting:
    """How a picture is lifted so that little of it fills in.
    ``lift`` and ``black`` of the sheet that lightens for print, and the share that is left then, ``after``.
    """

    lift: float
    black: float
    after: float


@dataclass(frozen=True)
class Proof:
    """How a drawing looks on paper, and what fills in.
    ``looks`` (h, w, 3) is how a drawing looks on paper, ``marks`` (h, w) where it fills in, ``share`` how much of it
    does, and ``lifting`` what opens it.
    """

    looks: NDArray[np.uint8]
    marks: NDArray[np.bool_]
    share: float
    lifting: Lifting


def proof_of(
    pixels: NDArray[np.uint8], paper: PrintPaper, per_mm: float, black_only: bool = False, watch: Progress = silent
) -> Proof:
    """The proof of a picture (h, w, 3) of so many pixels to the millimetre.
    ``watch`` is told how far it is, and may raise to stop.
    """
    looks = printed(pixels, paper, black_only, lambda f: watch(0.3 * f))
    source = looks_grey(pixels) if black_only else pixels
    marks = filled_in(source, paper, per_mm, lambda f: watch(0.3 + 0.5 * f))
    lifting = lifting_of(pixels, marks, paper, per_mm, black_only, lambda f: watch(0.8 + 0.2 * f))
    return Proof(looks, marks, float(marks.mean()), lifting)


def lifting_of(
    pixels: NDArray[np.uint8], marks: NDArray[np.bool_], paper: PrintPaper, per_mm: float, black_only: bool = False,
    watch: Progress = silent,
) -> Lifting:  # fmt: skip
    """The least lift of a picture (h, w, 3) that leaves little of what fills in, its ``marks`` (h, w).
    Judged by places that stand for all of it.
    """
    share = float(marks.mean()) if marks.size else 0.0
    if share <= NOTHING:
        return Lifting(0.0, 0.0, share)
    parts = [looks_grey(pixels[place]) if black_only else pixels[place] for place in _places(marks)]
    first = [max(float(filled_in(part, paper, per_mm).mean()), ROUNDING) for part in parts]

    def left(number: int) -> float:
        many = [float(filled_in(lifted_pixels(part, *LIFTS[number]), paper, per_mm).mean()) for part in parts]
        return float(np.mean([a / b for a, b in zip(many, first, strict=True)]))

    leaves = in_threads(left, range(len(LIFTS)), watch)
    chosen = next(n for n, leaf in enumerate(leaves) if leaf <= max(LEFT, NEARLY * min(leaves)))
    return Lifting(*LIFTS[chosen], share * min(1.0, leaves[chosen]))


def looks_grey(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """(h, w, 3) a picture in greys of the same lightness."""
    out = np.empty((*pixels.shape[:2], 3), np.uint8)

    def rows(first: int, last: int) -> None:
        out[first:last] = in_steps(encoded(lightness(pixels[first:last])))[..., None]

    in_stretches(rows, len(pixels), 256)
    return out


def lifted_pixels(pixels: NDArray[np.uint8], lift: float, black: float) -> NDArray[np.uint8]:
    """(h, w, 3) a picture as the sheet that lightens for print makes it."""
    sheet = ForPrint(id="lift", name="Lift", lift=lift, black=black)
    table = in_steps(sheet.change(np.arange(256, dtype=np.float32)[:, None] / np.float32(255)))[:, 0]
    return np.asarray(table[pixels], np.uint8)


def _places(marks: NDArray[np.bool_]) -> list[tuple[slice, slice]]:
    """Windows of a picture that stand for all that fills in: each is chosen as often as its share of that says."""
    rows, columns = (max(1, -(-length // _SIDE)) for length in marks.shape)
    cells = [
        (
            slice(*(marks.shape[0] * k // rows for k in (r, r + 1))),
            slice(*(marks.shape[1] * k // columns for k in (c, c + 1))),
        )
        for r in range(rows)
        for c in range(columns)
    ]
    many = np.cumsum([np.count_nonzero(marks[cell]) for cell in cells])
    count = min(_PLACES, len(cells))
    return [cells[int(np.searchsorted(many, many[-1] * (k + 0.5) / count))] for k in range(count)]
