"""The same study by other ways: from the command line, and as the 3D view takes its model."""

from __future__ import annotations

import gzip
import io
import json
import os
import struct
import subprocess
import sys
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from django.conf import settings
from django.test import Client
from PIL import Image

from studio.lookup import find
from studio.studies.models import Study
from tests.studio.conftest import Api
from warmgraphite.passes.store import PassStore


def test_the_3d_view_gets_every_triangle_with_its_part(api: Api) -> None:
    answer = api.get("/mesh")
    data = gzip.decompress(answer.content)
    size = struct.unpack("<I", data[:4])[0]
    head, body = json.loads(data[4 : 4 + size]), data[4 + size :]

    def block(name: str, kind: str) -> np.ndarray:
        at, length = head["blocks"][name]
        assert at % 4 == 0
        return np.frombuffer(body[at : at + length], kind)

    model = Study.objects.get().model
    triangles = block("triangles", "<u4").reshape(-1, 3)
    corners = (block("positions", "<f4").reshape(-1, 3) + np.array(head["origin"]))[triangles]
    area = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    assert (np.diff(area) <= 1e-6).all()  # the largest come first
    rows = {
        (p, tuple(c))
        for p, c in zip(block("parts", "<u4")[triangles[:, 0]], np.round(corners, 4).reshape(-1, 9).tolist())
    }
    wanted = np.round(model.vertices[model.triangles], 4).reshape(-1, 9).tolist()
    assert rows == {(p, tuple(c)) for p, c in zip(model.triangle_part, wanted)} and len(rows) == 36
    assert (
        len(block("edges", "<f4")) == 3 * 12 * 6 and len(block("edge_parts", "<u4")) == 36
    )  # three boxes of twelve edges
    parts = api.get("/parts").json()
    assert [parts["materials"][m]["name"] for m in parts["material"]] == ["Stone", "Wood", "Wood"]


def test_a_study_is_found_by_slug_and_name_and_drawn_without_a_browser(api: Api, tmp_path: Path) -> None:
    api.edit("look", ["pens", "cut", "pen", "weight"], 1.23)
    model, document = find("Test house")
    assert find("test-house")[1] == document and len(model.parts) == 3 and document.look.pens[0].pen.weight == 1.23
    # The command line stands outside the test's database, so it is given this very one.
    script = tmp_path / "here.py"
    script.write_text(
        "from pathlib import Path\nfrom warmgraphite.model.store import ModelStore\nfrom warmgraphite.study import "
        "StudyDocument\n"
        f"def find(name):\n    return ModelStore(Path({str(settings.DATA / 'models')!r})).load({model.version!r}), "
        f"StudyDocument.model_validate_json({document.model_dump_json()!r})\n"
    )
    done = subprocess.run(
        [
            sys.executable,
            "-m",
            "warmgraphite.cli",
            "draw",
            "test-house",
            "--view",
            "A",
            "--out",
            str(tmp_path / "a.svg"),
        ],
        env={**os.environ, "WARMGRAPHITE_STUDIES": "here:find", "PYTHONPATH": f"{tmp_path}:{settings.ROOT}"},
        capture_output=True,
        text=True,
    )
    assert done.returncode == 0 and done.stderr == "", done.stderr
    text = (tmp_path / "a.svg").read_text()
    assert 'stroke-width="1.23"' in text and 'width="100mm"' in text and ">Section<" in text


def test_samples_of_ink_are_drawn_and_what_is_wrong_with_them_is_said(api: Api) -> None:
    client = Client()

    def sample(of: str, **asked: Any) -> Any:
        return client.get(
            f"/api/samples/{of}", {k: v if isinstance(v, (str, float)) else json.dumps(v) for k, v in asked.items()}
        )

    lines = "".join(f"<path d='M{k} 0C{k} 9 {k + 3} 9 {k + 3} 20'/>" for k in range(60))
    tile = client.post(
        "/api/samples/tile", {"text": f"<svg viewBox='0 0 64 20'>{lines}</svg>"}, content_type="application/json"
    ).json()
    assert len(tile["marks"]) == 60
    hatch = {"kind": "hatch", "pattern": "own", "spacing": 8.0, "tile": tile, "colour": "#123456"}
    calm, still = ({"waver": w, "overrun": 2.0} for w in (0.3, 0.0))
    drawn = sample("fill", fill=hatch, width=30.0, height=20.0, scale=50.0, hand=still)
    assert drawn["Content-Type"] == "image/svg+xml" and drawn.content.count(b"#123456") and len(drawn.content) > 5000
    assert (
        sample("fill", fill={"kind": "flat", "colour": "#abcdef"}, width=9.0, height=9.0).content.count(b"#abcdef") == 1
    )
    hands = [
        sample("hand", hand=h, width=40.0, height=10.0, weight=0.5, colour="#654321").content for h in (calm, still)
    ]
    assert hands[0] != hands[1] and all(b"#654321" in h for h in hands)
    for of, asked, said in (
        ("fill", {"fill": {"kind": "hatch", "spacing": -1}}, "This fill"),
        ("hand", {"hand": {"wiggle": 1}}, "This hand"),
        ("fill", {"fill": "{"}, "This fill"), ("hand", {"width": -4.0}, "width"),
    ):  # fmt: skip
        refused = sample(of, **{"width": 9.0, "height": 9.0} | asked)
        assert (
            refused.status_code == 422 and said in refused.json()["message"] and refused.json()["message"].endswith(".")
        )


def test_a_study_is_removed_with_its_history_and_its_jobs(api: Api) -> None:
    api.post("/desk", {})
    assert api.client.delete(api.base).status_code == 204
    assert api.get().status_code == 404 and api.client.get("/api/studies").json() == []


def test_the_store_makes_room_by_what_was_used_longest_ago(tmp_path: Path) -> None:
    store = PassStore(tmp_path, limit=30_000)
    for age, name in enumerate(("old", "middle", "new")):
        store.save(name, {"a": np.zeros(1500)})
        os.utime(store.path(name), (1000 + age, 1000 + age))
    assert store.load("old") is None and store.has("middle") and store.has("new")
    store.load("middle")  # used again: now the other one is the older
    store.save("newest", {"a": np.zeros(1500)})
    assert store.has("middle") and not store.has("new") and store.has("newest")


def test_the_store_gives_arrays_back_as_they_were_small_ones_and_large(tmp_path: Path) -> None:
    rows = {
        "none": np.zeros((0, 2)), "one": np.array(3.5), "words": np.array(["wall", "über"]),
        "no words": np.array([], np.str_), "large": np.arange(30_000.0).reshape(-1, 3),
        **{f"{n} of many": np.full((n % 4, 3), n, [bool, np.uint8, np.int64, np.float32][n % 4]) for n in range(100)},
    }  # fmt: skip
    store = PassStore(tmp_path)
    store.save("rows", rows)
    found = store.load("rows")
    assert found is not None and set(found) == set(rows)
    for name, row in rows.items():
        assert found[name].dtype == row.dtype and found[name].shape == row.shape and (found[name] == row).all(), name
    store.path("rows").write_bytes(store.path("rows").read_bytes()[:-900])
    assert store.load("rows") is None and not store.has("rows")


def test_no_card_of_a_sample_is_blank_before_it_is_drawn_and_none_shows_what_was_before_an_edit(
    study: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    from demo.saltern_steps import steps_views
    from demo.views import sample_views
    from studio.studies import first_pictures

    for slug, file, views in (
        ("alder-weir-kiln-house", "alder-weir-kiln-house.glb", sample_views()),
        ("saltern-steps", "saltern-steps.ifc", steps_views()),
    ):
        for number in range(1, len(views) + 1):
            shown = first_pictures.first_picture(slug, file, 1, f"view-{number}")
            assert shown is not None and Image.open(io.BytesIO(shown)).format == "JPEG"
        assert first_pictures.first_picture(slug, file, 2, "view-1") is None, "it was changed"
        assert first_pictures.first_picture(slug, "mine.glb", 1, "view-1") is None, "it is another model of this name"
    # Over HTTP: what ships is shown, until the first edit.
    api = Api(study)
    picture = lambda: api.get("/views/view-1/picture").content
    drawn_then = picture()
    monkeypatch.setattr(first_pictures, "SAMPLES", {study: ""})
    monkeypatch.setattr(first_pictures, "FOLDER", Path(settings.DATA))
    (Path(settings.DATA) / f"{study}-view-1.jpg").write_bytes(b"as shipped")
    assert picture() == b"as shipped" != drawn_then
    api.edit("view", ["sun", "azimuth"], 200)
    assert picture() != b"as shipped"
