"""The textures: one module each, found by being here."""

from __future__ import annotations

from warmgraphite.catalogue import Catalogue, constants_in
from warmgraphite.collage.texture import GROUPS, Texture

__all__ = ["TEXTURES"]

#: Each texture by its name, in the order of their groups and labels.
TEXTURES: Catalogue[Texture] = Catalogue(
    lambda: constants_in(__name__, "TEXTURE"), lambda t: t.name, lambda t: (GROUPS.index(t.group), t.label)
)
