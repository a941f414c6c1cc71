"""The collage bench over HTTP: pouring, the stock, variants, what would fill in, a study packed and unpacked."""

from __future__ import annotations

import io
import json
import zipfile
from typing import Any

import pytest
from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from studio.jobs.models import Job
from studio.jobs.queue import enqueue
from studio.stock.models import StockPicture, kept_pictures
from studio.studies.clearing import clear_unused
from studio.studies.desk import picture_path, variant_key, variant_looks
from studio.studies.models import Study
from tests.studio.conftest import Api

WALL = {"kind": "match", "parts": ["Wall"]}
STEP = {"kind": "match", "parts": ["Step"]}


def picture(colour: str = "#b07050", name: str = "bark.png") -> SimpleUploadedFile:
    out = io.BytesIO()
    Image.effect_noise((96, 64), 60).convert("RGB").save(out, "PNG") if colour == "noise" else Image.new(
        "RGB", (96, 64), colour
    ).save(out, "PNG")
    return SimpleUploadedFile(name, out.getvalue(), "image/png")


def pour(api: Api, trace: dict[str, Any], where: dict[str, Any] | None) -> Any:
    answer = api.do({"do": "pour_trace", "trace": trace, "where": where})
    return answer.json()


def taken_in(api: Api, file: SimpleUploadedFile) -> dict[str, Any]:
    """The picture in the stock that a received file becomes, or what is said of the file."""
    answer = api.client.post("/api/pictures", {"file": file}).json()
    job = Job.objects.get(pk=answer["id"])
    if job.state != "done":
        return {"message": job.message}
    found: dict[str, Any] = next(
        p for p in api.client.get("/api/pictures").json() if p["digest"] == job.result["digest"]
    )
    return found


def traces(api: Api) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = api.study()["look"]["traces"]
    return found


def drawn(api: Api) -> bytes:
    """The picture on the desk, once it is whole."""
    api.client.post(f"{api.base}/desk", b"", "application/json")
    answer = api.get("/preview", width=200)
    assert answer.status_code == 200
    return bytes(answer.content)


def test_pouring_grows_one_trace_takes_out_what_is_tapped_again_and_ends_with_nothing(api: Api) -> None:
    before = traces(api)
    wash = {"kind": "wash", "id": "brick", "name": "Brick red", "colour": "#cf8f72"}
    pour(api, wash, WALL)
    order = [t["id"] for t in traces(api)]
    assert order.index("brick") == order.index("hatches") - 1  # beneath all that is inked
    pour(api, wash, STEP)
    held = next(t for t in traces(api) if t["id"] == "brick")["where"]
    assert [q["parts"] for q in held["of"]] == [["Wall"], ["Step"]] and len(traces(api)) == len(before) + 1
    pour(api, wash, WALL)
    assert next(t for t in traces(api) if t["id"] == "brick")["where"]["parts"] == ["Step"]
    pour(api, wash, STEP)
    assert traces(api) == before
    # Laid over all; and what is no region, or no trace, is a sentence.
    pour(api, wash, None)
    assert next(t for t in traces(api) if t["id"] == "brick")["where"] is None
    assert "already" in pour(api, wash, None)["message"]
    assert "texture" in pour(api, {"kind": "texture", "id": "a", "name": "a", "texture": "fur"}, WALL)["message"]
    wide = {
        **wash,
        "id": "wide",
        "where": {"kind": "any", "of": [{"kind": "match", "parts": [f"P{k}"]} for k in range(100)]},
    }
    pour(api, wide, None)
    assert "100 regions" in pour(api, wide, WALL)["message"]


def test_what_lies_in_stock_is_drawn_at_the_drawings_scale(api: Api) -> None:
    stock = api.client.get("/api/choices").json()["stock"]
    assert {i["group"] for i in stock} == {
        "washes",
        "textures",
        "backdrops",
        "tones",
        "adjustments",
        "gestures",
        "sheets",
    }
    for item in stock[::9]:
        answer = api.client.get(f"/api/stock/{item['id']}/sample?width=20&height=12&scale=50&pixels=60")
        image = Image.open(io.BytesIO(answer.content))
        assert image.size == (60, 36) and answer["Content-Type"] == "image/png"
    assert api.client.get("/api/stock/textures-fur/sample?width=20&height=12").status_code == 404
    assert api.client.get("/api/stock/textures-brick/sample?width=20&height=99999").status_code == 422


@pytest.mark.deep
def test_a_picture_is_taken_in_laid_at_its_real_width_and_kept_while_somebody_shows_it(api: Api) -> None:
    taken = taken_in(api, picture("noise"))
    assert (taken["name"], taken["kind"], taken["width"]) == ("bark", "PNG", 96)
    again = kept_pictures().path(taken["digest"]).read_bytes()
    twice = taken_in(api, SimpleUploadedFile("again.png", again))
    assert (twice["digest"], twice["name"]) == (taken["digest"], "bark")
    change = lambda body: api.client.patch(f"/api/pictures/{taken['digest']}", json.dumps(body), "application/json")
    assert change({"real_width": 2.5, "endless": "patches"}).json()["item"]["trace"]["real_width"] == 2.5
    assert change({"corners": [[0, 0], [1, 0], [0, 1], [1, 1]]}).status_code == 422  # they do not go round
    assert change({"name": " "}).status_code == 422 and StockPicture.objects.get(digest=taken["digest"]).name == "bark"
    item = change({"corners": [[0.1, 0.1], [0.9, 0], [1, 1], [0, 0.9]]}).json()["item"]
    assert api.client.get(f"/api/stock/{item['id']}/sample?width=20&height=12&scale=50&pixels=60").status_code == 200
    api.do({"do": "open_view", "view_id": "view-2"})
    pour(api, {**item["trace"], "id": "bark", "name": "Bark"}, WALL)
    with_it = drawn(api)
    api.edit("look", ["traces", "bark", "on"], False)
    assert with_it != drawn(api)
    assert "laid in the study" in api.client.delete(f"/api/pictures/{taken['digest']}").json()["message"]
    other = taken_in(api, picture("#102030", "slate.png"))
    assert api.client.delete(f"/api/pictures/{other['digest']}").status_code == 204
    assert len(api.client.get("/api/pictures").json()) == 1
    clear_unused(young=-1)
    assert kept_pictures().has(taken["digest"]) and not kept_pictures().has(other["digest"])
    for bad, said in ((b"nothing", "no picture"), (b"\x89PNG\r\n\x1a\n broken", "is no picture")):
        assert said in taken_in(api, SimpleUploadedFile("a.png", bad))["message"]
    assert not list((settings.DATA / "incoming").glob("[!.]*")) and len(api.client.get("/api/pictures").json()) == 1


def test_a_study_is_packed_and_comes_back_elsewhere_with_its_pictures(api: Api) -> None:
    taken = taken_in(api, picture("noise"))
    api.client.patch(
        f"/api/pictures/{taken['digest']}", json.dumps({"name": "Bark", "real_width": 2.0}), "application/json"
    )
    pour(api, {**taken["item"]["trace"], "id": "bark", "name": "Bark"}, WALL)
    before = api.study()["document"]
    job = api.client.post(f"{api.base}/archive", b"", "application/json").json()
    packed = api.client.get(f"/api/jobs/{job['id']}/file")
    data = b"".join(packed.streaming_content) if packed.streaming else packed.content
    assert sorted(n.split("/")[0] for n in zipfile.ZipFile(io.BytesIO(data)).namelist()) == [
        "model",
        "model",
        "pictures",
        "study.json",
    ]
    # Another machine: nothing of it is there.
    StockPicture.objects.all().delete()
    kept_pictures().path(taken["digest"]).unlink()
    take = lambda content: api.client.post(
        "/api/archives", {"file": SimpleUploadedFile("house.study.zip", content)}
    ).json()
    done = Job.objects.get(pk=take(data)["id"])
    assert done.state == "done", done.message
    study = Study.objects.get(slug=done.result["slug"])
    after = study.document.model_dump(mode="json")
    assert after == before and len(study.model.parts) == 3 and study.undo_label() == ""
    row = StockPicture.objects.get()
    assert (row.name, row.trace.real_width) == ("Bark", 2.0) and kept_pictures().has(row.digest)
    # What is damaged, or something else, is one sentence, and leaves nothing.
    count = Study.objects.count()

    def changed(name: str, content: bytes) -> bytes:
        out = io.BytesIO()
        with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w") as new:
            for entry in old.namelist():
                new.writestr(entry, content if entry == name else old.read(entry))
        return out.getvalue()

    newer = json.dumps({"format": 99, "study": {}}).encode()
    for bad in (
        b"PK nothing",
        data[:-300],
        changed("study.json", b"[]"),
        changed("study.json", newer),
        changed("model/body.npz", b"x" * 900),
    ):
        job_ = Job.objects.get(pk=take(bad)["id"])
        assert job_.state == "failed" and job_.message.endswith("."), job_.message
    assert Study.objects.count() == count and not list((settings.DATA / "incoming").glob("[!.]*"))


@pytest.mark.deep
def test_one_view_hangs_in_every_finish_and_the_print_is_warned_of(api: Api) -> None:
    api.do({"do": "keep_finish", "name": "Dark"})
    dark = {
        "kind": "wash",
        "id": "dark",
        "name": "Dark",
        "colour": "#101010",
        "second": "#101010",
        "density": 3.0,
        "blend": "normal",
    }
    pour(api, dark, None)
    rows = api.client.post(f"{api.base}/variants", b"", "application/json").json()
    assert [(r["name"], r["worn"]) for r in rows] == [("Graphite and wash", False), ("Dark", True)]
    pictures = [api.client.get(r["picture"]) for r in rows]
    assert all(p.status_code == 200 for p in pictures) and pictures[0].content != pictures[1].content
    worked = Job.objects.filter(kind="variants").count()
    assert [r["picture"] for r in api.client.post(f"{api.base}/variants", b"", "application/json").json()] == [
        r["picture"] for r in rows
    ]
    assert Job.objects.filter(kind="variants").count() == worked  # they hang there already
    study, before = api.study(), Study.objects.get()
    newer = api.post("/model", {"base": study["revision"], "edits": [{"do": "drop", "parts": [1]}]})
    after = Study.objects.get()
    assert newer.status_code == 200 and after.model_version != before.model_version
    look = variant_looks(after.document)[0][1]
    keys = [variant_key(model, after.document, look) for model in (before.model, after.model)]
    assert keys[0] != keys[1] and not picture_path(after, keys[1]).exists()
    enqueue(
        "variants", "late", {"document": after.document.model_dump(mode="json"), "version": after.model_version}, after
    )
    assert picture_path(after, keys[1]).exists()
    assert api.client.get(f"{api.base}/variant-pictures/variant-..%2f..%2fx").status_code == 404
    drawn(api)
    told = api.get("/histogram", width=300).json()
    assert len(told["bins"]) == 64 and sum(told["bins"]) == pytest.approx(1, abs=0.01) and "fills in" in told["warning"]
    pour(api, {"kind": "for-print", "id": "print", "name": "Lighten for print", "lift": 1.0, "black": 0.3}, None)
    drawn(api)
    assert api.get("/histogram", width=300).json()["fills_in"] < told["fills_in"] - 0.15
