"""The formats that drawings are written in, one file each: found by being there."""

from __future__ import annotations

import importlib
import pkgutil

from warmgraphite.out.format import Format

__all__ = ["FORMATS"]


def _found() -> dict[str, Format]:
    modules = (importlib.import_module(f"{__name__}.{m.name}") for m in pkgutil.iter_modules(__path__))
    formats = [m.FORMAT for m in modules]
    return {f.ending: f for f in sorted(formats, key=lambda f: f.order)}


#: Every format, by the ending of its files.
FORMATS: dict[str, Format] = _found()
