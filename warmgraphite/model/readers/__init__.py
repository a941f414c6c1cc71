"""The formats of model files that are read: one module each, found by being here. A module has a ``READER``."""

from __future__ import annotations

from warmgraphite.catalogue import Catalogue, constants_in
from warmgraphite.model.reader import Reader

__all__ = ["READERS"]

#: Each format by its name, in the order in which a file is asked whether it is one.
READERS: Catalogue[Reader] = Catalogue(lambda: constants_in(__name__, "READER"), lambda r: r.name, lambda r: r.order)
