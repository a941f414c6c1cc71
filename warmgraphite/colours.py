"""Colours as they are written: ``#rrggbb``, to numbers and back."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

__all__ = ["Channels", "channels", "written"]


class Channels(NamedTuple):
    """Red, green and blue from 0 to 255."""

    red: int
    green: int
    blue: int


def channels(colour: str) -> Channels:
    """The channels of ``#rrggbb``; what follows, such as an opacity, is left out. Raises ``ValueError`` for anything else."""
    if len(colour) < 7 or colour[0] != "#":
        raise ValueError(f"“{colour}” is no colour; write it as # and six hexadecimal figures")
    return Channels(*(int(colour[i : i + 2], 16) for i in (1, 3, 5)))


def written(values: Iterable[float]) -> str:
    """``#rrggbb`` of three channels from 0 to 255, each brought into that range."""
    return "#" + "".join(f"{min(max(round(v), 0), 255):02x}" for v in values)
