"""Nothing acknowledged is lost, and nobody overwrites somebody else's work in silence."""

from __future__ import annotations

import io
import json

import numpy as np
import pytest
from PIL import Image

from studio.openapi import document
from studio.settings import ROOT
from studio.studies.making import create_study
from tests.conftest import box, model_of
from tests.studio.conftest import Api
from warmgraphite.collage.specification import KINDS
from warmgraphite.study.formats import DOCUMENT

SHADOW = "look", ["traces", "shadow", "opacity"]


def setting(room: str, path: list[str], value: object) -> dict:
    return {"do": room, "changes": [{"path": path, "value": value}]}


def opacity(api: Api) -> float:
    return next(t["opacity"] for t in api.study()["look"]["traces"] if t["id"] == "shadow")


def test_every_edit_is_kept_and_can_be_taken_back_and_made_again(api: Api) -> None:
    before = opacity(api)
    for value in (0.2, 0.3):
        assert api.edit(*SHADOW, value, label=f"Shadow {value}").status_code == 200
    state = api.study()
    assert (opacity(api), state["undo"], state["redo"]) == (0.3, "Shadow 0.3", "")
    for wanted in (0.2, before):
        api.post("/undo", {"base": api.study()["revision"]})
        assert opacity(api) == wanted
    assert api.study()["undo"] == "" and api.study()["redo"] == "Shadow 0.2"
    api.post("/redo", {"base": api.study()["revision"]})
    assert opacity(api) == 0.2
    api.edit("look", ["pens", "cut", "pen", "weight"], 0.8, label="Pen")
    assert api.study()["redo"] == ""  # a new edit ends what could be made again
    api.post("/undo", {"base": api.study()["revision"]})
    assert opacity(api) == 0.2 and api.study()["look"]["pens"][0]["pen"]["weight"] == 0.5


def test_a_drag_is_one_step_of_undo(api: Api) -> None:
    before = opacity(api)
    for value in (0.9, 0.8, 0.7, 0.6):
        api.edit(*SHADOW, value, label="Shadow", gesture="shadow.opacity")
    api.post("/undo", {"base": api.study()["revision"]})
    assert opacity(api) == before
    api.post("/redo", {"base": api.study()["revision"]})
    assert opacity(api) == 0.6


def test_a_second_window_is_told_and_does_not_overwrite(api: Api) -> None:
    base = api.study()["revision"]
    assert api.edit(*SHADOW, 0.11, base=base).status_code == 200
    refused = api.edit(*SHADOW, 0.99, base=base)
    assert refused.status_code == 409 and "another window" in refused.json()["message"]
    assert opacity(api) == 0.11
    assert api.post("/undo", {"base": base}).status_code == 409


def test_an_edit_whose_answer_was_lost_is_sent_again_and_made_once(api: Api) -> None:
    base, command = api.study()["revision"], setting(*SHADOW, 0.31)
    first = api.do(command, base=base, token="t1")
    again = api.do(command, base=base, token="t1")
    assert first.status_code == again.status_code == 200 and again.json()["study"] == api.study()
    assert api.study()["revision"] == base + 1 and opacity(api) == 0.31
    assert api.do(command, base=base, token="t2").status_code == 409


def test_an_answer_says_what_changed_and_nothing_else(api: Api) -> None:
    told = api.do(setting(*SHADOW, 0.31)).json()
    paths = {".".join(c["path"]) for c in told["changes"]}
    assert paths == {"revision", "undo", "document.views.view-1.changes", "look.traces.shadow.opacity", "own"}
    assert told["study"] is None and len(json.dumps(told)) < 1000


def test_a_document_of_a_newer_version_is_said_at_its_study_and_hides_no_other(api: Api) -> None:
    from studio.studies.models import Revision

    other = create_study("Other house", model_of(("A", box((0, 0, 0), (2, 2, 2)), 0)))
    head = Revision.objects.get(study__slug=api.study()["slug"])
    Revision.objects.filter(pk=head.pk).update(
        text=json.dumps({**json.loads(head.text), "format": DOCUMENT.number + 1})
    )
    assert api.get().status_code == 409 and "newer version" in api.get().json()["message"]
    rows = {r["slug"]: r["problem"] for r in api.client.get("/api/studies").json()}
    assert rows[other.slug] == "" and "newer version" in rows["test-house"]


@pytest.mark.parametrize(
    ("command", "named"),
    [
        (setting(*SHADOW, 3), "opacity"),
        (setting("look", ["pens", "cut", "pen", "weight"], "thick"), "weight"),
        (setting("look", ["pens", "cut", "pen", "shine"], 1), "shine"),
        (setting("look", ["views"], 1), "views"),
        (setting("sheet", ["margins"], {}), "margins"),
        (setting("look", ["traces", "shadow", "blend"], "glow"), "blend"),
        (setting("view", ["projection"], {"kind": "parallel", "direction": [0, 0, 0]}), "direction"),
        ({"do": "open_view", "view_id": "view-9"}, "not among"),
        ({"do": "open_window"}, "open_window"),
        ({"do": "save_view", "name": "x"}, "name"),
    ],
)
def test_a_wrong_edit_changes_nothing_and_is_named(api: Api, command: dict, named: str) -> None:
    before = api.study()
    refused = api.do({"do": "rename_finish", "finish_id": "finish-1", "name": "Half done"}, command)
    assert (
        refused.status_code == 422
        and named in refused.json()["message"]
        and "Traceback" not in refused.content.decode()
    )
    assert api.study() == before


def test_views_are_opened_saved_kept_and_removed(api: Api) -> None:
    def act(action: str, **more: str):  # type: ignore[no-untyped-def]
        return api.do({"do": f"{action}_view", **more})

    api.edit("view", ["sun"], {"azimuth": 77, "altitude": 12})
    saved = api.study()["document"]["views"][0]["view"]
    assert saved["sun"]["azimuth"] == 135  # a view on the desk is not saved until it is
    assert act("keep", name="Evening").status_code == 200
    state = api.study()["document"]
    assert [v["mark"] for v in state["views"]] == ["A", "B", "C"] and state["desk"]["view_id"] == state["views"][2][
        "id"
    ]
    assert (
        state["views"][2]["view"]["sun"].items() >= {"azimuth": 77, "altitude": 12}.items()
        and state["views"][0]["view"] == saved
    )
    act("open", view_id="view-1")
    assert api.study()["document"]["desk"]["view"] == saved  # exactly as it was
    api.edit("view", ["frame", "scale"], 50)
    act("save")
    assert api.study()["document"]["views"][0]["view"]["frame"]["scale"] == 50
    assert act("keep", name="Evening").status_code == 422
    for view_id in ("view-1", "view-2"):
        assert act("remove", view_id=view_id).status_code == 200
    assert act("remove", view_id="view-3").status_code == 422  # the last one stays


def test_a_view_is_set_up_by_kind_paper_and_landmarks_and_compared(api: Api) -> None:
    def base() -> int:
        return api.study()["revision"]

    def view() -> dict:
        return api.study()["document"]["desk"]["view"]

    found = api.get("/landmarks").json()
    # The wall's long sides come first; its top is a roof, and no storey.
    assert found == {"levels": [{"name": "Level 0", "height": 0}], "fronts": [0, 180, 90, 270]}
    assert api.study()["kind"] == {"kind": "section", "bearing": 0, "place": 0.5}
    for place in (0.4, 0.7):
        kind = {"kind": "section", "bearing": 90, "place": place}
        assert api.post("/kind", {"base": base(), "kind": kind, "gesture": "slide"}).status_code == 200
        assert api.study()["kind"] == kind
    assert [c["normal"] for c in view()["cuts"]] == [[-1, 0, 0]] and view()["cuts"][0]["point"][0] == 0.7
    rows = api.get("/views/view-1/differences/desk").json()
    assert [(r["what"], r["first"], r["second"]) for r in rows[:2]] == [
        ("bearing", "0°", "90°"),
        ("place", "0.5 m", "0.7 m"),
    ]
    assert "cuts" not in [r["what"] for r in rows]  # its place tells of the section's own
    api.post("/undo", {"base": base()})
    assert api.study()["kind"]["bearing"] == 0  # a slide of settings is one step
    kept = view()
    api.post("/frame", {"base": base(), "side": "top", "millimetres": 30})
    grown = view()["frame"]
    assert grown["height"] == kept["frame"]["height"] + 30 and grown["scale"] == kept["frame"]["scale"]
    assert api.post("/frame", {"base": base()}).status_code == 200
    wrong = api.post("/kind", {"base": base(), "kind": {"kind": "isometric", "corner": 44}})
    assert (
        wrong.status_code == 422 and "corner" in wrong.json()["message"] and "Traceback" not in wrong.content.decode()
    )
    assert api.get("/views/view-1/differences/view-9").status_code == 404


def test_the_desk_says_what_is_stale_computes_it_and_shows_it(api: Api) -> None:
    desk = api.get("/desk").json()
    assert not desk["fresh"] and api.get("/preview").status_code == 204
    api.post("/desk", {})
    desk = api.get("/desk").json()
    assert desk["fresh"] and desk["scale"] == 100 and all(p["fresh"] for p in desk["passes"])
    answer = api.get("/preview", width=500)
    with Image.open(io.BytesIO(answer.content)) as picture:
        assert picture.size == (500, 350)
    api.edit("look", ["traces", "poche", "opacity"], 0.3)
    assert api.get("/desk").json()["fresh"]  # opacity is not an input of any pass
    assert api.get("/preview", width=500).content != answer.content
    api.edit("view", ["sun"], {"azimuth": 260, "altitude": 30})
    assert {p["name"] for p in api.get("/desk").json()["passes"] if not p["fresh"]} == {"light"}
    api.post("/undo", {"base": api.study()["revision"]})
    assert api.get("/desk").json()["fresh"]  # undo costs nothing


def test_the_probe_says_what_is_there(api: Api) -> None:
    api.post("/desk", {})
    matrix = api.get("/desk").json()["world_to_frame"]

    def at(x: float, z: float) -> dict:
        point = [row[0] * x + row[1] * 0.5 + row[2] * z + row[3] for row in matrix[:2]]
        return api.get("/probe", x=point[0], y=point[1]).json()

    wall = at(2.0, 1.6)
    assert (wall["name"], wall["material"], wall["cut"]) == ("Wall", "Stone", True)
    assert at(2.0, 3.0)["pen"] == "cut 0.50 mm"
    assert at(-2.0, 2.5)["part"] is None


def test_a_view_that_shows_nothing_is_said_and_not_a_fault(api: Api) -> None:
    api.edit("view", ["cuts"], [{"point": [0, -50, 0], "normal": [0, 1, 0]}])
    api.post("/desk", {})
    desk = api.post("/desk", {}).json()
    assert "shows no part" in desk["problem"] and desk["job"] is None
    assert api.get("/preview", width=300).status_code == 204 and api.get("/probe", x=5, y=5).status_code == 204


def test_only_the_part_that_is_seen_is_drawn_closely(api: Api) -> None:
    api.post("/desk", {})
    look = lambda **asked: api.get("/preview", **asked)
    whole = np.asarray(Image.open(io.BytesIO(look(width=2000).content))).astype(int)
    part = np.asarray(Image.open(io.BytesIO(look(width=2000, window="500,400,320,200").content))).astype(int)
    assert part.shape == (200, 320, 3) and np.abs(whole[400:600, 500:820] - part).mean() < 1
    edge = Image.open(io.BytesIO(look(width=40_000, window="39900,-50,4000,300").content))
    assert edge.size == (100, 300)
    for window in ("1,2,3", "a,b,c,d", "0,0,99999999,5"):
        assert "whole pixels" in look(width=900, window=window).json()["message"]
    assert look(width=40_000, window="0,0,30000,20000").status_code == 422


@pytest.mark.parametrize("kind", ["pdf", "svg", "png"])
def test_an_export_is_a_job_with_a_file(api: Api, kind: str) -> None:
    job = api.post("/exports", {"format": kind, "out": {"resolution": 40}}).json()
    job = api.client.get(f"/api/jobs/{job['id']}").json()
    assert job["state"] == "done" and job["progress"] == 1.0, job
    file = api.client.get(f"/api/jobs/{job['id']}/file")
    data = b"".join(file.streaming_content)
    assert data.startswith({"pdf": b"%PDF", "svg": b"<?xml", "png": b"\x89PNG"}[kind])
    assert f"Test house - Section.{kind}" in file["Content-Disposition"]


def test_saved_views_have_pictures(api: Api) -> None:
    assert api.get("/views/view-2/picture").status_code == 204
    assert api.get("/views/view-2/picture").status_code == 204, "who only looks starts no work"
    api.post("/views/view-2/picture", {})
    answer = api.get("/views/view-2/picture")
    assert answer.status_code == 200 and answer["Content-Type"] == "image/jpeg"
    api.edit("look", ["pens", "outline", "pen", "weight"], 0.9)
    assert api.get("/views/view-2/picture").status_code == 204  # it shows the pens, so it is drawn anew


def test_requests_from_another_page_are_refused(api: Api) -> None:
    answer = api.client.post(
        f"{api.base}/undo", {"base": 1}, content_type="application/json", headers={"Origin": "http://elsewhere.test"}
    )
    assert answer.status_code == 403


def test_a_view_is_unsaved_while_it_is_another_than_it_was_saved_and_not_because_it_was_opened(api: Api) -> None:
    unsaved = lambda: api.study()["unsaved"]
    for view in ("view-2", "view-1"):
        api.do({"do": "open_view", "view_id": view})
        assert not unsaved()
    scale = api.study()["document"]["desk"]["view"]["frame"]["scale"]
    api.edit("view", ["frame", "scale"], 75)
    assert unsaved()
    api.edit("view", ["frame", "scale"], scale)
    assert not unsaved(), "it was put back by hand"
    api.edit("view", ["sun", "azimuth"], 111)
    told = api.do({"do": "save_view"}).json()["changes"]
    assert {"path": ["unsaved"], "do": "set", "value": False} in [
        {k: c[k] for k in ("path", "do", "value") if k in c} for c in told
    ]
    assert not unsaved()
    api.post("/undo", {"base": api.study()["revision"]})
    assert unsaved()


def test_the_front_ends_types_are_those_of_the_api_and_every_kind_of_trace_has_a_name_of_its_own_there() -> None:
    """Two classes of one name would silently take each other's place."""
    said = document()
    assert (ROOT / "web" / "openapi.json").read_text() == said, "run ./run types"
    schemas = json.loads(said)["components"]["schemas"]
    mapping = schemas["Look"]["properties"]["traces"]["items"]["discriminator"]["mapping"]
    assert set(mapping) == set(KINDS)
    for kind, reference in mapping.items():
        found = schemas[reference.rsplit("/", 1)[1]]["properties"]
        assert found["kind"]["const"] == kind and set(found) == set(KINDS[kind].model_fields)


def test_history_is_bounded(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    from studio.studies import models

    monkeypatch.setattr(models, "HISTORY", 5)
    for i in range(12):
        api.edit(*SHADOW, i / 20)
    steps = 0
    while api.study()["undo"] and steps < 30:
        api.post("/undo", {"base": api.study()["revision"]})
        steps += 1
    assert steps == 4


def test_passes_that_fail_are_said_and_begun_again_only_when_asked(api: Api, monkeypatch: pytest.MonkeyPatch) -> None:
    from studio.jobs import queue
    from warmgraphite.errors import ViewError

    begun = []

    def fails(job: object, watch: object) -> dict:
        begun.append(job)
        raise ViewError("This view is beyond us.")

    right = queue.WORK["passes"]
    monkeypatch.setitem(queue.WORK, "passes", fails)
    for _ in range(3):
        desk = api.post("/desk", {}).json()
    assert len(begun) == 1 and desk["job"]["state"] == "failed" and desk["job"]["message"] == "This view is beyond us."
    monkeypatch.setitem(queue.WORK, "passes", right)
    api.post("/desk?again=true", {})
    assert api.get("/desk").json()["fresh"]
