"""What things weigh: how many bytes of memory they hold."""

from __future__ import annotations

import sys
from collections.abc import Iterable
from dataclasses import dataclass
from types import BuiltinFunctionType, FunctionType, MethodType, ModuleType
from typing import Any

import numpy as np
import shapely

from warmgraphite.memory.derived import beside, has_derived

__all__ = ["Weight", "weight_of"]

#: Bytes from which a block is told apart from the rest, so that things which share it are not weighed twice.
BLOCK = 4096
#: Bytes of a shape beside its places, which take 16 each; and of a path of the drawing library for each of its points.
SHAPE, PLACE, POINT = 160, 16, 10
#: Bytes of any object that nothing more is known of.
LEAST = 64
#: Objects that are looked into one by one before the rest is taken to be like them.
MOST_LOOKED = 20_000

#: What is part of the program, or too small to be looked into.
_NOTHING = (type, ModuleType, FunctionType, BuiltinFunctionType, MethodType, bool, int, float, complex, type(None))


@dataclass(frozen=True)
class Weight:
    """``blocks`` are the bytes of large blocks by their identity, ``rest`` those of all else."""

    rest: int
    blocks: dict[int, int]

    @property
    def bytes(self) -> int:
        """All of it, as if nobody else held any of it."""
        return self.rest + sum(self.blocks.values())


def weight_of(*things: Any) -> Weight:
    """How many bytes things hold: the arrays, shapes, pictures and texts that can be reached from them, each once.

    Views weigh what they look into. An object may say for itself what it weighs by a method ``weighed``, which gives
    bytes, and things that it holds beside them. Weak references hold nothing.
    """
    rest, looked = 0, 0
    blocks: dict[int, int] = {}
    seen: set[int] = set()
    todo: list[Any] = list(things)
    while todo:
        one = todo.pop()
        if isinstance(one, _NOTHING):
            continue
        if isinstance(one, np.ndarray):
            one = _root(one)
        if id(one) in seen:
            continue
        seen.add(id(one))
        looked += 1
        size, within = _own(one)
        if size >= BLOCK:
            blocks[id(one)] = size
        else:
            rest += size
        if looked < MOST_LOOKED:
            todo.extend(within)
    return Weight(rest, blocks)


def _root(array: np.ndarray[Any, Any]) -> Any:
    """What holds the numbers that an array shows."""
    while isinstance(array.base, np.ndarray):
        array = array.base
    return array


def _own(one: Any) -> tuple[int, Iterable[Any]]:
    """The bytes of an object without what it refers to, and that."""
    if isinstance(one, np.ndarray):
        if one.dtype.kind == "O":
            return one.nbytes + _shapes(one), [
                v for v in one.ravel()[:MOST_LOOKED] if not isinstance(v, shapely.Geometry)
            ]
        return one.nbytes, ()
    if isinstance(one, str | bytes | bytearray):
        return sys.getsizeof(one), ()
    if isinstance(one, dict):
        return sys.getsizeof(one), [*one.keys(), *one.values()]
    if isinstance(one, list | tuple | set | frozenset):
        return sys.getsizeof(one), one
    if isinstance(one, shapely.Geometry):
        return _shapes(np.array([one], object)), ()
    if isinstance(one, shapely.STRtree):
        return one.geometries.size * LEAST, [one.geometries]
    kind = type(one)
    if kind.__module__ == "skia":
        return _drawn(one), ()
    size, held = (
        one.weighed() if hasattr(kind, "weighed") else (LEAST, [*getattr(one, "__dict__", {}).values(), *_slots(one)])
    )
    return size, [*held, *beside(one).values()] if has_derived(kind) else held


def _shapes(rows: np.ndarray[Any, Any]) -> int:
    shapes = rows.ravel()[shapely.is_geometry(rows.ravel())]
    return int(len(shapes) * SHAPE + shapely.get_num_coordinates(shapes).sum() * PLACE) if len(shapes) else 0


def _drawn(one: Any) -> int:
    """The bytes of something of the drawing library: a picture four for each pixel."""
    if hasattr(one, "imageInfo"):
        return int(one.width() * one.height() * 4)
    return LEAST + POINT * int(one.countPoints()) if hasattr(one, "countPoints") else LEAST


def _slots(one: Any) -> list[Any]:
    names = [n for kind in type(one).__mro__ for n in _named(kind.__dict__.get("__slots__", ()))]
    return [getattr(one, n) for n in names if n not in ("__weakref__", "__dict__") and hasattr(one, n)]


def _named(slots: Any) -> tuple[str, ...]:
    return (slots,) if isinstance(slots, str) else tuple(slots)
