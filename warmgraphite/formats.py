"""Numbered formats of what is kept, and the steps from each to the next.

Whatever is kept carries the number of its format. A step is a pure function of JSON: it knows how a thing was written
then and how it was written next, and nothing of how it is written now, so that it is never touched again.
"""

from __future__ import annotations

import copy
import json
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from warmgraphite.errors import ViewError

__all__ = ["Data", "Format", "as_it_was", "read_json"]

#: How many things may lie in one another: what is kept here has less than half of that.
DEEPEST = 60

Data = dict[str, Any]


def read_json(text: str | bytes, name: str) -> Any:
    """What a text of JSON says.
    Raises :class:`ViewError`, which calls it ``name``, for one that is none, or is nested without end.
    """
    try:
        data = json.loads(text)
        _refuse_deeper(data, DEEPEST)
    except RecursionError:
        raise ViewError(
            f"{name} is nested deeper than anything that is kept here; it is damaged, or something else."
        ) from None
    except ValueError as error:
        raise ViewError(f"{name} is not JSON ({error}); it may be cut off, or be something else.") from None
    return data


def _refuse_deeper(data: Any, levels: int) -> None:
    if not levels:
        raise RecursionError
    for value in data.values() if isinstance(data, dict) else data if isinstance(data, list) else ():
        if isinstance(value, dict | list):
            _refuse_deeper(value, levels - 1)


def as_it_was(data: Data) -> Data:
    """A step in which nothing but the number is new."""
    return data


@dataclass(frozen=True)
class Format:
    """How one kind of thing is written.
    ``steps`` lead from format 0, which was written before there was a number, upwards.
    """

    what: str
    steps: tuple[Callable[[Data], Data], ...]

    @property
    def number(self) -> int:
        """The format in which it is written now."""
        return len(self.steps)

    def upgraded(self, data: Data, name: str = "") -> Data:
        """What was kept in whatever format, in the format of today; ``data`` stays as it is.
        Raises :class:`ViewError`, which calls it ``name``, for what a newer version wrote.
        """
        data = {k: v for k, v in data.items() if k != "made_by"}
        number = data.get("format", 0)
        if not isinstance(number, int) or isinstance(number, bool) or not 0 <= number <= self.number:
            raise ViewError(
                f"{name or f'This {self.what}'} was written by a newer version of the application (format "
                f"{str(number)[:20]}; this one "
                f"reads up to {self.number}); open it with that version."
            )
        if number == self.number:
            return data
        data = copy.deepcopy(data)
        try:
            for step in self.steps[number:]:
                data = step(data)
        except (KeyError, TypeError, AttributeError, ValueError, IndexError):
            raise ViewError(
                f"{name or f'This {self.what}'} is damaged: it says format {number}, and is not written so."
            ) from None
        data["format"] = self.number
        return data
