"""Notes and boards over HTTP: pointed at, written, moved; boards drawn, kept and exported.
Faces of one's own that go with a study.
"""

from __future__ import annotations

import io
import json
import xml.etree.ElementTree as ET
from pathlib import Path
from typing import Any

import numpy as np
import pikepdf
import pytest
from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from fontTools.fontBuilder import FontBuilder
from fontTools.pens.ttGlyphPen import TTGlyphPen
from fontTools.ttLib import TTFont
from fontTools.ttLib.tables.DefaultTable import DefaultTable
from PIL import Image

from studio.jobs.models import Job
from studio.stock.models import kept_pictures
from studio.studies.models import Study
from tests.studio.conftest import Api
from tests.studio.test_collage import drawn
from warmgraphite.study import read_document


def post(api: Api, path: str, **body: Any) -> Any:
    return api.client.post(f"{api.base}{path}", body, content_type="application/json")


def write(api: Api, *notes: dict[str, Any]) -> Any:
    return api.do({"do": "notes", "changes": [{"path": ["notes", n["id"]], "value": n} for n in notes]})


def test_a_place_is_pointed_at_a_note_is_made_of_it_written_shown_and_moved(api: Api) -> None:
    bare = drawn(api)
    told = np.array(api.get("/desk").json()["world_to_frame"])
    x, y, _, w = told @ [5.0, 0.5, 3.0, 1.0]
    spot = post(api, "/notes/point", x=x / w + 0.4, y=y / w, reach=1.5).json()
    assert (
        spot["part"] == "Wall"
        and spot["sign"] == "corner"
        and spot["point"][0] == pytest.approx(5.0, abs=1e-6)
        and spot["point"][2] == pytest.approx(3.0)
    )
    made = post(
        api,
        "/notes/made",
        kind="label",
        spots=[{k: spot[k] for k in ("point", "x", "y", "part", "layer", "thickness")}],
    ).json()["note"]
    assert made["text"] == "Wall" and drawn(api) == bare  # nothing is written by asking
    assert write(api, {**made, "id": "a"}).status_code == 200
    assert drawn(api) != bare
    (row,) = api.get("/notes").json()
    assert row["called"] == "Wall" and [h["index"] for h in row["handles"]] == [0, -1] and len(row["boxes"]) == 1
    moved = post(api, "/notes/moved", note_id="a", index=-1, x=20.0, y=10.0, paper=True).json()["note"]
    assert moved["put"] == [-30.0, -25.0]
    assert write(api, moved).status_code == 200 and api.get("/notes").json()[0]["boxes"][0][:2] == pytest.approx(
        [20, 10], abs=0.01
    )
    # Out in the paper nothing of the model is there; unknown kinds and too few places are refused with a sentence.
    off = post(api, "/notes/point", x=1.0, y=1.0).json()
    assert off["lies"] == "paper" and off["point"][:2] == [-49.0, -34.0]
    for body, said in (({"kind": "chant"}, "no kind of note"), ({"kind": "dimension", "spots": []}, "2 to 100 places")):
        refused = post(api, "/notes/made", **body)
        assert refused.status_code == 422 and said in refused.json()["message"]
    assert post(api, "/notes/moved", note_id="b", index=0, x=1.0, y=1.0).status_code == 404
    # What has no place is said, and the drawing goes on.
    assert write(api, {"id": "r", "kind": "rooms"}).status_code == 200
    drawn(api)
    assert "No room is shown" in api.get("/notes").json()[1]["told"]
    assert api.do({"do": "notes", "changes": [{"path": ["notes", "a", "side"], "value": "above"}]}).status_code == 422
    assert {k["kind"] for k in api.client.get("/api/notes/kinds").json()["kinds"]} >= {
        "label",
        "levels",
        "light",
        "dimension",
    }


def test_a_board_is_drawn_by_the_worker_kept_and_written_with_all_its_pages(api: Api) -> None:
    board = {
        "id": "b",
        "name": "Set",
        "pages": 2,
        "page": {"width": 297, "height": 210},
        "drawings": [
            {"id": "one", "view": "view-1", "at": [20, 20]},
            {"id": "two", "view": "view-2", "at": [20, 20], "page": 2},
        ],
    }
    assert api.do({"do": "boards", "changes": [{"path": ["boards", "b"], "value": board}]}).status_code == 200
    before = api.get("/boards/b").json()
    assert not any(d["fresh"] for d in before["drawings"]) and before["job"] is None
    assert api.client.get(f"{api.base}/boards/b/drawings/one/picture").status_code == 204
    post(api, "/boards/b")
    state = post(api, "/boards/b").json()
    assert all(d["fresh"] for d in state["drawings"]) and state["drawings"][0]["lie"]["across"] == pytest.approx(
        [10, 0, 0]
    )
    picture = api.client.get(f"{api.base}/boards/b/drawings/one/picture")
    assert Image.open(io.BytesIO(picture.content)).size[0] > 60
    over = ET.fromstring(api.client.get(f"{api.base}/boards/b/pages/1/over").content)
    said = ["".join(t.itertext()) for t in over.iter("{http://www.w3.org/2000/svg}text")]
    assert "Test house" in said and "A  Section, 1:100" in said and "1 of 2" in said
    # Another place on the page leaves its picture as it is; another pen does not.
    api.do({"do": "boards", "changes": [{"path": ["boards", "b", "drawings", "one", "at"], "value": [40, 30]}]})
    assert [d["picture"] for d in api.get("/boards/b").json()["drawings"]] == [d["picture"] for d in state["drawings"]]
    api.do({"do": "look", "everywhere": True, "changes": [{"path": ["pens", "cut", "pen", "weight"], "value": 0.9}]})
    assert [d["fresh"] for d in api.get("/boards/b").json()["drawings"]] == [False, False]
    job = post(api, "/boards/b/exports", format="pdf", out={"resolution": 60}).json()
    done = Job.objects.get(pk=job["id"])
    assert done.state == Job.State.DONE, done.message
    with pikepdf.open(settings.DATA / "exports" / str(done.pk) / done.result["file"]) as pdf:
        assert len(pdf.pages) == 2
    assert api.client.get(f"/api/jobs/{done.pk}/file").status_code == 200
    # As a file it is whole: its drawings are in it.
    data = json.loads(api.client.get(f"{api.base}/boards/b/file").content)
    assert (
        data["format"] == 1
        and data["drawings"][0]["drawing"]["view"]["name"] == "Section"
        and data["drawings"][0]["model"] == "Test house"
    )
    # A view that the board shows is not there: said at once; a view that is removed goes from it.
    refused = api.do(
        {"do": "boards", "changes": [{"path": ["boards", "b", "drawings", "one", "view"], "value": "view-9"}]}
    )
    assert refused.status_code == 422 and "not among the saved views" in refused.json()["message"]
    assert api.do({"do": "remove_view", "view_id": "view-2"}).status_code == 200
    assert [d["id"] for d in api.get("").json()["document"]["boards"][0]["drawings"]] == ["one"]


def tiny_face(name: str = "Weir Hand") -> bytes:
    """A face with three letters."""
    pen = TTGlyphPen(None)
    pen.moveTo((50, 0)), pen.lineTo((50, 700)), pen.lineTo((450, 700)), pen.lineTo((450, 0)), pen.closePath()
    glyph = pen.glyph()
    build = FontBuilder(1000, isTTF=True)
    build.setupGlyphOrder([".notdef", "A", "B", "space"])
    build.setupCharacterMap({65: "A", 66: "B", 32: "space"})
    build.setupGlyf({".notdef": glyph, "A": glyph, "B": glyph, "space": TTGlyphPen(None).glyph()})
    build.setupHorizontalMetrics({n: (500, 50) for n in (".notdef", "A", "B", "space")})
    build.setupHorizontalHeader(ascent=800, descent=-200)
    build.setupNameTable({"familyName": name, "styleName": "Regular"})
    build.setupOS2(sTypoAscender=800, usWinAscent=900, usWinDescent=200, sCapHeight=700)
    build.setupPost()
    out = io.BytesIO()
    build.save(out)
    return out.getvalue()


def swelling_face(monkeypatch: pytest.MonkeyPatch) -> bytes:
    """A WOFF of some hundred kilobytes with a table of three hundred megabytes; nobody need sum that up to write it."""
    monkeypatch.setattr("fontTools.ttLib.sfnt.calcChecksum", lambda _data: 0)
    font = TTFont(io.BytesIO(tiny_face()))
    table = DefaultTable("swel")
    table.data = bytes(300_000_000)
    font["swel"], font.flavor = table, "woff"
    out = io.BytesIO()
    font.save(out)
    monkeypatch.undo()
    return out.getvalue()


@pytest.mark.deep
def test_a_face_that_unpacks_to_more_than_there_is_room_for_is_one_sentence(
    api: Api, monkeypatch: pytest.MonkeyPatch
) -> None:
    sent = api.client.post("/api/faces", {"file": SimpleUploadedFile("weir.woff", swelling_face(monkeypatch))})
    told = Job.objects.get(pk=sent.json()["id"])
    assert told.state == "failed" and "take another file" in told.message
    assert api.client.get("/api/faces").json() == [] and not list((settings.DATA / "incoming").iterdir())


def test_a_face_of_one_s_own_is_taken_in_drawn_told_what_it_lacks_and_packed(api: Api, tmp_path: Path) -> None:
    send = lambda data, name="weir.ttf": api.client.post("/api/faces", {"file": SimpleUploadedFile(name, data)})
    face = Job.objects.get(pk=send(tiny_face()).json()["id"]).result
    assert (face["name"], face["letters"]) == ("Weir Hand", 3) and api.client.get("/api/faces").json() == [face]
    for data, said in (
        (b"not a face at all", "no file of type"),
        (b"wOF2" + b"\0" * 60, "WOFF2"),
    ):
        refused = send(data)
        assert refused.status_code == 422 and said in refused.json()["message"]
    # What breaks off is one sentence, too, and harms nobody.
    told = Job.objects.get(pk=send(tiny_face()[:400]).json()["id"])
    assert told.state == "failed" and "no file of type" in told.message
    assert api.client.get("/api/faces").json() == [face] and not list((settings.DATA / "incoming").iterdir())
    api.do({"do": "look", "everywhere": True, "changes": [{"path": ["lettering", "face"], "value": face["face"]}]})
    write(
        api,
        {"id": "a", "kind": "text", "lies": "paper", "points": [[-20, -10, 0]], "text": "AB BA"},
        {"id": "b", "kind": "text", "lies": "paper", "points": [[-20, 0, 0]], "text": "AZ"},
    )
    drawn(api)
    rows = api.get("/notes").json()
    assert rows[0]["told"] == "" and "“Z” is not in this face" in rows[1]["told"]
    wide = rows[0]["boxes"][0][2] - rows[0]["boxes"][0][0]
    assert wide == pytest.approx(5 * 500 / 700 * 1.8, abs=0.02)  # five advances at capitals of 1.8 mm
    job = Job.objects.get(pk=post(api, "/exports", format="svg", out={"resolution": 60}).json()["id"])
    text = (settings.DATA / "exports" / str(job.pk) / job.result["file"]).read_text("utf-8")
    assert "Weir Hand" in text and "AB BA" in text
    # Packed and unpacked where nothing is known of it, the study is lettered as before.
    packed = Job.objects.get(pk=post(api, "/archive").json()["id"])
    path = settings.DATA / "exports" / str(packed.pk) / packed.result["file"]
    for file in (kept_pictures().folder / "faces").iterdir():
        file.unlink()
    from studio.studies.archive import unpack_study

    other = unpack_study(path, path.name, lambda _stage, _share: None)
    assert isinstance(other, Study) and read_document(json.loads(other.head.text)).look.lettering.face == face["face"]  # type: ignore[union-attr]
    assert kept_pictures().face_path(face["face"].removeprefix("own-")) is not None


def test_documents_of_before_there_were_notes_open_with_the_lettering_of_today() -> None:
    from warmgraphite.study import fresh_document

    data = fresh_document("S").model_dump(mode="json")
    old = {**data, "format": 8}
    old.pop("boards")
    for view in old["views"]:
        view.pop("notes")
    for finish in old["finishes"]:
        finish.pop("lettering")
    assert read_document(old) == read_document(data)
