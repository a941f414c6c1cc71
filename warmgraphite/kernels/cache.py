"""Where compiled kernels are kept, and when one is out of date.

The compiler's own cache goes by the file that a function stands in. A loop that has taken a function of another file
into itself would stay as it was when that one changes. Here a kernel goes by a digest of its own file and of every file
of ours that this one imports, however far down, and lies in a folder of the compiler's version and the processor it was
compiled for. Nothing is ever put in place of something else: two versions side by side keep theirs, and what nobody
asks for any more is thrown away after a month.
"""

from __future__ import annotations

import fcntl
import hashlib
import os
import shutil
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from functools import cache
from pathlib import Path
from types import FunctionType
from typing import Any

from warmgraphite.sources import ROOT, followed

__all__ = ["ROOT", "Locator", "alone", "digest_of", "folder", "forget_old"]

#: Seconds after which compiled kernels that nobody asked for are thrown away.
MONTH = 30 * 86400.0


def _kept() -> Path:
    """The folder for compiled kernels.
    ``WARMGRAPHITE_KERNELS``, or the user's own for things that can be made again.
    """
    named = os.environ.get("WARMGRAPHITE_KERNELS")
    caches = os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache"
    return Path(named) if named else Path(caches) / "warm-graphite" / "kernels"


@cache
def folder() -> Path:
    """The folder of this compiler and this processor."""
    import llvmlite
    import llvmlite.binding as llvm
    import numba
    import numpy

    llvm.initialize_native_target()
    features = llvm.get_host_cpu_features().flatten()
    said = [
        *sys.version_info[:2],
        numba.__version__,
        llvmlite.__version__,
        numpy.__version__,
        llvm.get_host_cpu_name(),
        features,
    ]
    return _kept() / hashlib.sha256(repr(said).encode()).hexdigest()[:16]


@cache
def digest_of(file: Path) -> str:
    """A digest of all that a file's kernels are compiled from."""
    found = hashlib.sha256()
    for source in followed([file]):
        found.update(str(source.relative_to(ROOT.parent)).encode() + b"\0" + source.read_bytes() + b"\0")
    return found.hexdigest()[:24]


class Locator:
    """Tells the compiler where the kernels of a file are kept: the four questions that it puts to such an object."""

    def __init__(self, line: int, file: Path) -> None:
        self._line, self._digest = line, digest_of(file)
        name = ".".join(file.relative_to(ROOT).with_suffix("").parts)
        self._path = folder() / f"{name}-{self._digest}"

    def ensure_cache_path(self) -> None:
        self._path.mkdir(parents=True, exist_ok=True)

    def get_cache_path(self) -> str:
        return str(self._path)

    def get_source_stamp(self) -> str:
        return self._digest

    def get_disambiguator(self) -> str:
        return str(self._line)

    @classmethod
    def from_function(cls, function: FunctionType, file: str) -> Locator | None:
        path = Path(file).resolve()
        if not path.is_relative_to(ROOT):
            return None  # not one of ours: the compiler has ways of its own
        found = cls(function.__code__.co_firstlineno, path)
        try:
            found.ensure_cache_path()
        except OSError:
            return None
        return found


@contextmanager
def alone(dispatcher: Any) -> Iterator[None]:
    """Hold a kernel against other processes while it is loaded or compiled.
    Who comes second waits, and finds it compiled.
    """
    path = dispatcher._cache.cache_path
    if not path or not os.access(path, os.W_OK):
        yield
        return
    with (Path(path) / f"{dispatcher.__name__}.lock").open("a") as held:
        fcntl.flock(held, fcntl.LOCK_EX)
        yield


def forget_old(now: float | None = None) -> None:
    """Throw away compiled kernels that nobody has asked for in a month."""
    now = time.time() if now is None else now
    for compiler in _kept().iterdir() if _kept().is_dir() else ():
        for kernels in compiler.iterdir() if compiler.is_dir() else ():
            with suppress(OSError):
                if now - max(f.stat().st_atime for f in (kernels, *kernels.iterdir())) > MONTH:
                    shutil.rmtree(kernels, ignore_errors=True)
        with suppress(OSError):
            compiler.rmdir()  # where nothing is left
