"""The work of the proof: a drawing as it will look on paper."""

from __future__ import annotations

import io
import math
from pathlib import Path

import numpy as np
from django.conf import settings
from PIL import Image
from scipy import ndimage

from studio.jobs.models import Job, Watch
from studio.jobs.queue import work
from studio.studies.asked import model_of
from studio.studies.desk import store, tiles_for_paper
from warmgraphite.canvas.pixels import make_straight_rgba
from warmgraphite.drawing import Drawing
from warmgraphite.drawing.tiles import TiledDrawing
from warmgraphite.errors import OutputError
from warmgraphite.out.format import on_white
from warmgraphite.proof.printer import PAPERS
from warmgraphite.proof.proof import proof_of
from warmgraphite.sheet.page import page_leaf
from warmgraphite.study import read_document
from warmgraphite.view.specification import ViewSpecification
from warmgraphite.whole import whole

__all__ = ["LOOKS", "MARKS", "proof_folder", "resolution_of"]

LOOKS, MARKS = "looks.jpg", "marks.png"
#: Pixels to the inch that tell a gap of a tenth of a millimetre, and pixels of a proof at most: A2 has them all.
FINE, MOST = 254.0, 26_000_000
#: How what fills in is marked.
_MARK = (178, 71, 42)


def proof_folder(job: Job) -> Path:
    """Where a proof lies."""
    return Path(settings.DATA) / "exports" / str(job.pk)


def resolution_of(view: ViewSpecification) -> float:
    """Pixels to the inch of a proof of a view."""
    area = view.frame.width * view.frame.height / 25.4**2
    return min(FINE, math.sqrt(MOST / area))


@work("proof")
def make_proof(job: Job, watch: Watch) -> dict:
    """Print the drawing on the desk on a simulated printer, and find what fills in."""
    document, paper = read_document(job.wanted["document"]), PAPERS[job.wanted["paper"]]
    saved, look, view = document.on_desk, document.drawn_look(document.on_desk), document.desk.view
    resolution = resolution_of(view)
    view = view.model_copy(update={"frame": view.frame.model_copy(update={"resolution": resolution})})
    drawing = Drawing(model_of(job), view, None, store(), ink=look)
    problem = drawing.result("frame").problem
    if problem:
        raise OutputError(str(problem))
    with tiles_for_paper() as room:
        tiled = TiledDrawing(drawing, room)
        tiled.compute_picture(look.traces, look, look.notes, lambda stage, f: watch(stage, 0.6 * f))
        watch("Laying it together", 0.62)
        leaf = page_leaf(tiled.plate(document.name), look.traces, saved.sheet, paper=bool(job.wanted["own_paper"]))
        pixels = leaf.pixels(drawing.size)
    make_straight_rgba(pixels)
    watch("Printing it", 0.75)
    found = proof_of(on_white(pixels), paper, resolution / 25.4, bool(job.wanted["black_only"]))
    watch("Marking what fills in", 0.9)
    folder = proof_folder(job)
    folder.mkdir(parents=True, exist_ok=True)
    out = io.BytesIO()
    Image.fromarray(found.looks, "RGB").save(out, "JPEG", quality=93, subsampling=0)
    with whole(folder / LOOKS) as draft:
        draft.write_bytes(out.getvalue())
    # A mark is as large as the eye needs to find it.
    wide = max(1, round(0.25 * resolution / 25.4))
    shown = ndimage.binary_dilation(found.marks, iterations=wide) if found.marks.any() else found.marks
    marks = np.zeros((*shown.shape, 4), np.uint8)
    marks[shown] = (*_MARK, 190)
    with whole(folder / MARKS) as draft:
        Image.fromarray(marks, "RGBA").save(draft, "PNG", compress_level=3)
    return {
        "share": found.share, "lift": found.lift, "black": found.black, "after": found.after,
        "size": [view.frame.width, view.frame.height], "resolution": resolution,
    }  # fmt: skip
