"""A small study through the API, and jobs that run at once."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from pathlib import Path
from typing import Any, ClassVar

import pytest
from django.conf import settings
from django.test import Client

from studio.jobs.queue import huey
from tests.conftest import box, model_of
from warmgraphite.study import Change, make_changes
from warmgraphite.view.specification import Cut, Frame, Parallel, ViewSpecification

settings.DATA.mkdir(parents=True, exist_ok=True)
import studio.stock.work  # noqa: E402
import studio.studies.model_work  # noqa: E402
import studio.studies.out_work  # noqa: E402
import studio.studies.proof_work  # noqa: E402
import studio.studies.work  # noqa: E402, F401

SMALL = Frame(width=100, height=70, scale=100, resolution=60)
VIEWS = [
    ViewSpecification(name="Section", projection=Parallel(direction=(0, 1, 0)),
        cuts=(Cut(point=(0, 0.5, 0), normal=(0, -1, 0)),), frame=SMALL),
    ViewSpecification(name="From above", projection=Parallel(direction=(0.4, 1, -0.8)), frame=SMALL),
]  # fmt: skip


@pytest.fixture()
def jobs_at_once(transactional_db: None) -> Any:
    # What is kept goes by what it depends on, so it would outlive the test that it was made in.
    for folder in ("passes", "pictures", "exports", "health", "incoming", "received", "sets", "stock"):
        shutil.rmtree(settings.DATA / folder, ignore_errors=True)
        (settings.DATA / folder).mkdir()
    huey.immediate = True
    yield
    huey.immediate = False


@pytest.fixture()
def study(jobs_at_once: None) -> str:
    from studio.studies import desk, work
    from studio.studies.making import create_study

    desk._drawings.clear()
    desk._results.clear()
    work._bench.clear()
    model = model_of(
        ("Wall", box((0, 0, 0), (5, 1, 3)), 0),
        ("Step", box((5, 0, 0), (6, 3, 1)), 2),
        ("Yard", box((-3, -3, -0.4), (9, 6, 0)), 2),
    )
    return create_study("Test house", model, VIEWS).slug


class Api:
    """The HTTP interface with JSON in and out."""

    def __init__(self, slug: str) -> None:
        self.client, self.base = Client(), f"/api/studies/{slug}"

    def get(self, path: str = "", **query: Any) -> Any:
        return self.client.get(self.base + path, query)

    def study(self) -> dict:
        return self.get().json()

    #: What has been told of changes and found to be all of them, by what was asked.
    found_true: ClassVar[set[tuple[str, ...]]] = set()

    def post(self, path: str, body: dict) -> Any:
        """An answer that tells what changed of the study tells all of it.
        Looked at when something is asked for the first time.
        """
        asked = (
            path.rsplit("/", 1)[-1],
            *(str(c.get("do")) for c in body.get("commands") or () if isinstance(c, dict)),
        )
        if asked in self.found_true:
            return self.client.post(self.base + path, body, content_type="application/json")
        self.found_true.add(asked)
        before = self.get()
        answer = self.client.post(self.base + path, body, content_type="application/json")
        told = (
            answer.json() if answer.status_code == 200 and answer["Content-Type"].startswith("application/json") else {}
        )
        told = told.get("changed") or told
        if "changes" in told:
            changes = [Change.model_validate(c) for c in told["changes"]]
            after = told["study"] or make_changes(before.json(), changes)
            assert after == self.study()
        return answer

    def do(self, *commands: dict, base: int | None = None, gesture: str = "", token: str = "") -> Any:
        """Do something to the study as it is."""
        base = self.study()["revision"] if base is None else base
        return self.post("/edits", {"base": base, "commands": commands, "gesture": gesture, "token": token})

    def edit(self, room: str, path: list[str], value: Any, label: str = "Change", **more: Any) -> Any:
        """Set one value of the “view” on the desk, of its “look” or of its “sheet”; pens and poche everywhere."""
        command = {"do": room, "changes": [{"path": path, "value": value}], "label": label}
        return self.do(command | ({"everywhere": path[0] != "traces"} if room == "look" else {}), **more)


@pytest.fixture()
def api(study: str) -> Api:
    return Api(study)


@pytest.fixture()
def upload() -> Callable[..., Any]:
    def send(*paths: Path) -> Any:
        return Client().post("/api/uploads", {"files": [p.open("rb") for p in paths]})

    return send
