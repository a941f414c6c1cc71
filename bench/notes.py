"""What notes and boards take."""

from __future__ import annotations

import json
import statistics
import tempfile
import time
import urllib.request
from pathlib import Path
from typing import Any

import numpy as np

__all__ = ["board", "labels", "moved"]


def labels() -> dict:
    """Sixty labels on random points of a building, of one to two lines, round what is cut."""
    import shapely

    from warmgraphite.notes.labels import LabelRequest, LabelSpace, place_labels
    from warmgraphite.notes.written import block

    said = ["oak", "lime plaster, 15 mm", "insulation of wood fibre,\n200 mm", "gravel bed"]
    spent, crowded = [], 0
    for seed in range(9):
        rng = np.random.default_rng(seed)
        keep = shapely.union_all([shapely.box(x, 100, x + 5, 300) for x in rng.uniform(180, 420, 6)])
        asked = [
            LabelRequest(f"n-{k}", block(said[k % 4], "sans", 1.8),
                (float(rng.uniform(180, 420)), float(rng.uniform(90, 320))), "#000000", "dot")
            for k in range(60)
        ]  # fmt: skip
        room = LabelSpace((14.0, 14.0, 580.0, 399.0), (180.0, 90.0, 420.0, 320.0), [], keep, 60.0)
        start = time.perf_counter()
        crowded += sum(p.crowded for p in place_labels(asked, room))
        spent.append(time.perf_counter() - start)
    return {"seconds": statistics.median(spent), "note": f"slowest {max(spent):.3f} s; {crowded} without a place"}


def _call(address: str, body: dict[str, Any] | None = None) -> Any:
    data = None if body is None else json.dumps(body).encode()
    request = urllib.request.Request(address, data, {"Content-Type": "application/json"})
    with urllib.request.urlopen(request) as answer:
        found = answer.read()
        return json.loads(found) if answer.headers["Content-Type"].startswith("application/json") else found


def _until_fresh(base: str, path: str, fresh: Any) -> Any:
    while not fresh(found := _call(base + path, {})):
        time.sleep(0.1)
    return found


def moved() -> dict:
    """A label of the cross section moved by hand: from the edit to the picture that shows it."""
    from tests.interface.serve import application

    with tempfile.TemporaryDirectory() as folder, application(Path(folder)) as app:
        base = f"{app.address}/api/studies/alder-weir-kiln-house"
        edit = lambda *commands: _call(
            base + "/edits", {"base": _call(base)["revision"], "commands": list(commands), "show": True}
        )
        edit({"do": "open_view", "view_id": "view-2"})
        _until_fresh(base, "/desk?width=1280", lambda d: d["fresh"])
        note = next(n for n in _call(base)["document"]["views"][1]["notes"] if n["kind"] == "label")["id"]
        spent = []
        for k in range(9):
            revision = _call(base)["revision"]
            command = {"do": "notes", "changes": [{"path": ["notes", note, "put"], "value": [60.0 + k, -40.0 + 2 * k]}]}
            start = time.perf_counter()
            _call(base + "/edits", {"base": revision, "commands": [command], "show": True})
            _call(base + "/desk?width=1280", {})
            _call(f"{base}/preview?width=1280&revision={revision + 1}")
            spent.append(time.perf_counter() - start)
    return {
        "seconds": statistics.median(spent),
        "note": f"first {spent[0]:.3f} s, slowest other {max(spent[1:]):.3f} s",
    }


def board() -> dict:
    """Four drawings of the sample's A1 board once their passes are there.
    Their pictures as the screen shows them, and what stands over them.
    """
    from demo.boards import sample_boards
    from demo.figures import sample_figures
    from demo.finishes import WORN, sample_finishes
    from demo.kiln_house import build_kiln_house
    from demo.notes import sample_notes
    from demo.views import sample_views, with_sample_words
    from warmgraphite.board.drawn import draw_over
    from warmgraphite.canvas.svg import SvgCanvas
    from warmgraphite.drawing import Bench, Drawing, Looked, needs_of
    from warmgraphite.passes.store import PassStore
    from warmgraphite.sheet.preview import LayerCache, compose, encode_jpeg
    from warmgraphite.study import fresh_document
    from warmgraphite.study.placed_drawings import in_study

    model, views = with_sample_words(build_kiln_house()), sample_views()
    figures = sample_figures(model, {v.name: f"view-{k}" for k, v in enumerate(views, 1)})
    document = fresh_document("Kiln house", views, sample_finishes(), WORN, figures, sample_notes(), sample_boards())
    page = document.boards[0]
    with tempfile.TemporaryDirectory() as folder:
        store, sources = PassStore(Path(folder)), [in_study(d, document, model) for d in page.drawings[:4]]
        sizes = [(800, round(800 * s.view.frame.height / s.view.frame.width)) for s in sources]
        start = time.perf_counter()
        for source, size in zip(sources, sizes, strict=True):
            drawing = Drawing(model, source.view, size, store, ink=source.look)
            drawing.compute(needs_of(source.look.traces, source.look, source.look.notes))
        passes = time.perf_counter() - start

        def show() -> float:
            begun = time.perf_counter()
            for source, size in zip(sources, sizes, strict=True):
                plate = Looked(model, source.view, size, store, ink=source.look, bench=Bench("passes")).plate(
                    "", source.look
                )
                encode_jpeg(compose(plate, source.look.traces, source.sheet, size, LayerCache()), 90)
            draw_over(SvgCanvas(841, 594, "Board"), page, 1, {})
            return time.perf_counter() - begun

        first, *others = [show() for _ in range(4)]
    return {
        "seconds": statistics.median(others),
        "note": f"the first of all {first:.2f} s; all passes before {passes:.1f} s",
    }
