"""What passes are computed by.
Keys, freshness, the order of work, and a bench on which results lie, each computed once for the same inputs.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable
from typing import Any, Self

from warmgraphite.drawing.graph import PASSES, Given, Pass
from warmgraphite.drawing.results import Results
from warmgraphite.drawing.specification import DrawingSpec
from warmgraphite.errors import ViewError
from warmgraphite.keys import key_of, plain
from warmgraphite.memory import MISSING, Store
from warmgraphite.needs import Need, need
from warmgraphite.passes.store import PassStore
from warmgraphite.progress import Progress, silent
from warmgraphite.specification import Wanted
from warmgraphite.view.frame import refuse_pixels

__all__ = ["ALWAYS", "Bench", "Runner", "Stale"]

#: The passes without which there is no picture, and nothing to point at.
ALWAYS = ("frame", "remarks", "strokes", "surface", "light")

#: Results by their keys. Whatever lies on it is the same for all drawings that ask for it.
Bench = Store[Any]
Fresh = dict[str, bool]


class Stale(Exception):
    """A pass was asked for where none is computed, and it is not there."""


class Runner(Results):
    """The passes of what a specification says, computed when they are asked for.

    ``store`` keeps them between processes, ``bench`` holds them in memory. ``seconds`` holds the computing time of each
    pass that was not fresh.
    """

    def _begin(self, spec: DrawingSpec, store: PassStore | None, bench: Bench | None, own: Bench | None = None) -> None:
        self.spec, self.store = spec, store
        #: What windows share, and what has pixels: of a window that is its own, so that it goes with it.
        self.bench = Store[Any]("passes") if bench is None else bench
        self.own = self.bench if own is None else own
        self.seconds: dict[str, float] = {}
        self._keys: dict[Need, str] = {}
        self._others: dict[Wanted, Self | None] = {}

    def _of(self, spec: DrawingSpec, store: PassStore | None = None, own: Bench | None = None) -> Self:
        """The drawing of something else upon the same bench."""
        found = type(self).__new__(type(self))
        found._begin(spec, store or self.store, self.bench, own)
        return found

    def other(self, of: Wanted) -> Self | None:
        """Another drawing by what it is to this one; ``None`` where there is none."""
        if of not in self._others:
            spec = self.spec.other(of)
            if spec is self.spec:
                self._others[of] = self
            else:
                # What has the pixels of this window goes with it.
                own = self.own if spec is not None and spec.window == self.spec.window else None
                self._others[of] = None if spec is None else self._of(spec, own=own)
        return self._others[of]

    def record(self, name: str) -> Pass[Any, Any]:
        """A pass at the drawing's level."""
        found = PASSES[name]
        return PASSES[found.draft] if found.draft and self.spec.level == "draft" else found

    def key(self, wanted: Need | str) -> str:
        """The key of a pass."""
        one = need(wanted)
        if one not in self._keys:
            if one.of is None:
                record = self.record(one.name)
                needed = [self.key(n) for n in record.needs(self.spec, one.where)]
                read = plain(record.reads(self.spec, one.where))
                self._keys[one] = key_of(record.name, record.sources, read, needed)
            else:
                other = self.other(one.of)
                self._keys[one] = "nothing" if other is None else other.key(one.own)
        return self._keys[one]

    def knowing(self, keys: dict[Need, str]) -> None:
        """Take keys from, and add them to, those that were made for a drawing of the same."""
        self._keys = keys

    def is_fresh(self, wanted: Need | str) -> bool:
        """Whether a pass need not be computed."""
        one = need(wanted)
        if one.of is not None:
            other = self.other(one.of)
            if other is None or other is self:
                return other is None or self.is_fresh(one.own)
            return other.is_fresh("frame") and (bool(other.result("frame").problem) or other.is_fresh(one.own))
        record = self.record(one.name)
        if not record.stored:
            return all(self.is_fresh(n) for n in record.needs(self.spec, one.where))
        key = self.key(one)
        return key in self._shelf(record) or (self.store is not None and self.store.has(key))

    def fresh(self, wanted: Iterable[Need | str] = ALWAYS) -> Fresh:
        """Which of the passes need not be computed, by the words of each."""
        return {need(n).words: self.is_fresh(n) for n in wanted}

    def needed(self, wanted: Need | str) -> list[Need]:
        """What a pass needs first."""
        one = need(wanted)
        return [need(n) for n in self.record(one.name).needs(self.spec, one.where)]

    def result(self, wanted: Need | str, progress: Progress = silent) -> Any:
        """The result of a pass; what it needs is computed first, or taken from the store."""
        one = need(wanted)
        if one.of is not None:
            other = self.other(one.of)
            if other is not None and other is not self and other.result("frame").problem:
                return None  # a set that the cuts take away shows nothing
            return None if other is None else other.result(one.own, progress)
        record, key = self.record(one.name), self.key(one)
        return self._shelf(record).get(key, lambda: self._made(one, record, key, progress))

    def _shelf(self, record: Pass[Any, Any]) -> Bench:
        return self.own if record.pixels else self.bench

    def _made(self, one: Need, record: Pass[Any, Any], key: str, progress: Progress) -> Any:
        """A result from the store, or computed and put there."""
        if record.pixels:
            self.refuse_too_many()
        arrays = self.store.load(key) if self.store and record.stored else None
        if arrays is not None:
            return record.unpack(arrays)
        before, others = time.perf_counter(), sum(self.seconds.values())
        self.refuse_computing(one, record)
        given = Given(self.needed(one), self.result, self.key, self.bench.get)
        found = record.compute(record.reads(self.spec, one.where), given, progress)
        # A pass that another one needs first is timed under its own name, not twice.
        spent = time.perf_counter() - before - (sum(self.seconds.values()) - others)
        if not record.light:  # which is made wherever it is asked for
            self.seconds[one.name] = self.seconds.get(one.name, 0.0) + spent
        if self.store and record.stored:
            self.store.save(key, record.pack(found))
        return found

    def is_slow(self, wanted: Need | str) -> bool:
        """Whether a pass, or one that it needs, takes longer than a first, coarse picture should."""
        one = need(wanted)
        if one.of is not None:
            other = self.other(one.of)
            return other is not None and other.is_slow(one.own)
        return self.record(one.name).slow or any(self.is_slow(n) for n in self.needed(one))

    def has_pixels(self, wanted: Need | str) -> bool:
        """Whether a pass, or one that it needs, is of the pixels of the window."""
        one = need(wanted)
        if one.of is not None:
            other = self.other(one.of)
            mine = other is not None and other.spec.window == self.spec.window
            return mine and other.has_pixels(one.own)  # type: ignore[union-attr]
        return self.record(one.name).pixels or any(self.has_pixels(n) for n in self.needed(one))

    def refuse_computing(self, wanted: Need, record: Pass[Any, Any]) -> None:
        """Raises :class:`Stale` where passes are only looked at; here they are computed."""

    def in_order(self, wanted: Iterable[Need | str]) -> list[Need]:
        """The needs with all that they need, each once and after what it needs; what a fresh one needed is left out."""
        found: dict[Need, None] = {}

        def visit(one: Need) -> None:
            if one in found or self.is_fresh(one):
                return
            if one.of is None:  # else the other drawing sees to what it needs
                for below in self.needed(one):
                    visit(below)
            found[one] = None

        for one in wanted:
            visit(need(one))
        return list(found)

    def compute(
        self, wanted: Iterable[Need | str] | None = None, watch: Callable[[str, float], None] | None = None
    ) -> None:
        """Make the passes fresh (those of any picture by default).
        ``watch`` is told the stage at work and the whole's progress. Raises :class:`ViewError` where the view shows
        nothing.
        """
        tell = watch or (lambda _name, _fraction: None)
        names = ALWAYS if wanted is None else tuple(wanted)
        if any(self.record(need(n).name).pixels for n in names):
            self.refuse_too_many()
        todo = [(n, self.record(n.name)) for n in self.in_order(names)]
        total, done = sum(record.weight for _, record in todo), 0.0
        for one, record in todo:
            tell(record.stage, done / total)
            self.result(one, lambda f, r=record, done=done: tell(r.stage, (done + f * r.weight) / total))  # type: ignore[misc]
            done += record.weight
            if one.name == "frame" and one.of is None and self.result(one).problem:
                raise ViewError(self.result(one).problem)
        seen: set[Need] = set()
        for name in names:
            self._keep_again(need(name), seen)
        tell("", 1.0)

    def _keep_again(self, one: Need, seen: set[Need]) -> None:
        """Save what is held here of a pass, and of what it needs, and is gone from the store meanwhile.
        Others look for it there.
        """
        if one in seen or self.store is None:
            return
        seen.add(one)
        if one.of is not None:
            other = self.other(one.of)
            for own in (Need("frame"), one.own) if other is not None else ():
                other._keep_again(own, seen if other is self else set())  # type: ignore[union-attr]
            return
        record, key = self.record(one.name), self.key(one)
        if record.stored and not self.store.has(key):
            held = self._shelf(record).peek(key, MISSING)
            if held is not MISSING:
                self.store.save(key, record.pack(held))
        for below in self.needed(one):
            self._keep_again(below, seen)

    def refuse_too_many(self) -> None:
        """Raises :class:`ViewError` where the pixel passes would have more pixels than can be held."""
        window, size, frame = self.spec.window, self.spec.size, self.view.frame
        own = size == frame.pixels and window[2:] == size
        refuse_pixels(*window[2:], resolution=frame.resolution if own else None)

    def rest(self) -> None:
        """Forget what passes are computed with, which takes room; what was computed stays."""
        tools = [need(name) for name, record in PASSES.items() if record.tool]
        for one in [n for n in self._keys if n in tools]:
            self.bench.discard(self._keys[one])
