"""Small pictures of the figures in stock: drawn once, by the worker when it has nothing else to do, and kept."""

from __future__ import annotations

import hashlib
import threading
from functools import cache
from pathlib import Path

from django.conf import settings
from pydantic import TypeAdapter

from studio.jobs.models import Job
from warmgraphite import figures
from warmgraphite.atomic import atomic_write, is_whole_picture
from warmgraphite.figures.figure import FigureItem
from warmgraphite.figures.kinds import AnyFigure
from warmgraphite.figures.stock import figure_stock
from warmgraphite.sheet.figure_sample import figure_sample

__all__ = ["PIXELS", "draw_samples", "sample_of", "samples_version"]

#: Pixels of a side of those that are drawn beforehand.
PIXELS = 150
_FIGURE: TypeAdapter = TypeAdapter(AnyFigure)


@cache
def samples_version() -> str:
    """A hash of what figures are grown by: another version draws them anew."""
    found = hashlib.sha256()
    for path in sorted(Path(figures.__file__).parent.rglob("*.py")):
        found.update(path.read_bytes())
    return found.hexdigest()[:12]


def _path(item: FigureItem, pixels: int) -> Path:
    return settings.DATA / "samples" / samples_version() / f"{item.id}-{pixels}.png"


def sample_of(name: str, pixels: int) -> bytes | None:
    """The picture of a figure of the stock as PNG, drawn now where it is not there yet.
    ``None`` for what is not in stock.
    """
    item = next((i for i in figure_stock() if i.id == name), None)
    if item is None:
        return None
    path = _path(item, pixels)
    if is_whole_picture(path):
        return path.read_bytes()
    data = figure_sample(_FIGURE.validate_python(item.figure), pixels)
    with atomic_write(path, lasting=False) as draft:
        draft.write_bytes(data)
    return data


def draw_samples(end: threading.Event) -> None:
    """Draw those that are not there, one after the other, whenever no job is under way."""
    for item in figure_stock():
        while Job.objects.filter(state__in=Job.OPEN).exists():
            if end.wait(1.0):
                return
        if end.is_set():
            return
        sample_of(item.id, PIXELS)
