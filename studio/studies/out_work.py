"""The work of what goes out: drawings, boards, passes, the set, finishes and whole studies as files."""

from __future__ import annotations

import tempfile
import zipfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from django.conf import settings

from studio.jobs.models import Job, Watch
from studio.jobs.queue import work
from studio.jobs.received import put_away, received
from studio.studies.archive import pack_finish, pack_study, unpack_finish
from studio.studies.asked import model_of, source_of
from studio.studies.desk import store, tiles_for_paper
from studio.studies.names import file_name
from studio.studies.series import folder_of
from warmgraphite.atomic import atomic_write, make_folder
from warmgraphite.board.write import write_board
from warmgraphite.bundle import write_bundle
from warmgraphite.drawing import Drawing
from warmgraphite.drawing.tiles import TiledDrawing
from warmgraphite.errors import OutputError
from warmgraphite.out.settings import OutSettings
from warmgraphite.out.write import FORMATS
from warmgraphite.series.contact import CONTACT_SHEET
from warmgraphite.series.draw import draw_set
from warmgraphite.series.kept import KeptSet
from warmgraphite.series.plan import SeriesSettings
from warmgraphite.sheet.write import write_drawing
from warmgraphite.study import read_document
from warmgraphite.study.placed_drawings import made_ready

__all__ = ["written"]


def written(job: Job, words: str, ending: str) -> Path:
    """Where a job writes its file, which is called so."""
    folder = Path(settings.DATA) / "exports" / str(job.pk)
    make_folder(folder)
    return folder / f"{file_name(words, 'drawing')}.{ending}"


def _told(path: Path) -> dict:
    return {"file": path.name, "bytes": path.stat().st_size}


def _writing(watch: Watch, kind: str) -> Callable[[float], None]:
    """Tells how far a file is, after the passes."""
    return lambda share: watch(f"Writing the {FORMATS[kind].label}", 0.6 + 0.38 * share)


@contextmanager
def _scratch() -> Iterator[Path]:
    """Room for what is packed, which is not kept."""
    with tempfile.TemporaryDirectory(prefix="tiles-", dir=settings.DATA) as room:
        yield Path(room)


@work("export")
def export(job: Job, watch: Watch) -> dict:
    """Write the drawing on the desk as a file."""
    assert job.study is not None
    document = read_document(job.wanted["document"])
    kind, said = job.wanted["format"], OutSettings.model_validate(job.wanted["out"])
    saved, look, view = document.on_desk, document.drawn_look(document.on_desk), document.desk.view
    view = view.model_copy(update={"frame": view.frame.model_copy(update={"resolution": said.resolution})})
    drawing = Drawing(model_of(job), view, None, store(), ink=look)
    with tiles_for_paper() as room:
        tiled = TiledDrawing(drawing, room)
        tiled.compute_picture(look.traces, look, look.notes, lambda stage, fraction: watch(stage, fraction * 0.6))
        path = written(job, f"{document.name} - {view.name}", kind)
        write_drawing(
            tiled.plate(document.name), look.traces, saved.sheet, path, watch=_writing(watch, kind), **said.model_dump()
        )
    return _told(path)


@work("board_export")
def export_board(job: Job, watch: Watch) -> dict:
    """Write a board as a file."""
    document = read_document(job.wanted["document"])
    board = next(b for b in document.boards if b.id == job.wanted["board"])
    kind, page, said = job.wanted["format"], int(job.wanted["page"]), OutSettings.model_validate(job.wanted["out"])
    many = FORMATS[kind].many
    path = written(
        job, f"{document.name} - {board.name}" + (f" - {page}" if not many and board.pages > 1 else ""), kind
    )
    with tiles_for_paper() as room:
        ready = made_ready(
            board, source_of(job, document), room, said.resolution, store=store(), kept=store().pictures,
            page=None if many else page,
            watch=lambda stage, f: watch(stage, 0.6 * f),
        )  # fmt: skip
        write_board(
            board,
            ready,
            path,
            study=document.name,
            page=page,
            kept=store().pictures,
            watch=_writing(watch, kind),
            **said.model_dump(),
        )
    return _told(path)


@work("bundle")
def bundle(job: Job, watch: Watch) -> dict:
    """Write all passes of the view on the desk as one archive."""
    document = read_document(job.wanted["document"])
    look, view, resolution = document.drawn_look(document.on_desk), document.desk.view, float(job.wanted["resolution"])
    view = view.model_copy(update={"frame": view.frame.model_copy(update={"resolution": resolution})})
    path = written(job, f"{document.name} - {view.name} - passes", "zip")
    with _scratch() as room:
        watch("Computing the passes", 0.05)
        write_bundle(
            Drawing(model_of(job), view, None, store(), ink=look), room / "passes", pictures=job.wanted["pictures"],
            watch=lambda stage, f: watch(stage, 0.05 + 0.85 * f),
        )  # fmt: skip
        watch("Packing them", 0.92)
        _zip(path, sorted((room / "passes").iterdir()))
    return _told(path)


def _zip(path: Path, files: list[Path]) -> None:
    with atomic_write(path) as draft, zipfile.ZipFile(draft, "w") as out:
        for file in files:
            # Pictures and documents are packed already.
            how = zipfile.ZIP_DEFLATED if file.suffix in (".json", ".svg") else zipfile.ZIP_STORED
            out.write(file, file.name, how, 4)


@work("set")
def draw_the_set(job: Job, watch: Watch) -> dict:
    """Draw the set of a study; what is there is left as it is."""
    assert job.study is not None
    document, said = read_document(job.wanted["document"]), SeriesSettings.model_validate(job.wanted["set"])
    found = draw_set(
        document, model_of(job), said, folder_of(job.study), store=store(), kept=store().pictures,
        room=Path(settings.DATA),
        watch=watch,
    )  # fmt: skip
    return {
        "left_out": {i.file: i.problem for i in found if i.problem},
        "drawn": len(found) - sum(bool(i.problem) for i in found),
    }


@work("set_pack")
def pack_the_set(job: Job, watch: Watch) -> dict:
    """Put the drawings of a set that are there, and their contact sheet, into one archive."""
    assert job.study is not None
    there = KeptSet.of(folder_of(job.study))
    files = [there.folder / n for n in (CONTACT_SHEET, *sorted(there.rows)) if (there.folder / n).is_file()]
    if not files:
        raise OutputError("Nothing of the set is drawn yet; draw it first.")
    watch("Packing the drawings", 0.1)
    path = written(job, f"{read_document(job.wanted['document']).name} - set", "zip")
    _zip(path, files)
    return _told(path)


@work("pack_finish")
def write_finish_with_stock(job: Job, watch: Watch) -> dict:
    """Write a finish with the stock that it shows as one archive."""
    path = written(job, job.wanted["name"], "finish.zip")
    with atomic_write(path) as draft:
        pack_finish(job.wanted["text"], draft, watch)
    return _told(path)


@work("unpack_finish", after=put_away)
def read_finish_with_stock(job: Job, watch: Watch) -> dict:
    """Take in the stock of a finish; its text, which a study takes in, is the result."""
    file = received(job)
    return {"text": unpack_finish(file, file.name, watch)}


@work("pack")
def pack(job: Job, watch: Watch) -> dict:
    """Write a study as one archive, with the pictures that it shows."""
    assert job.study is not None
    path = written(job, job.study.document.name, "study.zip")
    with atomic_write(path) as draft:
        pack_study(job.study, draft, watch)
    return _told(path)
