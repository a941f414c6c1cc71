"""The backdrops: one module each, found by being here."""

from __future__ import annotations

from warmgraphite.catalogue import Catalogue, constants_in
from warmgraphite.collage.backdrop import Backdrop

__all__ = ["BACKDROPS"]

#: Each backdrop by its name: skies first, then what stands on the horizon.
BACKDROPS: Catalogue[Backdrop] = Catalogue(
    lambda: constants_in(__name__, "BACKDROP"), lambda b: b.name, lambda b: (not b.above, b.order, b.label)
)
