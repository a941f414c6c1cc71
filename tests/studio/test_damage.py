"""What was harmed on the disk is noticed, said in a sentence, and made anew where it can be.
Harmed is what is empty, cut off, gone or rubbish.
"""

from __future__ import annotations

import gzip
import io
import json
import zipfile
from collections import Counter
from collections.abc import Callable, Iterator
from pathlib import Path
from random import Random
from typing import Any

import numpy as np
import pytest
from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from PIL import Image

from studio.jobs.models import Job
from studio.stock.models import kept_pictures
from studio.studies import desk, mesh
from studio.studies.models import Study, model_of_version, model_store
from tests.conftest import box, deeper, examples, model_of
from tests.studio.conftest import Api
from warmgraphite.memory import BUDGET
from warmgraphite.model import Model
from warmgraphite.model.glb import write_glb
from warmgraphite.passes import store

HOUSE = model_of(("Wall", box((0, 0, 0), (6, 4, 3)), 0), ("Yard", box((-3, -3, -0.4), (9, 7, 0)), 2))
TALLER = model_of(("Wall", box((0, 0, 0), (6, 4, 4)), 0), ("Yard", box((-3, -3, -0.4), (9, 7, 0)), 2))
HARM: dict[str, Callable[[Path], Any]] = {
    "empty": lambda p: p.write_bytes(b""),
    "cut off": lambda p: p.write_bytes(p.read_bytes()[: p.stat().st_size // 2]),
    "gone": Path.unlink,
    "rubbish": lambda p: p.write_bytes(bytes(p.stat().st_size)),
}
harmed = pytest.mark.parametrize("harm", deeper(["cut off"], ["rubbish", "empty", "gone"]))


def forget() -> None:
    """As after a start: nothing is in memory."""
    BUDGET.clear()
    model_store.cache_clear()
    mesh._sound.clear()
    store._sound.clear()


def brought(upload: Callable, scratch: Path, study: str = "", model: Model = HOUSE) -> Api:
    write_glb(model, scratch / "house.glb")
    made = upload(scratch / "house.glb").json()["id"]
    body = {"name": "House", "units": "m", "up": "y", "study": study}
    job = Client().post(f"/api/uploads/{made}/accept", body, content_type="application/json").json()
    done = Client().get(f"/api/jobs/{job['id']}").json()
    assert done["state"] == "done", done
    return Api(done["result"]["slug"])


def files_of(study: Study) -> dict[str, Path]:
    folder = settings.DATA / "models"
    return {"state": folder / f"{study.model_version}.json", "body": folder / f"{study.model.body}.npz"}


@pytest.mark.parametrize(
    ("which", "harm"),
    deeper(
        [("state", "cut off"), ("body", "rubbish")],
        [
            ("state", "empty"),
            ("state", "gone"),
            ("state", "rubbish"),
            ("body", "empty"),
            ("body", "cut off"),
            ("body", "gone"),
        ],
    ),
)
def test_a_model_that_was_harmed_is_made_again_from_its_file(
    jobs_at_once: None, scratch: Path, upload: Callable, which: str, harm: str
) -> None:
    api = brought(upload, scratch)
    whole = model_of_version(Study.objects.get().model_version)
    HARM[harm](files_of(Study.objects.get())[which])
    forget()
    for _ in range(2):  # the first look begins to mend it; with jobs done at once the second finds it mended
        answer = api.get()
    assert answer.status_code == 200
    api.post("/desk", {})
    assert api.get("/desk").json()["fresh"]
    forget()
    assert np.array_equal(Study.objects.get().model.vertices, whole.vertices)


def test_a_body_that_is_harmed_within_heals_once_it_was_looked_at(
    jobs_at_once: None, scratch: Path, upload: Callable
) -> None:
    """Its end is as it should be, so that only who reads it finds out."""
    api = brought(upload, scratch)
    body = files_of(Study.objects.get())["body"]
    data = bytearray(body.read_bytes())
    with zipfile.ZipFile(body) as archive:
        at = archive.getinfo("vertices.npy").header_offset + 200
    data[at : at + 16] = bytes(b ^ 255 for b in data[at : at + 16])
    body.write_bytes(data)
    forget()
    assert api.get("/parts").status_code == 422
    assert api.get().status_code == 409 and api.get().status_code == 200
    forget()
    assert api.get("/parts").status_code == 200


def test_what_cannot_be_made_again_is_a_sentence_with_a_way_out(
    jobs_at_once: None, scratch: Path, upload: Callable
) -> None:
    api = brought(upload, scratch)
    api.post("/model", {"base": api.study()["revision"], "edits": [{"do": "role", "parts": [1], "role": "context"}]})
    state = files_of(Study.objects.get())["state"]
    HARM["cut off"](state)
    forget()
    for _ in range(2):
        answer = api.get()
    said = answer.json()
    assert answer.status_code == 409 and "undo the last change" in said["message"] and not said["unreadable"]["mending"]
    assert Job.objects.get(kind="heal").state == "failed"
    assert api.get("/parts").status_code == 422 and "Traceback" not in api.get("/parts").json()["message"]
    answer = api.client.post(
        api.base + "/undo", {"base": said["unreadable"]["revision"]}, content_type="application/json"
    )
    assert answer.status_code == 200 and api.get().status_code == 200
    # Without anything to go back to, the file is brought again, and the rest of the study goes on with it.
    folder = settings.DATA / "received"
    for file in (*folder.rglob("house.glb"), *files_of(Study.objects.get()).values()):
        file.write_bytes(b"")
    Study.objects.get().revisions.exclude(pk=Study.objects.get().head_id).delete()
    forget()
    said = [api.get().json()["message"] for _ in range(2)][-1]
    assert "bring the file again" in said
    brought(upload, scratch, study=Study.objects.get().slug, model=TALLER)
    assert api.get().status_code == 200 and api.get("/parts").json()["name"] == ["Wall", "Yard"]
    assert "could not be read" in api.get("/files").json()[0]["report"]["notes"][0]


@harmed
def test_what_is_computed_is_computed_again(api: Api, harm: str) -> None:
    api.post("/health", {})
    found, block = api.get("/health").json()["findings"], api.get("/mesh").content
    before = api.post("/views/view-1/picture", {}).content or api.get("/views/view-1/picture").content
    api.post("/desk", {})
    shown = api.get("/preview", width=300).content
    for path in (p for place in ("health", "models", "pictures", "passes") for p in (settings.DATA / place).rglob("*")):
        if path.is_file() and not (path.parent.name == "models" and path.suffix in (".json", ".npz")):
            HARM[harm](path)
    forget()
    api.post("/health", {})
    assert api.get("/health").json()["findings"] == found
    assert gzip.decompress(api.get("/mesh").content) == gzip.decompress(block)
    assert (api.post("/views/view-1/picture", {}).content or api.get("/views/view-1/picture").content) == before
    api.post("/desk", {})
    assert api.get("/preview", width=300).content == shown


@harmed
def test_a_picture_that_was_harmed_hides_no_others_and_comes_again(jobs_at_once: None, harm: str) -> None:
    def take(name: str, data: bytes) -> str:
        job = Client().post("/api/pictures", {"file": SimpleUploadedFile(name, data)}).json()["id"]
        return str(Job.objects.get(pk=job).result["digest"])

    out = io.BytesIO()
    Image.fromarray(np.random.default_rng(2).integers(0, 255, (30, 40, 3), np.uint8)).save(out, "PNG")
    line = b'<svg xmlns="http://www.w3.org/2000/svg" width="80" height="50"><path d="M5 5 L70 40" stroke="black" fill="none"/></svg>'
    bricks, line_drawing = take("bricks.png", out.getvalue()), take("line.svg", line)
    for path in (settings.DATA / "stock").glob("*.*"):
        HARM[harm](path)
    forget()
    rows = {r["digest"]: r for r in Client().get("/api/pictures").json()}
    assert set(rows) == {bricks, line_drawing}
    assert kept_pictures().pixels(bricks) is None
    if harm != "rubbish":
        assert all("damaged" in r["notes"][-1] for r in rows.values())
    take("bricks.png", out.getvalue()), take("line.svg", line)
    forget()
    pixels = kept_pictures().pixels(bricks)
    assert pixels is not None and pixels.shape == (30, 40, 4) and kept_pictures().lines(line_drawing) is not None
    assert not any("damaged" in "".join(r["notes"]) for r in Client().get("/api/pictures").json())


def test_a_file_that_was_written_and_harmed_is_not_given_out(api: Api) -> None:
    job = Job.objects.get(pk=api.post("/exports", {"format": "png", "out": {"resolution": 30}}).json()["id"])
    (path,) = (settings.DATA / "exports" / str(job.pk)).iterdir()
    assert Client().get(f"/api/jobs/{job.pk}/file").status_code == 200
    HARM["cut off"](path)
    answer = Client().get(f"/api/jobs/{job.pk}/file")
    assert answer.status_code == 410 and json.loads(answer.content)["message"].endswith("export it again.")


#: What may stand in the place of any value of an archive.
ODD = (None, True, -1, 7, 1e300, "", "x", "\ud800", [], [[]], {}, {"a": 1}, [1, 2, 3], 2**70, "0" * 32)


def leaves(of: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """The paths of all values in JSON."""
    yield path
    for key, value in of.items() if isinstance(of, dict) else enumerate(of) if isinstance(of, list) else ():
        yield from leaves(value, (*path, key))


def changed(text: bytes, random: Random) -> bytes:
    """JSON with one value that is another, or gone."""
    whole = json.loads(text)
    *above, last = random.choice([p for p in leaves(whole) if p])
    place = whole
    for key in above:
        place = place[key]
    was = place[last]
    if random.random() < 0.2:
        del place[last]
    elif random.random() < 0.5 and isinstance(was, str | float | int):
        place[last] = not was if isinstance(was, bool) else f"{was}x" if isinstance(was, str) else was + 1
    else:
        place[last] = random.choice(ODD)
    return json.dumps(whole).encode()


def body_changed(data: bytes, random: Random) -> bytes:
    """A body with an array that is of another kind, shape or range."""
    with np.load(io.BytesIO(data)) as found:
        arrays = dict(found)
    name = random.choice(["vertices", "triangles", "triangle_part"])
    array = arrays[name]
    ways = [
        array[:-1],
        array.astype("U8"),
        array.ravel(),
        -array - 5,
        array + 10_000_000,
        np.full(array.shape, np.nan),
        array[None],
        array[:0],
    ]
    arrays[name] = random.choice(ways)
    out = io.BytesIO()
    np.savez(out, **arrays)
    return out.getvalue()


def test_a_damaged_archive_is_one_sentence_or_a_study_that_opens(api: Api) -> None:
    job = Job.objects.get(pk=api.post("/archive", {}).json()["id"])
    with zipfile.ZipFile(settings.DATA / "exports" / str(job.pk) / job.result["file"]) as packed:
        members = {n: packed.read(n) for n in packed.namelist()}
    random, outcomes = Random(4), Counter[str]()
    for number in range(examples(deep=400, short=10)):
        name, mine = random.choice(["study.json", "model/state.json", "model/body.npz"]), dict(members)
        if number % 8 == 0:
            mine[name] = random.choice([b"", b"{" * 90_000, mine[name][: len(mine[name]) // 2], b"\xff" + mine[name]])
        elif number % 9 == 0:
            del mine[name]
        else:
            mine[name] = (body_changed if name.endswith("npz") else changed)(mine[name], random)
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as archive:
            for member, data in mine.items():
                archive.writestr(member, data)
        data = out.getvalue() if number % 10 else out.getvalue()[: len(out.getvalue()) * 2 // 3]
        done = Job.objects.get(
            pk=Client().post("/api/archives", {"file": SimpleUploadedFile("a.study.zip", data)}).json()["id"]
        )
        outcomes[done.state] += 1
        if done.state == "failed":
            assert done.message.endswith(".") and "fault of ours" not in done.message, (number, name, done.message)
            continue
        taken = Api(done.result["slug"])
        for path in ("", "/parts", "/mesh", "/landmarks", "/desk", "/files", "/notes", "/health"):
            assert taken.get(path).status_code < 500, (number, name, path)
        assert taken.client.post(taken.base + "/desk", {}, content_type="application/json").status_code < 500, (
            number,
            name,
        )
        assert not [j for j in Job.objects.filter(study__slug=done.result["slug"]) if "fault of ours" in j.message], (
            number,
            name,
        )
        assert taken.client.delete(taken.base).status_code == 204
    assert outcomes["failed"] > 2 and outcomes["done"] > 0, outcomes


def test_the_last_picture_of_a_view_is_there_at_once_whatever_has_changed_since(
    api: Api, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(desk, "_kept_at", {})
    view = api.study()["document"]["desk"]["view_id"]
    assert api.get(f"/views/{view}/last").status_code == 204
    api.post("/desk", {})
    shown = api.get("/preview", width=400).content
    assert api.get(f"/views/{view}/last").content == shown
    # What is drawn without a trace is not the view; an edit leaves the picture as the one before; another view has its
    # own.
    api.get("/preview", width=400, without="lines")
    api.edit("view", ["sun", "azimuth"], 200)
    assert api.get(f"/views/{view}/last").content == shown
    api.post("/views/view-2/picture", {})
    assert api.get("/views/view-2/last").content == api.get("/views/view-2/picture").content != shown
    HARM["cut off"](desk.picture_path(Study.objects.get(), f"last-{view}"))
    assert api.get(f"/views/{view}/last").status_code == 204


def test_what_was_painted_and_harmed_is_said_where_it_is_looked_through(api: Api) -> None:
    from tests.studio.test_collage import pour
    from warmgraphite.regions.painted import _forget

    api.edit("view", ["masks", "m"], {"id": "m", "name": "Brushed", "tiles": ""})
    pour(api, {"kind": "wash", "id": "t", "name": "Shown", "colour": "#a02010", "second": "#a02010"}, None)
    api.edit("look", ["traces", "t", "where"], {"kind": "through", "name": "Brushed"})
    stroke = {"points": [[0, 0], [20, 10]], "size": 10}
    assert api.post("/masks/m/strokes", {"base": api.study()["revision"], "stroke": stroke}).status_code == 200
    remarks = lambda: next(t["remarks"] for t in api.post("/desk", {}).json()["traces"] if t["id"] == "t")
    assert remarks() == []
    for path in (settings.DATA / "stock" / "masks").glob("*.tile"):
        HARM["cut off"](path)
    _forget()
    assert "“Brushed” is gone or damaged" in remarks()[0]
    assert api.get("/preview", width=200).status_code in (200, 204)
