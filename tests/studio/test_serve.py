"""The page is there from the first moment; what computes answers as soon as it is loaded."""

from __future__ import annotations

import json
import sqlite3
import threading
import time
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from huey import SqliteHuey
from waitress.utilities import BadRequest, Error, RequestEntityTooLarge, RequestHeaderFieldsTooLarge

from studio import holding
from studio.front import HEADERS
from studio.serve import Application, Opening, _in_a_sentence
from warmgraphite.memory import Store


def asked(
    application: Application, path: str, host: str = "127.0.0.1:8640", method: str = "GET"
) -> tuple[str, dict[str, str], bytes]:
    """Status, headers and body of an answer."""
    said: list[Any] = []
    environ = {"REQUEST_METHOD": method, "PATH_INFO": path, "HTTP_HOST": host}
    body = b"".join(application(environ, lambda status, headers, *_: said.extend((status, dict(headers)))))
    return said[0], said[1], body


@pytest.fixture()
def gate() -> threading.Event:
    return threading.Event()


@pytest.fixture()
def opening(tmp_path: Path, gate: threading.Event) -> Opening:
    (tmp_path / "assets").mkdir()
    (tmp_path / "index.html").write_text("<title>Warm Graphite</title>")
    (tmp_path / "assets" / "main.js").write_text("draw()")

    def whole(environ: dict[str, Any], begin: Any) -> list[bytes]:
        begin("200 OK", [("From", "the whole")])
        return [environ["PATH_INFO"].encode()]

    def load() -> Application:
        gate.wait(20)
        return whole

    return Opening(tmp_path, ["127.0.0.1", "localhost"], HEADERS, load)


def test_the_page_is_there_before_what_computes_is_loaded(opening: Opening) -> None:
    for path, body in (("/", b"<title>Warm Graphite</title>"), ("/assets/main.js", b"draw()")):
        status, headers, found = asked(opening, path, "localhost:9000")
        assert status == "200 OK" and found == body
        assert (
            headers["Content-Security-Policy"] == HEADERS["Content-Security-Policy"]
            and headers["X-Frame-Options"] == "DENY"
        )
    assert asked(opening, "/api/ready")[2] == b'{"ready": false}'


@pytest.mark.parametrize(
    ("path", "host", "method"),
    [
        ("/api/studies", "127.0.0.1:1", "GET"),
        ("/study/kiln", "127.0.0.1:1", "GET"),
        ("/", "elsewhere.test:1", "GET"),
        ("/", "127.0.0.1:1", "POST"),
    ],
)
def test_all_else_waits_for_the_whole_application_and_is_answered_by_it(
    opening: Opening, gate: threading.Event, path: str, host: str, method: str
) -> None:
    found: list[Any] = []
    one = threading.Thread(target=lambda: found.append(asked(opening, path, host, method)), daemon=True)
    one.start()
    one.join(0.2)
    assert not found, "answered before there was anybody to answer"
    gate.set()
    one.join(20)
    assert found == [("200 OK", {"From": "the whole"}, path.encode())]
    assert asked(opening, "/api/ready")[1] == asked(opening, "/")[1] == {"From": "the whole"}


@pytest.mark.parametrize("error", [RequestHeaderFieldsTooLarge, RequestEntityTooLarge, BadRequest])
def test_what_the_server_refuses_by_itself_is_a_sentence_too(error: type[Error]) -> None:
    refused = error("")
    status, headers, body = _in_a_sentence(refused, "")
    assert status.startswith(str(refused.code)) and dict(headers)["Content-Type"] == "application/json"
    assert json.loads(body)["message"].endswith(".") and int(dict(headers)["Content-Length"]) == len(body)


def test_a_queue_that_cannot_be_read_is_said_once_and_waited_for(
    monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    from studio.jobs import queue

    def full(*_: object) -> None:
        raise sqlite3.OperationalError("database or disk is full")

    waited = list[float]()
    monkeypatch.setattr(queue._PatientQueue, "_said", -60.0)
    monkeypatch.setattr(SqliteHuey, "dequeue", full)
    monkeypatch.setattr(queue.time, "sleep", waited.append)
    assert [queue.huey.dequeue() for _ in range(5)] == [None] * 5 and waited == [1.0] * 5
    assert len(caplog.records) == 1 and "disk is full" in caplog.text and "Traceback" not in caplog.text


def test_a_process_keeps_within_its_size_and_says_who_holds_what(settings: Any, tmp_path: Path, rf: Any) -> None:
    settings.DATA = tmp_path
    holding.BUDGET.clear()
    kept = Store[Any]("plans & views")
    kept.put("a", np.zeros(20_000_000, np.uint8))
    end = threading.Event()
    before = holding.BUDGET.limit
    try:
        kept.put("b", np.ones(30_000_000, np.uint8))
        holding.keep_within("server", 1, end, seconds=0.02)  # smaller than any program
        assert holding.BUDGET.limit == holding.LEAST
        for _ in range(500):
            said = holding.page(rf.get("/api/memory")).content.decode()
            if "plans &amp; views" in said:
                break
            time.sleep(0.02)
        assert "<h2>server</h2>" in said and "plans &amp; views<td>2<td>50.0" in said
        kept.put("c", np.ones(70_000_000, np.uint8))
        assert "c" in kept and "a" not in kept, "what was there first made room"
    finally:
        end.set()
        holding.BUDGET.set_limit(before)
    for _ in range(500):
        if not list(tmp_path.rglob("*.json")):
            break
        time.sleep(0.02)
    assert not list(tmp_path.rglob("*.json")), "what has ended says nothing any more"
