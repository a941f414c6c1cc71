"""Passes kept on disk under the hash of exactly what they depend on: fresh or stale is a look-up."""

from __future__ import annotations

import json
import mmap
import os
import struct
import threading
import zipfile
import zlib
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
from numpy.typing import NDArray

from warmgraphite.atomic import atomic_write

__all__ = ["Arrays", "PassStore"]

#: Share of a store's limit that is saved before its files are counted again: of thousands, that takes longer than
#: saving one.
UNCOUNTED = 0.01
#: Bytes that this process has saved in a folder since it last counted.
_saved: dict[Path, int] = {}
_counting = threading.Lock()

Arrays = dict[str, NDArray[Any]]

#: Bytes of a member's header in an archive, but for its name; to which multiples arrays begin; and how what fills the
#: room is called.
_HEADER, _LINE, _PADDING = 50, 64, 0xD935

#: Bytes of an array that is kept together with others; and what those are called.
SMALL, _SMALL = 65536, "small arrays"


def _together(arrays: Arrays) -> Arrays:
    """Arrays with the small ones as one.
    Each array of a file is written and read apart, and of a hundred that takes longer than all else.
    """
    small = {n: np.ascontiguousarray(a) for n, a in arrays.items() if a.nbytes <= SMALL and a.dtype.kind != "O"}
    about = json.dumps([[name, a.dtype.str, arrays[name].shape] for name, a in small.items()]).encode()
    data = b"".join([about, *(a.tobytes() for a in small.values())])
    packed = np.frombuffer(len(about).to_bytes(8, "little") + data, np.uint8)
    return {_SMALL: packed, **{n: a for n, a in arrays.items() if n not in small}}


def _apart(arrays: Arrays) -> Arrays:
    """The arrays that were put together; those of a file from before are apart already."""
    if _SMALL not in arrays:
        return arrays
    data = arrays.pop(_SMALL).tobytes()
    at = 8 + int.from_bytes(data[:8], "little")
    for name, kind, shape in json.loads(data[8:at]):
        dtype, count = np.dtype(kind), int(np.prod(shape))
        arrays[name] = np.frombuffer(data, dtype, count, at).reshape(shape).copy()
        at += count * dtype.itemsize
    return arrays


def _write(out: BinaryIO, arrays: Arrays) -> None:
    """Write arrays as NumPy's archive does, so that they need not be read to be used.
    They lie each where a processor reads it without moving it.
    """
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as archive:
        for name, array in arrays.items():
            about = zipfile.ZipInfo(f"{name}.npy")
            before = out.tell() + _HEADER + len(about.filename.encode())
            room = -before % _LINE
            room += _LINE if 0 < room < 4 else 0
            about.extra = struct.pack("<HH", _PADDING, room - 4) + bytes(room - 4) if room else b""
            with archive.open(about, "w", force_zip64=True) as member:
                np.lib.format.write_array(member, np.asanyarray(array))


#: Files whose sums were found to be right, as they were then: each is looked through once, which takes as long as
#: reading it.
_sound: dict[Path, tuple[int, int]] = {}


def _read(path: Path) -> Arrays:
    """The arrays of an archive, as they lie in the file.
    Pages of it are read when they are used, and may be written to, which leaves the file as it is.
    """
    found: Arrays = {}
    with path.open("rb") as file, zipfile.ZipFile(file) as archive:
        mapped = mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_COPY)  # it goes with the last of the arrays
        for about in archive.infolist():
            file.seek(about.header_offset + 26)
            name, extra = struct.unpack("<HH", file.read(4))
            file.seek(name + extra, os.SEEK_CUR)
            shape, by_columns, kind = _said(file)
            count, at = int(np.prod(shape)), file.tell()
            if at + count * kind.itemsize > len(mapped):
                raise ValueError("cut short")
            array = np.frombuffer(mapped, kind, count, at) if count else np.empty(0, kind)
            found[about.filename.removesuffix(".npy")] = array.reshape(shape, order="F" if by_columns else "C")
    return found


def _is_sound(path: Path) -> bool:
    """Whether the file of a result is there and was not harmed, which is looked through once.
    It takes as long as reading it.
    """
    try:
        state = path.stat()
        now = (state.st_ino, state.st_size)
        if _sound.get(path) != now:
            with zipfile.ZipFile(path) as archive:
                if archive.testzip() is not None:
                    return False
            if len(_sound) > 20_000:
                _sound.clear()
            _sound[path] = now
    except (OSError, ValueError, EOFError, zipfile.BadZipFile, zlib.error, struct.error):
        return False
    return True


def _said(file: BinaryIO) -> tuple[tuple[int, ...], bool, np.dtype[Any]]:
    """Shape, order and kind of an array, from what its file begins with."""
    version = np.lib.format.read_magic(file)
    read = np.lib.format.read_array_header_1_0 if version == (1, 0) else np.lib.format.read_array_header_2_0
    shape, by_columns, kind = read(file)
    if kind.hasobject:
        raise ValueError("no array of numbers")
    return shape, by_columns, kind


class PassStore:
    """A folder of results. ``limit`` bytes are kept; what was used longest ago goes first."""

    def __init__(self, folder: Path, limit: int = 3_000_000_000, pictures: Any = None) -> None:
        self.folder, self.limit = folder, limit
        #: The pictures of the stock beside it, where there are some.
        self.pictures = pictures
        folder.mkdir(parents=True, exist_ok=True)

    def path(self, key: str) -> Path:
        return self.folder / f"{key}.npz"

    def has(self, key: str) -> bool:
        """Whether the result is there, which is to say fresh."""
        return _is_sound(self.path(key))

    def load(self, key: str) -> Arrays | None:
        """The arrays of a pass, or ``None`` when it was never computed, was cleared away, or its file is damaged."""
        path = self.path(key)
        if not _is_sound(path):
            path.unlink(missing_ok=True)
            return None
        found = _apart(_read(path))
        os.utime(path)
        return found

    def save(self, key: str, arrays: Arrays) -> None:
        """Keep the arrays of a pass, whole or not at all."""
        with atomic_write(self.path(key), lasting=False) as draft:
            with draft.open("wb") as out:
                _write(out, _together(arrays))
            size = draft.stat().st_size
        with _counting:
            _saved[self.folder] = _saved.get(self.folder, self.limit) + size
            if _saved[self.folder] <= self.limit * UNCOUNTED:
                return
            _saved[self.folder] = 0
        self.make_room()

    def make_room(self) -> None:
        """Take away what was used longest ago, down to the limit."""
        rows = []
        for path in self.folder.glob("*.npz"):
            try:
                state = path.stat()
            except FileNotFoundError:
                continue
            rows.append((state.st_mtime, state.st_size, path))
        total = sum(size for _, size, _ in rows)
        for _, size, path in sorted(rows):
            if total <= self.limit:
                return
            path.unlink(missing_ok=True)
            total -= size
