"""Figures over HTTP: stood, put, strewn and taken out; a cut-out of one's own that goes with its study."""

from __future__ import annotations

import io
import json
import threading
import zipfile
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from studio.jobs.models import Job
from studio.stock.models import StockPicture, kept_pictures
from studio.studies import figure_samples
from studio.studies.archive import shown_pictures
from studio.studies.clearing import clear_unused
from studio.studies.models import Study, text_of
from tests.core.test_own_figures import jug
from tests.studio.conftest import Api
from tests.studio.test_collage import drawn, taken_in
from warmgraphite.figures.bodies import height_of
from warmgraphite.figures.stock import figure_stock
from warmgraphite.model.read import read_model
from warmgraphite.study import read_document

PERSON: dict[str, Any] = {"id": "figure-1", "kind": "person", "pose": "standing", "seed": 3}


def put(api: Api, *figures: dict[str, Any]) -> Any:
    changes = [{"path": ["figures", f["id"]], "value": f} for f in figures]
    return api.do({"do": "figures", "label": "Put figures", "changes": changes})


def asked(api: Api, path: str, **body: Any) -> Any:
    return api.client.post(f"{api.base}/figures/{path}", body, content_type="application/json")


def pixels(api: Api) -> np.ndarray:
    return np.asarray(Image.open(io.BytesIO(drawn(api))).convert("L"), np.int16)


def test_a_figure_is_asked_for_put_moved_hidden_and_undone(api: Api) -> None:
    bare = pixels(api)
    # On the step, one metre high, in an elevation that is cut a half metre into the wall.
    told = api.get("/desk").json()["world_to_frame"]
    x, y, _, w = np.array(told) @ [5.5, 0.5, 1.0, 1.0]
    stood = asked(api, "stand", figure=PERSON, place=[x / w, y / w]).json()
    east, north, up = stood["figure"]["at"]
    assert east == pytest.approx(5.5, abs=0.02) and 0 <= north <= 3 and up == pytest.approx(1.0, abs=1e-6)
    assert stood["foot"] == pytest.approx([x / w, y / w], abs=0.1) and stood["rings"]
    # Nothing is changed by asking; put, it is drawn, and again as it was when that is undone.
    assert np.array_equal(pixels(api), bare)
    assert put(api, stood["figure"]).status_code == 200
    with_it = pixels(api)
    assert (np.abs(with_it - bare) > 40).sum() > 20
    patch = api.get("/figures/figure-1/patch", density=3)
    left, top, width, height = map(float, patch["X-Place"].split(","))
    foot = api.get("/figures/figure-1/outline").json()["foot"]
    assert left < foot[0] < left + width and top < foot[1] < top + height + 0.5
    assert api.edit("view", ["figures", "hidden"], ["figure-1"]).status_code == 200
    assert np.array_equal(pixels(api), bare)
    for _ in range(2):
        api.post("/undo", {"base": api.study()["revision"]})
    assert np.array_equal(pixels(api), bare) and not api.study()["document"]["figures"]


@pytest.mark.deep
def test_many_stand_where_there_is_ground_and_what_is_wrong_is_said(api: Api) -> None:
    api.do({"do": "open_view", "view_id": "view-2"})
    drawn(api)
    matrix = np.array(api.get("/desk").json()["world_to_frame"])
    place = lambda p: ((matrix @ [*p, 1.0])[:2] / (matrix @ [*p, 1.0])[3]).tolist()
    row = asked(
        api, "many", figure=PERSON, how="row", places=[place((5.1, 0.5, 1)), place((5.9, 0.5, 1))], apart=0.4
    ).json()
    assert len(row) == 3 and [f["id"] for f in row] == ["figure-1", "figure-2", "figure-3"]
    assert all(f["at"][2] == pytest.approx(1.0, abs=0.02) for f in row)
    assert put(api, *row).status_code == 200
    more = asked(api, "many", figure=PERSON, how="group", places=[place((5.5, 0.5, 1))], count=2).json()
    assert [f["id"] for f in more] == ["figure-4", "figure-5"]
    for answer, words in (
        (asked(api, "many", figure=PERSON, how="area", places=[place((5.1, 0.5, 1))]), "3 places"),
        (asked(api, "many", how="row", places=[]), "from the stock"),
        (asked(api, "many", figure=PERSON, how="seats"), "No chair"),
        (put(api, PERSON | {"id": "odd", "pose": "flying a kite"}), "figure"),
        (
            put(api, PERSON | {"id": "odd", "paper": {"view": "nowhere", "x": 0, "y": 0, "distance": 10}}),
            "not saved any more",
        ),
    ):
        assert answer.status_code in (400, 409, 422) and words in answer.json()["message"], answer.json()
    assert len(api.study()["document"]["figures"]) == 3


def test_a_cut_out_shows_its_picture_and_goes_with_its_study(api: Api) -> None:
    def card(colour: tuple[int, int, int], name: str) -> str:
        image = Image.new("RGB", (90, 200), "white")
        image.paste(colour, (25, 10, 65, 200))
        out = io.BytesIO()
        image.save(out, "PNG")
        return str(taken_in(api, SimpleUploadedFile(name, out.getvalue(), "image/png"))["digest"])

    ahead, above = card((200, 40, 40), "ahead.png"), card((40, 60, 200), "above.png")
    bare = np.asarray(Image.open(io.BytesIO(drawn(api))).convert("RGB"), np.int16)
    figure = {"id": "card", "kind": "cut-out", "picture": ahead, "above": above, "height": 1.6, "at": [5.5, 0.5, 1.0]}
    assert put(api, figure).status_code == 200
    shown = np.asarray(Image.open(io.BytesIO(drawn(api))).convert("RGB"), np.int16)
    red = lambda p: int(((p[..., 0] - p[..., 1] > 80) & (p[..., 0] - p[..., 2] > 80)).sum())
    assert red(bare) == 0 and red(shown) > 10
    study = Study.objects.get(slug=api.base.rsplit("/", 1)[-1])
    assert shown_pictures(text_of(study.document)) == {ahead, above}
    job = api.client.post(f"{api.base}/archive", b"", "application/json").json()
    packed = api.client.get(f"/api/jobs/{job['id']}/file")
    with zipfile.ZipFile(
        io.BytesIO(b"".join(packed.streaming_content) if packed.streaming else packed.content)
    ) as archive:
        assert {f"pictures/{d}.png" for d in (ahead, above)} <= set(archive.namelist())
        assert json.loads(archive.read("study.json"))["study"]["figures"][0]["picture"] == ahead
    # A picture that a figure shows is not taken out of the stock under it.
    assert api.client.delete(f"/api/pictures/{above}").status_code == 422


@pytest.mark.deep
def test_a_body_of_ones_own_is_taken_in_stood_and_goes_with_its_study(api: Api, tmp_path: Path) -> None:
    found = taken_in(api, SimpleUploadedFile("jug.glb", jug(tmp_path / "jug.glb").read_bytes(), "model/gltf-binary"))
    assert found["kind"] == "GLB" and found["tall"] == pytest.approx(0.9, abs=0.01)
    assert "no.glb" in taken_in(api, SimpleUploadedFile("no.glb", b"glTF" + bytes(40)))["message"]
    bare = pixels(api)
    body = {"id": "jug", "kind": "body", "picture": found["digest"], "height": 0.9, "at": [5.5, 0.5, 1.0]}
    assert put(api, body).status_code == 200 and (np.abs(pixels(api) - bare) > 40).sum() > 20
    # No sheet for cut-outs comes with it.
    assert "cut-outs" not in {t["kind"] for t in api.study()["look"]["traces"]}
    job = api.client.post(f"{api.base}/archive", b"", "application/json").json()
    packed = api.client.get(f"/api/jobs/{job['id']}/file")
    data = b"".join(packed.streaming_content) if packed.streaming else packed.content
    assert api.client.delete(f"/api/pictures/{found['digest']}").status_code == 422
    # Where nothing is known of it, it comes back as a body.
    StockPicture.objects.all().delete()
    for path in kept_pictures().folder.glob(f"{found['digest']}.*"):
        path.unlink()
    job = api.client.post("/api/archives", {"file": SimpleUploadedFile("a.study.zip", data)}).json()
    study = Study.objects.get(slug=Job.objects.get(pk=job["id"]).result["slug"])
    figure = study.document.figures[0]
    model = kept_pictures().body(figure.pictures[0])
    assert model is not None and height_of(model) == pytest.approx(0.9, abs=1e-3)


def test_a_study_of_before_has_its_figures_in_wash_still(api: Api) -> None:
    put(api, PERSON | {"drawn": "wash"})
    study = Study.objects.get(slug=api.base.rsplit("/", 1)[-1])
    written = json.loads(study.head.text)
    # As it was written while washes were hatches: without the sheet.
    written["format"] = 7
    for finish in written["finishes"]:
        assert [t["id"] for t in finish["traces"]].count("figure-washes") == 1
        finish["traces"] = [t for t in finish["traces"] if t["id"] != "figure-washes"]
    read = read_document(written)
    assert read.finishes == study.document.finishes
    # Taken out since, it stays out.
    out = [{"path": ["traces", "figure-washes"], "do": "drop"}]
    api.do({"do": "look", "label": "Out", "changes": out, "everywhere": True})
    put(api, PERSON | {"drawn": "wash", "turn": 20})
    assert "figure-washes" not in {t["id"] for t in api.study()["look"]["traces"]}


def test_samples_are_drawn_when_there_is_time_and_those_of_before_go(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    some = [i for i in figure_stock() if i.id in ("thing-bench", "person-waving")]
    monkeypatch.setattr(figure_samples, "figure_stock", lambda: some)
    end = threading.Event()
    busy = Job.objects.create(kind="thumbnail", key="busy", state=Job.State.WAITING)
    threading.Timer(0.1, end.set).start()
    figure_samples.draw_samples(end)  # told to end while somebody works
    folder = settings.DATA / "samples" / figure_samples.samples_version()
    assert not folder.exists()
    busy.delete()
    figure_samples.draw_samples(threading.Event())
    assert {f.name for f in folder.iterdir()} == {f"{i.id}-{figure_samples.PIXELS}.png" for i in some}
    data = (folder / f"person-waving-{figure_samples.PIXELS}.png").read_bytes()
    # What is asked for is what was drawn, and shows somebody.
    assert api.client.get("/api/figures/person-waving/sample").content == data
    grey = np.asarray(Image.open(io.BytesIO(data)).convert("L"), float)
    assert grey.shape == (figure_samples.PIXELS,) * 2 and grey.min() < 120 and np.median(grey) > 220
    assert api.client.get("/api/figures/nobody/sample").status_code == 404
    old = folder.with_name("before")
    old.mkdir()
    clear_unused(young=-1)
    assert folder.exists() and not old.exists()


def test_the_model_goes_out_with_the_figures_that_stand_in_it(api: Api, tmp_path: Path) -> None:
    figure = {"id": "a", "kind": "person", "at": [2.0, 3.0, 0.0], "height": 1.72}
    assert put(api, figure).status_code == 200
    for figures in (False, True):
        job = Job.objects.get(pk=api.post("/model/write", {"format": "glb", "figures": figures}).json()["id"])
        path = tmp_path / "a.glb"
        path.write_bytes(b"".join(api.client.get(f"/api/jobs/{job.pk}/file").streaming_content))
        model = read_model(path)
        standing = [p for p in model.parts if p.role == "people"]
        assert bool(standing) is figures
    rows = [n for n, p in enumerate(model.parts) if p.role == "people"]
    boxes = model.part_bounds[rows]
    assert boxes[:, 1, 2].max() - boxes[:, 0, 2].min() == pytest.approx(1.72, abs=0.03)
