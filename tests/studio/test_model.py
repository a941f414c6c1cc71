"""The model of a study through the API: said of, mended, written, brought anew; and all of it taken back."""

from __future__ import annotations

import gzip
import io
import json
import zipfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from django.conf import settings
from django.test import Client

from studio.jobs.models import AskedDocument, Job
from studio.studies.models import ModelFile, Study
from tests.conftest import box, model_of
from tests.core.test_health import gaping
from tests.core.test_joined import wires_glb
from tests.studio.conftest import Api
from warmgraphite.model.glb import write_glb
from warmgraphite.model.read import read_model
from warmgraphite.view.scene import Scene


def edit(api: Api, *edits: dict) -> dict:
    """The answer to edits of the model; a job's answer is waited for."""
    answer = api.post("/model", {"base": api.study()["revision"], "edits": list(edits)})
    found = answer.json()
    if answer.status_code == 200 and found["job"]:
        return api.client.get(f"/api/jobs/{found['job']['id']}").json()
    return {**found, "status": answer.status_code}


def take(upload: Callable, path: Path, **body: str) -> dict:
    """Bring a file and take it in."""
    read = Client().get(f"/api/jobs/{upload(path).json()['id']}").json()
    assert read["state"] == "done", read
    wanted = {"name": "Brought", "units": read["result"]["units"], "up": read["result"]["up"], **body}
    job = Client().post(f"/api/uploads/{read['id']}/accept", wanted, content_type="application/json").json()
    return Client().get(f"/api/jobs/{job['id']}").json()


def test_what_is_said_of_parts_is_one_step_of_undo_and_survives_it(api: Api) -> None:
    first = api.get("/parts").json()
    assert first["name"] == ["Wall", "Step", "Yard"] and first["roles"][first["role"][0]] == "structure"
    said = edit(
        api,
        {"do": "role", "parts": [1, 2], "role": "context"},
        {"do": "hide", "parts": [1, 2]},
        {"do": "keep_set", "name": "Wall only", "parts": [0]},
    )
    assert said["changed"] and api.study()["undo"] == "Keep part set “Wall only”"
    parts = api.get("/parts").json()
    assert (
        parts["hidden"] == [1, 2]
        and parts["sets"] == {"Wall only": [0]}
        and parts["behaviour"]["context"]["drawn"] == "soft"
    )
    api.post("/undo", {"base": api.study()["revision"]})
    assert api.get("/parts").json() == first
    api.post("/redo", {"base": api.study()["revision"]})
    assert api.get("/parts").json() == parts
    assert edit(api, {"do": "rename", "part": 77, "name": "x"})["status"] == 422
    assert edit(api, {"do": "polish", "parts": [0]})["status"] == 422
    stale = api.post("/model", {"base": 1, "edits": [{"do": "show"}]})
    assert stale.status_code == 409 and api.get("/parts").json() == parts


def test_a_view_goes_by_a_set_and_loses_it_with_a_sentence(api: Api) -> None:
    edit(api, {"do": "keep_set", "name": "Low", "parts": [1, 2]})
    api.edit("view", ["parts", "set"], "Low")
    api.post("/desk", {})
    assert api.get("/desk").json()["fresh"] and api.get("/preview", width=300).status_code == 200
    api.edit("view", ["parts", "set"], "Lower")
    assert "no part set “Lower”" in api.get("/desk").json()["problem"]
    api.edit("view", ["parts", "set"], "Low")
    edit(api, {"do": "remove_set", "name": "Low"})
    assert api.study()["document"]["desk"]["view"]["parts"]["set"] == "" and api.get("/desk").json()["problem"] == ""


def test_dropped_parts_are_gone_from_the_drawing_and_come_back(api: Api) -> None:
    dropped = edit(api, {"do": "drop", "parts": [1]})
    assert (
        dropped["state"] == "done" and api.get("/parts").json()["absent"] == [1] and api.study()["model"]["parts"] == 2
    )
    api.post("/desk", {})
    assert api.get("/desk").json()["fresh"]
    before = Study.objects.get().model
    edit(api, {"do": "role", "parts": [0], "role": "subject"}, {"do": "remeasure", "units": "ft", "up": "z"})
    assert api.get("/parts").json()["dropped"] == [1]
    assert edit(api, {"do": "restore", "parts": [1]})["state"] == "done"  # long after, and in other units
    model = Study.objects.get().model
    assert model.parts.present.all() and model.parts[0].role == "subject" and len(model.triangles) == 36
    assert model.part_bounds[1] == pytest.approx(np.array([[5, 0, 0], [6, 3, 1]]) * 0.3048)
    for _ in range(3):
        api.post("/undo", {"base": api.study()["revision"]})
    assert (
        api.study()["model"]["parts"] == 3 and api.get("/parts").json()["absent"] == [] and not before.parts.present[1]
    )


def test_lines_that_are_dropped_are_gone_from_the_model_in_space_and_come_back(
    jobs_at_once: None, scratch: Path, upload: Callable
) -> None:
    """They have no triangle, so that nothing else changes."""
    wires_glb(scratch / "wires.glb")
    api = Api(take(upload, scratch / "wires.glb")["result"]["slug"])

    def edges() -> int:
        got = api.get("/mesh", geometry=api.study()["model"]["geometry"])
        data = gzip.decompress(got.content)
        head = json.loads(data[4 : 4 + int.from_bytes(data[:4], "little")])
        return int(head["blocks"]["edge_parts"][1]) // 4

    whole, address = edges(), api.study()["model"]["geometry"]
    assert edit(api, {"do": "drop", "parts": [1]})["state"] == "done"
    assert edges() == whole - 3 and api.study()["model"]["geometry"] != address  # which browsers keep for good
    assert edit(api, {"do": "restore", "parts": [1]})["state"] == "done"
    assert edges() == whole and api.study()["model"]["geometry"] == address


def test_a_gap_is_found_mended_and_the_mend_taken_back(jobs_at_once: None, scratch: Path, upload: Callable) -> None:
    write_glb(model_of(("Hall", gaping(), 0), ("Shed", box((20, 0, 0), (24, 3, 3)), 2)), scratch / "hall.glb")
    api = Api(take(upload, scratch / "hall.glb")["result"]["slug"])

    def kinds() -> list[str]:
        api.post("/health", {})
        return [f["kind"] for f in api.get("/health").json()["findings"]]

    assert kinds() == ["gaps", "open"]
    finding = api.get("/health").json()["findings"][0]
    assert finding["count"] == 4 and finding["places"][0]["part"] == 0 and "close" in finding["harm"]
    done = edit(api, {"do": "mend", "kind": "gaps"})
    assert done["state"] == "done" and "4 places" in done["result"]["said"]
    assert kinds() == [] and api.study()["undo"] == "Mend: hairline gaps"
    assert edit(api, {"do": "mend", "kind": "gaps"})["state"] == "failed"
    api.post("/undo", {"base": api.study()["revision"]})
    assert kinds() == ["gaps", "open"]
    # The file as received is kept through all of it.
    kept = settings.DATA / "received" / ModelFile.objects.get(study__slug=api.study()["slug"]).folder / "hall.glb"
    assert kept.read_bytes() == (scratch / "hall.glb").read_bytes()


def test_the_next_version_carries_over_reports_and_can_be_taken_back(
    jobs_at_once: None, scratch: Path, upload: Callable
) -> None:
    wall, post = box((0, 0, 0), (6, 0.4, 3)), box((8, 0, 0), (8.3, 0.3, 3))
    write_glb(
        model_of(("Wall", wall, 0), ("Chair", box((1, 2, 0), (2, 3, 1)), 2), ("Post", post, 2)), scratch / "one.glb"
    )
    write_glb(
        model_of(
            ("Chair", box((3, 2, 0), (4, 3, 1)), 2), ("Wall", wall, 0), ("Shelf", box((0, 1, 2), (2, 1.2, 2.1)), 2)
        ),
        scratch / "two.glb",
    )
    api = Api(take(upload, scratch / "one.glb")["result"]["slug"])
    edit(
        api,
        {"do": "role", "parts": [1], "role": "furniture"},
        {"do": "role", "parts": [2], "role": "subject"},
        {"do": "keep_set", "name": "Seats", "parts": [1]},
    )
    api.edit("look", ["pens", "cut", "pen", "weight"], 0.77)
    api.do({"do": "role_rules", "rules": [{"pattern": "shelf", "role": "furniture"}]})
    slug = api.study()["slug"]
    before = api.get("/parts").json()
    done = take(upload, scratch / "two.glb", study=slug)
    assert done["state"] == "done" and done["result"]["slug"] == slug
    counts = done["result"]["report"]["counts"]
    assert (counts["same"], counts["moved"], counts["new"], counts["gone"], counts["lost"]) == (1, 1, 1, 1, 1)
    parts = api.get("/parts").json()
    named = {n: parts["roles"][r] for n, r in zip(parts["name"], parts["role"])}
    assert (
        named["Chair"] == "furniture"
        and named["Shelf"] == "furniture"
        and parts["sets"] == {"Seats": [1]}
        and parts["absent"] == [2]
    )
    assert api.study()["look"]["pens"][0]["pen"]["weight"] == 0.77
    files = api.get("/files").json()
    assert [(f["name"], f["current"]) for f in files] == [("two.glb", True), ("one.glb", False)]
    assert files[0]["report"]["lost"] == [["Post", "role subject"]]
    # The older version lies on the desk again as the study had made of it, and the newer one after it.
    back = api.post("/files/1/back", {"base": api.study()["revision"]})
    assert back.status_code == 200 and api.get("/parts").json() == before
    assert api.post("/files/1/back", {"base": api.study()["revision"]}).status_code == 422
    assert api.post("/files/2/back", {"base": api.study()["revision"]}).status_code == 200
    assert api.get("/parts").json() == parts
    for _ in range(3):
        api.post("/undo", {"base": api.study()["revision"]})
    assert api.get("/parts").json() == before


def test_a_newer_version_renames_a_part_and_the_view_leaves_it_out_all_the_same(
    jobs_at_once: None, scratch: Path, upload: Callable
) -> None:
    wall, lamp = box((0, 0, 0), (6, 0.4, 3)), box((1, 2, 0), (2, 3, 1.5))
    write_glb(model_of(("Wall", wall, 0), ("Lamp [12]", lamp, 2)), scratch / "one.glb")
    write_glb(model_of(("Wall", wall, 0), ("Lamp [407]", lamp, 2)), scratch / "two.glb")
    api = Api(take(upload, scratch / "one.glb")["result"]["slug"])
    api.edit("view", ["parts", "hidden"], ["Lamp [[]12]"])
    assert take(upload, scratch / "two.glb", study=api.study()["slug"])["result"]["report"]["counts"]["renamed"] == 1
    hidden = api.study()["document"]["desk"]["view"]["parts"]["hidden"]
    assert len(hidden) == 1 and hidden[0].replace("[[]", "[") == api.get("/parts").json()["name"][1] == "Lamp [407]"
    api.post("/files/1/back", {"base": api.study()["revision"]})
    assert api.study()["document"]["desk"]["view"]["parts"]["hidden"] == ["Lamp [[]12]"]


def test_a_job_that_is_done_twice_brings_a_model_once(jobs_at_once: None, scratch: Path, upload: Callable) -> None:
    from studio.jobs.queue import WORK

    write_glb(model_of(("Wall", box((0, 0, 0), (6, 0.4, 3)), 0)), scratch / "one.glb")
    first = take(upload, scratch / "one.glb")["result"]
    again = WORK["take"](Job.objects.get(kind="take"), lambda *_: None)  # type: ignore[arg-type]
    assert again["slug"] == first["slug"] and Study.objects.count() == 1


def test_units_can_be_changed_after_the_model_was_taken_in(jobs_at_once: None, scratch: Path, upload: Callable) -> None:
    write_glb(model_of(("House", box((0, 0, 0), (12_000, 8_000, 6_000)), 0)), scratch / "house.glb")
    api = Api(take(upload, scratch / "house.glb", units="m")["result"]["slug"])
    assert api.study()["model"]["high"][0] - api.study()["model"]["low"][0] == pytest.approx(12_000)
    assert edit(api, {"do": "remeasure", "units": "mm", "up": "y"})["state"] == "done"
    model = api.study()["model"]
    assert np.subtract(model["high"], model["low"]) == pytest.approx([12, 8, 6]) and (model["units"], model["up"]) == (
        "mm",
        "y",
    )
    api.post("/undo", {"base": api.study()["revision"]})
    assert api.study()["model"]["units"] == "m"


@pytest.mark.parametrize("kind", ["glb", "obj"])
def test_a_part_set_is_written_and_reads_the_same(api: Api, scratch: Path, kind: str) -> None:
    edit(api, {"do": "keep_set", "name": "Low", "parts": [1, 2]})
    job = api.post("/model/write", {"format": kind, "part_set": "Low"}).json()
    data = b"".join(api.client.get(f"/api/jobs/{job['id']}/file").streaming_content)  # type: ignore[attr-defined]
    if kind == "obj":
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            assert {Path(n).suffix for n in archive.namelist()} == {".obj", ".mtl"}
    path = scratch / ("low.glb" if kind == "glb" else "low.zip")
    path.write_bytes(data)
    back = read_model(path, "m", "y" if kind == "glb" else "z")
    whole = Study.objects.get().model
    assert [p.name for p in back.parts] == ["Step", "Yard"]
    assert np.allclose(back.part_bounds, whole.part_bounds[1:], atol=1e-5)
    assert api.post("/model/write", {"format": kind, "part_set": "High"}).status_code == 422


def test_pictures_come_with_the_model_and_are_served(jobs_at_once: None, scratch: Path) -> None:
    from PIL import Image

    out = io.BytesIO()
    Image.new("RGB", (8, 8), (180, 90, 60)).save(out, "PNG")
    (scratch / "wall.obj").write_text(
        "mtllib wall.mtl\no Wall\nusemtl Brick\nv 0 0 0\nv 4 0 0\nv 4 0 3\nvt 0 0\nvt 2 0\nvt 2 3\nf 1/1 2/2 3/3\n"
    )
    (scratch / "wall.mtl").write_text("newmtl Brick\nmap_Kd brick.png\n")
    (scratch / "brick.png").write_bytes(out.getvalue())
    files = [(scratch / n).open("rb") for n in ("wall.obj", "wall.mtl", "brick.png")]
    read = Client().get(f"/api/jobs/{Client().post('/api/uploads', {'files': files}).json()['id']}").json()["result"]
    assert read["textures"] == 1
    number = Job.objects.get(kind="read").pk
    Client().post(
        f"/api/uploads/{number}/accept", {"name": "Wall", "units": "m", "up": "z"}, content_type="application/json"
    )
    api = Api(Study.objects.get().slug)
    brick = api.get("/parts").json()["materials"][0]
    assert brick["size"] == [2.0, 1.0]
    picture = api.get(f"/textures/{brick['texture']}")
    assert picture.content == out.getvalue() and picture["Content-Type"] == "image/png"
    assert api.get("/textures/other.png").status_code == 404
    edit(api, {"do": "edit_material", "material": 0, "size": [0.5, 0.25]})
    assert api.get("/parts").json()["materials"][0]["size"] == [0.5, 0.25]
    edit(api, {"do": "edit_material", "material": 0, "plain": True})
    assert api.get("/parts").json()["materials"][0]["texture"] == ""


def test_rules_follow_materials_that_are_renamed_and_merged(api: Api) -> None:
    rule = {
        "id": "stone",
        "where": {"kind": "match", "materials": ["Stone"]},
        "fills": [{"kind": "flat", "colour": "#aa0000"}],
    }
    api.edit("look", ["poche", "stone"], rule)
    edit(
        api,
        {"do": "edit_material", "material": 0, "name": "Granite"},
        {"do": "add_material", "name": "Slate", "colour": "#334455"},
    )
    assert api.study()["look"]["poche"][-1]["where"]["materials"] == ["Granite"]
    edit(api, {"do": "merge", "materials": [0, 2], "into": 0})
    names = [m["name"] for m in api.get("/parts").json()["materials"]]
    assert names == ["Granite", "Glass", "Slate"] and api.get("/parts").json()["materials"][0]["was"] == [
        "Stone",
        "Wood",
    ]


@pytest.mark.parametrize(
    ("edits", "said"),
    [
        ([{"do": "merge", "materials": [0], "into": 0}], "two materials"),
        ([{"do": "material", "parts": [0], "material": 9}], "not among"),
        ([{"do": "edit_material", "material": 0, "size": [0, 1]}], "texture spans"),
        ([{"do": "edit_material", "material": 9}], "not among"),
        ([{"do": "add_material", "name": "Wood"}], "already"), ([{"do": "remove_set", "name": "None"}], "no part set"),
        ([{"do": "hide", "parts": []}], "parts"), ([{"do": "contours", "interval": -1}], "interval"),
        ([{"do": "role", "parts": [0], "role": "roof"}], "role"),
        ([{"do": "behave", "parts": [0], "field": "drawn", "value": True}], "nothing that"),
        ([{"do": "hide", "parts": [0]}, {"do": "hide", "parts": [-1]}], "does not have"),
    ],
)  # fmt: skip
def test_an_edit_that_cannot_be_made_is_one_sentence_and_changes_nothing(
    api: Api, edits: list[dict], said: str
) -> None:
    before, state = api.get("/parts").json(), api.study()["revision"]
    answer = edit(api, *edits)
    assert answer["status"] == 422 and said in answer["message"] and answer["message"].endswith(".")
    assert api.get("/parts").json() == before and api.study()["revision"] == state


def test_a_model_job_that_comes_too_late_changes_nothing(api: Api) -> None:
    base = api.study()["revision"]
    edit(api, {"do": "rename", "part": 0, "name": "Renamed"})
    late = api.post("/model", {"base": base, "edits": [{"do": "drop", "parts": [1]}]}).json()["job"]
    found = api.client.get(f"/api/jobs/{late['id']}").json()
    assert found["state"] == "failed" and "another window" in found["message"]
    assert api.get("/parts").json()["absent"] == [] and api.get("/parts").json()["name"][0] == "Renamed"


def test_a_stopped_reading_leaves_nothing(
    jobs_at_once: None, scratch: Path, upload: Callable, monkeypatch: pytest.MonkeyPatch
) -> None:
    from studio.jobs import queue
    from studio.jobs.models import Watch

    whole = Watch.__call__

    def asked(self: Watch, stage: str, fraction: float) -> None:
        if stage == "Reading the file":
            queue.cancel(self.job)
            self.last = 0.0
        whole(self, stage, fraction)

    monkeypatch.setattr(Watch, "__call__", asked)
    write_glb(model_of(("A", box((0, 0, 0), (6, 4, 3)), 0)), scratch / "one.glb")
    found = Client().get(f"/api/jobs/{upload(scratch / 'one.glb').json()['id']}").json()
    assert found["state"] == "cancelled" and not list((settings.DATA / "incoming").iterdir())


def test_the_next_version_that_cannot_be_read_changes_nothing(
    jobs_at_once: None, scratch: Path, upload: Callable
) -> None:
    write_glb(model_of(("A", box((0, 0, 0), (6, 4, 3)), 0)), scratch / "one.glb")
    api = Api(take(upload, scratch / "one.glb")["result"]["slug"])
    before = api.study()
    (scratch / "two.ifc").write_bytes(b"ISO-10303-21;\nHEADER;")
    found = Client().get(f"/api/jobs/{upload(scratch / 'two.ifc').json()['id']}").json()
    assert found["state"] == "failed" and "two.ifc" in found["message"]
    assert api.study() == before and len(api.get("/files").json()) == 1
    wrong = Client().post(
        f"/api/uploads/{found['id']}/accept",
        {"units": "m", "up": "z", "study": before["slug"]},
        content_type="application/json",
    )
    assert wrong.status_code == 404


def test_a_version_comes_upon_what_was_done_while_it_was_taken_in(
    jobs_at_once: None, scratch: Path, upload: Callable, monkeypatch: pytest.MonkeyPatch
) -> None:
    from studio.studies import model_work

    write_glb(model_of(("A", box((0, 0, 0), (6, 4, 3)), 0), ("B", box((8, 0, 0), (9, 1, 3)), 2)), scratch / "one.glb")
    write_glb(model_of(("A", box((0, 0, 0), (6, 4, 4)), 0), ("B", box((8, 0, 0), (9, 1, 3)), 2)), scratch / "two.glb")
    api = Api(take(upload, scratch / "one.glb")["result"]["slug"])
    whole, calls = model_work.succeed, []

    def meanwhile(*args: object) -> object:
        calls.append(args)
        if len(calls) == 1:
            edit(api, {"do": "role", "parts": [1], "role": "context"})
            api.edit("look", ["pens", "cut", "pen", "weight"], 0.66)
        return whole(*args)  # type: ignore[arg-type]

    monkeypatch.setattr(model_work, "succeed", meanwhile)
    done = take(upload, scratch / "two.glb", study=api.study()["slug"])
    assert done["state"] == "done" and done["result"]["report"]["counts"]["reshaped"] == 1 and len(calls) == 2
    parts = api.get("/parts").json()
    assert parts["roles"][parts["role"][1]] == "context" and api.study()["look"]["pens"][0]["pen"]["weight"] == 0.66
    assert [f["name"] for f in api.get("/files").json()] == ["two.glb", "one.glb"]


def test_what_was_received_stays_until_a_study_has_it(
    jobs_at_once: None, scratch: Path, upload: Callable, monkeypatch: pytest.MonkeyPatch
) -> None:
    from studio.jobs.queue import perform
    from studio.jobs.received import received_in
    from studio.studies import model_work

    def dies(*_: object, **__: object) -> None:
        raise RuntimeError("the worker is gone")

    with monkeypatch.context() as patch:
        patch.setattr(model_work, "create_study", dies)
        write_glb(model_of(("A", box((0, 0, 0), (6, 4, 3)), 0)), scratch / "one.glb")
        assert take(upload, scratch / "one.glb")["state"] == "failed"
    job = Job.objects.get(kind="take")
    assert [p.name for p in received_in(job).iterdir() if not p.name.startswith(".")] == ["one.glb"]
    Job.objects.update(state="waiting")
    perform(job.pk)
    job.refresh_from_db()
    assert job.result["number"] == 1 and Study.objects.count() == 1
    assert not list((settings.DATA / "incoming").iterdir())
    kept = settings.DATA / "received" / job.arguments["folder"]
    assert [p.name for p in kept.iterdir()] == ["one.glb"]


def test_a_job_draws_the_model_that_it_was_asked_about(api: Api) -> None:
    from studio.jobs.queue import WORK
    from studio.studies.desk import picture_path

    first = api.post("/views/view-2/picture", {})
    assert first.status_code == 204
    asked = Job.objects.get(kind="picture")
    assert asked.document is None and not AskedDocument.objects.exists()  # it carries nothing when it has ended
    asked.document = AskedDocument.of(Study.objects.get().head.text)
    right = api.get("/views/view-2/picture").content
    edit(api, {"do": "drop", "parts": [0]})
    picture = picture_path(Study.objects.get(), asked.key)
    picture.unlink()
    WORK["picture"](asked, lambda *_: None)  # type: ignore[arg-type]
    assert picture.read_bytes() == right
    assert api.get("/views/view-2/picture").status_code == 204  # the study as it is now has another


def test_what_no_pass_sees_is_not_computed_again_and_is_called_as_it_is_now(
    api: Api, monkeypatch: pytest.MonkeyPatch
) -> None:
    from studio.studies import work

    def seconds(*edits: dict) -> set[str]:
        edit(api, *edits)
        api.post("/desk", {})
        return set(Job.objects.filter(kind="passes").latest("id").result["seconds"])

    def scenes() -> list[Scene]:
        return [thing for thing in work._bench.things() if isinstance(thing, Scene)]

    api.post("/desk", {})
    (scene,) = scenes()
    edit(api, {"do": "rename", "part": 0, "name": "Other"}, {"do": "hide", "parts": [1]})
    assert api.get("/desk").json()["fresh"], "what no pass sees makes nothing stale"
    assert seconds({"do": "behave", "parts": [0], "field": "drawn", "value": "strong"}) == {"strokes", "penned"}
    assert scenes() == [scene], "the one that there was serves again"
    # Wherever passes are looked at nothing is computed: no scene, nothing that hides, no ink.
    for name in ("scene.scene_of", "hiders.occluders", "strokes.stroke_set"):
        monkeypatch.setattr(f"warmgraphite.drawing.records.{name}", None)
    assert api.get("/probe", x=10, y=50).status_code == 200 and api.get("/desk").json()["fresh"]
    answers = [api.get("/probe", x=x, y=y) for x in range(5, 200, 12) for y in range(5, 140, 12)]
    names = {a.json().get("name") for a in answers if a.status_code == 200}
    assert "Other" in names and "Wall" not in names
    assert api.get("/preview", width=400).status_code == 200 and api.get("/caps").status_code == 200
    monkeypatch.undo()
    assert "surface" in seconds({"do": "drop", "parts": [1]})
    assert len(scenes()) == 2


def test_rules_are_kept_for_other_models(api: Api) -> None:
    rules = [{"pattern": "*step*", "role": "context"}]
    assert (
        api.client.post(
            "/api/rule-books", {"name": "Ours", "rules": rules}, content_type="application/json"
        ).status_code
        == 200
    )
    assert api.client.get("/api/rule-books").json() == [{"name": "Ours", "rules": rules}]
    edit(api, {"do": "rules", "rules": rules})
    assert Study.objects.get().model.parts[1].role == "context"
    assert (
        api.client.delete("/api/rule-books/Ours").status_code == 204 and api.client.get("/api/rule-books").json() == []
    )


def test_what_no_history_refers_to_is_cleared_away_and_nothing_else(
    jobs_at_once: None, scratch: Path, upload: Callable
) -> None:
    from studio.studies.clearing import clear_unused

    write_glb(model_of(("A", box((0, 0, 0), (6, 4, 3)), 0), ("B", box((8, 0, 0), (9, 1, 3)), 2)), scratch / "one.glb")
    first, second = (Api(take(upload, scratch / "one.glb")["result"]["slug"]) for _ in range(2))
    edit(first, {"do": "drop", "parts": [1]})
    first.get("/mesh")
    first.post("/undo", {"base": first.study()["revision"]})
    clear_unused(young=-1)
    first.post("/redo", {"base": first.study()["revision"]})  # undo and redo reach all that they did
    assert first.get("/parts").json()["absent"] == [1] and first.get("/mesh").status_code == 200
    first.client.delete(first.base)
    assert clear_unused(young=-1) >= 2 and clear_unused(young=-1) == 0
    assert second.get("/parts").json()["name"] == ["A", "B"] and len(list((settings.DATA / "received").iterdir())) == 1


def test_a_study_from_before_models_had_a_history_opens_and_goes_on(transactional_db: None, jobs_at_once: None) -> None:
    """A database and a model file as the version before left them."""
    from django.db import connection
    from django.db.migrations.executor import MigrationExecutor

    from studio.studies.models import model_of_version, model_store
    from warmgraphite.study import fresh_document

    model = model_of(("Wall", box((0, 0, 0), (5, 1, 3)), 0), ("Chair", box((5, 0, 0), (6, 3, 1)), 2))
    words = {
        "name": "Old house", "parts": [{"name": p.name, "layer": "", "material": p.material, "role": "structure"}
            for p in model.parts],
        "materials": [{"name": m.name, "colour": m.colour, "opacity": m.opacity} for m in model.materials],
    }  # fmt: skip
    folder = settings.DATA / "models"
    folder.mkdir(parents=True, exist_ok=True)
    kept = {"vertices": model.vertices, "triangles": model.triangles, "triangle_part": model.triangle_part}
    np.savez(folder / "0ldc0de.npz", **kept, about=np.frombuffer(json.dumps(words).encode(), np.uint8))
    document = fresh_document("Old house").model_dump(mode="json")
    document.pop("role_rules")
    about = {
        "parts": 2,
        "triangles": 24,
        "low": [0, 0, 0],
        "high": [6, 3, 3],
        "focus_low": [0, 0, 0],
        "focus_high": [6, 3, 3],
        "source": "old.glb",
        "units": "mm",
    }

    executor = MigrationExecutor(connection)
    executor.migrate([("jobs", None), ("studies", "0001_initial")])
    old = executor.loader.project_state([("studies", "0001_initial")]).apps
    study = old.get_model("studies", "Study").objects.create(
        slug="old-house", model_version="0ldc0de", about_model=about, counter=2
    )
    for number in (1, 2):
        revision = old.get_model("studies", "Revision").objects.create(
            study=study, number=number, document=document, label=f"Step {number}"
        )
    study.head = revision
    study.save()
    executor = MigrationExecutor(connection)
    executor.migrate(executor.loader.graph.leaf_nodes())

    model_store.cache_clear()
    model_of_version.clear()
    api = Api("old-house")
    found = api.study()
    assert (found["model"]["source"], found["model"]["units"], found["undo"]) == ("old.glb", "m", "Step 2")
    assert api.get("/mesh").status_code == 200 and api.get("/files").json()[0]["name"] == "old.glb"
    edit(api, {"do": "role", "parts": [1], "role": "furniture"})
    assert edit(api, {"do": "drop", "parts": [0]})["state"] == "done" and api.get("/parts").json()["dropped"] == [0]
    for _ in range(3):
        api.post("/undo", {"base": api.study()["revision"]})
    assert api.study()["redo"] == "Step 2" and api.get("/parts").json()["name"] == ["Wall", "Chair"]
