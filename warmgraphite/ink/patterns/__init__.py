"""The patterns: one module each, found by being here. A module has a ``PATTERN``, which is called as the module is."""

from __future__ import annotations

from warmgraphite.catalogue import Catalogue, constants_in
from warmgraphite.ink.pattern import Pattern

__all__ = ["PATTERNS"]

#: Each pattern by its name.
PATTERNS: Catalogue[Pattern] = Catalogue(lambda: constants_in(__name__, "PATTERN"), lambda p: p.name)
