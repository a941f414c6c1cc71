"""The work of the proof: a drawing, or a page of a board, as it will look on paper."""

from __future__ import annotations

import math
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from django.conf import settings
from numpy.typing import NDArray
from PIL import Image
from scipy import ndimage

from studio.jobs.models import Job, Watch
from studio.jobs.queue import work
from studio.studies.asked import model_of, source_of
from studio.studies.desk import store, tiles_for_paper
from warmgraphite.atomic import atomic_write
from warmgraphite.board.drawn import board_leaf
from warmgraphite.drawing import Drawing
from warmgraphite.drawing.tiles import TiledDrawing
from warmgraphite.errors import OutputError
from warmgraphite.out.format import MOST_WRITTEN, on_white, straight_pixels
from warmgraphite.out.settings import OutSettings
from warmgraphite.proof.printer import PAPERS, PrintPaper
from warmgraphite.proof.proof import Proof, lifting_of, proof_of
from warmgraphite.sheet.page import page_leaf
from warmgraphite.study import StudyDocument, read_document
from warmgraphite.study.placed_drawings import made_ready

__all__ = ["LOOKS", "MARKS", "PrintedPage", "proof_folder", "resolution_of", "told"]

LOOKS, MARKS = "looks.jpg", "marks.png"
#: Pixels to the inch that tell a gap of a tenth of a millimetre; and pixels of what is looked at, at most: A2 has them
#: all.
FINE, SHOWN = 254.0, 26_000_000
#: How what fills in is marked, and millimetres by which a mark is wider than that, so that the eye finds it.
_MARK, _WIDE = (178, 71, 42), 0.25

#: Left, top, right and bottom on a page, in millimetres.
Box = tuple[float, float, float, float]


def proof_folder(job: Job) -> Path:
    """Where a proof lies."""
    return Path(settings.DATA) / "exports" / str(job.pk)


def resolution_of(size: tuple[float, float]) -> float:
    """Pixels to the inch of a proof of a page of so many millimetres."""
    return min(FINE, 25.4 * math.sqrt(MOST_WRITTEN / (size[0] * size[1])))


@dataclass(frozen=True)
class PrintedPage:
    """What is printed.
    Its size in millimetres, its pixels (h, w, 3) on white, and where the drawings of a board stand.
    """

    size: tuple[float, float]
    resolution: float
    pixels: NDArray[np.uint8]
    boxes: dict[str, Box]


@work("proof")
def make_proof(job: Job, watch: Watch) -> dict:
    """Print the drawing on the desk, or a page of a board, on a simulated printer, and find what fills in."""
    document, paper = read_document(job.wanted["document"]), PAPERS[job.wanted["paper"]]
    with tiles_for_paper() as room:
        page = (_page_of_board if job.wanted.get("board") else _page_of_view)(job, document, room, watch)
    watch("Printing it", 0.75)
    found = proof_of(
        page.pixels, paper, page.resolution / 25.4, bool(job.wanted["black_only"]),
        lambda f: watch("Marking what fills in", 0.75 + 0.2 * f)
    )  # fmt: skip
    watch("Keeping the print", 0.96)
    folder = proof_folder(job)
    folder.mkdir(parents=True, exist_ok=True)
    looks, marks = _shown(found, page.resolution / 25.4)
    with atomic_write(folder / LOOKS) as draft:
        looks.save(draft, "JPEG", quality=93, subsampling=0)
    with atomic_write(folder / MARKS) as draft:
        marks.save(draft, "PNG", compress_level=3)
    return told(found, page, paper, bool(job.wanted["black_only"]))


def _page_of_view(job: Job, document: StudyDocument, room: Path, watch: Watch) -> PrintedPage:
    saved, look, view = document.on_desk, document.drawn_look(document.on_desk), document.desk.view
    resolution = resolution_of((view.frame.width, view.frame.height))
    view = view.model_copy(update={"frame": view.frame.model_copy(update={"resolution": resolution})})
    drawing = Drawing(model_of(job), view, None, store(), ink=look)
    problem = drawing.result("frame").problem
    if problem:
        raise OutputError(str(problem))
    tiled = TiledDrawing(drawing, room)
    tiled.compute_picture(look.traces, look, look.notes, lambda stage, f: watch(stage, 0.6 * f))
    leaf = page_leaf(
        tiled.plate(document.name), look.traces, saved.sheet, paper=bool(job.wanted["own_paper"]),
        watch=lambda f: watch("Laying it together", 0.6 + 0.15 * f),
    )  # fmt: skip
    return PrintedPage(leaf.size, resolution, on_white(straight_pixels(leaf, OutSettings(resolution=resolution))), {})


def _page_of_board(job: Job, document: StudyDocument, room: Path, watch: Watch) -> PrintedPage:
    board = next(b for b in document.boards if b.id == job.wanted["board"])
    number, resolution = int(job.wanted["page"]), resolution_of((board.page.width, board.page.height))
    if not job.wanted["own_paper"]:
        board = board.model_copy(update={"page": board.page.model_copy(update={"colour": "#ffffff"})})
    ready = made_ready(
        board, source_of(job, document), room, resolution, store=store(), kept=store().pictures, page=number,
        watch=lambda stage, f: watch(stage, 0.6 * f),
    )  # fmt: skip
    leaf = board_leaf(
        board,
        number,
        ready,
        document.name,
        store().pictures,
        watch=lambda f: watch("Laying it together", 0.6 + 0.15 * f),
    )
    pixels = on_white(straight_pixels(leaf, OutSettings(resolution=resolution)))
    return PrintedPage(leaf.size, resolution, pixels, {row.placed.id: row.box for row in ready})


def told(found: Proof, page: PrintedPage, paper: PrintPaper, black_only: bool) -> dict:
    """What is said of a proof.
    What fills in of it, what opens that and what is left then, and the same of each drawing of a board, of what of it
    is on the page.
    """
    per_mm, parts, after = page.resolution / 25.4, {}, found.lifting.after
    if page.boxes:
        after = found.share
    for identity, box in page.boxes.items():
        left, top, right, bottom = (max(0, round(mm * per_mm)) for mm in box)
        here = slice(top, bottom), slice(left, right)
        marks = found.marks[here]
        lifting = lifting_of(page.pixels[here], marks, paper, per_mm, black_only)
        share = float(marks.mean()) if marks.size else 0.0
        parts[identity] = {"share": share, **vars(lifting)}
        # Each drawing of a board is lifted by what it takes itself.
        after -= (share - lifting.after) * marks.size / found.marks.size
    return {
        "share": found.share, **vars(found.lifting), "after": max(0.0, after), "size": page.size,
        "resolution": page.resolution,
        "parts": parts,
    }  # fmt: skip


def _shown(found: Proof, per_mm: float) -> tuple[Image.Image, Image.Image]:
    """How a proof looks, and what fills in, with as many pixels as are looked at."""
    times = min(1.0, math.sqrt(SHOWN / found.marks.size))
    size = (max(1, round(found.marks.shape[1] * times)), max(1, round(found.marks.shape[0] * times)))
    looks = Image.fromarray(found.looks, "RGB")
    marked = ndimage.maximum_filter(found.marks, 2 * max(1, round(_WIDE * per_mm)) + 1)
    shares = Image.fromarray(np.where(marked, np.uint8(190), np.uint8(0)), "L")
    if times < 1:
        looks, shares = looks.resize(size, Image.Resampling.BOX), shares.resize(size, Image.Resampling.NEAREST)
    marks = Image.new("RGB", size, _MARK)
    marks.putalpha(shares)
    return looks, marks
