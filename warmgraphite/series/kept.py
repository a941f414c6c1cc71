"""What of a set is there: a file beside the drawings says by which key each was drawn."""

from __future__ import annotations

import json
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from warmgraphite.atomic import atomic_write
from warmgraphite.errors import OutputError
from warmgraphite.series.plan import Item

__all__ = ["KeptSet"]

_FORMAT = 1
_NAME = "set.json"


@dataclass
class KeptSet:
    """The drawings of a set in a folder: the key, and the name of the small picture, of each file."""

    folder: Path
    rows: dict[str, dict[str, Any]] = field(default_factory=dict)

    @staticmethod
    def of(folder: Path) -> KeptSet:
        """What is told in a folder; nothing where nothing is, or what is told cannot be read.
        Raises :class:`OutputError` for a place that is no folder, or that holds other things.
        """
        if folder.exists() and not folder.is_dir():
            raise OutputError(f"{folder} is a file and no folder; choose another place.")
        told = folder / _NAME
        if not told.is_file():
            if folder.is_dir() and any(p.name != "small" for p in folder.iterdir()):
                raise OutputError(f"{folder} holds other files and no set; name an empty or a new folder.")
            return KeptSet(folder)
        try:
            data = json.loads(told.read_text("utf-8"))
            return KeptSet(folder, dict(data["drawings"]) if data.get("format") == _FORMAT else {})
        except (OSError, ValueError, KeyError, TypeError, AttributeError):
            return KeptSet(folder)  # all of it is drawn anew

    def begin(self) -> None:
        """Make the folder. Raises :class:`OutputError` where it cannot be."""
        try:
            (self.folder / "small").mkdir(parents=True, exist_ok=True)
            self._write()
        except OSError as error:
            raise OutputError(
                f"{self.folder} cannot be written ({error.strerror or error}); choose another place."
            ) from error

    def has(self, item: Item) -> bool:
        """Whether the file of an item is there, and shows what it should."""
        row = self.rows.get(item.file)
        return row is not None and row["key"] == item.key and (self.folder / item.file).is_file()

    def small(self, item: Item) -> Path:
        """Where the small picture of an item lies, or will."""
        return self.folder / "small" / f"{item.key}.png"

    def add(self, item: Item) -> None:
        """Say that an item is drawn; its file is there."""
        self.rows[item.file] = {"key": item.key}
        self._write()

    def without(self, items: list[Item]) -> None:
        """Take away what was drawn before and belongs to the set no more."""
        kept, keys = {i.file for i in items}, {i.key for i in items}
        for name in [n for n in self.rows if n not in kept]:
            (self.folder / name).unlink(missing_ok=True)
            del self.rows[name]
        for path in (self.folder / "small").glob("*.png"):
            if path.stem not in keys:
                path.unlink(missing_ok=True)
        self._write()

    def _write(self) -> None:
        with atomic_write(self.folder / _NAME) as draft:
            draft.write_text(json.dumps({"format": _FORMAT, "drawings": self.rows}, indent=1), "utf-8")
