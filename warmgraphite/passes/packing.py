"""Results as plain arrays, in which the store keeps them, and hashes of arrays."""

from __future__ import annotations

import hashlib
from dataclasses import fields
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.geometry.ragged import firsts, split_rows
from warmgraphite.passes.store import Arrays

__all__ = ["as_arrays", "digest", "from_wkb", "to_wkb"]


def digest(*arrays: NDArray[Any]) -> str:
    """A hash of arrays, text among them."""
    found = hashlib.sha256()
    for array in arrays:
        text = array.dtype.kind == "U"
        data = "\0".join(array.ravel().tolist()).encode() if text else np.ascontiguousarray(array).tobytes()
        found.update(repr(array.shape).encode() + data)
    return found.hexdigest()[:32]


def as_arrays(found: Any) -> Arrays:
    """The fields of a result, by name."""
    return {f.name: getattr(found, f.name) for f in fields(found)}


def to_wkb(rows: list[shapely.Geometry]) -> NDArray[np.uint8]:
    """Shapes as one array of bytes."""
    # Length-prefixed, because a fixed-width byte array would drop trailing zeros.
    data = [bytes(b) for b in shapely.to_wkb(rows)] if rows else []
    sizes = np.array([len(d) for d in data], np.int64)
    return np.concatenate(
        [np.array([len(data)], np.int64).view(np.uint8), sizes.view(np.uint8), np.frombuffer(b"".join(data), np.uint8)]
    )


def from_wkb(data: NDArray[np.uint8]) -> list[shapely.Geometry]:
    """The shapes of such an array."""
    count = int(data[:8].view(np.int64)[0])
    sizes = data[8 : 8 + 8 * count].copy().view(np.int64)
    pieces = split_rows(data[8 + 8 * count :], firsts(sizes))
    return list(shapely.from_wkb([p.tobytes() for p in pieces])) if count else []
