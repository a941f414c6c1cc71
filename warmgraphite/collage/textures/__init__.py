"""The textures: one module each, found by being here."""

from __future__ import annotations

from importlib import import_module
from pkgutil import iter_modules

from warmgraphite.collage.texture import Texture

__all__ = ["TEXTURES"]


def _found() -> dict[str, Texture]:
    rows = [import_module(f"{__name__}.{m.name}").TEXTURE for m in iter_modules(__path__)]
    groups = ["walls", "timber", "roofs", "metal", "ground", "water and green", "cloth and paper"]
    return {t.name: t for t in sorted(rows, key=lambda t: (groups.index(t.group), t.label))}


#: Each texture by its name, in the order of their groups and labels.
TEXTURES: dict[str, Texture] = _found()
