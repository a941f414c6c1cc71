"""Masks painted by hand: kept by hash in tiles, at 300 dots to the inch of the paper.

What was painted never changes under its name: a stroke gives another name, whose tiles are those of before but for the ones that the
brush touched. So every stroke can be undone, and an hour of painting takes no more room than what it touched.
"""

from __future__ import annotations

import hashlib
import json
import re
import zlib
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Annotated

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.errors import ViewError
from warmgraphite.regions.kernels.painting import brush_tile, sampled, sampled_at
from warmgraphite.specification import Specification
from warmgraphite.threads import in_stretches, in_threads
from warmgraphite.whole import whole

__all__ = ["PER_MM", "TILE", "BrushStroke", "KeptMasks", "Painted"]

#: Pixels of a mask in a millimetre, and across a tile.
PER_MM, TILE = 300 / 25.4, 256
#: Tiles of one mask: more than two A0 sheets have.
MOST_TILES = 9000

Millimetres = Annotated[float, Field(allow_inf_nan=False, ge=-3000, le=3000)]


class BrushStroke(Specification):
    """One stroke of a brush through ``points``, millimetres from the middle of the drawing; ``size`` is its width, ``softness`` the
    share of that which fades, ``strength`` how much of it is laid on, or taken off where it ``erases``."""

    points: tuple[tuple[Millimetres, Millimetres], ...] = Field(min_length=1, max_length=4000)
    size: float = Field(default=20.0, ge=0.3, le=400)
    softness: float = Field(default=0.5, ge=0, le=1)
    strength: float = Field(default=1.0, ge=0.02, le=1)
    erases: bool = False


@dataclass(frozen=True)
class Painted:
    """Tiles (256, 256) uint8 by column and row; a place in millimetres from the middle of the drawing lies in the tile of 256 pixels."""

    tiles: dict[tuple[int, int], NDArray[np.uint8]]

    def grid(self, x: NDArray[np.float64], y: NDArray[np.float64]) -> NDArray[np.float32]:
        """(h, w) shares at places ``x`` (w,), ``y`` (h,), evenly spaced, in millimetres from the middle; averaged over a step."""
        out = np.zeros((len(y), len(x)), np.float32)
        if not self.tiles:
            return out
        _, left, top = self._joined
        step = (x[1] - x[0]) * PER_MM if len(x) > 1 else 1.0
        # Coarser than the mask: steps are laid over means of it, so that a hard brush has a smooth edge there, too.
        level = max(0, int(np.floor(np.log2(max(step, 1.0)))))
        part = self._level(level)
        across, down = ((v * PER_MM - corner) / 2**level - 0.5 for v, corner in ((x, left), (y, top)))
        in_stretches(lambda a, b: sampled(part, across, down[a:b], out[a:b]), len(y), 64)
        return out

    def at(self, xy: NDArray[np.float64]) -> NDArray[np.float32]:
        """(n,) shares at points (n, 2) in millimetres from the middle."""
        out = np.zeros(len(xy), np.float32)
        if self.tiles:
            whole, left, top = self._joined
            sampled_at(whole, xy[:, 0] * PER_MM - left - 0.5, xy[:, 1] * PER_MM - top - 0.5, out)
        return out

    @property
    def _joined(self) -> tuple[NDArray[np.uint8], int, int]:
        """All tiles as one picture, and where its corner lies in pixels from the middle."""
        found: tuple[NDArray[np.uint8], int, int] | None = self.__dict__.get("joined")
        if found is None:
            columns, rows = ([k[i] for k in self.tiles] for i in (0, 1))
            left, top = min(columns), min(rows)
            out = np.zeros(((max(rows) - top + 1) * TILE, (max(columns) - left + 1) * TILE), np.uint8)
            for (i, j), tile in self.tiles.items():
                out[(j - top) * TILE :, (i - left) * TILE :][:TILE, :TILE] = tile
            found = self.__dict__["joined"] = (out, left * TILE, top * TILE)
        return found

    def _level(self, level: int) -> NDArray[np.uint8]:
        whole = self._joined[0]
        key = f"level {level}"
        if level and key not in self.__dict__:
            finer = self._level(level - 1)
            h, w = finer.shape[0] // 2 * 2, finer.shape[1] // 2 * 2
            quarters = finer[:h, :w].reshape(h // 2, 2, w // 2, 2).astype(np.uint16)
            self.__dict__[key] = ((quarters.sum(axis=(1, 3)) + 2) // 4).astype(np.uint8)
        found: NDArray[np.uint8] = self.__dict__[key] if level else whole
        return found


class KeptMasks:
    """Painted masks in a ``folder``, by hash."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def has(self, name: str) -> bool:
        """Whether a mask is kept here."""
        return bool(re.fullmatch("[0-9a-f]{32}", name)) and (self.folder / f"{name}.json").exists()

    def painted(self, name: str) -> Painted:
        """What was painted under a name; nothing where that is not kept here."""
        return _read(self.folder, name) if self.has(name) else Painted({})

    def files(self, name: str) -> Iterator[Path]:
        """The files of a mask."""
        if self.has(name):
            yield self.folder / f"{name}.json"
            yield from (self.folder / f"{tile}.tile" for tile in _names(self.folder, name).values())

    def stroke(self, name: str, stroke: BrushStroke) -> str:
        """The name of what a mask is after a stroke. Raises :class:`ViewError` for more than can be held."""
        names = dict(_names(self.folder, name)) if self.has(name) else {}
        before = self.painted(name).tiles
        points = np.array(stroke.points, np.float64) * PER_MM
        reach = stroke.size / 2 * PER_MM
        low, high = points.min(0) - reach - 1, points.max(0) + reach + 1
        across, down = (range(int(np.floor(low[k] / TILE)), int(np.floor(high[k] / TILE)) + 1) for k in (0, 1))
        touched: dict[tuple[int, int], str] = {}

        places = [(i, j) for j in down for i in across]

        def lay(number: int) -> None:
            place = places[number]
            tile = before.get(place)
            tile = np.zeros((TILE, TILE), np.uint8) if tile is None else tile.copy()
            own = points - np.array(place) * TILE
            if brush_tile(tile, own, reach, stroke.softness, stroke.strength, stroke.erases):
                touched[place] = self._keep(tile) if tile.any() else ""

        in_threads(lay, range(len(places)))
        for place, tile_name in touched.items():
            if tile_name:
                names[place] = tile_name
            else:
                names.pop(place, None)
        if len(names) > MOST_TILES:
            raise ViewError("This mask covers more paper than can be held; begin another one.")
        return self._written(names) if names else ""

    def take_in(self, tiles: dict[tuple[int, int], bytes]) -> str:
        """Keep a mask that was packed elsewhere, and give its name. Raises :class:`ViewError` where it is damaged."""
        names: dict[tuple[int, int], str] = {}
        for place, data in tiles.items():
            unpacker = zlib.decompressobj()
            try:
                tile = unpacker.decompress(data, TILE * TILE + 1)
            except zlib.error:
                tile = b""
            if len(tile) != TILE * TILE or len(names) >= MOST_TILES or max(map(abs, place)) > 1000:
                raise ViewError("A painted mask in this archive is damaged; pack the study again.")
            names[place] = self._keep(np.frombuffer(tile, np.uint8).reshape(TILE, TILE))
        return self._written(names) if names else ""

    def _keep(self, tile: NDArray[np.uint8]) -> str:
        name = hashlib.sha256(tile.tobytes()).hexdigest()[:32]
        path = self.folder / f"{name}.tile"
        if not path.exists():
            self.folder.mkdir(parents=True, exist_ok=True)
            with whole(path) as draft:
                draft.write_bytes(zlib.compress(tile.tobytes(), 1))
        return name

    def _written(self, names: dict[tuple[int, int], str]) -> str:
        text = json.dumps(sorted([i, j, tile] for (i, j), tile in names.items()))
        name = hashlib.sha256(text.encode()).hexdigest()[:32]
        path = self.folder / f"{name}.json"
        if not path.exists():
            with whole(path) as draft:
                draft.write_text(text)
        return name


def _names(folder: Path, name: str) -> dict[tuple[int, int], str]:
    return {(i, j): tile for i, j, tile in json.loads((folder / f"{name}.json").read_text())}


@lru_cache(maxsize=24)
def _read(folder: Path, name: str) -> Painted:
    return Painted({place: _tile(folder, tile) for place, tile in _names(folder, name).items()})


@lru_cache(maxsize=2000)
def _tile(folder: Path, name: str) -> NDArray[np.uint8]:
    found = np.frombuffer(zlib.decompress((folder / f"{name}.tile").read_bytes()), np.uint8).reshape(TILE, TILE)
    found.flags.writeable = False
    return found
