"""Rows of unequal length in one array: flat values, and where each row begins among them.

``first`` (n + 1,) is where rows begin and the last one ends: row k is ``flat[first[k]:first[k + 1]]``. It is the layout
of compressed sparse rows (Eisenstat and others, "Yale sparse matrix package I", 1982), which loops read without a list
of arrays. Several arrays may share one ``first``, as points and widths of strokes do.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

__all__ = ["firsts", "firsts_of", "joined", "numbers", "ordinals", "row_of", "split_rows", "taken"]


def firsts(counts: Any) -> NDArray[np.int64]:
    """(n + 1,) where rows of these lengths (n,) begin, and where the last one ends."""
    out = np.zeros(len(counts) + 1, np.int64)
    np.cumsum(counts, out=out[1:])
    return out


def firsts_of(rows: Sequence[Any]) -> NDArray[np.int64]:
    """The same of rows as they are."""
    return firsts([len(row) for row in rows])


def joined(rows: Sequence[NDArray[Any]], empty: NDArray[Any]) -> tuple[NDArray[Any], NDArray[np.int64]]:
    """Rows one after another, and where each begins.
    ``empty`` is what there is of none, with the shape of its values and the kind of number.
    """
    flat = np.concatenate(rows) if len(rows) else empty
    return np.ascontiguousarray(flat, empty.dtype), firsts_of(rows)


def split_rows(flat: NDArray[Any], first: NDArray[np.integer[Any]]) -> list[NDArray[Any]]:
    """The rows, each a view of the flat values."""
    return np.split(flat, first[1:-1]) if len(first) > 1 else []


def row_of(counts: Any) -> NDArray[np.int64]:
    """(N,) of which row each value is, for rows of these lengths."""
    return np.repeat(np.arange(len(counts)), counts)


def ordinals(counts: Any) -> NDArray[np.int64]:
    """(N,) the place of each value in its own row, from 0 on."""
    counts = np.asarray(counts)
    return np.arange(int(counts.sum())) - np.repeat(np.cumsum(counts) - counts, counts)


def numbers(begin: Any, counts: Any) -> NDArray[np.int64]:
    """(N,) the numbers from each ``begin`` (n,) on, so many as ``counts`` (n,) says, one row after another."""
    return np.repeat(np.asarray(begin), counts) + ordinals(counts)


def taken(first: NDArray[np.integer[Any]], rows: Any) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """The places (N,) of the values of some rows, in their order, and where each of them begins then.
    ``rows`` are numbers or a mask (n,).
    """
    rows = np.flatnonzero(rows) if np.asarray(rows).dtype == bool else np.asarray(rows, np.int64)
    counts = first[rows + 1] - first[rows]
    return numbers(first[rows], counts), firsts(counts)
