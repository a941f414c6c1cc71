"""Vehicles, furniture, animals and birds: one module each, found by being here, with what it calls its ``THINGS``."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from warmgraphite.catalogue import Catalogue, constants_in
from warmgraphite.figures.piece import Piece

__all__ = ["THINGS", "Thing"]

Chance = np.random.Generator


@dataclass(frozen=True)
class Thing:
    """One thing: how it is made of chance and a colour, its usual ``height`` in metres, what it is to a drawing.
    A ``flies`` one needs nothing to stand on, one that ``floats`` stands on water.
    """

    name: str
    label: str
    group: Literal["vehicles", "furniture", "animals", "birds"]
    height: float
    make: Callable[[Chance, str], list[Piece]]
    colours: tuple[str, ...] = ("#8f8a80",)
    role: Literal["furniture", "context", "people"] = "context"
    flies: bool = False
    floats: bool = False


#: Each thing by its name.
THINGS: Catalogue[Thing] = Catalogue(lambda: constants_in(__name__, "THINGS"), lambda t: t.name)
