"""The proof of a drawing: as it will look, with what fills in, and by how much it is to be lifted so that it stays open."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from warmgraphite.collage.kinds.for_print import ForPrint
from warmgraphite.progress import Progress, silent
from warmgraphite.proof.filling import filled_in
from warmgraphite.proof.printer import PrintPaper, from_linear, in_steps, lightness_of, printed

__all__ = ["LIFTS", "Proof", "proof_of"]

#: How much darks can be lifted, from a little on: the lift, and how light the darkest becomes.
LIFTS: tuple[tuple[float, float], ...] = ((0.2, 0.02), (0.4, 0.05), (0.6, 0.08), (0.8, 0.12), (1.0, 0.17))
#: The share of what fills in that may be left.
LEFT = 0.25
#: The share of a drawing below which nothing is worth lifting.
NOTHING = 0.0002


@dataclass(frozen=True)
class Proof:
    """``looks`` (h, w, 3) is how a drawing looks on paper, ``marks`` (h, w) where it fills in, ``share`` how much of it does; ``lift`` and ``black``
    are how it is lifted so that little of it does, and ``after`` is what is left then."""

    looks: NDArray[np.uint8]
    marks: NDArray[np.bool_]
    share: float
    lift: float
    black: float
    after: float


def proof_of(
    pixels: NDArray[np.uint8], paper: PrintPaper, per_mm: float, black_only: bool = False, watch: Progress = silent
) -> Proof:
    """The proof of a picture (h, w, 3) of so many pixels to the millimetre. ``watch`` is told how far it is, and may raise to stop."""
    looks = printed(pixels, paper, black_only, lambda f: watch(0.3 * f))
    source = looks_grey(pixels) if black_only else pixels
    marks = filled_in(source, paper, per_mm, lambda f: watch(0.3 + 0.6 * f))
    share = float(marks.mean())
    lift = black = 0.0
    after = share
    if share > NOTHING:
        # A part of it tells as much as all of it: where most fills in.
        part = _worst(marks, source)
        first = max(float(filled_in(part, paper, per_mm).mean()), 1e-9)
        for lift, black in LIFTS:
            left = float(filled_in(lifted_pixels(part, lift, black), paper, per_mm).mean()) / first
            after = share * left
            if left <= LEFT:
                break
    return Proof(looks, marks, share, lift, black, after)


def looks_grey(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """(h, w, 3) a picture in greys of the same lightness."""
    grey = in_steps(from_linear(lightness_of(pixels)))
    return np.repeat(grey[..., None], 3, -1)


def lifted_pixels(pixels: NDArray[np.uint8], lift: float, black: float) -> NDArray[np.uint8]:
    """(h, w, 3) a picture as the sheet that lightens for print makes it."""
    sheet = ForPrint(id="lift", name="Lift", lift=lift, black=black)
    table = in_steps(sheet.change(np.arange(256, dtype=np.float32)[:, None] / np.float32(255)))[:, 0]
    return np.asarray(table[pixels], np.uint8)


def _worst(marks: NDArray[np.bool_], pixels: NDArray[np.uint8], side: int = 1200) -> NDArray[np.uint8]:
    """The window of a picture in which most fills in."""
    height, width = marks.shape
    if height <= side and width <= side:
        return pixels
    sums = np.pad(marks.astype(np.int64).cumsum(0).cumsum(1), ((1, 0), (1, 0)))
    high, wide = min(side, height), min(side, width)
    rows, columns = np.arange(0, height - high + 1, max(side // 3, 1)), np.arange(0, width - wide + 1, max(side // 3, 1))
    many = sums[rows[:, None] + high, columns + wide] - sums[rows[:, None], columns + wide] - sums[rows[:, None] + high, columns] + sums[rows[:, None], columns]  # fmt: skip
    row, column = np.unravel_index(int(many.argmax()), many.shape)
    top, left = int(rows[row]), int(columns[column])
    return pixels[top : top + high, left : left + wide]
