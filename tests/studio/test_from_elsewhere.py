"""What comes from elsewhere, and what is seen through.
Windows, strokes of a mask, photographs, flat drawings, over HTTP.
"""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from studio.jobs.models import Job
from studio.stock.models import kept_pictures
from studio.studies.clearing import clear_unused
from studio.studies.models import Study
from tests.core.test_flat_drawings import SVG
from tests.studio.conftest import Api
from tests.studio.test_collage import drawn, pour, taken_in
from tests.studio.test_model import take
from warmgraphite.collage.pictures.phone import photographed
from warmgraphite.regions.painted import BrushStroke

THROUGH = {"kind": "through", "name": "Brushed"}


def stroke(api: Api, points: list[tuple[float, float]], **said: Any) -> Any:
    body = {
        "base": api.study()["revision"],
        "token": str(points),
        "stroke": {"points": points, "size": 40, "softness": 0.4, **said},
    }
    return api.post("/masks/m/strokes", body)


def paint(api: Api) -> str:
    """The mask of the view on the desk."""
    found: str = api.study()["document"]["desk"]["view"]["masks"][0]["tiles"]
    return found


def test_a_mask_is_painted_stroke_by_stroke_undone_packed_and_cleared(api: Api) -> None:
    assert stroke(api, [(0, 0)]).status_code == 404
    api.edit("view", ["masks", "m"], {"id": "m", "name": "Brushed", "tiles": ""})
    pour(
        api,
        {"kind": "wash", "id": "t", "name": "Shown", "colour": "#a02010", "second": "#a02010", "density": 3.0},
        None,
    )
    whole = drawn(api)
    api.edit("look", ["traces", "t", "where"], THROUGH)
    bare = drawn(api)
    assert bare != whole
    assert stroke(api, [(-20, 0), (20, 5)]).status_code == 200
    once = paint(api)
    seen = drawn(api)
    assert seen not in (bare, whole) and kept_pictures().masks.has(once)
    # A disc moved, a mask painted: the passes stay as they are, so that nothing has to be computed.
    jobs = Job.objects.filter(kind="passes").count()
    assert stroke(api, [(0, -30), (0, 30)]).status_code == 200 and paint(api) != once
    twice = drawn(api)
    assert twice != seen and Job.objects.filter(kind="passes").count() == jobs
    api.post("/undo", {"base": api.study()["revision"]})
    assert paint(api) == once and drawn(api) == seen and "Brushed" in api.study()["redo"]
    api.post("/redo", {"base": api.study()["revision"]})
    assert drawn(api) == twice
    assert stroke(api, [(1e9, 0)]).status_code == 422
    # It goes with the study into an archive, and comes back as it was.
    packed = api.client.post(f"{api.base}/archive").json()
    data = api.client.get(f"/api/jobs/{packed['id']}/file")
    body = b"".join(data.streaming_content) if data.streaming else data.content
    masks = settings.DATA / "stock" / "masks"
    kept = {p.name: p.read_bytes() for p in masks.iterdir()}
    for path in masks.iterdir():
        path.unlink()
    answer = api.client.post("/api/archives", {"file": SimpleUploadedFile("a.study.zip", body)}).json()
    other = Api(api.client.get(f"/api/jobs/{answer['id']}").json()["result"]["slug"])
    assert drawn(other) == twice and {p.name for p in masks.iterdir()} < set(kept)
    for name, content in kept.items():
        (masks / name).write_bytes(content)
    # One that was tampered with is refused in a sentence, and leaves nothing.
    for change in (lambda _: b"x", lambda data: data + bytes(150_000)):
        bad = io.BytesIO()
        with zipfile.ZipFile(io.BytesIO(body)) as old, zipfile.ZipFile(bad, "w", zipfile.ZIP_DEFLATED) as new:
            for entry in old.infolist():
                data = old.read(entry)
                new.writestr(entry.filename, change(data) if entry.filename.endswith(".tile") else data)
        answer = api.client.post("/api/archives", {"file": SimpleUploadedFile("b.study.zip", bad.getvalue())}).json()
        failed = api.client.get(f"/api/jobs/{answer['id']}").json()
        assert failed["state"] == "failed" and "mask" in failed["message"] and Study.objects.count() == 2
    # What no history shows any more is cleared; what undo may bring back stays.
    lost = kept_pictures().masks.stroke("", BrushStroke(points=((90.0, 90.0),)))
    clear_unused(young=-1)
    assert kept_pictures().masks.has(once) and not kept_pictures().masks.has(lost)


@pytest.mark.deep
def test_a_photograph_of_the_desk_comes_back_as_a_sketch(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    # A telephone of many years ago.
    monkeypatch.setattr("studio.studies.work.PHOTOGRAPHED", 1000)
    monkeypatch.setattr("studio.studies.work.photographed", partial(photographed, size=(1600, 1200)))
    pour(api, {"kind": "lines", "id": "l", "name": "All lines"}, None)
    drawn(api)
    job = api.post("/photographs", {"seed": 3}).json()
    job = api.client.get(f"/api/jobs/{job['id']}").json()
    assert job["state"] == "done", job["message"]
    digest = job["result"]["digest"]
    corners = api.client.get(f"/api/pictures/{digest}/sheet").json()["corners"]
    assert len(corners) == 4 and 0.02 < corners[0][0] < 0.3 and 0.7 < corners[2][0] < 0.98
    framing = api.get("/desk").json()["framing"]
    before = drawn(api)
    pour(
        api,
        {
            "kind": "sketch",
            "id": "s",
            "name": "Sketch",
            "picture": digest,
            "corners": corners,
            "made_for": framing,
            "blend": "multiply",
        },
        None,
    )
    assert drawn(api) != before
    state = lambda: next(t for t in api.get("/desk").json()["traces"] if t["id"] == "s")
    assert state()["remarks"] == [] and state()["fresh"]
    view = api.study()["document"]["desk"]["view"]
    api.edit("view", ["frame", "width"], view["frame"]["width"] + 10)
    assert "another one" in state()["remarks"][0]
    api.edit("look", ["traces", "s", "fit"], "by two points")
    drawn(api)
    assert state()["places"] == {"two points": 1.0}


def test_the_probe_tells_which_picture_hides_what_one_points_at(api: Api) -> None:
    pixels = np.zeros((40, 60, 4), np.uint8)
    pixels[:, :30] = (200, 120, 60, 255)
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG")
    digest = taken_in(api, SimpleUploadedFile("rendering.png", out.getvalue()))["digest"]
    pour(api, {"kind": "register", "id": "r", "name": "Rendering", "picture": digest}, None)
    drawn(api)
    frame = api.study()["document"]["desk"]["view"]["frame"]
    at = lambda share: api.get("/probe", x=frame["width"] * share, y=frame["height"] * 0.5).json()["under"]
    assert at(0.3) == ["Rendering"] and at(0.7) == []
    api.edit("look", ["traces", "r", "opacity"], 0.2)
    drawn(api)
    assert at(0.3) == []
    api.edit("look", ["traces", "r", "picture"], "0" * 32)
    assert "not in the stock" in next(t for t in api.get("/desk").json()["traces"] if t["id"] == "r")["remarks"][0]


@pytest.mark.deep
def test_a_flat_drawing_becomes_a_study_that_is_looked_at_from_above_and_poured_into(
    jobs_at_once: None, scratch: Path, upload: Callable[..., Any]
) -> None:
    (scratch / "plan 1-100.svg").write_text(SVG.format(more=""))
    done = take(upload, scratch / "plan 1-100.svg")
    assert done["state"] == "done", done
    api = Api(done["result"]["slug"])
    view = api.study()["document"]["desk"]["view"]
    assert view["projection"]["direction"] == [0, 0, -1] and api.study()["model"]["parts"] == 4
    before = drawn(api)
    found = api.post("/pointed", {"x": 0.3 * view["frame"]["width"], "y": 0.5 * view["frame"]["height"]})
    assert found.status_code == 200
    if found.json().get("job"):
        found = api.post("/pointed", {"x": 0.3 * view["frame"]["width"], "y": 0.5 * view["frame"]["height"]})
    where = found.json()["query"]
    fill = {"kind": "flat", "colour": "#aa2200"}
    api.do({"do": "pour", "label": "Pour", "where": where, "fill": fill})
    assert drawn(api) != before and json.dumps(where).count("Area")
    assert Study.objects.get(slug=api.base.rsplit("/", 1)[1]).model.parts[0].layer == "Areas"
