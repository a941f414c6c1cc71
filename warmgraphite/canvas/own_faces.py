"""Faces of one's own: files of type that were dropped in, looked through and kept by what is in them.

A file of type is packed as its maker likes: a megabyte can unpack to gigabytes. So it is opened in a process of its
own, under limits (:mod:`warmgraphite.canvas.face_intake`), and what is told of it is written beside it.
"""

from __future__ import annotations

import json
import re
import tempfile
from pathlib import Path
from typing import NamedTuple

from warmgraphite.atomic import make_folder, put
from warmgraphite.errors import PictureError
from warmgraphite.progress import Stages, unwatched
from warmgraphite.sandbox import SandboxError, run_sandboxed

__all__ = ["MOST_FACE", "OwnFace", "own_faces", "refuse_face", "take_face"]

#: Bytes of a file of type, as it comes and unpacked; seconds and megabytes that opening it may take.
MOST_FACE, MOST_UNPACKED = 20_000_000, 60_000_000
SECONDS, MEGABYTES = 20, 1536
_NAME = re.compile(r"[0-9a-f]{32}")


class OwnFace(NamedTuple):
    """A face that is kept: its digest, what it is called, and how many letters it has."""

    digest: str
    name: str
    letters: int


def own_faces(folder: Path) -> list[OwnFace]:
    """The faces in a folder, by name. None of them is opened."""
    found = [_told(p) for p in folder.glob("*.?tf") if _NAME.fullmatch(p.stem)]
    return sorted((f for f in found if f is not None), key=lambda f: f.name.lower())


def _told(path: Path) -> OwnFace | None:
    if path.stat().st_size > MOST_UNPACKED:
        return None
    try:
        said = json.loads(path.with_suffix(".json").read_text("utf-8"))
        return OwnFace(path.stem, str(said["name"])[:80], int(said["letters"]))
    except (OSError, ValueError, KeyError, TypeError):
        return OwnFace(path.stem, "A face", 0)  # kept by a version that wrote nothing beside it


def refuse_face(begins: bytes, size: int, name: str) -> None:
    """Raises :class:`PictureError` for what is surely no file of type that is taken in.
    It is told by how it begins.
    """
    if size > MOST_FACE:
        raise PictureError(
            f"“{name}” has {size / 1e6:.0f} MB; files of type up to {MOST_FACE // 1_000_000} MB are taken in."
        )
    if begins == b"wOF2":
        raise PictureError(
            f"“{name}” is packed as WOFF2, which is not read here; take the TTF, OTF or WOFF file of the same face."
        )
    if begins == b"ttcf":
        raise PictureError(f"“{name}” is a collection of several faces; take the file of one of them.")
    if begins not in (b"\0\1\0\0", b"OTTO", b"true", b"wOFF"):
        raise PictureError(f"“{name}” is no file of type; take a TTF, OTF or WOFF file.")


def take_face(path: Path, name: str, folder: Path, watch: Stages = unwatched) -> OwnFace:
    """Take a file of type in: TrueType, OpenType, or either as WOFF.
    Raises :class:`PictureError` with one sentence for what is none, has no letters, or takes more room or time to open
    than it may.
    """
    with path.open("rb") as file:
        refuse_face(file.read(4), path.stat().st_size, name)
    make_folder(folder)
    with tempfile.TemporaryDirectory(prefix=".taking-", dir=folder) as room:
        draft = Path(room) / "face"
        try:
            answer = run_sandboxed(
                "warmgraphite.canvas.face_intake", [str(path.resolve()), str(draft.resolve()), name], Path(room), watch,
                seconds=SECONDS, megabytes=MEGABYTES, quiet=True,
            )  # fmt: skip
        except SandboxError:
            raise PictureError(
                f"“{name}” needs more room or time to be opened than it may have; take another file of the face."
            ) from None
        if "error" in answer:
            raise PictureError(str(answer["error"]))
        found = OwnFace(str(answer["digest"]), str(answer["name"]), int(answer["letters"]))
        beside = draft.with_suffix(".json")
        beside.write_text(json.dumps({"name": found.name, "letters": found.letters}), "utf-8")
        put(beside, folder / f"{found.digest}.json")
        put(draft, folder / f"{found.digest}.{answer['ending']}")
    return found
