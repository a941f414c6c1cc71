"""The formats that drawings are written in, one file each: found by being there."""

from __future__ import annotations

from warmgraphite.catalogue import Catalogue, constants_in
from warmgraphite.out.format import Format

__all__ = ["FORMATS"]

#: Every format, by the ending of its files.
FORMATS: Catalogue[Format] = Catalogue(lambda: constants_in(__name__, "FORMAT"), lambda f: f.ending, lambda f: f.order)
