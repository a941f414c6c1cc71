"""Numbered formats of what is kept, and the steps from each to the next.

Whatever is kept carries the number of its format. A step is a pure function of JSON: it knows how a thing was written then and
how it was written next, and nothing of how it is written now, so that it is never touched again.
"""

from __future__ import annotations

import copy
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from warmgraphite.errors import ViewError

__all__ = ["Data", "Format", "as_it_was"]

Data = dict[str, Any]


def as_it_was(data: Data) -> Data:
    """A step in which nothing but the number is new."""
    return data


@dataclass(frozen=True)
class Format:
    """How one kind of thing is written; ``steps`` lead from format 0, which was written before there was a number, upwards."""

    what: str
    steps: tuple[Callable[[Data], Data], ...]

    @property
    def number(self) -> int:
        """The format in which it is written now."""
        return len(self.steps)

    def upgraded(self, data: Data, name: str = "") -> Data:
        """What was kept in whatever format, in the format of today; ``data`` stays as it is. Raises :class:`ViewError`, which
        calls it ``name``, for what a newer version wrote."""
        data = {k: v for k, v in data.items() if k != "made_by"}
        number = data.get("format", 0)
        if not isinstance(number, int) or isinstance(number, bool) or not 0 <= number <= self.number:
            raise ViewError(
                f"{name or f'This {self.what}'} was written by a newer version of the application (format {str(number)[:20]}; this one "
                f"reads up to {self.number}); open it with that version."
            )
        if number == self.number:
            return data
        data = copy.deepcopy(data)
        for step in self.steps[number:]:
            data = step(data)
        data["format"] = self.number
        return data
