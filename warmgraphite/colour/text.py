"""Colours as they are written: ``#rrggbb``, to numbers and back."""

from __future__ import annotations

import math
from collections.abc import Iterable
from itertools import islice
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

__all__ = ["Channels", "channels", "of_shares", "shares", "written"]

#: What stands for a channel that is no number.
UNKNOWN = 200


class Channels(NamedTuple):
    """Red, green and blue from 0 to 255."""

    red: int
    green: int
    blue: int


def channels(colour: str) -> Channels:
    """The channels of ``#rrggbb``; what follows, such as an opacity, is left out.
    Raises ``ValueError`` for anything else.
    """
    if len(colour) < 7 or colour[0] != "#":
        raise ValueError(f"“{colour}” is no colour; write it as # and six hexadecimal figures")
    return Channels(*(int(colour[i : i + 2], 16) for i in (1, 3, 5)))


def shares(*colours: str) -> NDArray[np.float64]:
    """(N, 3) the channels of colours as shares of full ones, 0 to 1. Raises ``ValueError`` as :func:`channels` does."""
    return np.array([channels(c) for c in colours], np.float64).reshape(-1, 3) / 255


def written(values: Iterable[float]) -> str:
    """``#rrggbb`` of three channels from 0 to 255, each brought into that range."""
    return "#" + "".join(f"{min(max(round(v), 0), 255):02x}" for v in values)


def of_shares(values: Iterable[float]) -> str:
    """``#rrggbb`` of three shares from 0 to 1, each brought into that range, whatever follows them.
    One that is no number, as files of models have them, is a middle grey.
    """
    first = (float(v) for v in islice(values, 3))
    return written(255 * min(max(v, 0.0), 1.0) if math.isfinite(v) else UNKNOWN for v in first)
