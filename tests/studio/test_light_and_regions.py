"""Sun, rows of suns and regions through the API; the work is done by jobs."""

from __future__ import annotations

import io
from typing import Any

import numpy as np
import pytest
from PIL import Image

from studio.jobs.models import Job
from tests.studio.conftest import Api

pytestmark = pytest.mark.django_db(transaction=True)


class Table(Api):
    """The same in fewer words: what is asked comes back as JSON, what is done is done upon the newest revision."""

    def ask(self, path: str, **query: Any) -> Any:
        return self.get(f"/{path}", **query).json()

    def begin(self, path: str, **body: Any) -> Any:
        """What is asked for in a way that may start a job."""
        return self.post(f"/{path}", body).json()

    def at(self, path: str, **body: Any) -> None:
        answer = self.post(f"/{path}", {"base": self.study()["revision"], **body})
        assert answer.status_code == 200, answer.content

    def act(self, do: str, **words: Any) -> None:
        answer = self.do({"do": do, **words})
        assert answer.status_code == 200, answer.content

    def refused(self, do: str, **words: Any) -> str:
        answer = self.do({"do": do, **words})
        assert answer.status_code == 422
        return answer.json()["message"]


@pytest.fixture()
def table(study: str) -> Table:
    return Table(study)


VIENNA = {
    "place": "Vienna",
    "latitude": 48.21,
    "longitude": 16.37,
    "zone": "Europe/Vienna",
    "date": "2026-03-21",
    "hour": 15,
}


def sun(table: Table) -> dict:
    return table.study()["document"]["desk"]["view"]["sun"]


def test_the_sun_is_set_by_habit_by_place_and_by_hand(table: Table) -> None:
    assert {c["name"] for c in table.client.get("/api/choices").json()["cities"]} >= {"Vienna", "Nairobi"}
    table.edit("view", ["sun", "softness"], 1.5)
    table.at("sun", preset="left shoulder")
    assert (sun(table)["azimuth"], sun(table)["altitude"], sun(table)["softness"]) == (
        225.0,
        pytest.approx(35.26, abs=0.01),
        1.5,
    )
    table.at("sun", moment=VIENNA)
    found = sun(table)
    assert found["moment"]["place"] == "Vienna" and 225 < found["azimuth"] < 245 and 25 < found["altitude"] < 40
    path = table.ask("sun-path")
    assert path[0][2] == pytest.approx(6.0, abs=0.3) and max(p[1] for p in path) == pytest.approx(90 - 48.21, abs=0.5)
    assert (
        "zone"
        in table.post("/sun", {"base": table.study()["revision"], "moment": VIENNA | {"zone": "Moon"}}).json()[
            "message"
        ]
    )
    assert sun(table) == found


def test_a_day_and_a_year_of_suns_are_drawn_by_a_job_and_chosen_from(table: Table) -> None:
    table.act("open_view", view_id="view-2")  # of the section one sees nothing but cuts
    assert "Choose a place" in table.begin("suns/day")["note"]
    table.at("sun", moment=VIENNA)
    row = table.begin("suns/day")
    assert len(row["suns"]) == len(row["labels"]) == len(row["pictures"]) == 9
    pictures = [table.client.get(address) for address in row["pictures"]]
    assert {p.status_code for p in pictures} == {200} and len({p.content for p in pictures}) == 9
    before = Job.objects.count()
    assert table.begin("suns/day") == row and Job.objects.count() == before  # they are kept
    assert table.begin("suns/year")["labels"][5] == "21 Jun"
    table.edit("view", ["sun"], row["suns"][7])
    assert sun(table)["moment"]["hour"] == row["suns"][7]["moment"]["hour"]
    assert table.client.get(f"{table.base}/sun-pictures/..%2Fx/0").status_code == 404


def test_a_place_is_pointed_out_widened_kept_and_found_again_in_another_view(table: Table) -> None:
    first = table.begin("pointed", x=50.0, y=30.0)
    assert first["job"] and first["job"]["kind"] == "passes" and not first["rings"]
    found = table.begin("pointed", x=50.0, y=30.0)
    words = [w["word"] for w in found["widenings"]]
    assert words[0] == "region" and {"part", "material"} < set(words)
    shares = [table.begin("pointed", x=50.0, y=30.0, wide=k)["share"] for k in range(len(found["widenings"]))]
    assert 0 < shares[0] <= max(shares) and found["rings"] and found["called"]
    assert table.post("/pointed", {"x": -5, "y": 2}).status_code == 204

    table.act("keep_region", name="  Wall  ", query=found["query"])
    kept = table.study()["document"]["regions"]
    assert [r["name"] for r in kept] == ["Wall"] and "rings" not in kept[0]["query"]
    shape = table.begin(f"regions/{kept[0]['id']}/shape")
    assert shape["share"] == pytest.approx(found["share"]) and shape["called"] == "Wall"
    mask = np.asarray(
        Image.open(io.BytesIO(table.client.get(f"{table.base}/regions/{kept[0]['id']}/mask", {"width": 500}).content))
    )
    assert mask.shape == (350, 500) and mask.mean() / 255 == pytest.approx(shape["share"], rel=0.01)

    table.act("open_view", view_id="view-2")
    again = f"regions/{kept[0]['id']}/shape"
    assert table.begin(again)["job"]  # another view has another map
    table.act("open_view", view_id="view-1")
    assert table.begin(again)["share"] == pytest.approx(found["share"])  # and the first one's is still there

    assert "already" in table.refused("keep_region", name="Wall", query=found["query"])
    table.act("rename_region", region_id=kept[0]["id"], name="Other wall")
    assert table.study()["document"]["regions"][0]["name"] == "Other wall"
    table.act("remove_region", region_id=kept[0]["id"])
    assert table.study()["document"]["regions"] == [] and table.study()["undo"] == "Remove region"
    table.at("undo")
    assert table.study()["document"]["regions"][0]["name"] == "Other wall"


def test_a_kept_region_follows_its_part_when_that_is_called_otherwise(table: Table) -> None:
    query = {
        "kind": "not",
        "of": {"kind": "match", "parts": ["Step"], "face": {"part": "Step", "point": [5.5, 0, 0.5]}},
    }
    table.act("keep_region", name="Step", query=query)
    table.at("model", edits=[{"do": "rename", "part": 1, "name": "Doorstep"}])
    inner = table.study()["document"]["regions"][0]["query"]["of"]
    assert inner["parts"] == ["Doorstep"] and inner["face"]["part"] == "Doorstep"


def test_a_coarse_picture_comes_first_and_the_whole_one_replaces_it(table: Table) -> None:
    state = table.begin("desk")
    assert not state["fresh"]
    after = table.ask("desk")
    assert (
        after["fresh"]
        and not after["sketch"]
        and {p["name"] for p in after["passes"]} >= {"occlusion", "colour", "light"}
    )
    coarse, whole = (
        table.client.get(f"{table.base}/preview", {"width": 400, "coarse": c}).content for c in ("true", "false")
    )
    assert coarse and whole and coarse != whole
    # Switching the corners off asks for nothing that is not there.
    table.edit("look", ["traces", "occlusion", "on"], False)
    assert table.ask("desk")["fresh"]
