"""Storeys: the parts that stand on them."""

from __future__ import annotations

import numpy as np

from warmgraphite.model.landmarks import landmarks_of
from warmgraphite.model.model import Model
from warmgraphite.regions.words._word import Names, Word, of_parts

__all__ = ["STOREYS", "part_storeys"]

#: Metres that a part may begin below a storey's floor and still belong to it.
BELOW_FLOOR = 0.6


def part_storeys(model: Model) -> list[str]:
    """For each part the storey it stands on: the highest whose floor is not far above its foot.
    Empty where there is none.
    """
    levels = landmarks_of(model).levels
    foot = model.part_bounds[:, 0, 2]
    heights = np.array([z for _, z in levels])
    at = np.searchsorted(heights - BELOW_FLOOR, np.where(np.isfinite(foot), foot, -np.inf), side="right") - 1
    return [levels[k][0] if k >= 0 else "" for k in at]


STOREYS = Word(
    "storeys",
    Names,
    of_parts(lambda said, _asked, model: np.isin(part_storeys(model), said)),
    order=6,
    names=lambda said: said,
    label="storey",
)
