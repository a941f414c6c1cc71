"""What it takes to send drawings out: a board, a long section, a set."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path
from typing import Any

__all__ = ["board_pdf", "long_section", "proof", "twelve"]


def _study() -> tuple[Any, Any]:
    """The sample's model, and its study with finishes, figures, notes and boards."""
    from demo.boards import sample_boards
    from demo.figures import sample_figures
    from demo.finishes import WORN, sample_finishes
    from demo.kiln_house import build_kiln_house
    from demo.notes import sample_notes
    from demo.views import sample_views, with_sample_words
    from warmgraphite.study import fresh_document

    model, views = with_sample_words(build_kiln_house()), sample_views()
    figures = sample_figures(model, {v.name: f"view-{k}" for k, v in enumerate(views, 1)})
    return model, fresh_document("Kiln house", views, sample_finishes(), WORN, figures, sample_notes(), sample_boards())


def _rendered(path: Path) -> float:
    """Seconds in which a reader shows the first page on a screen."""
    import pypdfium2

    start = time.perf_counter()
    with pypdfium2.PdfDocument(path) as document:
        page = document[0]
        page.render(scale=1280 / page.get_width())
    return time.perf_counter() - start


def board_pdf() -> dict:
    """The sample's A1 board with its four drawings as PDF at 300 dpi, from fresh passes; and from nothing."""
    from warmgraphite.board.write import write_board
    from warmgraphite.passes.store import PassStore
    from warmgraphite.study.placed_drawings import in_study, made_ready

    model, document = _study()
    board = document.boards[0]
    with tempfile.TemporaryDirectory() as folder:
        path, store = Path(folder) / "a1.pdf", PassStore(Path(folder) / "passes")
        start = time.perf_counter()
        ready = made_ready(board, lambda row: in_study(row, document, model), Path(folder) / "tiles", 300, store=store)
        passes = time.perf_counter() - start
        del ready
        start = time.perf_counter()
        ready = made_ready(board, lambda row: in_study(row, document, model), Path(folder) / "tiles", 300, store=store)
        write_board(board, ready, path, study=document.name, resolution=300)
        seconds = time.perf_counter() - start
        return {
            "seconds": seconds,
            "note": f"its passes {passes:.1f} s; {path.stat().st_size / 1e6:.0f} MB; shown in {_rendered(path):.1f} s",
        }


def _drawn(
    model: Any, document: Any, saved: Any, path: Path, folder: Path, frame: dict[str, Any], resolution: float
) -> float:
    from warmgraphite.drawing import Drawing
    from warmgraphite.drawing.tiles import TiledDrawing
    from warmgraphite.passes.store import PassStore
    from warmgraphite.sheet.write import write_drawing

    look, view = document.drawn_look(saved), saved.view
    view = view.model_copy(update={"frame": view.frame.model_copy(update={**frame, "resolution": resolution})})
    start = time.perf_counter()
    tiled = TiledDrawing(Drawing(model, view, None, PassStore(folder / "passes"), ink=look), folder / "tiles")
    tiled.compute_picture(look.traces, look, look.notes)
    write_drawing(tiled.plate(document.name), look.traces, saved.sheet, path, resolution=resolution)
    return time.perf_counter() - start


def long_section() -> dict:
    """The washed long section on A2 as PDF with tones at 150 dpi, from fresh passes; and from nothing."""
    model, document = _study()
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "a2.pdf"
        work = lambda: _drawn(
            model, document, document.views[0], path, Path(folder), {"width": 594, "height": 420}, 150
        )
        nothing, fresh = work(), work()
        return {
            "seconds": fresh,
            "note": f"from nothing {nothing:.1f} s; {path.stat().st_size / 1e6:.0f} MB; shown in {_rendered(path):.1f} "
            f"s",
        }


def twelve() -> dict:
    """Twelve views, the sample's six under two suns, as a set of PNG at 72 dpi, beside each drawn by itself."""
    from warmgraphite.out.settings import OutSettings
    from warmgraphite.series.draw import draw_set
    from warmgraphite.series.plan import SeriesSettings

    model, document = _study()
    late = [
        v.model_copy(
            update={"id": f"{v.id}-late", "mark": f"{v.mark}2",
                "view": v.view.model_copy(update={"name": f"{v.view.name}, late",
                    "sun": v.view.sun.model_copy(update={"azimuth": 235.0})})}
        )
        for v in document.views
    ]  # fmt: skip
    document = document.model_copy(update={"views": (*document.views, *late), "boards": ()})
    with tempfile.TemporaryDirectory() as folder:
        parts = sum(
            _drawn(model, document, v, Path(folder) / "a.png", Path(folder) / f"tiles {n}", {}, 72)
            for n, v in enumerate(document.views)
        )
        start = time.perf_counter()
        draw_set(document, model, SeriesSettings(format="png", out=OutSettings(resolution=72)), Path(folder) / "set")
        seconds = time.perf_counter() - start
    return {
        "seconds": seconds,
        "note": f"{seconds / parts:.2f} times the sum of its parts ({parts:.1f} s), with its contact sheet",
    }


def proof() -> dict:
    """A picture of A3 at 254 dpi printed and looked through."""
    import numpy as np

    from warmgraphite.proof.printer import PAPERS
    from warmgraphite.proof.proof import proof_of

    picture = np.random.default_rng(1).integers(20, 255, (2970 // 3, 4200 // 3, 3), np.uint8).repeat(3, 0).repeat(3, 1)
    start = time.perf_counter()
    found = proof_of(picture, PAPERS["uncoated"], 10.0)
    return {
        "seconds": time.perf_counter() - start,
        "note": f"{100 * found.share:.1f} % fills in; lift {found.lifting.lift:g}",
    }
