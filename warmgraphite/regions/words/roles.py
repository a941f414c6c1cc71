"""Roles: what parts are in the drawing."""

from __future__ import annotations

import numpy as np

from warmgraphite.model.behaviour import Role
from warmgraphite.regions.words._word import Word, of_parts

ROLES = Word(
    "roles",
    tuple[Role, ...],
    of_parts(lambda said, _asked, model: np.isin(model.parts.role, np.array(said))),
    order=5,
    names=lambda said: said,
    label="role",
)
