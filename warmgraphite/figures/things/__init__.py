"""Vehicles, furniture, animals and birds: one module each, found by being here, with what it calls its ``THINGS``."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from importlib import import_module
from pkgutil import iter_modules
from typing import Literal

import numpy as np

from warmgraphite.figures.piece import Piece

__all__ = ["Thing", "things"]

Chance = np.random.Generator


@dataclass(frozen=True)
class Thing:
    """One thing: how it is made of chance and a colour, its usual ``height`` in metres, what it is to a drawing. A ``flies`` one needs
    nothing to stand on."""

    name: str
    label: str
    group: Literal["vehicles", "furniture", "animals", "birds"]
    height: float
    make: Callable[[Chance, str], list[Piece]]
    colours: tuple[str, ...] = ("#8f8a80",)
    role: Literal["furniture", "context", "people"] = "context"
    flies: bool = False


@cache
def things() -> dict[str, Thing]:
    """Each thing by its name."""
    modules = sorted(m.name for m in iter_modules(__path__) if not m.name.startswith("_"))
    return {t.name: t for module in modules for t in import_module(f"{__name__}.{module}").THINGS}
