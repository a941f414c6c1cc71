"""Layers of the model, as globs, and what lies on layers within one that is called just so."""

from __future__ import annotations

from fnmatch import fnmatchcase

import numpy as np
from numpy.typing import NDArray

from warmgraphite.model.model import Model
from warmgraphite.regions.words._word import Asked, Names, Word, of_parts


def _on(patterns: tuple[str, ...], _asked: Asked, model: Model) -> NDArray[np.bool_]:
    """(P,) the parts on the layers."""

    def means(layer: str) -> bool:
        within = any(layer == p or layer.startswith(p + "/") for p in patterns)
        return within or any(fnmatchcase(layer, p) for p in patterns)

    chosen = {layer for layer in {p.layer for p in model.parts} if means(layer)}
    return np.array([p.layer in chosen for p in model.parts], bool)


LAYERS = Word("layers", Names, of_parts(_on), order=2, names=lambda said: said, label="layer")
