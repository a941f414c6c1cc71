"""The backdrops: one module each, found by being here."""

from __future__ import annotations

from importlib import import_module
from pkgutil import iter_modules

from warmgraphite.collage.backdrop import Backdrop

__all__ = ["BACKDROPS"]

_ORDER = ("clear", "high-cloud", "rain", "evening", "hills", "wood", "town")


def _found() -> dict[str, Backdrop]:
    rows = [import_module(f"{__name__}.{m.name}").BACKDROP for m in iter_modules(__path__)]
    place = lambda b: _ORDER.index(b.name) if b.name in _ORDER else len(_ORDER)
    return {b.name: b for b in sorted(rows, key=lambda b: (place(b), b.label))}


#: Each backdrop by its name: skies first, then what stands on the horizon.
BACKDROPS: dict[str, Backdrop] = _found()
