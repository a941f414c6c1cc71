"""Faces of one's own: files of type that were dropped in, looked through and kept by what is in them."""

from __future__ import annotations

import hashlib
import io
import re
from pathlib import Path
from typing import NamedTuple

from fontTools.ttLib import TTFont, TTLibError

from warmgraphite.errors import PictureError
from warmgraphite.whole import whole

__all__ = ["MOST_FACE", "OwnFace", "own_faces", "take_face"]

#: Bytes of a file of type.
MOST_FACE = 20_000_000
_NAME = re.compile(r"[0-9a-f]{32}\.(?:ttf|otf)")


class OwnFace(NamedTuple):
    """A face that is kept: its digest, what it is called, and how many letters it has."""

    digest: str
    name: str
    letters: int


def _about(path: Path) -> OwnFace | None:
    try:
        with TTFont(path, lazy=True) as font:
            family, style = font["name"].getBestFamilyName(), font["name"].getBestSubFamilyName()
            called = " ".join(str(w) for w in (family, style if style != "Regular" else "") if w).strip()
            return OwnFace(path.stem, called[:80] or "A face", len(font.getBestCmap() or ()))
    except Exception:  # one that was harmed since is left out
        return None


def own_faces(folder: Path) -> list[OwnFace]:
    """The faces in a folder, by name."""
    found = [_about(p) for p in folder.glob("*.?tf") if _NAME.fullmatch(p.name)]
    return sorted((f for f in found if f is not None), key=lambda f: f.name.lower())


def take_face(data: bytes, name: str, folder: Path) -> OwnFace:
    """Take a file of type in: TrueType, OpenType, or either as WOFF. Raises :class:`PictureError` with one sentence for what is none, or has no letters."""
    if len(data) > MOST_FACE:
        raise PictureError(
            f"“{name}” has {len(data) / 1e6:.0f} MB; files of type up to {MOST_FACE // 1_000_000} MB are taken in."
        )
    if data[:4] == b"wOF2":
        raise PictureError(
            f"“{name}” is packed as WOFF2, which is not read here; take the TTF, OTF or WOFF file of the same face."
        )
    if data[:4] == b"ttcf":
        raise PictureError(f"“{name}” is a collection of several faces; take the file of one of them.")
    try:
        font = TTFont(io.BytesIO(data), recalcTimestamp=False)
        letters = font.getBestCmap()
        outlines = "glyf" in font or "CFF " in font or "CFF2" in font
        font.flavor = None
        if not letters or not outlines or "head" not in font or "hmtx" not in font:
            raise TTLibError("it has no letters")
        out = io.BytesIO()
        font.save(out)
    except Exception as error:  # the library raises whatever its parser meets
        raise PictureError(
            f"“{name}” is no file of type that can be read ({str(error)[:80]}); take a TTF, OTF or WOFF file."
        ) from None
    plain = out.getvalue()
    digest, end = hashlib.sha256(plain).hexdigest()[:32], "ttf" if "glyf" in font else "otf"
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / f"{digest}.{end}"
    if not path.exists():
        with whole(path) as draft:
            draft.write_bytes(plain)
    found = _about(path)
    if found is None:
        path.unlink()
        raise PictureError(f"“{name}” is no file of type that can be read; take a TTF, OTF or WOFF file.")
    return found
