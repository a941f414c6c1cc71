"""What is worked out of a frozen thing once, and kept beside it for as long as it lives.
The thing itself holds what it was made of, and nothing else.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Generic, TypeVar, overload
from weakref import WeakKeyDictionary

__all__ = ["beside", "derived", "has_derived", "share", "tell"]

T = TypeVar("T")
Thing = TypeVar("Thing")

#: What was worked out, by the thing that it was worked out of, which is told by itself and not by what it holds.
_BESIDE: WeakKeyDictionary[Any, dict[str, Any]] = WeakKeyDictionary()


#: The classes of things that something is worked out of.
_KINDS: set[type] = set()


def has_derived(kind: type) -> bool:
    """Whether something is worked out of things of a class."""
    return not _KINDS.isdisjoint(kind.__mro__)


def beside(thing: Any) -> dict[str, Any]:
    """All that was worked out of a thing, by name."""
    found = _BESIDE.get(thing)
    # Two threads may come at once: both then have the one that is kept.
    return _BESIDE.setdefault(thing, {}) if found is None else found


def tell(thing: Any, name: str, value: Any) -> None:
    """Say what would be worked out of a thing, where it is known."""
    beside(thing)[name] = value


def share(name: str, thing: Thing, make: Callable[[Thing], T]) -> T:
    """What another module works out of a thing, under a name of its own."""
    known = beside(thing)
    if name not in known:
        _KINDS.add(type(thing))
        known[name] = make(thing)
    return known[name]  # type: ignore[no-any-return]


class derived(Generic[T]):
    """Decorator: a property that is worked out when it is asked for first.
    Its class tells things by identity (``eq=False``).
    """

    def __init__(self, make: Callable[[Any], T]) -> None:
        self.make, self.name, self.__doc__ = make, make.__name__, make.__doc__

    def __set_name__(self, owner: type, name: str) -> None:
        _KINDS.add(owner)
        self.name = name

    @overload
    def __get__(self, thing: None, owner: Any = None) -> derived[T]: ...
    @overload
    def __get__(self, thing: object, owner: Any = None) -> T: ...
    def __get__(self, thing: Any, owner: Any = None) -> Any:
        if thing is None:
            return self
        known = beside(thing)
        if self.name not in known:
            known[self.name] = self.make(thing)
        return known[self.name]
