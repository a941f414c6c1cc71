"""One application for all interface tests."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

import pytest

from tests.interface.desk import Desk
from tests.interface.serve import application, browser


@pytest.fixture(scope="session")
def address(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    os.environ["WARMGRAPHITE_DESK_PIXELS"] = "1000"  # what is asked here does not hang on finer tones
    with application(tmp_path_factory.mktemp("data")) as found:
        yield found


@pytest.fixture()
def downloads(tmp_path: Path) -> Path:
    folder = tmp_path / "downloads"
    folder.mkdir()
    return folder


@pytest.fixture()
def desk(address: str, downloads: Path) -> Iterator[Desk]:
    with browser(downloads) as driver:
        found = Desk(driver, address)
        yield found
        assert [f for f in found.faults() if "409" not in f and "422" not in f] == []
