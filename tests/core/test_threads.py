"""Work in threads: in order, whole, and stopped when somebody says so."""

from __future__ import annotations

import threading
import time

import numpy as np
import pytest

from warmgraphite.threads import in_stretches, in_threads


class Stopped(Exception):
    pass


def test_stretches_cover_everything_once_and_come_back_in_order() -> None:
    def work(first: int, last: int) -> np.ndarray:
        time.sleep(0.002 * (first % 3))  # the later ones are ready first
        return np.arange(first, last)

    shares: list[float] = []
    found = in_stretches(work, 103, 10, shares.append)
    assert np.array_equal(np.concatenate(found), np.arange(103))
    assert shares == sorted(shares) and shares[-1] == 1 and len(shares) == 11
    assert [len(row) for row in in_stretches(work, 0, 10)] == [0]


@pytest.mark.parametrize("who", ["the one who watches", "the work itself"])
def test_what_stops_the_work_arrives_and_what_was_not_begun_never_is(who: str) -> None:
    begun: list[int] = []
    held = threading.Lock()

    def work(task: int) -> int:
        with held:
            begun.append(task)
        time.sleep(0.01)
        if who == "the work itself" and task == 3:
            raise Stopped
        return task

    def watch(share: float) -> None:
        if who == "the one who watches" and share > 0.02:
            raise Stopped

    with pytest.raises(Stopped):
        in_threads(work, range(200), watch)
    known = len(begun)
    time.sleep(0.05)
    assert known == len(begun) < 100


def test_while_the_one_who_watches_rests_nothing_is_begun() -> None:
    begun: list[int] = []

    def work(task: int) -> None:
        begun.append(task)
        time.sleep(0.002)

    def watch(share: float) -> None:
        if 0.1 < share < 0.14:
            time.sleep(0.05)  # who had begun before is done
            known = len(begun)
            time.sleep(0.1)
            assert known == len(begun) < 100

    assert len(in_threads(work, range(100), watch)) == len(begun) == 100


def test_work_within_shared_work_stays_in_its_thread_and_is_done() -> None:
    def work(task: int) -> tuple[set[int], int]:
        rows = in_threads(lambda k: (threading.get_ident(), k * task), range(20))
        return {who for who, _ in rows}, sum(value for _, value in rows)

    found = in_threads(work, range(64))
    assert [value for _, value in found] == [190 * task for task in range(64)]
    assert all(len(who) == 1 for who, _ in found), "all processors have work already"
