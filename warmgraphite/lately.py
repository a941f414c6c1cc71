"""What was made lately, kept for whoever asks for the same again."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

__all__ = ["Lately"]

T = TypeVar("T")


class Lately(Generic[T]):
    """The newest ``limit`` things by their keys. Safe for threads: of those that ask for the same at once, one makes it, and the others wait."""

    def __init__(self, limit: int) -> None:
        self.limit = limit
        self._rows: OrderedDict[Hashable, T] = OrderedDict()
        self._lock = threading.Lock()
        self._making: dict[Hashable, threading.Lock] = {}

    def get(self, key: Hashable, make: Callable[[], T]) -> T:
        """A thing by its key, made where it is not held."""
        with self._lock:
            if key in self._rows:
                self._rows.move_to_end(key)
                return self._rows[key]
            making = self._making.setdefault(key, threading.Lock())
        with making:
            with self._lock:
                if key in self._rows:
                    return self._rows[key]
            try:
                found = make()
                with self._lock:
                    self._rows[key] = found
                    while len(self._rows) > self.limit:
                        self._rows.popitem(last=False)
            finally:
                with self._lock:
                    self._making.pop(key, None)
        return found
