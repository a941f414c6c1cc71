"""Pages as a file, in the format of its ending, whole or not at all."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from warmgraphite.atomic import atomic_write
from warmgraphite.errors import OutputError
from warmgraphite.out.format import About, Format
from warmgraphite.out.formats import FORMATS
from warmgraphite.out.leaf import Leaf
from warmgraphite.out.settings import LEAST_RESOLUTION, MOST_RESOLUTION, OutSettings

__all__ = ["FORMATS", "format_of", "refuse_resolution", "write_leaves", "write_whole"]


def format_of(path: Path) -> Format:
    """The format of a path's ending. Raises :class:`OutputError` for one that is unknown."""
    ending = path.suffix.lower().lstrip(".")
    found = FORMATS.get({"jpeg": "jpg", "tif": "tiff"}.get(ending, ending))
    if found is None:
        *others, last = (f".{e}" for e in FORMATS)
        raise OutputError(
            f"“{path.name}” must end in {', '.join(others)} or {last}, so that it is clear what to write."
        )
    return found


def refuse_resolution(resolution: float) -> None:
    """Raise :class:`OutputError` for a resolution that no file has."""
    if not LEAST_RESOLUTION <= resolution <= MOST_RESOLUTION:
        raise OutputError(
            f"A resolution of {resolution:g} is outside {LEAST_RESOLUTION:g} to {MOST_RESOLUTION:g} pixels per inch."
        )


def write_whole(path: Path, data: bytes) -> None:
    """Write a file whole or not at all. Raises :class:`OutputError` for a place that cannot be written to."""
    if not path.parent.is_dir():
        raise OutputError(f"{path} cannot be written (there is no folder {path.parent}); choose another place.")
    try:
        with atomic_write(path) as draft:
            draft.write_bytes(data)
    except OSError as error:
        raise OutputError(f"{path} cannot be written ({error.strerror or error}); choose another place.") from error


def write_leaves(leaves: Sequence[Leaf], path: Path, settings: OutSettings, about: About) -> None:
    """Write pages in the format of the path's ending; one that holds a single page gets the first.

    Raises :class:`OutputError` for an unknown ending, more pixels than can be written, or a place that cannot be
    written to.
    """
    write_whole(path, format_of(path).write(leaves, settings, about))
