"""What nothing refers to any more is cleared away.
States of models, received files, pictures, what was written, old jobs.

Each file is judged for itself, and where there is any doubt it is kept: one that cannot be read says nothing of what
others stand on.
"""

from __future__ import annotations

import contextlib
import json
import logging
import shutil
import time
from collections.abc import Callable, Iterator
from datetime import timedelta
from pathlib import Path

from django.conf import settings
from django.db.models import Q
from django.utils import timezone

from studio.jobs.models import AskedDocument, Job
from studio.stock.models import StockPicture
from studio.studies.figure_samples import samples_version
from studio.studies.models import ModelFile, Revision, Study
from warmgraphite.atomic import DRAFT

__all__ = ["clear_unused"]

log = logging.getLogger(__name__)

#: Seconds since its last use for which something stays although nothing refers to it: what is being made is not yet
#: referred to.
YOUNG = 3600.0
#: Days after which a job that ended is forgotten, with the file that it wrote; and for which a model that was read
#: waits to be taken.
OLD_JOB, WAITS = 30, 2
#: Small pictures of one study that are kept; the newest stay.
MOST_PICTURES = 600


def clear_unused(young: float = YOUNG) -> int:
    """Remove what no history refers to; returns how many files and folders went.
    Nothing that undo can reach is touched.
    """
    kinds: tuple[Callable[[], Iterator[Path]], ...] = (
        _drafts,
        _left_by_kills,
        lambda: _models(young),
        _received,
        _incoming,
        _written,
        _pictures,
        _health,
        _stock,
        _masks,
        _samples,
        _sets,
    )
    gone = 0
    for kind in kinds:
        try:
            for path in list(kind()):
                gone += _removed(path, young)
        except Exception:  # what is asked of one kind must not keep the others from being cleared
            log.exception("one kind of file could not be looked through, and all of it stays")
    AskedDocument.forget_unasked()
    return gone


def _removed(path: Path, young: float) -> bool:
    with contextlib.suppress(OSError):  # another process may be at it, or the file is somebody else's
        if _is_old(path, young):  # as late as can be: whoever uses it again says so by its age
            if path.is_dir():
                shutil.rmtree(path, ignore_errors=True)
            else:
                path.unlink()
            return True
    return False


def _is_old(path: Path, young: float) -> bool:
    return time.time() - path.stat().st_mtime > young


def _data() -> Path:
    return Path(settings.DATA)


def _sets() -> Iterator[Path]:
    """Sets of studies that are no more."""
    there = {str(pk) for pk in Study.objects.values_list("pk", flat=True)}
    yield from (f for f in (_data() / "sets").glob("[0-9]*") if f.name not in there)


def _drafts() -> Iterator[Path]:
    """What was being written when somebody was killed, whatever is in it."""
    folders = (
        "models", "passes", "tiles", "health", "received", "pictures/*", "exports/*", "sets/*", "sets/*/small",
        "samples/*", "stock",
        "stock/masks", "stock/faces",
    )  # fmt: skip
    for folder in folders:
        yield from _data().glob(f"{folder}/.*{DRAFT}")


def _left_by_kills() -> Iterator[Path]:
    """Rooms that somebody worked in who was killed."""
    for rooms in (
        "tiles-*",
        "archive-*",
        "reading-*",
        "photograph-*",
        "stock/.taking-*",
        "stock/.apart-*",
        "incoming/*/.apart-*",
    ):
        yield from _data().glob(rooms)


def _models(young: float) -> Iterator[Path]:
    """States of models, bodies and meshes that no revision and no received file stands on."""
    shown = _geometries()
    folder = _data() / "models"
    yield from (m for m in folder.glob("[!.]*.mesh.gz") if m.name.removesuffix(".mesh.gz") not in shown)
    wanted = set(Revision.objects.values_list("model_version", flat=True).distinct())
    for pair in ModelFile.objects.values_list("base_version", "last_version"):
        wanted.update(pair)
    bodies: set[str] = set()
    unread = False
    for state in list(folder.glob("[!.]*.json")):
        if state.stem not in wanted:
            yield state
        if state.stem in wanted or not _is_old(state, young):
            try:
                bodies.add(json.loads(state.read_text("utf-8"))["body"])
            except FileNotFoundError:
                continue
            except (OSError, ValueError, KeyError, TypeError):
                unread = True  # it may stand on any body
    if not unread:
        # A model of one file goes by its version, a body by the states that stand on it.
        yield from (body for body in folder.glob("[!.]*.npz") if body.stem not in bodies and body.stem not in wanted)


def _geometries() -> set[str]:
    """Of all states the names of their blocks for the 3D view, and the geometries that these begin with."""
    names = {about.get("geometry", "") for about in Revision.objects.values_list("about_model", flat=True)}
    return names | {name.partition("-")[0] for name in names}


def _received() -> Iterator[Path]:
    """Files of models that no study has."""
    kept = set(ModelFile.objects.values_list("folder", flat=True)) | _at_work()
    yield from (f for f in (_data() / "received").glob("[!.]*") if f.name not in kept)


def _incoming() -> Iterator[Path]:
    """What was received for jobs that have done with it."""
    kept = _at_work()
    yield from (f for f in (_data() / "incoming").glob("[!.]*") if f.name not in kept)


def _at_work() -> set[str]:
    """The folders of what was received for jobs that are open, or that ended lately and wait for somebody's word."""
    lately = Q(ended__gt=timezone.now() - timedelta(days=WAITS), state=Job.State.DONE, kind="read")
    jobs = Job.objects.filter(Q(state__in=Job.OPEN) | lately).values_list("arguments", flat=True)
    return {str(arguments.get("folder", "")) for arguments in jobs if isinstance(arguments, dict)}


def _written() -> Iterator[Path]:
    """Exports of jobs that are no more. Jobs that ended long ago go first."""
    Job.objects.filter(ended__lt=timezone.now() - timedelta(days=OLD_JOB)).delete()
    jobs = {str(pk) for pk in Job.objects.values_list("pk", flat=True)}
    yield from (f for f in (_data() / "exports").glob("*") if f.name not in jobs)


def _pictures() -> Iterator[Path]:
    """Small pictures of studies that are no more, and the oldest of those that are."""
    studies = {str(pk) for pk in Study.objects.values_list("pk", flat=True)}
    for place in (_data() / "pictures").glob("*"):
        if place.name not in studies:
            yield place
        elif place.is_dir():
            pictures = sorted(place.glob("[!.]*.jpg"), key=lambda p: -p.stat().st_mtime)
            yield from pictures[MOST_PICTURES:]


def _health() -> Iterator[Path]:
    shown = _geometries()
    yield from (f for f in (_data() / "health").glob("[!.]*.json") if f.name.partition("-")[0] not in shown)


def _named() -> set[str]:
    """What all histories may name of the stock."""
    found: set[str] = set()
    for names in Revision.objects.values_list("named", flat=True).distinct().iterator():
        found.update(names.split())
    return found


def _stock() -> Iterator[Path]:
    """Pictures that were taken out of the stock, and that no history shows any more."""
    kept = set(StockPicture.objects.values_list("digest", flat=True)) | _named()
    for path in (_data() / "stock").glob("[!.]*.png"):
        if path.stem not in kept:
            yield path
            yield from (f for end in ("paths.npz", "glb") for f in path.parent.glob(f"{path.stem}.{end}"))


def _samples() -> Iterator[Path]:
    """Pictures of the figures in stock as an older version grew them."""
    yield from (f for f in (_data() / "samples").glob("*") if f.name != samples_version())


def _masks() -> Iterator[Path]:
    """Painted masks that no history shows any more, and the tiles that no other mask has."""
    folder, named = _data() / "stock" / "masks", _named()
    tiles: set[str] = set()
    unread = False
    for path in list(folder.glob("[!.]*.json")):
        if path.stem not in named:
            yield path
            continue
        try:
            tiles.update(str(tile) for _, _, tile in json.loads(path.read_text("utf-8")))
        except (OSError, ValueError, TypeError):
            unread = True  # it may be of any tile
    if not unread:
        yield from (tile for tile in folder.glob("[!.]*.tile") if tile.stem not in tiles)
