"""Things of one sort, one file each, found by being there.

A package has a catalogue of what its modules hold: under a constant that each of them has, or as classes and objects of
one sort. A new thing is a new file, and nothing else. Modules whose names begin with an underscore help the others.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterable, Iterator, Mapping
from importlib import import_module
from pkgutil import iter_modules
from types import ModuleType
from typing import Annotated, Any, TypeVar, Union

from pydantic import BaseModel, Field

__all__ = ["Catalogue", "any_of", "classes_in", "constants_in", "modules_in", "name_of", "objects_in"]

T = TypeVar("T")


def modules_in(package: str) -> list[ModuleType]:
    """The modules of a package, in the order of their names."""
    path = import_module(package).__path__
    return [import_module(f"{package}.{m.name}") for m in iter_modules(path) if not m.name.startswith("_")]


def constants_in(package: str, constant: str) -> list[Any]:
    """What the modules of a package have under one name; a tuple or list there is of several things."""
    rows = [getattr(module, constant) for module in modules_in(package)]
    return [thing for row in rows for thing in (row if isinstance(row, tuple | list) else (row,))]


def objects_in(package: str, sort: type[T]) -> list[T]:
    """The objects of one sort that stand in the modules of a package, in the order in which they do."""
    return [thing for module in modules_in(package) for thing in vars(module).values() if isinstance(thing, sort)]


def classes_in(package: str, base: type[T], by: str = "kind") -> list[type[T]]:
    """The classes under ``base`` that the modules of a package make.
    They are those which have a name, but for those that only others stand on (an underscore, or no name).
    """
    return [
        thing
        for module in modules_in(package)
        for thing in vars(module).values()
        if isinstance(thing, type)
        and issubclass(thing, base)
        and thing.__module__ == module.__name__
        and name_of(thing, by)
    ]


def name_of(kind: type, by: str = "kind") -> str:
    """What a class of a catalogue is called in files: the default of the field that tells it from others.
    Nothing for one that has none.
    """
    field = kind.model_fields.get(by) if issubclass(kind, BaseModel) and not kind.__name__.startswith("_") else None
    return field.default if field is not None and isinstance(field.default, str) else ""


def any_of(kinds: Iterable[type], by: str = "kind") -> Any:
    """What any of these kinds is to a specification: they are told apart by one field."""
    return Annotated[Union[tuple(kinds)], Field(discriminator=by)]  # noqa: UP007 - made of what is found


class Catalogue(Mapping[str, T]):
    """Things by their names, in order, looked for when somebody first asks. Safe for threads."""

    def __init__(
        self, find: Callable[[], Iterable[T]], name: Callable[[T], str], order: Callable[[T], Any] | None = None
    ) -> None:
        self._find, self._name, self._order = find, name, order
        self._things: dict[str, T] | None = None
        self._lock = threading.RLock()

    def _filled(self) -> dict[str, T]:
        if self._things is None:
            with self._lock:
                if self._things is None:
                    rows = list(self._find())
                    self._things = {self._name(t): t for t in (sorted(rows, key=self._order) if self._order else rows)}
        return self._things

    def __getitem__(self, name: str) -> T:
        return self._filled()[name]

    def __iter__(self) -> Iterator[str]:
        return iter(self._filled())

    def __len__(self) -> int:
        return len(self._filled())
