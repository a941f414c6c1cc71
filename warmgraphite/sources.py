"""What a piece of the program is computed by: its own file and all of ours that it stands on, as a digest.

Imports are followed however far down; of a package whose files are found by being in it
(:mod:`warmgraphite.catalogue`), all of its files count. What only a type checker imports does not. Thereby nobody has
to say by hand that something is computed differently now.
"""

from __future__ import annotations

import hashlib
import re
from collections.abc import Iterable
from functools import cache
from importlib.metadata import PackageNotFoundError, version
from pathlib import Path

__all__ = ["PACKAGE", "ROOT", "closure", "digest_of", "followed"]

ROOT = Path(__file__).resolve().parent
PACKAGE = ROOT.name
#: Libraries that say what comes out of the arithmetic.
LIBRARIES = (
    "numpy",
    "scipy",
    "shapely",
    "numba",
    "scikit-image",
    "embreex",
    "mapbox-earcut",
    "pillow",
    "skia-python",
    "fonttools",
)

_FROM = re.compile(rf"^\s*from ({PACKAGE}[\w.]*) import (\([^)]*\)|[^\n]*)", re.M)
_IMPORT = re.compile(rf"^\s*import ({PACKAGE}[\w.]*)", re.M)
_FOUND = re.compile(rf"_in\(\s*(?:\"({PACKAGE}[\w.]*)\"|__name__)")
_CHECKED = re.compile(r"^if TYPE_CHECKING:\n(?:[ \t]+[^\n]*\n|\n)+", re.M)


@cache
def _file_of(module: str) -> Path | None:
    """The file of one of our own modules by its dotted name."""
    path = ROOT.parent.joinpath(*module.split("."))
    return next((f for f in (path.with_suffix(".py"), path / "__init__.py") if f.is_file()), None)


@cache
def _text(file: Path) -> str:
    return file.read_text("utf-8")


@cache
def _digest(file: Path) -> bytes:
    return hashlib.sha256(f"{file.relative_to(ROOT.parent)}\0{_text(file)}".encode()).digest()


@cache
def _stands_on(file: Path) -> tuple[Path, ...]:
    """The files of ours that a file imports or finds, wherever in it."""
    text = _CHECKED.sub("", _text(file))
    found: list[Path | None] = [_file_of(m) for m in _IMPORT.findall(text)]
    for module, names in _FROM.findall(text):
        said = [n.split(" as ")[0].strip() for n in names.split("#")[0].strip("()").split(",")]
        found += [_file_of(f"{module}.{name}") or _file_of(module) for name in said if name]
    for package in _FOUND.findall(text):
        folder = ROOT.parent.joinpath(*package.split(".")) if package else file.parent
        found += list(folder.rglob("*.py"))
    return tuple(sorted({f for f in found if f is not None}))


def followed(files: Iterable[Path], without: Iterable[Path] = ()) -> tuple[Path, ...]:
    """Files of ours, and all that they stand on, in order; what is ``without`` is neither counted nor followed."""
    left = frozenset(without)
    known = set(files) - left
    waiting = list(known)
    while waiting:
        fresh = [f for f in _stands_on(waiting.pop()) if f not in known and f not in left]
        known.update(fresh)
        waiting += fresh
    return tuple(sorted(known))


def closure(modules: Iterable[str], without: Iterable[str] = ()) -> tuple[Path, ...]:
    """The same for modules by their dotted names."""
    files, left = ([f for f in map(_file_of, names) if f is not None] for names in (modules, without))
    return followed(files, left)


@cache
def _libraries() -> str:
    def said(name: str) -> str:
        try:
            return f"{name} {version(name)}"
        except PackageNotFoundError:
            return name

    return ", ".join(map(said, LIBRARIES))


@cache
def digest_of(*modules: str, without: tuple[str, ...] = ()) -> str:
    """A digest of the sources that modules stand on, and of the libraries' versions."""
    found = hashlib.sha256(_libraries().encode())
    for file in closure(modules, without):
        found.update(_digest(file))
    return found.hexdigest()[:24]
