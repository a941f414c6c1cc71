"""What goes out, over HTTP: every format, passes, finishes with their stock, the set, the proof.
And files that are joined.
"""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pikepdf
import pytest
from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from PIL import Image

from studio.jobs.models import Job
from studio.jobs.queue import huey, perform
from studio.studies import proof_work
from studio.studies.models import Study
from tests.core.test_joined import ifc_file
from tests.studio.conftest import Api
from warmgraphite.errors import Cancelled
from warmgraphite.model.glb import write_glb
from warmgraphite.model.read import read_model
from warmgraphite.proof.printer import PAPERS
from warmgraphite.proof.proof import proof_of


def begun(api: Api, path: str, body: dict[str, Any] | None = None) -> Job:
    answer = api.client.post(api.base + path, body or {}, content_type="application/json")
    assert answer.status_code == 200, answer.content
    return Job.objects.get(pk=answer.json().get("job", answer.json())["id"])


def taken(job: Job) -> bytes:
    assert job.state == Job.State.DONE, job.message
    answer = Client().get(f"/api/jobs/{job.pk}/file")
    assert answer.status_code == 200
    return b"".join(answer.streaming_content)


def test_every_format_is_offered_and_written_as_it_is_asked_for(api: Api) -> None:
    formats = Client().get("/api/formats").json()
    assert [f["ending"] for f in formats] == ["pdf", "svg", "png", "tiff", "jpg", "webp", "ora"]
    heads = {
        "pdf": b"%PDF",
        "svg": b"<?xml",
        "png": b"\x89PNG",
        "tiff": b"II*\0",
        "jpg": b"\xff\xd8",
        "webp": b"RIFF",
        "ora": b"PK",
    }
    for row in formats:
        out = {"resolution": 40, "paper": "paper" not in row["options"]}
        data = taken(begun(api, "/exports", {"format": row["ending"], "out": out}))
        assert data.startswith(heads[row["ending"]]), row["ending"]
    archived = {"resolution": 40, "layers": ["traces", "ranks", "model"], "archival": True, "only": []}
    with pikepdf.open(io.BytesIO(taken(begun(api, "/exports", {"format": "pdf", "out": archived})))) as pdf:
        names = {str(o.Name) for o in pdf.Root.OCProperties.OCGs}
        assert {"Lines", "Lines cut", "No layer"} <= names and "/OutputIntents" in pdf.Root
    for wrong, said in (
        ({"format": "bmp"}, "no format “bmp”"),
        ({"format": "png", "out": {"resolution": 5000}}, "2400"),
    ):
        answer = api.client.post(f"{api.base}/exports", wrong, content_type="application/json")
        assert answer.status_code == 422 and said in answer.json()["message"]


def test_a_job_for_a_file_from_before_is_understood(api: Api) -> None:
    job = begun(api, "/exports", {"format": "png", "out": {"resolution": 40, "paper": False}})
    old = {**{k: v for k, v in job.arguments.items() if k != "out"}, "resolution": 30.0, "paper": False}
    old["document"] = Study.objects.get().document.model_dump(mode="json")  # they carried it themselves
    Job.objects.filter(pk=job.pk).update(arguments=old, format=4, state=Job.State.WAITING)
    perform(job.pk)
    picture = Image.open(io.BytesIO(taken(Job.objects.get(pk=job.pk))))
    assert picture.size == (118, 83) and np.asarray(picture)[..., 3].min() == 0


def test_passes_go_out_as_one_archive(api: Api) -> None:
    data = taken(begun(api, "/bundles", {"resolution": 40, "pictures": "tiff"}))
    with zipfile.ZipFile(io.BytesIO(data)) as found:
        names = set(found.namelist())
        assert {"bundle.json", "lines.json", "depth.tiff", "drawing.svg"} <= names and not any(
            n.endswith(".png") for n in names
        )
        assert list(json.loads(found.read("bundle.json"))["frame"]["pixels"]) == list(
            Image.open(found.open("shade.tiff")).size
        )


def test_a_finish_goes_to_another_study_with_the_pictures_it_shows(api: Api, tmp_path: Path) -> None:
    out = io.BytesIO()
    Image.fromarray(np.random.default_rng(1).integers(0, 255, (40, 60, 3), np.uint8)).save(out, "PNG")
    job = Job.objects.get(
        pk=Client().post("/api/pictures", {"file": SimpleUploadedFile("bricks.png", out.getvalue())}).json()["id"]
    )
    digest = job.result["digest"]
    trace = {"kind": "picture", "id": "mine", "name": "Bricks", "picture": digest}
    assert (
        api.do(
            {"do": "look", "changes": [{"path": ["traces", "mine"], "value": trace}], "everywhere": True}
        ).status_code
        == 200
    )
    worn = api.study()["document"]["views"][0]["finish"]
    data = taken(begun(api, f"/finishes/{worn}/pack"))
    with zipfile.ZipFile(io.BytesIO(data)) as found:
        assert {"finish.json", "stock.json", f"pictures/{digest}.png"} <= set(found.namelist())
    # Elsewhere the picture is not there yet.
    from studio.stock.models import StockPicture, kept_pictures

    StockPicture.objects.all().delete()
    kept_pictures().path(digest).unlink()
    answer = Client().post("/api/finishes", {"file": SimpleUploadedFile("a.finish.zip", data)})
    text = Job.objects.get(pk=answer.json()["id"]).result["text"]
    assert kept_pictures().has(digest) and StockPicture.objects.get().name.startswith("bricks")
    before = len(api.study()["document"]["finishes"])
    assert api.do({"do": "take_finish", "text": text}).status_code == 200
    study = api.study()["document"]
    assert len(study["finishes"]) == before + 1 and any(
        t.get("picture") == digest for t in study["finishes"][-1]["traces"]
    )
    for bad, said in ((b"nothing", "no whole archive of a finish"), (data[:200], "no whole archive of a finish")):
        job = Job.objects.get(
            pk=Client().post("/api/finishes", {"file": SimpleUploadedFile("b.zip", bad)}).json()["id"]
        )
        assert job.state == Job.State.FAILED and said in job.message


SET = {"format": "png", "out": {"resolution": 40}}


def test_the_set_is_drawn_stopped_gone_on_with_and_packed(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    state = lambda **more: api.client.post(
        f"{api.base}/set/state", {**SET, **more}, content_type="application/json"
    ).json()
    rows = state()
    assert [(i["name"], i["drawn"]) for i in rows["items"]] == [("Section", False), ("From above", False)] and rows[
        "job"
    ] is None
    # Somebody stops it while the second is drawn.
    from studio.jobs import models

    told = models.Watch.__call__

    def stopping(self: Any, stage: str, fraction: float) -> None:
        told(self, stage, fraction)
        if stage.startswith("2 of 2"):
            raise Cancelled("The set")

    monkeypatch.setattr(models.Watch, "__call__", stopping)
    assert begun(api, "/set", SET).state == Job.State.CANCELLED
    monkeypatch.undo()
    rows = state()
    assert [i["drawn"] for i in rows["items"]] == [True, False] and rows["job"]["state"] == "cancelled"
    first = settings.DATA / rows["folder"] / rows["items"][0]["file"]
    made = first.stat().st_mtime_ns
    job = begun(api, "/set", SET)
    assert job.state == Job.State.DONE and job.result["drawn"] == 2 and first.stat().st_mtime_ns == made
    rows = state()
    assert (
        rows["drawn"] == 2
        and rows["contact_sheet"]
        and all(Client().get(i["small"]).status_code == 200 for i in rows["items"])
    )
    picture = Client().get(f"{api.base}/set/files/{rows['items'][1]['file']}")
    assert Image.open(io.BytesIO(b"".join(picture.streaming_content))).size == (157, 110)
    assert Client().get(f"{api.base}/set/files/set.json").status_code == 404
    with zipfile.ZipFile(io.BytesIO(taken(begun(api, "/set/archive")))) as found:
        assert sorted(found.namelist()) == sorted(["Contact sheet.pdf", *(i["file"] for i in rows["items"])])
    # What is drawn goes by what it shows: a turned sun leaves nothing as it was of that view.
    api.edit("view", ["sun", "azimuth"], 100.0)
    assert [(i["drawn"], i["stale"]) for i in state()["items"]] == [(False, True), (True, False)]
    answer = api.client.post(f"{api.base}/set", {**SET, "finish": "Gone"}, content_type="application/json")
    assert answer.status_code == 422 and "no finish “Gone”" in answer.json()["message"]
    # It goes with its study.
    from studio.studies.clearing import clear_unused

    folder = settings.DATA / rows["folder"]
    assert Client().delete(api.base).status_code in (200, 204)
    clear_unused(young=-1)
    assert not folder.exists()


def test_a_proof_is_made_once_marks_what_fills_in_and_is_lifted(api: Api) -> None:
    papers = {p["name"]: p for p in Client().get("/api/print-papers").json()}
    assert set(papers) == {"coated", "uncoated", "newsprint"}
    job = begun(api, "/proofs", {"paper": "newsprint"})
    assert job.state == Job.State.DONE and job.result["size"] == [100, 70]
    assert begun(api, "/proofs", {"paper": "newsprint"}).pk == job.pk
    get = lambda name: Client().get(f"{api.base}/proofs/{job.pk}/{name}")
    looks, marks = (Image.open(io.BytesIO(b"".join(get(n).streaming_content))) for n in ("looks.jpg", "marks.png"))
    assert looks.size == marks.size == (1000, 700) and get("../x").status_code == 404
    white = tuple(int(papers["newsprint"]["white"][i : i + 2], 16) for i in (1, 3, 5))
    assert np.abs(np.asarray(looks)[2, 2].astype(int) - white).max() < 6  # its own pale paper is not printed
    assert api.do({"do": "lift", "lift": 0.4, "black": 0.05}).status_code == 200
    again = api.client.post(f"{api.base}/proofs", {"paper": "newsprint"}, content_type="application/json").json()
    assert again["job"]["id"] != job.pk and again["lift"] == pytest.approx(0.4) and again["own_paper"] is False
    assert Client().post(f"{api.base}/proofs", {"paper": "silk"}, content_type="application/json").status_code == 422
    # Whoever asks for another print wants the one that is under way no more.
    huey.immediate = False
    old, new = begun(api, "/proofs", {"paper": "coated"}), begun(api, "/proofs", {"paper": "uncoated"})
    old.refresh_from_db()
    assert (old.state, new.state) == (Job.State.CANCELLED, Job.State.WAITING)
    huey.flush()


def test_a_page_of_a_board_is_proofed_and_what_fills_in_is_lifted_on_it(
    api: Api, monkeypatch: pytest.MonkeyPatch
) -> None:
    view = api.get("").json()["document"]["views"][0]["id"]
    rows = [{"id": f"d{n}", "view": view, "page": n, "at": [10, 10], "caption_on": False} for n in (1, 2)]
    board = {
        "id": "board-1",
        "name": "Sheet",
        "page": {"width": 120, "height": 100},
        "pages": 2,
        "drawings": rows,
        "block": {"on": False},
    }
    change = lambda path, value: api.do({"do": "boards", "label": "Board",
        "changes": [{"path": ["boards", *path], "do": "set", "value": value}]})  # fmt: skip
    assert change(["board-1"], board).status_code == 200
    asked = {"paper": "coated", "board": "board-1", "page": 2}
    monkeypatch.setattr(proof_work, "SHOWN", 300_000)
    job = begun(api, "/proofs", asked)
    assert job.state == Job.State.DONE, job.message
    assert job.result["size"] == [120, 100] and job.result["resolution"] == 254 and set(job.result["parts"]) == {"d2"}
    # What is looked at has fewer pixels than what is looked through; the page's own pale paper is not printed.
    looks, marks = (Image.open(proof_work.proof_folder(job) / n) for n in ("looks.jpg", "marks.png"))
    assert looks.size == marks.size == (600, 500)
    assert begun(api, "/proofs", asked).pk == job.pk and begun(api, "/proofs", {**asked, "page": 1}).pk != job.pk
    # Lifted on page 2 it is another print, and that of page 1 is not lifted.
    assert all(
        change(["board-1", "drawings", "d2", f], v).status_code == 200 for f, v in (("lift", 0.6), ("black", 0.2))
    )
    again = api.client.post(f"{api.base}/proofs", asked, content_type="application/json").json()
    assert again["job"]["id"] != job.pk and again["lift"] == 0.6
    lifted = Image.open(proof_work.proof_folder(Job.objects.get(pk=again["job"]["id"])) / "looks.jpg")
    darkest = [np.quantile(np.asarray(p.convert("L")), 0.002) for p in (looks, lifted)]
    assert darkest[1] > darkest[0] + 8
    other = api.client.post(f"{api.base}/proofs", {**asked, "page": 1}, content_type="application/json").json()
    assert other["lift"] is None
    # The file of the board says it of the place, and not of what stands there.
    one, two = json.loads(Client().get(f"{api.base}/boards/board-1/file").content)["drawings"]
    assert [one["lift"], two["lift"]] == [0, 0.6] and one["drawing"] == two["drawing"]
    for bad, status in (({"page": 3}, 422), ({"board": "gone"}, 404)):
        assert (
            api.client.post(f"{api.base}/proofs", {**asked, **bad}, content_type="application/json").status_code
            == status
        )


def test_of_a_drawing_that_hangs_off_its_page_that_on_it_is_reckoned() -> None:
    """A page of dark, lost drawing, on which three drawings stand: half of it, all beyond it, and one on bare paper."""
    rng = np.random.default_rng(5)
    pixels = np.full((400, 400, 3), 255, np.uint8)
    pixels[:, :200] = (30 + 25 * rng.random((400, 200, 1))).astype(np.uint8)
    boxes = {"half": (-40.0, -40.0, 20.0, 80.0), "beyond": (90.0, 90.0, 120.0, 120.0), "bare": (30.0, 0.0, 40.0, 40.0)}
    paper = PAPERS["uncoated"]
    found = proof_of(pixels, paper, 10.0)
    said = proof_work.told(found, proof_work.PrintedPage((40.0, 40.0), 254.0, pixels, boxes), paper, black_only=False)
    half = said["parts"].pop("half")
    assert (
        half["share"] == pytest.approx(2 * said["share"], rel=0.02)
        and half["lift"] > 0
        and half["after"] < half["share"]
    )
    assert said["after"] == pytest.approx(half["after"] / 2, rel=0.05, abs=1e-4)
    assert all(p == {"share": 0, "lift": 0, "black": 0, "after": 0} for p in said["parts"].values())


def test_a_site_is_joined_moved_renewed_and_taken_out(api: Api, upload: Callable[..., Any], tmp_path: Path) -> None:
    def read(path: Path) -> Job:
        return Job.objects.get(pk=upload(path).json()["id"])

    def accept(job: Job, **more: Any) -> Job:
        body = {"units": job.result["units"], "up": job.result["up"], "study": api.base.rpartition("/")[2], **more}
        answer = Client().post(f"/api/uploads/{job.pk}/accept", body, content_type="application/json")
        assert answer.status_code == 200, answer.content
        found = Job.objects.get(pk=answer.json()["id"])
        assert found.state == Job.State.DONE, found.message
        return found

    accept(read(ifc_file(tmp_path / "yard.ifc", {"Shed": (12, 0, 0, 4, 4, 2)}, grid=True)), joins=True)
    parts = api.get("/parts").json()
    (joined,) = parts["joined"]
    assert joined["name"] == "yard" and not joined["shared"] and joined["parts"] == 3
    assert "yard/Yard/Wall" in parts["layers"] and {parts["roles"][parts["role"][n]] for n,
        name in enumerate(parts["name"]) if name == "Shed"} == {"context"}  # fmt: skip
    files = api.get("/files").json()
    assert [(f["name"], f["source"], f["current"]) for f in files] == [
        ("yard.ifc", "file-2", True),
        ("", "", True),
    ] or files[1]["current"]
    study = api.study()
    edit = {
        "base": study["revision"],
        "edits": [{"do": "place_joined", "source": "file-2", "by": [0, 5, 0], "turn": 0}],
    }
    job = Client().post(f"{api.base}/model", edit, content_type="application/json")
    assert job.status_code == 200, job.content
    shed = lambda: (m := Study.objects.get().model).part_bounds[[p.name for p in m.parts].index("Shed")]
    assert shed()[0] == pytest.approx([12, 5, 0])
    # The main model comes anew: the site stays; then the site does.
    model = Study.objects.get().model
    own = model.only(np.array([not p.source for p in model.parts])[model.triangle_part])
    write_glb(own, tmp_path / "house.glb")
    report = accept(read(tmp_path / "house.glb")).result["report"]
    assert report["counts"]["gone"] == 0 and shed()[0] == pytest.approx([12, 5, 0])
    report = accept(
        read(ifc_file(tmp_path / "yard2.ifc", {"Shed": (12, 0, 0, 4, 4, 3)}, grid=True)), source="file-2"
    ).result["report"]
    assert (
        report["counts"]["reshaped"] == 1
        and shed()[0] == pytest.approx([12, 5, 0])
        and shed()[1][2] == pytest.approx(3)
    )
    out = {"base": api.study()["revision"], "edits": [{"do": "take_out_joined", "source": "file-2"}]}
    assert Client().post(f"{api.base}/model", out, content_type="application/json").status_code == 200
    assert api.get("/parts").json()["joined"] == [] and not any(
        p.source and not p.absent for p in Study.objects.get().model.parts
    )
    # A file of lines alone is no study of its own, and says what it is good for.
    (tmp_path / "wires.obj").write_text("o axis\nv 0 0 0\nv 10 0 0\nl 1 2\n")
    answer = Client().post(
        f"/api/uploads/{read(tmp_path / 'wires.obj').pk}/accept",
        {"name": "Wires", "units": "m", "up": "z"},
        content_type="application/json",
    )
    failed = Job.objects.get(pk=answer.json()["id"])
    assert failed.state == Job.State.FAILED and "join it to a study" in failed.message
    assert len(read_model(tmp_path / "wires.obj").mesh.line_ends) == 1


def test_pixels_of_what_left_stay_for_the_next_time_and_no_longer_than_there_is_room(
    api: Api, monkeypatch: pytest.MonkeyPatch
) -> None:
    folder = settings.DATA / "tiles"
    there = lambda: {p.name: p.stat().st_ino for p in folder.glob("*.npz")}
    before = there()
    first = taken(begun(api, "/exports", {"format": "png", "out": {"resolution": 43}}))
    made = {n: i for n, i in there().items() if n not in before}
    assert any(n.startswith("surface-") for n in made)
    # The same again in another format computes nothing anew.
    assert taken(begun(api, "/exports", {"format": "webp", "out": {"resolution": 43, "quality": 100}})).startswith(
        b"RIFF"
    )
    assert {n: i for n, i in there().items() if n not in before} == made
    monkeypatch.setattr("studio.studies.desk.KEPT_TILES", 1)
    assert taken(begun(api, "/exports", {"format": "png", "out": {"resolution": 43}})) == first
    assert not there(), "what was used longest ago goes first, here all of it"
