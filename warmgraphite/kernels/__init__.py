"""The one way in which loops of ours are compiled.

A **kernel** is called from Python: annotations say what arguments it is called with
(:mod:`warmgraphite.kernels.records`), or, where it is called with several sorts, forms beside it do, so that it can be
compiled before anybody wants it (``python -m warmgraphite.kernels``). A **device** is called by kernels only, and gets
no wrapper for Python, which would take as long to compile as the loop. Both give up the interpreter's lock. What was
compiled is kept (:mod:`warmgraphite.kernels.cache`); a kernel that is wanted before it is compiled is compiled by who
wants it, and by nobody else meanwhile.

Left to itself the compiler makes a type of its own of each number that stands in a call, and compiles what is called
anew for each: one row of noise was compiled eighteen times. Here a number is a number.
"""

from __future__ import annotations

import functools
from collections.abc import Callable, Iterator
from importlib import import_module
from typing import Any

from numba import types
from numba.core.caching import CompileResultCacheImpl, FunctionCache, NullCache
from numba.core.compiler_lock import global_compiler_lock
from numba.core.registry import CPUDispatcher

from warmgraphite.kernels.cache import ROOT, Locator, alone
from warmgraphite.kernels.records import form_of
from warmgraphite.kernels.remembering import remember

__all__ = ["Kernel", "all_kernels", "device", "kernel", "late", "load_all"]

remember()


class _Kept(CompileResultCacheImpl):
    _locator_classes = [Locator]


class _Cache(FunctionCache):
    _impl_class = _Kept


class Kernel(CPUDispatcher):
    """A compiled function of ours, with the ``forms`` it is declared for; a device has none."""

    def __init__(self, function: Callable, forms: tuple[str, ...] | None, options: dict[str, Any]) -> None:
        """``forms`` is empty where the annotations say them, and ``None`` of a device."""
        self._kept: Any = None
        super().__init__(py_func=function, targetoptions=options)
        self._said = forms

    @property
    def _cache(self) -> Any:
        """Where it is kept.
        Looked for when it is first wanted, because most of the kernels never are in most processes.
        """
        if self._kept is None:
            try:
                self._kept = _Cache(self.py_func)
            except RuntimeError:  # there is nowhere to keep it: it is compiled in each process
                self._kept = NullCache()
        return self._kept

    @_cache.setter
    def _cache(self, _none: Any) -> None:
        """The compiler begins with none."""

    @functools.cached_property
    def forms(self) -> tuple[tuple[types.Type, ...], ...]:
        """The types of arguments that it is declared for."""
        if self._said == ():
            return (form_of(self.py_func),)
        return tuple(_types_of(said) for said in self._said or ())

    @property
    def name(self) -> str:
        return f"{self.py_func.__module__}.{self.py_func.__name__}"

    def get_call_template(self, args: Any, kws: Any) -> Any:
        """Types a call out of another kernel: a number that stands there is one of its sort, not a type of its own."""
        return super().get_call_template(
            tuple(types.unliteral(a) for a in args), {k: types.unliteral(a) for k, a in kws.items()}
        )

    def compile(self, sig: Any) -> Any:
        # First the compiler's own lock, then the file's: the other way round two threads would wait for each other.
        with global_compiler_lock:
            if isinstance(sig, tuple) and sig in self.overloads:
                return super().compile(sig)
            with alone(self):
                return super().compile(sig)


def _readonly(array: types.Array) -> types.Array:
    return array.copy(readonly=True)


_NAMES = {**vars(types), "kept": _readonly}


def _types_of(said: str) -> tuple[types.Type, ...]:
    """The types that a form names, as "f8[:, ::1], i8"; ``kept`` is an array that may only be read."""
    return eval(f"({said},)", {"__builtins__": {}}, dict(_NAMES))


def _options(fast: bool, division: str, borrows: bool) -> dict[str, Any]:
    # Nobody calls it from a language that is neither Python nor another kernel.
    found: dict[str, Any] = {"nopython": True, "nogil": True, "boundscheck": None, "no_cfunc_wrapper": True}
    if borrows:
        found["_nrt"] = False
    if fast or division == "numpy":
        found["error_model"] = "numpy"
    return {**found, "fastmath": True} if fast else found


def kernel(
    *forms: str, fast: bool = False, division: str = "python", borrows: bool = False
) -> Callable[[Callable], Any]:
    """Compile a loop that Python calls, for arguments of these forms; without any, for what its annotations say.

    ``fast`` lets sums be taken in any order, and no result be checked for being a number, for loops over pixels; a
    ``division`` by nothing is an error in the manner of "python", or no number in that of "numpy". What ``borrows`` its
    arrays makes none and gives none back, and nobody counts who holds them: two threads that count one array hold each
    other up. Forms that are not named work, late.
    """
    return lambda function: Kernel(function, forms, _options(fast, division, borrows))


def device(
    *, fast: bool = False, division: str = "python", inline: str = "never", borrows: bool = False
) -> Callable[[Callable], Any]:
    """Compile a function that only kernels call."""
    options = {**_options(fast, division, borrows), "no_cpython_wrapper": True}
    if inline != "never":
        options["inline"] = inline
    return lambda function: Kernel(function, None, options)


def load_all() -> None:
    """Import every module with kernels: those named ``kernels``, or in a folder of that name."""
    for file in sorted(ROOT.rglob("*.py")):
        inside = file.relative_to(ROOT).with_suffix("").parts
        if "kernels" in inside[1:] and inside[-1] != "__init__":
            import_module(".".join((ROOT.name, *inside)))


def all_kernels() -> Iterator[Kernel]:
    """Every kernel and device that is imported, by name."""
    import sys

    found = {
        id(k): k
        for n, m in list(sys.modules.items())
        if n.startswith("warmgraphite.")
        for k in vars(m).values()
        if isinstance(k, Kernel)
    }
    return iter(sorted(found.values(), key=lambda k: k.name))


def late() -> list[tuple[str, tuple[types.Type, ...]]]:
    """What was compiled in this process for Python without being declared: (kernel, types of its arguments)."""
    return [(k.name, form) for k in all_kernels() if k._said is not None for form in k.overloads if form not in k.forms]
