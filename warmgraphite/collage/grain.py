"""Unevenness with a real size: the tooth of paper and the mottle of a wash, repeatable for a seed.

Value noise: random heights on a lattice of so many millimetres, joined smoothly, in octaves (Perlin, "An image
synthesizer", 1985, in its simplest form).
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from PIL import Image

__all__ = ["value_noise"]


#: Pixels up to which unevenness is kept: the desk's, which is laid anew with every sun, and no export's.
KEPT = 4_000_000


def value_noise(size: tuple[int, int], frame: tuple[float, float], cell: float, octaves: int, seed: int) -> NDArray[np.float32]:
    """(h, w) float32 from −1 to 1 for ``size`` = (width, height) pixels over ``frame`` millimetres; not to be written to.

    ``cell`` is the coarsest lattice in millimetres; each further octave halves it and its strength.
    """
    made = _kept if size[0] * size[1] <= KEPT else _made
    return made(size, frame, cell, octaves, seed)


def _made(size: tuple[int, int], frame: tuple[float, float], cell: float, octaves: int, seed: int) -> NDArray[np.float32]:
    width, height = size
    rng = np.random.default_rng(seed)
    out = np.zeros((height, width), np.float32)
    strength, total = 1.0, 0.0
    for _ in range(octaves):
        nx, ny = (max(2, int(np.ceil(side / cell)) + 2) for side in frame)
        lattice = rng.random((ny, nx), dtype=np.float32) * 2 - 1
        total += strength
        if nx >= width or ny >= height:
            # Finer than the pixels: what is left of it is its own noise, weaker by the averaging.
            weak = strength * np.sqrt(width * height / (nx * ny))
            out += np.float32(weak) * (np.random.default_rng(seed + 1).random((height, width), dtype=np.float32) * 2 - 1)
            break
        # The lattice's own spacing decides how much of it the frame shows: its grain keeps its size on any paper.
        shown = (0.5, 0.5, 0.5 + frame[0] / cell, 0.5 + frame[1] / cell)
        wide = Image.fromarray(lattice).resize((width, height), Image.Resampling.BICUBIC, box=shown)
        out += np.float32(strength) * np.asarray(wide)
        cell /= 2
        strength /= 2
    out /= np.float32(total)
    out.flags.writeable = False
    return out


_kept = lru_cache(maxsize=16)(_made)
