"""The patterns: one module each, found by being here. A module has a ``PATTERN``, which is called as the module is."""

from __future__ import annotations

from importlib import import_module
from pkgutil import iter_modules

from warmgraphite.ink.pattern import Pattern

__all__ = ["PATTERNS"]


def _found() -> dict[str, Pattern]:
    modules = (import_module(f"{__name__}.{m.name}") for m in iter_modules(__path__) if not m.name.startswith("_"))
    return {m.PATTERN.name: m.PATTERN for m in modules}


#: Each pattern by its name.
PATTERNS: dict[str, Pattern] = _found()
