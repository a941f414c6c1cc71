"""Names that every file system takes, made of names that people give."""

from __future__ import annotations

import re
import unicodedata
from pathlib import PurePosixPath

__all__ = ["file_name", "received_name"]

#: Bytes of a file's name, with room for an ending: file systems take 255.
MOST_BYTES = 180


def _cut(words: str, most: int) -> str:
    """As many whole letters as fit into so many bytes."""
    return words.encode()[:most].decode("utf-8", "ignore").strip()


def file_name(words: str, otherwise: str) -> str:
    """A name for what is written, without an ending; ``otherwise`` where nothing is left of the words."""
    kept = re.sub(r"[^\w\- ]+", "", unicodedata.normalize("NFC", words), flags=re.UNICODE)
    return _cut(kept, MOST_BYTES).strip(" .") or otherwise


def received_name(words: str) -> tuple[str, bool]:
    """The name that a received file is kept under, and whether it had to be changed for that. The ending stays."""
    last = PurePosixPath(words.replace("\\", "/")).name
    kept = "".join(c for c in last if unicodedata.category(c)[0] != "C").strip().lstrip(".") or "model"
    stem, dot, ending = kept.rpartition(".")
    if len(kept.encode()) > MOST_BYTES:
        kept = (
            f"{_cut(stem, MOST_BYTES - len(ending.encode()) - 1)}.{ending}"
            if dot and stem and len(ending) < 12
            else _cut(kept, MOST_BYTES)
        )
    return kept, kept != last
