"""Part sets of the study."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from warmgraphite.errors import NotThere
from warmgraphite.model.model import Model
from warmgraphite.regions.words._word import Asked, Names, Word, of_parts


def _in_any(said: tuple[str, ...], _asked: Asked, model: Model) -> NDArray[np.bool_]:
    """(P,) the parts in any of the sets; raises :class:`NotThere` for one that the model has not."""
    member = np.zeros(len(model.parts), bool)
    for name in said:
        in_set = model.in_set(name)
        if in_set is None:
            raise NotThere(f"There is no part set “{name}” in this model; choose another.")
        member |= in_set
    return member


SETS = Word(
    "sets",
    Names,
    of_parts(_in_any),
    order=1,
    names=lambda said: [f"“{name}”" for name in said],
    label="set",
)
