"""Doors and drawers: what strangers, kills, full disks and strange values may try, and what it comes to."""

from __future__ import annotations

import errno
import json
import random
import socket
import subprocess
import sys
import time
import urllib.request
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import OperationalError
from django.test import Client

from studio.jobs import queue
from studio.jobs.models import AskedDocument, Job
from studio.studies import making, models
from studio.studies.clearing import clear_unused
from studio.studies.making import create_study
from studio.studies.models import Revision, Study
from tests.conftest import box, deeper, model_of
from tests.studio.conftest import VIEWS, Api
from warmgraphite.model.glb import write_glb
from warmgraphite.model.store import ModelStore

pytestmark = pytest.mark.django_db(transaction=True)


def sentence(answer: Any, *statuses: int) -> str:
    """The one sentence that a refusal says."""
    assert answer.status_code in (statuses or (400, 403, 404, 405, 409, 413, 422)), (
        answer.status_code,
        answer.content[:300],
    )
    said = answer.json()["message"]
    assert said.endswith(".") and "Traceback" not in said and "<" not in said and len(said) < 1100, said
    return said


EXTREME = [
    {"projection": {"kind": "parallel", "direction": [0, 0.01, -1]}},
    {"projection": {"kind": "parallel", "direction": [1e-8, 0, -1], "up": [0, 1, 0]}},
    {"projection": {"kind": "parallel", "direction": [0, 1, 0.001]},
        "cuts": [{"point": [0, 0, 3], "normal": [0, 0, -1], "name": "Kind"}]},
    {"projection": {"kind": "parallel", "direction": [0, 0, -1], "up": [0, 1, 0]},
        "cuts": [{"point": [0, 0, 1e6], "normal": [0, 0, 1]}]},
    {"projection": {"kind": "parallel", "direction": [0, 1, 0]},
        "cuts": [{"point": [9e11, 9e11, 9e11], "normal": [0, -1, 0]}]},
    {"projection": {"kind": "perspective", "eye": [0, -5e6, 3e6], "target": [0, 0, 0]}},
    {"projection": {"kind": "perspective", "eye": [0, -9e11, 0], "target": [0, 0, 0]},
        "cuts": [{"point": [0, 3e9, 0], "normal": [0, -1, 0]}]},
    {
        "projection": {"kind": "perspective", "eye": [0, -2e6, 1], "target": [0, 1, 1], "upright": True,
            "scale_distance": 2e6},
        "cuts": [{"point": [0, 0, 0], "normal": [0, -1, 0]}],
    },
    {"projection": {"kind": "oblique", "direction": [0, 0, -1], "up": [0, 1, 0], "receding_angle": 1e12,
        "receding_ratio": 4}},
]  # fmt: skip


@pytest.mark.parametrize("view", deeper(EXTREME[:1], EXTREME[1:]))
def test_any_valid_view_can_be_pasted_and_the_study_still_opens(api: Api, view: dict) -> None:
    before = api.study()["revision"]
    pasted = api.do({"do": "paste_view", "text": json.dumps(view)}, base=before)
    assert pasted.status_code == 200, pasted.content
    kind_read = api.study()["kind"]
    assert api.post("/desk", {}).status_code == 200 and api.get("/landmarks").status_code == 200
    # The kind that was read of it can be set again; where that would lead out of all bounds, a sentence says so.
    again = api.post("/kind", {"base": api.study()["revision"], "kind": kind_read})
    assert again.status_code == 200 or "This kind of view" in sentence(again)
    for kind in ("plan", "section", "worm's eye", "section perspective", "trimetric"):
        answer = api.post("/kind/begin", {"base": api.study()["revision"], "kind": kind})
        assert answer.status_code == 200 or sentence(answer)
    assert api.get().status_code == 200


def test_kinds_with_extreme_settings_are_drawn_or_refused_in_a_sentence(api: Api) -> None:
    for kind in (
        {"kind": "plan", "storey": 1_000_000}, {"kind": "trimetric", "bearing": 30, "down": 90},
        {"kind": "worm's eye", "down": -90},
        {"kind": "three-point perspective", "eye_height": 1e13}, {"kind": "section", "bearing": 0, "place": 1e13},
    ):  # fmt: skip
        answer = api.post("/kind", {"base": api.study()["revision"], "kind": kind})
        assert answer.status_code == 200 or sentence(answer)
        assert api.get().status_code == 200


def test_what_cannot_be_shown_is_not_kept(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    before = api.study()["revision"]

    def fails(*_: object) -> None:
        raise ZeroDivisionError

    with monkeypatch.context() as patch:
        patch.setattr(models, "kind_of", fails)
        said = sentence(api.edit("view", ["sun", "azimuth"], 10, base=before))
    assert "not made" in said and api.study()["revision"] == before


def test_a_study_that_cannot_be_shown_says_so_and_offers_undo_and_hides_no_other(api: Api) -> None:
    other = making.create_study("Other house", model_of(("A", box((0, 0, 0), (2, 2, 2)), 0)))
    api.edit("look", ["pens", "cut", "pen", "weight"], 0.9)
    head = Study.objects.get(slug=api.study()["slug"]).head
    assert head is not None
    Revision.objects.filter(pk=head.pk).update(
        text=json.dumps({**json.loads(head.text), "views": [{"id": "nonsense"}]})
    )
    answer = api.get()
    assert "cannot be shown" in sentence(answer)
    left = answer.json()["unreadable"]
    assert left["revision"] == head.number and left["undo"] == "Change"
    rows = {r["slug"]: r for r in api.client.get("/api/studies").json()}
    assert (
        rows[left["slug"]]["problem"] and rows[left["slug"]]["name"] == "Test house" and not rows[other.slug]["problem"]
    )
    back = api.post("/undo", {"base": left["revision"]})
    assert back.status_code == 200 and api.study()["look"]["pens"][0]["pen"]["weight"] == 0.5
    assert api.client.delete(api.base).status_code == 204


def test_a_study_goes_in_one_step_with_all_that_was_written_for_it(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    api.post("/views/view-2/picture", {})
    made = api.post("/exports", {"format": "svg", "out": {"resolution": 40}}).json()
    api.post("/health", {})
    study = Study.objects.get()
    written, pictures = settings.DATA / "exports" / str(made["id"]), settings.DATA / "pictures" / str(study.pk)
    assert list(written.iterdir()) and list(pictures.iterdir())

    def killed(*_: object, **__: object) -> None:
        raise KeyboardInterrupt

    with monkeypatch.context() as patch:
        patch.setattr(Study, "delete", killed)
        with pytest.raises(KeyboardInterrupt):
            api.client.delete(api.base)
    assert [r["slug"] for r in api.client.get("/api/studies").json()] == [study.slug] and api.get().status_code == 200
    assert api.client.delete(api.base).status_code == 204
    assert not written.exists() and not pictures.exists() and not Job.objects.exists()
    clear_unused(young=-1)
    assert not list((settings.DATA / "health").glob("*.json")) and not list((settings.DATA / "models").glob("*.json"))


def test_drafts_of_a_killed_worker_are_cleared_whatever_is_in_them(api: Api) -> None:
    folder = settings.DATA / "models"
    (folder / ".abc.draft").write_bytes(b"\xff{half")
    (folder / "0123.json").write_text('{"name": "half a sta')
    clear_unused(young=-1)
    assert not (folder / ".abc.draft").exists() and not (folder / "0123.json").exists() and api.get().status_code == 200


FOREIGN = [
    {"Origin": "http://elsewhere.test"}, {"Origin": "http://[::1"}, {"Origin": "null"},
    {"Origin": "http://testserver:81"},
    {"Sec-Fetch-Site": "cross-site"}, {"Sec-Fetch-Site": "same-site"}, {"Host": "elsewhere.test"},
    {"Host": "testserver.elsewhere.test"},
]  # fmt: skip


@pytest.mark.parametrize("headers", FOREIGN)
def test_other_pages_neither_change_nor_start_anything(api: Api, headers: dict[str, str]) -> None:
    before = (api.study()["revision"], Job.objects.count())
    body = {
        "base": before[0],
        "commands": [{"do": "look", "changes": [{"path": ["pens", "cut", "pen", "weight"], "value": 1.0}]}],
    }
    answer = api.client.post(f"{api.base}/edits", body, content_type="application/json", headers=headers)
    sentence(answer, 400, 403)
    if "Origin" not in headers:
        sentence(api.client.get(api.base, headers=headers), 400, 403)
    assert (api.study()["revision"], Job.objects.count()) == before


def test_looking_starts_no_work_and_answers_carry_their_policies(api: Api) -> None:
    for path in (
        "/desk",
        "/health",
        "/views/view-1/picture",
        "/preview",
        "/probe?x=1&y=1",
        "/caps",
        "/shown",
        "/landmarks",
        "/parts",
    ):
        assert api.get(path).status_code in (200, 204), path
    assert Job.objects.count() == 0
    page = api.client.get("/")
    assert page["X-Frame-Options"] == "DENY" and "frame-ancestors 'none'" in page["Content-Security-Policy"]


def test_a_full_disk_is_one_sentence_and_loses_nothing(
    api: Api, monkeypatch: pytest.MonkeyPatch, scratch: Path, upload: Callable
) -> None:
    def full(*_: object, **__: object) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    def full_database(*_: object, **__: object) -> None:
        raise OperationalError("database or disk is full")

    before = api.study()
    with monkeypatch.context() as patch:
        patch.setattr(ModelStore, "save", full)
        edit = {"base": before["revision"], "edits": [{"do": "hide", "parts": [0]}]}
        assert "disk is full" in sentence(api.post("/model", edit), 507)
    with monkeypatch.context() as patch:
        patch.setattr(Revision.objects, "create", full_database)
        assert "disk is full" in sentence(
            api.edit("look", ["pens", "cut", "pen", "weight"], 0.9, base=before["revision"]), 507
        )
    with monkeypatch.context() as patch:
        patch.setattr(Job.objects, "create", full_database)
        assert "disk is full" in sentence(api.post("/exports", {"format": "svg"}), 507)
        assert "disk is full" in sentence(api.post("/desk", {}), 507)
    write_glb(model_of(("A", box((0, 0, 0), (6, 4, 3)), 0)), scratch / "a.glb")
    kept = set((settings.DATA / "incoming").glob("*"))
    with monkeypatch.context() as patch:
        patch.setattr(Path, "mkdir", full)
        assert "disk is full" in sentence(upload(scratch / "a.glb"), 507)
    with monkeypatch.context() as patch:
        patch.setattr(queue, "WORK", {**queue.WORK, "export": full})
        made = api.post("/exports", {"format": "svg"}).json()["id"]
        assert "disk is full" in Job.objects.get(pk=made).message
    assert api.study() == before and set((settings.DATA / "incoming").glob("*")) == kept


def test_a_busy_database_is_said(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    def locked(*_: object, **__: object) -> None:
        raise OperationalError("database is locked")

    base = api.study()["revision"]
    monkeypatch.setattr(Revision.objects, "create", locked)
    assert "try it again" in sentence(api.edit("look", ["pens", "cut", "pen", "weight"], 0.9, base=base), 503)


def test_a_worker_killed_after_the_change_was_made_makes_it_once(api: Api) -> None:
    api.post("/model", {"base": api.study()["revision"], "edits": [{"do": "drop", "parts": [1]}]})
    job = Job.objects.get(kind="edit_model")
    after = api.study()["revision"]
    Job.objects.filter(pk=job.pk).update(state="working", lease="dead:1", attempts=1)
    assert queue.recover_lost() == 1
    job.refresh_from_db()
    assert (job.state, job.message, api.study()["revision"]) == ("done", "", after)


@pytest.mark.parametrize(
    ("path", "body", "pixels"),
    [
        ("/exports", {"format": "png", "out": {"resolution": 1200}}, "pixels"),
        ("/exports", {"format": "svg", "out": {"resolution": 600}}, "dpi"),
    ],
)
def test_pixels_are_limited_before_anything_is_made(
    api: Api, path: str, body: dict, pixels: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setitem(queue.WORK, "export", lambda job, watch: {"file": "", "bytes": 0})  # none is drawn here
    api.edit("view", ["frame"], {"width": 1189, "height": 841, "scale": 50, "resolution": 72})
    said = sentence(api.post(path, body))
    assert pixels in said and "150 million" in said
    assert not Job.objects.filter(kind="export").exists()
    allowed = int(said.split(" dpi")[0].split()[-1])
    assert api.post(path, {**body, "out": {"resolution": allowed}}).status_code == 200


def test_a_strip_of_paper_has_a_picture_that_can_be_held(api: Api) -> None:
    api.edit("view", ["frame"], {"width": 60, "height": 5000, "scale": 100, "resolution": 60})
    api.post("/desk", {})
    assert api.get("/preview", width=1280).status_code == 200
    api.do({"do": "keep_region", "name": "All", "query": {"kind": "match", "where": ["building"]}})
    api.post("/regions/region-1/shape", {})
    assert "40 million" in sentence(api.get("/regions/region-1/mask", width=12_000))
    assert api.get("/regions/region-1/mask", width=300).status_code == 200


def test_names_of_any_script_and_length_are_written_and_received(api: Api, scratch: Path) -> None:
    name = "ゴ" * 150
    assert api.edit("view", ["name"], name).status_code == 200
    made = api.post("/exports", {"format": "svg", "out": {"resolution": 40}}).json()
    found = Job.objects.get(pk=made["id"])
    assert found.state == "done" and len(found.result["file"].encode()) < 255, found.message
    write_glb(model_of(("A", box((0, 0, 0), (6, 4, 3)), 0)), scratch / "a.glb")
    sent = SimpleUploadedFile("x", (scratch / "a.glb").read_bytes())
    sent.name = "ж" * 250 + ".glb"
    answer = api.client.post("/api/uploads", {"files": [sent]})
    done = Job.objects.get(pk=answer.json()["id"])
    assert answer.status_code == 200 and done.state == "done" and done.arguments["file"].endswith(".glb")
    assert any("its name here" in n for n in done.result["notes"])


def test_control_characters_never_reach_a_drawing(api: Api) -> None:
    import xml.etree.ElementTree as ET

    api.edit("look", ["traces", "poche", "name"], "Po\x08che\x1f")
    api.edit("sheet", ["title"], "A\x00 title\x0b")
    api.post("/model", {"base": api.study()["revision"], "edits": [{"do": "rename", "part": 0, "name": "Wa\x07ll"}]})
    api.post(
        "/model",
        {"base": api.study()["revision"], "edits": [{"do": "edit_material", "material": 0, "name": "St\x02one"}]},
    )
    made = api.post("/exports", {"format": "svg", "out": {"resolution": 40}}).json()
    text = b"".join(api.client.get(f"/api/jobs/{made['id']}/file").streaming_content)
    names = [g.get("data-name") for g in ET.fromstring(text).iter("{http://www.w3.org/2000/svg}g")]
    assert "Po che " in names and any(n and n.startswith("poche St") for n in names)


def test_of_two_equal_rows_the_one_that_was_named_is_edited(api: Api) -> None:
    cut = {"point": [0, 0.5, 0], "normal": [0, -1, 0]}
    api.edit("view", ["cuts"], [cut, cut, cut])
    api.edit("view", ["cuts", "1"], {**cut, "point": [0, 0.25, 0]})
    assert [c["point"][1] for c in api.study()["document"]["desk"]["view"]["cuts"]] == [0.5, 0.25, 0.5]


def test_a_locked_view_is_not_changed_by_any_command(api: Api) -> None:
    api.do({"do": "lock_view", "view_id": "view-1"})
    views = api.study()["document"]["views"]
    api.edit("view", ["sun", "azimuth"], 10)
    for command in ({"do": "save_view"}, {"do": "remove_view", "view_id": "view-1"}):
        assert "locked" in sentence(api.do(command))
    for room in ("view", "look", "sheet"):  # no path leads out of the room that it begins in
        for path in (["views", "view-1", "locked"], ["..", "views"], ["locked"], ["0", "view", "name"]):
            sentence(api.edit(room, path, False))
    assert api.study()["document"]["views"] == views
    assert api.edit("look", ["traces", "shadow", "opacity"], 0.2).status_code == 200  # its collage may go on


def test_half_a_letter_and_names_without_end_are_refused_in_a_sentence(api: Api) -> None:
    before = api.study()["revision"]
    body = '{"base": %d, "commands": [{"do": "view", "label": "\\ud800", "changes": [{"path": ["name"], "value": "\\ud800"}]}]}'
    sentence(api.client.post(f"{api.base}/edits", body % before, content_type="application/json"), 422)
    sentence(api.get(f"/set/small/{'a' * 400}"), 404)
    sentence(api.do({"do": "take_finish", "text": "[" * 90_000}))
    assert api.study()["revision"] == before


def test_an_edit_whose_answer_was_lost_is_made_once_whoever_came_after_it(api: Api) -> None:
    base = api.study()["revision"]
    weight = lambda value: {
        "do": "look",
        "changes": [{"path": ["pens", "cut", "pen", "weight"], "value": value}],
        "label": "Weight",
    }
    assert api.do(weight(0.7), base=base, token="mine").status_code == 200
    assert api.do(weight(0.9), token="theirs").status_code == 200
    again = api.do(weight(0.7), base=base, token="mine")
    assert (
        again.status_code == 200
        and api.study()["revision"] == base + 2
        and api.study()["look"]["pens"][0]["pen"]["weight"] == 0.9
    )


def test_no_shape_is_computed_and_no_file_written_while_the_database_is_held(
    api: Api, monkeypatch: pytest.MonkeyPatch
) -> None:
    from django.db import connection

    from warmgraphite.regions.painted import KeptMasks

    held = list[str]()

    def looked(owner: Any, name: str) -> None:
        whole = getattr(owner, name)

        def watched(*args: Any, **more: Any) -> Any:
            if connection.in_atomic_block:
                held.append(name)
            return whole(*args, **more)

        monkeypatch.setattr(owner, name, watched)

    for owner, name in (
        (models, "kind_of"),
        (KeptMasks, "stroke"),
        (ModelStore, "save"),
        (models, "text_of"),
        (models, "follow_edit"),
    ):
        looked(owner, name)
    mask = {"id": "m", "name": "Brushed", "tiles": ""}
    assert api.edit("view", ["masks"], [mask]).status_code == 200
    stroke = {"points": [[0, 0], [20, 10]], "size": 10}
    assert api.post("/masks/m/strokes", {"base": api.study()["revision"], "stroke": stroke}).status_code == 200
    assert (
        api.post(
            "/model", {"base": api.study()["revision"], "edits": [{"do": "role", "parts": [1], "role": "context"}]}
        ).status_code
        == 200
    )
    assert (
        api.post("/model", {"base": api.study()["revision"], "edits": [{"do": "drop", "parts": [1]}]}).status_code
        == 200
    )
    assert held == []


def test_a_study_that_goes_takes_no_work_with_it_that_another_waits_for(
    api: Api, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(queue, "_queue", lambda *_: None)  # nobody works
    copy = create_study("Other", Study.objects.get().model, VIEWS)
    other = Api(copy.slug)
    for one in (api, other):
        one.post("/views/view-2/picture", {})
        one.post("/desk", {})
    mine = set(Job.objects.filter(study=copy).values_list("kind", flat=True))
    assert mine >= {"picture", "passes"} and AskedDocument.objects.exists()
    api.client.delete(api.base)
    assert set(Job.objects.filter(study=copy, state="waiting").values_list("kind", flat=True)) == mine
    for job in Job.objects.all():
        queue.cancel(job)
    assert not AskedDocument.objects.exists()


def test_more_than_any_hand_asks_for_is_refused(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(queue, "_queue", lambda *_: None)
    monkeypatch.setattr(queue, "MOST_OPEN", 3)
    answers = [api.post("/exports", {"format": "svg"}) for _ in range(4)]
    assert [a.status_code for a in answers] == [200, 200, 200, 422] and "under way" in sentence(answers[3], 422)


def test_what_is_waited_for_is_not_cleared_away_and_what_cannot_be_read_clears_nothing(
    api: Api, scratch: Path, upload: Callable, monkeypatch: pytest.MonkeyPatch
) -> None:
    write_glb(model_of(("A", box((0, 0, 0), (6, 4, 3)), 0)), scratch / "a.glb")
    read = upload(scratch / "a.glb").json()["id"]
    monkeypatch.setattr(queue, "_queue", lambda *_: None)
    waiting = upload(scratch / "a.glb").json()["id"]
    folders = {Job.objects.get(pk=n).arguments["folder"] for n in (read, waiting)}
    stray = settings.DATA / "incoming" / "stray" / ".apart-x"
    stray.mkdir(parents=True)
    clear_unused(young=-1)
    assert {p.name for p in (settings.DATA / "incoming").iterdir()} == folders
    # A state that cannot be read may stand on any body, a list of a mask on any tile.
    mask = {"id": "m", "name": "Brushed", "tiles": ""}
    api.edit("view", ["masks"], [mask])
    api.post("/masks/m/strokes", {"base": api.study()["revision"], "stroke": {"points": [[0, 0]], "size": 10}})
    bodies, tiles = (
        set((settings.DATA / "models").glob("*.npz")),
        set((settings.DATA / "stock" / "masks").glob("*.tile")),
    )
    for path in (
        settings.DATA / "models" / f"{Study.objects.get().model_version}.json",
        *(settings.DATA / "stock/masks").glob("*.json"),
    ):
        path.write_bytes(b"")
    clear_unused(young=-1)
    assert set((settings.DATA / "models").glob("*.npz")) == bodies and tiles
    assert set((settings.DATA / "stock" / "masks").glob("*.tile")) == tiles


@pytest.mark.parametrize(
    ("method", "path", "options"),
    [
        ("get", "/health?tolerance=nan", {}), ("get", "/health?tolerance=1e400", {}), ("get", "/nothing", {}),
        ("put", "/desk", {}),
        ("get", "/probe?x=a&y=1", {}), ("post", "/edits", {"data": "{", "content_type": "application/json"}),
        ("post", "/edits", {"data": "x" * 21_000_000, "content_type": "application/json"}),
        ("get", "/views/none/picture", {}),
    ],
)  # fmt: skip
def test_what_nobody_can_answer_is_refused_in_a_sentence(api: Api, method: str, path: str, options: dict) -> None:
    sentence(getattr(api.client, method)(api.base + path, **options))


@pytest.mark.parametrize("step", ["²", "9" * 5000, "-1", "1e3", "", "٣"])
def test_steps_that_lead_nowhere_are_refused_in_a_sentence(api: Api, step: str) -> None:
    sentence(api.edit("view", ["cuts", step], {"point": [0, 0, 0], "normal": [0, 0, 1]}))
    sentence(api.edit("look", ["traces", step, "name"], "x"))
    sentence(api.edit("view", ["name", step, "x"], "x"))


def test_uploads_that_are_no_uploads_are_refused_in_a_sentence(jobs_at_once: None) -> None:
    client = Client()
    before = list((settings.DATA / "incoming").glob("*"))
    many = [SimpleUploadedFile(f"{k}.obj", b"v 0 0 0") for k in range(401)]
    assert "zip" in sentence(client.post("/api/uploads", {"files": many}))
    sentence(client.post("/api/uploads", b"--x\r\nnothing", content_type="multipart/form-data; boundary=y"))
    sentence(client.post("/api/uploads", b"", content_type="multipart/form-data"))
    sentence(client.post("/api/uploads", {}))
    same = [SimpleUploadedFile(n, b"v 0 0 0") for n in ("a.obj", "t.png", "t.png")]
    assert "same name" in sentence(client.post("/api/uploads", {"files": same}))
    assert list((settings.DATA / "incoming").glob("*")) == before


def test_no_list_of_names_is_without_an_end(api: Api) -> None:
    before = api.study()["revision"]
    sentence(api.edit("view", ["parts", "hidden"], [f"Part {k}" for k in range(5000)]))
    sentence(api.edit("view", ["parts", "uncut"], ["x" * 2000]))
    sentence(api.edit("look", ["poche"], [{"id": f"r{k}"} for k in range(501)]))
    sentence(api.edit("look", ["pens", "cut", "where", "materials"], [f"Material {k}" for k in range(5000)]))
    assert api.study()["revision"] == before


def test_a_cancelled_reading_leaves_nothing_that_it_unpacked(
    jobs_at_once: None, scratch: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The archive is unpacked, and then somebody stops it."""
    import tempfile

    large = "".join(f"v {k % 300} {k // 300} 0\n" for k in range(150_000)) + "f 1 2 302\n"  # a second's reading
    with zipfile.ZipFile(scratch / "a.zip", "w") as archive:
        archive.writestr("a.obj", large)

    def stop(watch: Any, stage: str, fraction: float) -> None:
        if stage == "Unpacking the archive":
            queue.cancel(watch.job)
            raise queue.Cancelled(stage)

    monkeypatch.setattr("studio.jobs.models.Watch.__call__", stop)
    # A folder of its own for what is temporary: the machine's is other processes' too.
    temporary = scratch / "temporary"
    temporary.mkdir()
    monkeypatch.setenv("TMPDIR", str(temporary))
    monkeypatch.setattr(tempfile, "tempdir", str(temporary))
    Client().post("/api/uploads", {"files": [(scratch / "a.zip").open("rb")]})
    assert Job.objects.get().state == "cancelled"
    assert not list(temporary.glob("*")) and not list((settings.DATA / "incoming").glob("*"))


def test_half_sent_requests_hold_up_nobody(tmp_path: Path) -> None:
    import os

    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    environment = {
        **os.environ,
        "WARMGRAPHITE_DATA": str(tmp_path),
        "DJANGO_SETTINGS_MODULE": "studio.settings",
        "WARMGRAPHITE_THREADS": "2",
    }
    server = subprocess.Popen([sys.executable, "-m", "studio.serve", f"127.0.0.1:{port}"], env=environment)
    held = []
    try:
        until = time.monotonic() + 120
        while not held:
            assert server.poll() is None and time.monotonic() < until, "the server does not listen"
            try:
                held.append(socket.create_connection(("127.0.0.1", port), 1))
            except OSError:
                time.sleep(0.1)
        for k in range(24):
            half = socket.create_connection(("127.0.0.1", port))
            half.sendall(
                [
                    b"GET /api/ready HTTP/1.1\r\nHost: 127",
                    b"POST /api/uploads HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 90000\r\n\r\nhalf",
                ][k % 2]
            )
            held.append(half)
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/api/ready", timeout=60) as answer:
            assert json.load(answer) == {"ready": False}
        server.terminate()
        assert server.wait(60) == 0
    finally:
        for one in held:
            one.close()
        server.kill()


ODD: list[Any] = [
    None, True, -1, "x", "", [], {}, ["a"], [1, 2], [{"id": "a"}], [["lines"]], [None], {"id": "x"}, "#112233", 1e30,
    {"kind": "wire", "id": "w", "name": "W"}, {"kind": "paper", "id": "shadow", "name": "S"}, ["lines", "paper"],
]  # fmt: skip
PLACES = [
    "traces", "traces/shadow", "traces/w", "traces/shadow/kind", "traces/shadow/id", "traces/0/name", "pens",
    "pens/cut/pen/dash", "pens/cut/pen/dash/0", "pens/soft/where/ranks", "pens/cut/where",
    "poche", "poche/ground", "poche/ground/fills/0/colour", "poche/ground/fills", "cuts", "cuts/0/jogs", "sun", "name",
    "margin", "projection/kind", "elsewhere",
]  # fmt: skip
OTHER: list[dict[str, Any]] = [
    {"do": "give_back"}, {"do": "drop_changes"}, {"do": "keep_finish", "name": "é" * 150},
    {"do": "keep_finish", "name": "b"},
    {"do": "lay_finish", "finish_id": "finish-2"}, {"do": "remove_finish", "finish_id": "finish-2"},
    {"do": "rename_finish", "finish_id": "finish-1", "name": "\x00"},
    {"do": "take_finish", "text": '{"format": 1, "traces": []}'}, {"do": "take_finish", "text": '{"format": true}'},
    {"do": "take_finish", "text": "["},
]  # fmt: skip


def test_any_command_is_taken_or_refused_in_a_sentence_and_the_study_still_opens(api: Api) -> None:
    chance = random.Random(7)
    taken = 0
    orders = [{"do": "look", "changes": [{"path": ["traces"], "do": "order", "value": odd}]} for odd in ODD]
    for step in range(120):
        rows = [
            {
                "path": chance.choice(PLACES).split("/"),
                "do": chance.choice(["set", "drop", "order"]),
                "value": chance.choice(ODD),
            }
            for _ in range(chance.choice([1, 1, 2]))
        ]
        command = {"do": chance.choice(["look", "look", "view", "sheet"]), "changes": rows}
        command |= {"everywhere": chance.random() < 0.5} if command["do"] == "look" else {}
        command = orders[step] if step < len(orders) else chance.choice(OTHER) if chance.random() < 0.2 else command
        answer = api.do(command)
        taken += answer.status_code == 200
        assert answer.status_code == 200 or sentence(answer), command
        assert api.get().status_code == 200, command
    assert taken > 8  # it is not that everything is refused
