"""Files written whole or not at all, and on the disk before anybody is told of them.

A file that was written is in the machine's memory; a power cut takes it, or leaves it empty under its name. What is
settled stays: the bytes of the file first, then its name in its folder.
"""

from __future__ import annotations

import os
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

__all__ = ["DRAFT", "atomic_write", "is_whole_picture", "make_folder", "put", "settle", "settle_all", "used"]

#: The ending of a file that is not whole yet: what has it was left by somebody who was killed, or is being written.
DRAFT = ".draft"


def settle(path: Path) -> None:
    """Have the bytes of a file, or the names in a folder, on the disk before going on."""
    found = os.open(path, os.O_RDONLY)
    try:
        os.fsync(found)
    finally:
        os.close(found)


def settle_all(folder: Path) -> None:
    """Have all that is in a folder on the disk, and its name."""
    for place, _, files in os.walk(folder, topdown=False):
        for name in files:
            settle(Path(place, name))
        settle(Path(place))
    settle(folder.parent)


def make_folder(folder: Path) -> None:
    """Make a folder where it is missing, with those above it, so that their names stay."""
    if not folder.is_dir():
        make_folder(folder.parent)
        folder.mkdir(exist_ok=True)
        settle(folder.parent)


def put(draft: Path, path: Path) -> None:
    """Put a file that was written elsewhere on the same disk in the place of ``path``, so that it stays."""
    settle(draft)
    os.replace(draft, path)
    settle(path.parent)


def is_whole_picture(path: Path) -> bool:
    """Whether a PNG or JPEG is there and ends as it began.
    One that is empty or cut off does not (PNG specification, 5.2 and 11.2.5; ITU-T T.81, B.1.1.3).
    """
    try:
        with path.open("rb") as file:
            begins = file.read(2)
            file.seek(-min(12, os.fstat(file.fileno()).st_size), os.SEEK_END)
            ends = file.read()
    except OSError:
        return False
    return ends[-2:] == b"\xff\xd9" if begins == b"\xff\xd8" else ends == b"\0\0\0\0IEND\xaeB`\x82"


def used(path: Path) -> bool:
    """Whether a file is there.
    Then it counts as used now, so that it is not cleared away before somebody says what stands on it.
    """
    try:
        os.utime(path)
    except OSError:
        return False
    return True


@contextmanager
def atomic_write(path: Path, lasting: bool = True) -> Iterator[Path]:
    """Gives a draft to write to, in the same folder, and puts it in the place of ``path`` when that was done.
    The folder is made where it is missing, and nothing is left of a draft that was not.

    What is not ``lasting`` can be computed again: it is not waited for until it is on the disk, and whoever reads it
    looks whether it is whole.
    """
    if lasting:
        make_folder(path.parent)
    else:
        path.parent.mkdir(parents=True, exist_ok=True)
    draft = path.with_name(f".{uuid.uuid4().hex}{DRAFT}")
    try:
        yield draft
        if lasting:
            put(draft, path)
        else:
            os.replace(draft, path)
    finally:
        draft.unlink(missing_ok=True)
