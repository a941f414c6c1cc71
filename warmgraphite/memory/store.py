"""Things kept in memory by their keys, each made once, and let go when a process holds more than it may.

What goes first is told by GreedyDual-Size (Cao and Irani, 1997): a thing is worth the time that it took to make for
each of its bytes, counted from when it was used last on a scale that rises with what has gone. Among things that are
alike the one that was used longest ago goes.
"""

from __future__ import annotations

import functools
import heapq
import threading
import time
import weakref
from collections import OrderedDict, deque
from collections.abc import Callable, Hashable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from typing import Any, Generic, ParamSpec, TypeVar

from warmgraphite.memory.weight import Weight, weight_of

__all__ = ["BUDGET", "MISSING", "Budget", "Held", "Store", "remembered"]

T = TypeVar("T")
P = ParamSpec("P")

#: What there is where nothing is held.
MISSING: Any = object()


@dataclass(frozen=True)
class Held:
    """What the stores of one name hold: how many ``things``, of how many ``bytes`` as if nobody else held any of it.
    How often something was found there and had to be made; how many things had to go.
    """

    name: str
    things: int
    bytes: int
    found: int
    made: int
    gone: int


#: Seconds for each byte that a thing is worth at the least and at the most, and where it is not known how long it took.
LEAST, MOST, USUAL = 1e-9, 1e-6, 2e-8
#: Bytes below which things are alike.
SMALL = 4096


class _Row:
    """A kept thing, with what it weighs and is worth, when it was used last, and how often."""

    __slots__ = ("again", "rate", "thing", "tick", "uses", "weight", "worth")

    def __init__(self, thing: Any, weight: Weight, seconds: float | None) -> None:
        self.thing, self.weight, self.uses, self.again = thing, weight, 0, 2
        self.rate = USUAL if seconds is None else min(max(seconds / max(weight.bytes, SMALL), LEAST), MOST)
        self.worth, self.tick = 0.0, 0

    def again_as(self) -> _Row:
        """The same thing for another store."""
        found = _Row(self.thing, self.weight, None)
        found.rate = self.rate
        return found


class _Counts:
    __slots__ = ("found", "gone", "made")

    def __init__(self) -> None:
        self.found = self.made = self.gone = 0


class Budget:
    """How many bytes the stores that share it may hold together.
    Whatever is worth least goes first, of whichever store. Safe for threads.

    What several things share counts once. A thing that is larger than all there is room for is kept alone, so that
    nobody makes it twice at once.
    """

    def __init__(self, limit: int) -> None:
        self.limit = limit
        self._lock = threading.RLock()
        #: What is kept, that which is worth least first: worth, when used, the number of the store, a key. What was
        #: used since stands there as it was.
        self._heap: list[tuple[float, int, int, Hashable]] = []
        self._things = 0
        self._age, self._tick = 0.0, 0
        self._blocks: dict[int, list[int]] = {}
        self._bytes = 0
        self._stores: dict[int, weakref.ref[Store[Any]]] = {}
        self._number = 0
        self._counts: dict[str, _Counts] = {}
        #: Rows of stores that are gone; they go when somebody has the lock.
        self._left: deque[tuple[int, dict[Hashable, Weight]]] = deque()

    @property
    def bytes(self) -> int:
        """What is held now."""
        with self._lock:
            self._sweep()
            return self._bytes

    def set_limit(self, limit: int) -> None:
        """Say how many bytes may be held; what is too much goes now."""
        with self._lock:
            self.limit = limit
            gone = self._make_room()
        del gone

    def held(self) -> list[Held]:
        """Who holds what, the heaviest first."""
        with self._lock:
            self._sweep()
            rows: dict[str, list[int]] = {name: [0, 0] for name in self._counts}
            for store in filter(None, (r() for r in self._stores.values())):
                row = rows.setdefault(store.name, [0, 0])
                row[0] += len(store._rows)
                row[1] += sum(r.weight.bytes for r in store._rows.values())
            counts = {name: self._counts[name] for name in rows}
        found = [
            Held(n, things, size, c.found, c.made, c.gone) for n, (things, size) in rows.items() for c in (counts[n],)
        ]
        return sorted(found, key=lambda h: (-h.bytes, h.name))

    def clear(self) -> None:
        """Let all go that is held."""
        with self._lock:
            stores = [s for s in (r() for r in self._stores.values()) if s is not None]
        for store in stores:
            store.clear()

    # For stores alone.

    def _register(self, store: Store[Any]) -> tuple[int, _Counts]:
        with self._lock:
            self._number += 1
            number = self._number
            weights: dict[Hashable, Weight] = {}
            self._stores[number] = weakref.ref(store)
            weakref.finalize(store, self._left.append, (number, weights)).atexit = False
            store._weights = weights
            return number, self._counts.setdefault(store.name, _Counts())

    def _sweep(self) -> None:
        while self._left:
            number, weights = self._left.popleft()
            self._stores.pop(number, None)
            for weight in weights.values():
                self._lose(weight)

    def _touch(self, row: _Row) -> None:
        self._tick += 1
        row.worth, row.tick = self._age + row.rate, self._tick

    def _add(self, number: int, key: Hashable, row: _Row) -> None:
        self._gain(row.weight)
        self._touch(row)
        heapq.heappush(self._heap, (row.worth, row.tick, number, key))
        if len(self._heap) > 2 * self._things + 1000:
            self._heap = [h for h in self._heap if (known := self._row(h)) is not None and known.tick >= h[1]]
            heapq.heapify(self._heap)

    def _row(self, place: tuple[float, int, int, Hashable]) -> _Row | None:
        store = self._store(place[2])
        return store._rows.get(place[3]) if store else None

    def _store(self, number: int) -> Store[Any] | None:
        reference = self._stores.get(number)
        return reference() if reference else None

    def _gain(self, weight: Weight) -> None:
        self._things += 1
        self._bytes += weight.rest
        for block, size in weight.blocks.items():
            row = self._blocks.setdefault(block, [0, size])
            self._bytes += size if row[0] == 0 else 0
            row[0] += 1

    def _lose(self, weight: Weight) -> None:
        self._things -= 1
        self._bytes -= weight.rest
        for block in weight.blocks:
            row = self._blocks[block]
            row[0] -= 1
            if not row[0]:
                self._bytes -= row[1]
                del self._blocks[block]

    def _make_room(self) -> list[Any]:
        """Let go what is too much; what that was is given back, so that nothing is ended while the lock is held."""
        gone: list[Any] = []
        while True:
            self._sweep()  # a store may end at any moment
            if self._bytes <= self.limit or self._things <= 1:
                return gone
            worth, tick, number, key = heapq.heappop(self._heap)
            store = self._store(number)
            row = store._rows.get(key) if store else None
            if store is None or row is None or row.tick < tick:
                continue  # it has gone already
            if row.tick > tick:  # it was used since
                heapq.heappush(self._heap, (row.worth, row.tick, number, key))
                continue
            self._age = worth
            gone.append(store._drop(key))
            store.counts.gone += 1


#: What a process may hold where nothing else is said: enough for the command line.
BUDGET = Budget(2_000_000_000)


class Store(Generic[T]):
    """Things by key in a budget.
    Of those that ask for the same at once one makes it, and the others wait; where that fails, the next one tries. Safe
    for threads.

    ``name`` says to those who build what is held here. ``most`` is how many things are kept at the most, where their
    number counts and not only what they weigh; ``weigh`` says the bytes of a key and a thing, where that is known
    without looking through it.
    """

    def __init__(
        self,
        name: str,
        most: int | None = None,
        budget: Budget | None = None,
        weigh: Callable[[Any, T], int] | None = None,
    ) -> None:
        self.name, self.most, self._weigh = name, most, weigh
        self.budget = budget or BUDGET
        self._rows: OrderedDict[Hashable, _Row] = OrderedDict()
        self._weights: dict[Hashable, Weight] = {}
        self._making: dict[Hashable, tuple[threading.RLock, int]] = {}
        self._number, self.counts = self.budget._register(self)

    def __len__(self) -> int:
        return len(self._rows)

    def __contains__(self, key: Hashable) -> bool:
        return key in self._rows

    def get(self, key: Hashable, make: Callable[[], T]) -> T:
        """A thing by its key, made where it is not held."""
        found = self.peek(key, MISSING)
        if found is not MISSING:
            return found
        with self.making(key):
            found = self.peek(key, MISSING)
            if found is MISSING:
                began = time.perf_counter()
                found = make()
                self.put(key, found, time.perf_counter() - began)
        return found

    def peek(self, key: Hashable, otherwise: Any = None) -> Any:
        """A thing by its key; ``otherwise`` where it is not held."""
        budget = self.budget
        with budget._lock:
            row = self._rows.get(key)
            if row is None:
                return otherwise
            self.counts.found += 1
            self._rows.move_to_end(key)
            budget._touch(row)
            row.uses += 1
            due = row.uses >= row.again
        if due and self._weigh is None:
            row.again = 2 * row.uses  # ever more seldom
            self._weigh_again(key, row)
        return row.thing

    def put(self, key: Hashable, thing: T, seconds: float | None = None) -> None:
        """Keep a thing under a key; ``seconds`` is how long it took to make, where that is known."""
        self.counts.made += 1
        self._keep(key, _Row(thing, self._weight(key, thing), seconds))

    def _weight(self, key: Hashable, thing: T) -> Weight:
        return Weight(self._weigh(key, thing), {}) if self._weigh else weight_of(key, thing)

    def _keep(self, key: Hashable, row: _Row) -> None:
        budget = self.budget
        gone: list[Any] = []
        with budget._lock:
            budget._sweep()
            if key in self._rows:
                gone.append(self._drop(key))
            self._rows[key], self._weights[key] = row, row.weight
            budget._add(self._number, key, row)
            while self.most is not None and len(self._rows) > self.most:
                gone.append(self._drop(next(iter(self._rows))))
                self.counts.gone += 1
            gone.append(budget._make_room())
        del gone  # and not while the lock is held

    def _weigh_again(self, key: Hashable, row: _Row) -> None:
        """What is worked out of a thing later hangs on it."""
        weight = self._weight(key, row.thing)
        budget = self.budget
        with budget._lock:
            if self._rows.get(key) is not row:
                return  # gone meanwhile
            budget._lose(row.weight)
            budget._gain(weight)
            row.weight = self._weights[key] = weight
            gone = budget._make_room()
        del gone

    def discard(self, key: Hashable) -> None:
        """Let one of them go, where it is held."""
        with self.budget._lock:
            gone = self._drop(key) if key in self._rows else None
        del gone

    def clear(self) -> None:
        """Let all of them go."""
        with self.budget._lock:
            gone = [self._drop(key) for key in list(self._rows)]
        del gone

    def things(self) -> list[T]:
        """All that is held, the one used longest ago first."""
        with self.budget._lock:
            return [row.thing for row in self._rows.values()]

    def take_over(self, others: Store[T]) -> None:
        """Have what others have, too."""
        if others is self:
            return
        with self.budget._lock:
            rows = [(key, row) for key, row in others._rows.items() if key not in self._rows]
        for key, row in rows:
            self._keep(key, row.again_as())

    @contextmanager
    def making(self, key: Hashable) -> Iterator[None]:
        """While within, nobody else makes what has this key: who wants it, too, waits until it is there.
        Things need each other in one direction alone, so that nobody waits for ever.
        """
        with self.budget._lock:
            lock, wanted = self._making.get(key, (threading.RLock(), 0))
            self._making[key] = (lock, wanted + 1)
        try:
            with lock:
                yield
        finally:
            with self.budget._lock:
                wanted = self._making[key][1] - 1
                if wanted:
                    self._making[key] = (lock, wanted)
                else:
                    del self._making[key]

    def _drop(self, key: Hashable) -> Any:
        row = self._rows.pop(key)
        self._weights.pop(key, None)
        self.budget._lose(row.weight)
        return row


def remembered(
    name: str, most: int | None = None, weigh: Callable[[Any, Any], int] | None = None
) -> Callable[[Callable[P, T]], _Remembered[P, T]]:
    """A function whose answers are kept by what it was asked, in the budget of the process; see :class:`Store`."""
    return lambda ask: _Remembered(ask, name, most, weigh)


class _Remembered(Generic[P, T]):
    """A function with what it answered; ``kept`` is where."""

    def __init__(
        self, ask: Callable[P, T], name: str, most: int | None, weigh: Callable[[Any, Any], int] | None = None
    ) -> None:
        functools.update_wrapper(self, ask)
        self.ask, self.kept = ask, Store[T](name, most, weigh=weigh)

    def __call__(self, *said: P.args, **named: P.kwargs) -> T:
        key = (said, tuple(sorted(named.items()))) if named else said
        found = self.kept.peek(key, MISSING)
        return found if found is not MISSING else self.kept.get(key, lambda: self.ask(*said, **named))

    def clear(self) -> None:
        """Forget all answers."""
        self.kept.clear()
