"""How strongly a part's role has it drawn."""

from __future__ import annotations

from typing import Literal

import numpy as np

from warmgraphite.regions.words._word import Word, of_parts

_CALLED = {"soft": "softly drawn", "plain": "plainly drawn", "strong": "strongly drawn"}

DRAWN = Word(
    "drawn",
    tuple[Literal["soft", "plain", "strong"], ...],
    of_parts(lambda said, _asked, model: np.isin(model.parts.drawn, np.array(said))),
    order=7,
    options=_CALLED,
)
