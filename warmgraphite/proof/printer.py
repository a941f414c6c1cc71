"""A simulated printer: how a picture looks once it is ink on paper.

Published curve. A tone of linear lightness L (of sRGB, IEC 61966-2-1) is laid down as a share of dots a = 1 − L (Murray
and Davies, "Halftone photography", 1936, with ink that is quite black). Dots grow on paper: a′ = a + 4·g·a·(1 − a), at
most 1, where g is the growth of a tone of one half. What is seen is paper where there is no dot and ink where there is
one: L′ = 1 − a′·(1 − K), where K is how light full ink is of the paper's lightness; and all of it is the paper's own
colour times that. Colours are laid down as black and three inks: black takes what all three have in common, and where
all together are more than the paper bears, the three give way.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from warmgraphite.colour import LUMINANCE, encoded, linear, shares
from warmgraphite.colour.light import STEPS
from warmgraphite.geometry.tolerances import NEAR
from warmgraphite.progress import Progress, silent
from warmgraphite.threads import in_stretches

__all__ = [
    "PAPERS",
    "PrintPaper",
    "PrintPaperName",
    "grown",
    "in_steps",
    "printed",
    "printed_lightness",
]

Floats = NDArray[np.float32]
PrintPaperName = Literal["coated", "uncoated", "newsprint"]


@dataclass(frozen=True)
class PrintPaper:
    """A paper.
    Its ``white`` as ``#rrggbb``, how much dots of one half grow on it (``gain``), how light full ink is on it
    (``black``), how much ink it bears, of 1 for a full one (``limit``), and the narrowest ``gap`` in millimetres that
    stays open between darks.
    """

    label: str
    about: str
    white: str
    gain: float
    black: float
    limit: float
    gap: float


PAPERS: dict[str, PrintPaper] = {
    "coated": PrintPaper("Coated", "Smooth and bright; ink stays on top and sharp.", "#fbfaf6", 0.13, 0.016, 3.0, 0.10),
    "uncoated": PrintPaper("Uncoated", "Open and warm; ink sinks in and spreads.", "#f4efe3", 0.20, 0.045, 2.4, 0.18),
    "newsprint": PrintPaper(
        "Newsprint", "Grey and thin; ink runs and is never black.", "#e3dccb", 0.28, 0.090, 1.9, 0.28
    ),
}


def in_steps(coded: Floats) -> NDArray[np.uint8]:
    """sRGB from 0 to 255 of sRGB from 0 to 1."""
    return (255 * coded + np.float32(0.5)).astype(np.uint8)


def grown(dots: Floats, gain: float) -> Floats:
    """The shares of dots once they have grown on paper."""
    return np.minimum(dots + 4 * gain * dots * (1 - dots), 1).astype(np.float32)


def printed_lightness(light: Floats, paper: PrintPaper) -> Floats:
    """The published curve: the lightness on paper, of the paper's own, of a linear lightness."""
    return np.asarray(
        1 - grown(np.clip(1 - light, 0, 1).astype(np.float32), paper.gain) * (1 - paper.black), np.float32
    )


def printed(
    pixels: NDArray[np.uint8], paper: PrintPaper, black_only: bool = False, watch: Progress = silent
) -> NDArray[np.uint8]:
    """(h, w, 3) pixels as they look on paper. ``watch`` is told the share that is printed, and may raise to stop."""
    out = np.empty((*pixels.shape[:2], 3), np.uint8)
    white = linear(shares(paper.white)[0].astype(np.float32))

    def rows(first: int, last: int) -> None:
        light = STEPS[pixels[first:last, :, :3]]
        if black_only:
            on_paper = printed_lightness(light @ LUMINANCE, paper)[..., None] * white
        else:
            top = light.max(-1, keepdims=True)
            black = 1 - top
            # What is quite black has no colour.
            inks = np.asarray(1 - np.where(top > 0, light, 1) / np.where(top > 0, top, 1), np.float32)
            most = np.maximum(paper.limit - black, 0)
            inks *= np.minimum(1, most / np.maximum(inks.sum(-1, keepdims=True), np.float32(NEAR)))
            # The three inks let a little through, too.
            on_paper = (
                (1 - grown(black, paper.gain) * (1 - paper.black))
                * (1 - grown(inks, paper.gain) * (1 - paper.black))
                * white
            )
        out[first:last] = in_steps(encoded(np.asarray(on_paper, np.float32)))

    in_stretches(rows, len(pixels), 64, watch)
    return out
