"""Kernels: declared before they are wanted, compiled once, and never older than what they are compiled from."""

from __future__ import annotations

import os
import subprocess
import sys
import textwrap
import threading
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numba.core.registry import cpu_target

from tests.conftest import DEEP, examples
from warmgraphite import kernels
from warmgraphite.kernels import remembering
from warmgraphite.kernels.arrays import grown, grown_rows, order_of, sort_stretches

ROOT = Path(__file__).resolve().parents[2]


def run(code: str, folder: Path, root: Path = ROOT) -> str:
    """What a process of its own prints that keeps its kernels in a folder."""
    environment = {**os.environ, "WARMGRAPHITE_KERNELS": str(folder), "PYTHONPATH": str(root)}
    done = subprocess.run(
        [sys.executable, "-c", textwrap.dedent(code)], capture_output=True, text=True, env=environment, cwd=root
    )
    assert done.returncode == 0, done.stderr
    return done.stdout.strip()


def test_every_kernel_says_for_which_arguments_and_no_form_stands_twice() -> None:
    kernels.load_all()
    found = list(kernels.all_kernels())
    called = [k for k in found if k.forms]
    assert len(called) > 80 and len(found) > len(called)
    for kernel in called:
        names = kernel.py_func.__code__.co_argcount
        assert len(set(kernel.forms)) == len(kernel.forms) <= 2, kernel.name
        assert all(len(form) == names for form in kernel.forms), kernel.name


def test_what_python_calls_is_declared_and_what_only_kernels_call_has_no_way_in() -> None:
    """A module that is no kernel's may import a kernel only: a device cannot be called by it."""
    kernels.load_all()
    devices = {k.name for k in kernels.all_kernels() if not k.forms}
    loops = {k.py_func.__globals__["__name__"] for k in kernels.all_kernels()}
    for name, module in list(sys.modules.items()):
        if name.startswith("warmgraphite.") and name not in loops and not name.startswith("warmgraphite.kernels"):
            held = [n for n, v in vars(module).items() if isinstance(v, kernels.Kernel) and v.name in devices]
            assert not held, f"{name} has the devices {held}"


PACKAGE = {
    "__init__.py": "",
    "inner.py": "from warmgraphite.kernels import device\n\n@device()\ndef twice(x):\n    return 2 * x\n",
    "outer.py": """
        from warmgraphite.kernels import kernel
        from warmgraphite.trial.kernels.inner import twice

        @kernel("f8")
        def asked(x):
            return twice(x) + twice(3.0)
        """,
    "apart.py": """
        from typing import NamedTuple
        from warmgraphite.kernels import kernel
        from warmgraphite.kernels.records import F1

        class Row(NamedTuple):
            values: F1
            at: int

        @kernel(borrows=True)
        def alone(row: Row):
            return row.values[row.at]
        """,
}
ASKED = """
    import numpy
    from warmgraphite.trial.kernels.apart import Row, alone
    from warmgraphite.trial.kernels.outer import asked
    print(asked(1.0), alone(Row(numpy.arange(3.0), 1)), sum(asked._cache_hits.values()), sum(alone._cache_hits.values()), len(asked.overloads) * len(alone.overloads))
    """


@pytest.fixture()
def trial(tmp_path: Path) -> Path:
    """The room for kernels with a few of the test's own beside it."""
    (tmp_path / "warmgraphite").mkdir()
    (tmp_path / "warmgraphite" / "__init__.py").write_text("")
    (tmp_path / "warmgraphite" / "trial" / "kernels").mkdir(parents=True)
    for name, text in PACKAGE.items():
        (tmp_path / "warmgraphite" / "trial" / "kernels" / name).write_text(textwrap.dedent(text))
    (tmp_path / "warmgraphite" / "sources.py").write_bytes((ROOT / "warmgraphite" / "sources.py").read_bytes())
    (tmp_path / "warmgraphite" / "kernels").mkdir()
    for file in (ROOT / "warmgraphite" / "kernels").glob("*.py"):
        (tmp_path / "warmgraphite" / "kernels" / file.name).write_bytes(file.read_bytes())
    return tmp_path


def test_a_changed_inner_function_changes_the_outer_one_and_nothing_else_is_compiled_anew(trial: Path) -> None:
    folder = trial / "kept"
    assert run(ASKED, folder, trial) == "8.0 1.0 0 0 1"
    assert run(ASKED, folder, trial) == "8.0 1.0 1 1 1", "kept"
    inner = trial / "warmgraphite" / "trial" / "kernels" / "inner.py"
    before = inner.read_text()
    inner.write_text(before.replace("2 * x", "5 * x"))
    assert run(ASKED, folder, trial) == "20.0 1.0 0 1 1"
    if DEEP:
        inner.write_text(before)
        assert run(ASKED, folder, trial) == "8.0 1.0 1 1 1", "what was there before is there still"


def test_two_processes_that_want_one_kernel_compile_it_once(trial: Path) -> None:
    folder, found = trial / "kept", []
    both = [threading.Thread(target=lambda: found.append(run(ASKED, folder, trial).split()[2])) for _ in range(2)]
    for one in both:
        one.start()
    for one in both:
        one.join()
    assert sorted(found) == ["0", "1"], "who came second found it compiled"


def test_the_room_compiles_all_that_is_declared_knows_when_it_is_complete_and_forgets_after_a_month(
    trial: Path,
) -> None:
    code = """
        from warmgraphite.kernels import all_kernels, cache
        from warmgraphite.kernels.__main__ import compile_all, is_complete
        kept = lambda: sorted(f.name.split("-")[0] for f in cache.folder().glob("*/*.nbi"))
        print(is_complete())
        compile_all(2)
        print(is_complete(), [k.name.split(".")[-1] for k in all_kernels() if k.forms], kept())
        now = max(f.stat().st_atime for f in cache.folder().glob("*/*"))
        cache.forget_old(now + cache.MONTH - 60)
        print(len(kept()))
        cache.forget_old(now + cache.MONTH + 60)
        print(len(kept()))
        """
    said = run(code, trial / "kept", trial).splitlines()
    assert said == ["False", "True ['alone', 'asked'] ['apart.alone', 'inner.twice', 'outer.asked']", "3", "0"]


def test_a_number_that_stands_in_a_call_is_no_type_of_its_own() -> None:
    kernels.load_all()
    literal = [
        (k.name, form) for k in kernels.all_kernels() for form in k.overloads if any("Literal" in str(t) for t in form)
    ]
    assert not literal


def test_what_the_compiler_remembers_is_what_it_would_find_anew() -> None:
    @kernels.kernel("f8[:,::1], i4[::1], i8")
    def of_all_sorts(rows, places, most):  # type: ignore[no-untyped-def]
        total, low = 0.0, np.empty(3, np.float32)
        for k in range(min(len(places), most)):
            own = rows[places[k]]
            low[k % 3] = max(abs(own[0]) - np.sqrt(own[1]), 0.5) / (1 + k)
            total += low[k % 3] if own[0] > 2 and own[1] != 0 else np.floor(own[1]) ** 2 // 3
        return total, int(total) & 7, rows[1:, 0]

    before = len(remembering._answers)
    of_all_sorts.compile(of_all_sorts.forms[0])
    rows = list(remembering._answers.items())
    assert len(rows) > before + 15
    for (_, args), (function, sig) in rows:
        assert remembering._ask(function, cpu_target.typing_context, args, {}) == sig, (function, args)


# The loops that others stand on.


@settings(max_examples=examples(120, 40), deadline=None)
@given(st.lists(st.integers(-9, 9) | st.floats(-9, 9), max_size=120))
def test_things_are_put_in_order_and_equal_ones_stay_as_they_were(rows: list[float]) -> None:
    keys = np.array(rows, float)
    assert (order_of.py_func(keys) == np.argsort(keys, kind="stable")).all()


@settings(max_examples=examples(60, 20), deadline=None)
@given(st.lists(st.tuples(st.integers(0, 30), st.floats(0, 1)), max_size=80))
def test_stretches_are_put_in_the_order_of_their_beginnings(rows: list[tuple[float, float]]) -> None:
    low, high = (np.array([r[k] for r in rows] + [-1.0], float) for k in (0, 1))
    wanted = sorted(zip(low[:-1], high[:-1], strict=True), key=lambda r: r[0])
    sort_stretches.py_func.__globals__["order_of"] = order_of.py_func
    try:
        sort_stretches.py_func(low, high, len(rows))
    finally:
        sort_stretches.py_func.__globals__["order_of"] = order_of
    assert list(zip(low[:-1], high[:-1], strict=True)) == wanted and low[-1] == -1


@pytest.mark.parametrize("kind", [np.float64, np.int32, np.bool_])
def test_an_array_that_grows_keeps_what_it_holds(kind: type) -> None:
    array = np.arange(5).astype(kind)
    bigger = grown.py_func(array)
    assert bigger.dtype == array.dtype and len(bigger) == 10 and (bigger[:5] == array).all()
    rows = np.arange(6).reshape(3, 2).astype(kind)
    more = grown_rows.py_func(rows, 7)
    assert more.dtype == rows.dtype and more.shape == (7, 2) and (more[:3] == rows).all()
