"""Materials by their names: of what is asked as it is filled where it is cut, what it counts as there."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from warmgraphite.model.model import Model
from warmgraphite.model.palette import number_named
from warmgraphite.regions.words._word import Asked, Names, PartCells, Word, of_parts


def _made_of(said: tuple[str, ...], asked: Asked, model: Model) -> NDArray[np.bool_]:
    numbers = [n for n in (number_named(model.materials, name) for name in said) if n is not None]
    return np.isin(asked.material if isinstance(asked, PartCells) else model.parts.material, numbers)


MATERIALS = Word("materials", Names, of_parts(_made_of), order=4, names=lambda said: said, label="material")
