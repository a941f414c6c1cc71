"""Masks painted by hand: kept by hash in tiles, at 300 dots to the inch of the paper.

What was painted never changes under its name: a stroke gives another name, whose tiles are those of before but for the
ones that the brush touched. So every stroke can be undone, and an hour of painting takes no more room than what it
touched.
"""

from __future__ import annotations

import hashlib
import json
import re
import zlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated, Any

import numpy as np
import shapely
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.atomic import atomic_write, used
from warmgraphite.errors import ViewError
from warmgraphite.memory import remembered
from warmgraphite.regions.kernels.painting import brush_tile, sampled, sampled_at
from warmgraphite.specification import Specification
from warmgraphite.threads import in_stretches, in_threads

__all__ = ["PER_MM", "TILE", "BrushStroke", "KeptMasks", "Painted"]

#: Pixels of a mask in a millimetre, and across a tile.
PER_MM, TILE = 300 / 25.4, 256
#: Tiles of one mask: more than two A0 sheets have; and of one stroke: more than one of them has.
MOST_TILES, MOST_OF_STROKE = 9000, 2400
#: The level of a tile that is one mean; and tiles a side that are put together for points.
COARSEST, BLOCK = 8, 16

Millimetres = Annotated[float, Field(allow_inf_nan=False, ge=-3000, le=3000)]


class BrushStroke(Specification):
    """One stroke of a brush through ``points``, millimetres from the middle of the drawing.
    ``size`` is its width, ``softness`` the share of that which fades, ``strength`` how much of it is laid on, or taken
    off where it ``erases``.
    """

    points: tuple[tuple[Millimetres, Millimetres], ...] = Field(min_length=1, max_length=4000)
    size: float = Field(default=20.0, ge=0.3, le=400)
    softness: float = Field(default=0.5, ge=0, le=1)
    strength: float = Field(default=1.0, ge=0.02, le=1)
    erases: bool = False


#: A tile of a mask at a level, by column and row: its pixels are means of 2**level a side; ``None`` where nothing was
#: painted.
Tiles = Callable[[tuple[int, int], int], NDArray[np.uint8] | None]


@dataclass(frozen=True)
class Painted:
    """What was painted.
    At which ``places`` (column, row) tiles of 256 pixels lie, of which those that are asked for are read. A place in
    millimetres from the middle of the drawing lies in the tile of its pixel. What a look takes goes by what is looked
    at, not by how far apart things were painted.
    """

    places: frozenset[tuple[int, int]]
    tile: Tiles

    def grid(self, x: NDArray[np.float64], y: NDArray[np.float64]) -> NDArray[np.float32]:
        """(h, w) shares at places ``x`` (w,), ``y`` (h,), evenly spaced, in millimetres from the middle.
        Averaged over a step.
        """
        out = np.zeros((len(y), len(x)), np.float32)
        if not out.size:
            return out
        step = (x[1] - x[0]) * PER_MM if len(x) > 1 else 1.0
        # Coarser than the mask: steps are laid over means of it, so that a hard brush has a smooth edge there, too.
        level = min(max(0, int(np.floor(np.log2(max(step, 1.0))))), COARSEST)
        low, high = (np.array([getattr(v, end)() for v in (x, y)]) * PER_MM / TILE for end in ("min", "max"))
        found = self._joined(low - 1, high + 1, level)
        if found is not None:
            part, left, top = found
            across, down = ((v * PER_MM - corner) / 2**level - 0.5 for v, corner in ((x, left), (y, top)))
            in_stretches(lambda a, b: sampled(part, across, down[a:b], out[a:b]), len(y), 64)
        return out

    def at(self, xy: NDArray[np.float64]) -> NDArray[np.float32]:
        """(n,) shares at points (n, 2) in millimetres from the middle."""
        out = np.zeros(len(xy), np.float32)
        if not len(xy) or not self.places:
            return out
        blocks = np.floor(xy * PER_MM / (TILE * BLOCK)).astype(np.int64)
        found, of = np.unique(blocks, axis=0, return_inverse=True)
        for number, block in enumerate(found):
            joined = self._joined(block * BLOCK - 1, (block + 1) * BLOCK, 0)
            if joined is not None:
                part, left, top = joined
                own = np.flatnonzero(of.reshape(-1) == number)
                shares = np.empty(len(own), np.float32)
                sampled_at(part, xy[own, 0] * PER_MM - left - 0.5, xy[own, 1] * PER_MM - top - 0.5, shares)
                out[own] = shares
        return out

    def _joined(
        self, low: NDArray[np.floating[Any]], high: NDArray[np.floating[Any]], level: int
    ) -> tuple[NDArray[np.uint8], int, int] | None:
        """The tiles from ``low`` to ``high`` (column, row) as one picture.
        And where its corner lies in pixels from the middle.
        """
        within = [
            place for place in self.places if low[0] - 1 < place[0] <= high[0] and low[1] - 1 < place[1] <= high[1]
        ]
        if not within:
            return None
        columns, rows = zip(*within, strict=True)
        left, top, side = min(columns), min(rows), TILE >> level
        out = np.zeros(((max(rows) - top + 1) * side, (max(columns) - left + 1) * side), np.uint8)
        for place in within:
            tile = self.tile(place, level)
            if tile is not None:
                out[(place[1] - top) * side :, (place[0] - left) * side :][:side, :side] = tile
        return out, left * TILE, top * TILE


class KeptMasks:
    """Painted masks in a ``folder``, by hash."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def has(self, name: str) -> bool:
        """Whether a mask is kept here."""
        return bool(re.fullmatch("[0-9a-f]{32}", name)) and (self.folder / f"{name}.json").exists()

    def painted(self, name: str) -> Painted:
        """What was painted under a name; nothing where that is not kept here."""
        names = self._names(name)
        return Painted(frozenset(names), lambda place, level: _tile(self.folder, names[place], level))

    def files(self, name: str) -> Iterator[Path]:
        """The files of a mask."""
        if self.has(name):
            yield self.folder / f"{name}.json"
            yield from (self.folder / f"{tile}.tile" for tile in self._names(name).values())

    def _names(self, name: str) -> dict[tuple[int, int], str]:
        return _names(self.folder, name) if self.has(name) else {}

    def is_damaged(self, name: str) -> bool:
        """Whether something of a mask that was painted is gone or harmed: it shows nothing there."""
        return bool(name) and _is_damaged(self.folder, name)

    def stroke(self, name: str, stroke: BrushStroke) -> str:
        """The name of what a mask is after a stroke. Raises :class:`ViewError` for more than can be held."""
        names, before = dict(self._names(name)), self.painted(name)
        points = np.array(stroke.points, np.float64) * PER_MM
        reach = stroke.size / 2 * PER_MM
        places = _within_reach(points / TILE, (reach + 1) / TILE)
        if len(places) > MOST_OF_STROKE:
            raise ViewError(
                "This stroke covers more paper than is painted at once; paint it in shorter strokes, or with a smaller "
                "brush."
            )
        if len(names.keys() | set(places)) > MOST_TILES and not stroke.erases:
            raise ViewError("This mask covers more paper than can be held; begin another one.")
        touched: dict[tuple[int, int], str] = {}

        def lay(number: int) -> None:
            place = places[number]
            tile = before.tile(place, 0) if place in names else None
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
        if not used(path) or _tile(self.folder, name, 0) is None:
            _forget()
            with atomic_write(path) as draft:
                draft.write_bytes(zlib.compress(tile.tobytes(), 1))
        return name

    def _written(self, names: dict[tuple[int, int], str]) -> str:
        text = json.dumps(sorted([i, j, tile] for (i, j), tile in names.items()))
        name = hashlib.sha256(text.encode()).hexdigest()[:32]
        path = self.folder / f"{name}.json"
        if not used(path) or not _names(self.folder, name):
            _forget()
            with atomic_write(path) as draft:
                draft.write_text(text)
        return name


@remembered("masks")
def _is_damaged(folder: Path, name: str) -> bool:
    names = _names(folder, name)
    return not names or any(_tile(folder, tile, 0) is None for tile in names.values())


def _forget() -> None:
    for kept in (_names, _is_damaged, _fine, _coarse):
        kept.clear()


def _within_reach(points: NDArray[np.float64], reach: float) -> list[tuple[int, int]]:
    """The tiles (column, row) that lie within ``reach`` of a line through ``points`` (n, 2), all in sides of a tile."""
    ends = points if len(points) > 1 else np.repeat(points, 2, axis=0)
    line = shapely.LineString(ends)
    low, high = np.floor(ends.min(0) - reach).astype(int), np.floor(ends.max(0) + reach).astype(int)
    rows = np.arange(low[1], high[1] + 1)
    found: list[tuple[int, int]] = []
    for column in range(int(low[0]), int(high[0]) + 1):
        near = shapely.distance(line, shapely.box(column, rows, column + 1, rows + 1)) <= reach
        found += [(column, int(row)) for row in rows[near]]
        if len(found) > MOST_OF_STROKE:
            break
    return found


@remembered("masks")
def _names(folder: Path, name: str) -> dict[tuple[int, int], str]:
    """Of a mask its tiles by column and row; none of one whose list cannot be read."""
    try:
        return {(int(i), int(j)): str(tile) for i, j, tile in json.loads((folder / f"{name}.json").read_text())}
    except (OSError, ValueError, TypeError):
        return {}


def _tile(folder: Path, name: str, level: int) -> NDArray[np.uint8] | None:
    """A tile of a mask at a level; ``None`` for one that is gone or harmed."""
    return (_fine if level == 0 else _coarse)(folder, name, level)


def _read(folder: Path, name: str, level: int) -> NDArray[np.uint8] | None:
    if level == 0:
        try:
            data = zlib.decompressobj().decompress((folder / f"{name}.tile").read_bytes(), TILE * TILE + 1)
        except (OSError, zlib.error):
            return None
        found = np.frombuffer(data, np.uint8)
        if len(found) != TILE * TILE or hashlib.sha256(data).hexdigest()[:32] != name:
            return None
        return found.reshape(TILE, TILE)
    finer = _tile(folder, name, level - 1)
    if finer is None:
        return None
    side = TILE >> level
    quarters = finer.reshape(side, 2, side, 2).astype(np.uint16)
    found = ((quarters.sum(axis=(1, 3)) + 2) // 4).astype(np.uint8)
    found.flags.writeable = False
    return found


# Each tile as it was painted is of use once, coarser ones again and again.
_fine = remembered("masks", most=1500)(_read)
_coarse = remembered("masks")(_read)
