"""What nothing refers to any more is cleared away: states of models, received files, pictures, what was written, old jobs."""

from __future__ import annotations

import contextlib
import json
import shutil
import time
from collections.abc import Iterator
from datetime import timedelta
from pathlib import Path

from django.conf import settings
from django.utils import timezone

from studio.jobs.models import Job
from studio.stock.models import StockPicture
from studio.studies.figure_samples import samples_version
from studio.studies.models import ModelFile, Revision, Study
from warmgraphite.whole import DRAFT

__all__ = ["clear_unused"]

#: Seconds for which something stays although nothing refers to it: what is being made is not yet referred to.
YOUNG = 3600.0
#: Days after which a job that ended is forgotten, with the file that it wrote.
OLD_JOB = 30
#: Small pictures of one study that are kept; the newest stay.
MOST_PICTURES = 600


def clear_unused(young: float = YOUNG) -> int:
    """Remove what no history refers to; returns how many files and folders went. Nothing that undo can reach is touched."""
    gone = 0
    for path in (
        *_drafts(),
        *_models(young),
        *_received(),
        *_written(),
        *_pictures(),
        *_health(),
        *_stock(),
        *_masks(),
        *_samples(),
        *_sets(),
    ):
        with contextlib.suppress(OSError):  # another process may be at it, or the file is somebody else's
            if _is_old(path, young):
                if path.is_dir():
                    shutil.rmtree(path, ignore_errors=True)
                else:
                    path.unlink()
                gone += 1
    return gone


def _sets() -> Iterator[Path]:
    """Sets of studies that are no more."""
    there = {str(pk) for pk in Study.objects.values_list("pk", flat=True)}
    yield from (f for f in (Path(settings.DATA) / "sets").glob("[0-9]*") if f.name not in there)


def _is_old(path: Path, young: float) -> bool:
    return time.time() - path.stat().st_mtime > young


def _drafts() -> Iterator[Path]:
    """What was being written when somebody was killed, whatever is in it."""
    data = Path(settings.DATA)
    for folder in (
        "models",
        "passes",
        "tiles",
        "health",
        "received",
        "pictures/*",
        "exports/*",
        "sets/*",
        "sets/*/small",
        "stock/masks",
    ):
        yield from data.glob(f"{folder}/.*{DRAFT}")
    yield from data.glob("tiles-*")


def _models(young: float) -> Iterator[Path]:
    """States of models, bodies and meshes that no revision and no received file stands on."""
    wanted = set(Revision.objects.values_list("model_version", flat=True).distinct())
    for pair in ModelFile.objects.values_list("base_version", "last_version"):
        wanted.update(pair)
    folder = settings.DATA / "models"
    kept: set[str] = set()
    for state in folder.glob("[!.]*.json"):
        if state.stem not in wanted:
            yield state
        with contextlib.suppress(OSError, ValueError, KeyError, TypeError):  # one that cannot be read keeps nothing
            if state.stem in wanted or not _is_old(state, young):
                kept.add(json.loads(state.read_text("utf-8"))["body"])
    # A model of one file goes by its version, a body by the states that stand on it.
    yield from (body for body in folder.glob("[!.]*.npz") if body.stem not in kept and body.stem not in wanted)
    shown = _geometries()
    yield from (m for m in folder.glob("[!.]*.mesh.gz") if m.name.removesuffix(".mesh.gz") not in shown)


def _geometries() -> set[str]:
    """Of all states the names of their blocks for the 3D view, and the geometries that these begin with."""
    names = {about.get("geometry", "") for about in Revision.objects.values_list("about_model", flat=True)}
    return names | {name.partition("-")[0] for name in names}


def _received() -> Iterator[Path]:
    folders = set(ModelFile.objects.values_list("folder", flat=True))
    for place in ("received", "incoming"):
        yield from (f for f in (settings.DATA / place).glob("[!.]*") if f.name not in folders)


def _written() -> Iterator[Path]:
    """Exports of jobs that are no more. Jobs that ended long ago go first."""
    Job.objects.filter(ended__lt=timezone.now() - timedelta(days=OLD_JOB)).delete()
    jobs = {str(pk) for pk in Job.objects.values_list("pk", flat=True)}
    yield from (f for f in (settings.DATA / "exports").glob("*") if f.name not in jobs)


def _pictures() -> Iterator[Path]:
    """Small pictures of studies that are no more, and the oldest of those that are."""
    studies = {str(pk) for pk in Study.objects.values_list("pk", flat=True)}
    for place in (settings.DATA / "pictures").glob("*"):
        if place.name not in studies:
            yield place
        elif place.is_dir():
            pictures = sorted(place.glob("[!.]*.jpg"), key=lambda p: -p.stat().st_mtime)
            yield from pictures[MOST_PICTURES:]


def _health() -> Iterator[Path]:
    shown = _geometries()
    yield from (f for f in (settings.DATA / "health").glob("[!.]*.json") if f.name.partition("-")[0] not in shown)


def _stock() -> Iterator[Path]:
    """Pictures that were taken out of the stock, and that no history shows any more."""
    kept = set(StockPicture.objects.values_list("digest", flat=True))
    for path in (settings.DATA / "stock").glob("[!.]*.png"):
        if path.stem not in kept and not Revision.objects.filter(text__contains=path.stem).exists():
            yield path
            yield from (f for end in ("paths.npz", "glb") for f in path.parent.glob(f"{path.stem}.{end}"))


def _samples() -> Iterator[Path]:
    """Pictures of the figures in stock as an older version grew them."""
    yield from (f for f in (settings.DATA / "samples").glob("*") if f.name != samples_version())


def _masks() -> Iterator[Path]:
    """Painted masks that no history shows any more, and the tiles that no other mask has."""
    folder: Path = settings.DATA / "stock" / "masks"
    tiles: set[str] = set()
    for path in folder.glob("[!.]*.json"):
        if Revision.objects.filter(text__contains=path.stem).exists():
            tiles.update(tile for _, _, tile in json.loads(path.read_text("utf-8")))
        else:
            yield path
    yield from (tile for tile in folder.glob("[!.]*.tile") if tile.stem not in tiles)
