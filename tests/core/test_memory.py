"""What is kept in memory: weighed once, let go by last use, made by one while others wait."""

from __future__ import annotations

import gc
import time
from dataclasses import dataclass, replace

import numpy as np
import pytest
import shapely
import skia

from tests.core.models import pavilion
from warmgraphite.memory import Budget, Store, remembered, weight_of
from warmgraphite.threads import in_threads

MEGABYTE = 1_000_000


class Stopped(Exception):
    """Somebody said stop."""


@dataclass
class Result:
    """As passes give them: arrays in a record."""

    rows: np.ndarray
    name: str = ""


def block(megabytes: float) -> np.ndarray:
    return np.zeros(round(megabytes * MEGABYTE), np.uint8)


def test_things_weigh_what_they_hold_each_block_once() -> None:
    array = block(2)
    assert weight_of(array).bytes == pytest.approx(2 * MEGABYTE, rel=1e-3)
    assert weight_of([array[:10], Result(array[5:]), {"a": array}]).bytes == pytest.approx(2 * MEGABYTE, rel=1e-3), (
        "views show the same block"
    )
    circle = shapely.Point(0, 0).buffer(1, quad_segs=1000)
    assert weight_of(np.array([circle] * 1), circle).bytes > 16 * 4000
    picture = skia.Image.fromarray(np.zeros((300, 400, 4), np.uint8))
    assert weight_of(picture).bytes == 4 * 300 * 400
    model = replace(pavilion())  # of which nothing was worked out yet
    arrays = sum(a.nbytes for a in (model.vertices, model.triangles, model.triangle_part))
    before = weight_of(model).bytes
    assert before > arrays
    assert model.part_shape.nbytes and weight_of(model).bytes >= before + model.part_shape.nbytes, (
        "and what was worked out of it"
    )


def test_what_was_used_longest_ago_goes_first_of_whichever_store() -> None:
    budget = Budget(5 * MEGABYTE)
    one, two = Store[np.ndarray]("one", budget=budget), Store[np.ndarray]("two", budget=budget)
    one.put("a", block(2))
    two.put("b", block(2))
    assert one.peek("a") is not None
    two.put("c", block(2))
    assert "a" in one and "b" not in two and "c" in two and budget.bytes == pytest.approx(4 * MEGABYTE, rel=1e-2)
    assert {(h.name, h.things, h.gone) for h in budget.held()} == {("one", 1, 0), ("two", 1, 1)}
    one.put("larger than all", block(9))
    assert list(one._rows) == ["larger than all"] and not len(two), "it is kept alone"
    budget.set_limit(10 * MEGABYTE)
    one.clear()
    assert budget.bytes == 0


def test_what_is_shared_counts_once_and_goes_with_the_last_who_holds_it() -> None:
    budget, shared = Budget(5 * MEGABYTE), block(3)
    kept = Store[Result]("results", budget=budget)
    other = Store[Result]("results", budget=budget)
    for name in "abcd":
        kept.put(name, Result(shared, name))
    other.take_over(kept)
    assert len(kept) == len(other) == 4 and budget.bytes == pytest.approx(3 * MEGABYTE, rel=1e-2)
    kept.clear()
    assert budget.bytes == pytest.approx(3 * MEGABYTE, rel=1e-2)
    del other
    gc.collect()
    assert budget.bytes == 0, "a store that nobody has holds nothing"


def test_what_grows_is_weighed_again_when_it_is_used() -> None:
    budget = Budget(100 * MEGABYTE)
    kept = Store[dict]("growing", budget=budget)
    kept.put("a", {})
    kept.peek("a")["later"] = block(4)
    kept.peek("a")
    assert budget.bytes > 4 * MEGABYTE


def test_what_several_ask_for_at_once_is_made_once() -> None:
    made: list[str] = []
    kept = Store[str]("words", most=2)

    def make(name: str) -> str:
        time.sleep(0.02)
        made.append(name)
        return name.upper()

    def ask(task: int) -> str:
        return kept.get("ab"[task % 2], lambda: make("ab"[task % 2]))

    assert in_threads(ask, range(12), at_once=12) == ["A", "B"] * 6 and sorted(made) == ["a", "b"] and not kept._making
    ask(1)
    kept.get("c", lambda: make("c"))
    assert ask(1) == "B" and ask(0) == "A" and sorted(made) == ["a", "a", "b", "c"], (
        "the one asked for longest ago has gone"
    )


def test_what_could_not_be_made_is_made_by_the_next_who_asks() -> None:
    kept = Store[str]("words")
    with pytest.raises(Stopped):
        kept.get("a", lambda: (_ for _ in ()).throw(Stopped()))
    assert not kept._making and kept.get("a", lambda: "made") == "made"


def test_answers_are_remembered_by_what_was_asked() -> None:
    asked = []

    @remembered("answers")
    def half(number: float, *, of: float = 2) -> float:
        asked.append(number)
        return number / of

    assert [half(4), half(4), half(4, of=4), half(4, of=4)] == [2, 2, 1, 1] and asked == [4, 4]
    half.clear()
    assert half(4) == 2 and len(asked) == 3 and half.__name__ == "half"
