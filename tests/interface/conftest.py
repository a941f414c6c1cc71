"""One application and one browser for all interface tests; a window and a study of its own for each of them."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

import pytest
from selenium import webdriver

from tests.interface.desk import Desk
from tests.interface.serve import Application, application, browser, window


@pytest.fixture(scope="session")
def app(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Application]:
    os.environ["WARMGRAPHITE_DESK_PIXELS"] = "480"  # what is asked here does not hang on finer tones
    with application(tmp_path_factory.mktemp("data")) as found:
        yield found


@pytest.fixture(scope="session")
def chromium() -> Iterator[webdriver.Chrome]:
    with browser() as driver:
        yield driver


@pytest.fixture()
def downloads(tmp_path: Path) -> Path:
    folder = tmp_path / "downloads"
    folder.mkdir()
    return folder


@pytest.fixture()
def desk(
    request: pytest.FixtureRequest, app: Application, chromium: webdriver.Chrome, downloads: Path
) -> Iterator[Desk]:
    """A window on a study of its own.
    A house of a few boxes, or what ``@pytest.mark.parametrize("desk", …, indirect=True)`` names.
    """
    kind = getattr(request, "param", "house")
    with window(chromium, downloads) as handle:
        found = Desk(chromium, app.address, app.study(kind), handle)
        yield found
        assert [f for f in found.faults() if "409" not in f and "422" not in f] == []
