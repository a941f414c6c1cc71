"""A small study through the API, and jobs that run at once."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from django.conf import settings
from django.test import Client

from studio.jobs.queue import huey
from tests.conftest import box, model_of
from warmgraphite.view.specification import Cut, Frame, Parallel, ViewSpecification

settings.DATA.mkdir(parents=True, exist_ok=True)
import studio.studies.model_work  # noqa: E402
import studio.studies.work  # noqa: E402, F401

SMALL = Frame(width=100, height=70, scale=100, resolution=60)
VIEWS = [
    ViewSpecification(name="Section", projection=Parallel(direction=(0, 1, 0)), cuts=(Cut(point=(0, 0.5, 0), normal=(0, -1, 0)),), frame=SMALL),
    ViewSpecification(name="From above", projection=Parallel(direction=(0.4, 1, -0.8)), frame=SMALL),
]  # fmt: skip


@pytest.fixture()
def jobs_at_once(transactional_db: None) -> Any:
    # What is kept goes by what it depends on, so it would outlive the test that it was made in.
    for folder in ("passes", "pictures", "exports", "health", "incoming", "received"):
        shutil.rmtree(settings.DATA / folder, ignore_errors=True)
        (settings.DATA / folder).mkdir()
    huey.immediate = True
    yield
    huey.immediate = False


@pytest.fixture()
def study(jobs_at_once: None) -> str:
    from studio.studies import desk
    from studio.studies.models import create_study

    desk._drawings.clear()
    desk._plates.clear()
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

    def post(self, path: str, body: dict) -> Any:
        return self.client.post(self.base + path, body, content_type="application/json")

    def edit(self, path: list[str], value: Any, label: str = "Change", gesture: str = "", base: int | None = None) -> Any:
        base = self.study()["revision"] if base is None else base
        changes = [{"path": path, "value": value}]
        return self.post("/edits", {"base": base, "label": label, "changes": changes, "gesture": gesture})


@pytest.fixture()
def api(study: str) -> Api:
    return Api(study)


@pytest.fixture()
def upload() -> Callable[..., Any]:
    def send(*paths: Path) -> Any:
        return Client().post("/api/uploads", {"files": [p.open("rb") for p in paths]})

    return send
