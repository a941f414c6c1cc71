"""How much memory a process of the application may hold, and who holds what: a page for those who build."""

from __future__ import annotations

import gc
import json
import os
import threading
from collections.abc import Callable
from contextlib import suppress
from html import escape
from pathlib import Path
from typing import Any

from django.conf import settings
from django.http import HttpRequest, HttpResponse

from warmgraphite.atomic import atomic_write
from warmgraphite.memory import BUDGET
from warmgraphite.memory.process import give_back, resident

__all__ = ["keep_within", "page"]

#: Bytes that are kept for whoever asks again however large the program itself is.
LEAST = 100_000_000
#: Bytes that may have been freed before they are given back, and seconds between two looks.
UNUSED, SECONDS = 40_000_000, 5.0


def keep_within(
    name: str, size: int, end: threading.Event, busy: Callable[[], bool] = lambda: False, seconds: float = SECONDS
) -> None:
    """From now on this process (``name`` says which it is) holds no more than ``size`` bytes, but while it is ``busy``.
    What the program itself does not take may be kept for whoever asks again.
    """
    BUDGET.set_limit(max(LEAST, size - resident()))
    threading.Thread(target=_look_after, args=(name, size, end, busy, seconds), daemon=True, name="memory").start()


def _tidy() -> None:
    """Give back what was freed, and what only refers to itself."""
    gc.collect()
    give_back()


def _folder() -> Path:
    return Path(settings.DATA) / "memory"


def _settle(size: int, most: int) -> None:
    """Let as much be kept as there is room for.
    What libraries hold unseen, and what lies in pieces between, is known by the whole alone.
    """
    over = resident() - size
    if over > 0:
        BUDGET.set_limit(max(LEAST, min(BUDGET.limit, BUDGET.bytes) - over))
        _tidy()
    elif -over > size // 10:
        BUDGET.set_limit(min(most, BUDGET.limit + size // 50))


def _look_after(name: str, size: int, end: threading.Event, busy: Callable[[], bool], seconds: float) -> None:
    """Every few seconds give back what was freed.
    See that it is no more than it may be, and write down who holds what.
    """
    most = BUDGET.limit
    least, said = resident(), ""
    path = _folder() / f"{os.getpid()}.json"
    for other in _folder().glob("[0-9]*.json"):
        if not _is_alive(other):
            other.unlink(missing_ok=True)
    while not end.wait(seconds):
        now = resident()
        if now > least + UNUSED:
            _tidy()
            least = resident()
        least = min(least, now)
        if not busy():
            _settle(size, most)
        rows = [vars(held) for held in BUDGET.held()]
        about = {"name": name, "size": size, "limit": BUDGET.limit, "bytes": BUDGET.bytes, "held": rows}
        text = json.dumps(about)
        if text != said:
            said = text
            with suppress(OSError):  # nobody needs it but those who look
                path.parent.mkdir(exist_ok=True)
                with atomic_write(path, lasting=False) as draft:
                    draft.write_text(json.dumps({**about, "resident": resident()}))
    path.unlink(missing_ok=True)


def _is_alive(path: Path) -> bool:
    """Whether the process is there that wrote a file: one that was killed leaves its own."""
    return Path("/proc", path.stem).exists() or not Path("/proc/self").exists()


def _processes() -> list[dict[str, Any]]:
    found = []
    for path in filter(_is_alive, _folder().glob("[0-9]*.json")):
        with suppress(OSError, ValueError):
            found.append(json.loads(path.read_text()))
    return sorted(found, key=lambda p: p["name"])


def page(request: HttpRequest) -> HttpResponse:
    """Who holds how much, process by process, as it was a few seconds ago."""
    mb = lambda number: f"{number / 1e6:,.1f}"
    out = [
        "<!doctype html><meta charset=utf-8><title>Memory</title><style>",
        _STYLE,
        "</style><h1>Memory, in megabytes</h1>",
    ]
    for process in _processes():
        out.append(
            f"<h2>{escape(process['name'])}</h2><p>Resident {mb(process['resident'])} of {mb(process['size'])}; kept "
        )
        out.append(
            f"{mb(process['bytes'])} of {mb(process['limit'])}.</p><table><tr><th>Store<th>Things<th>MB<th>Found<th>"
            f"Made<th>Gone"
        )
        for row in (r for r in process["held"] if r["made"]):
            numbers = "".join(f"<td>{row[n]:,}" for n in ("found", "made", "gone"))
            out.append(f"<tr><td>{escape(row['name'])}<td>{row['things']:,}<td>{mb(row['bytes'])}{numbers}")
        out.append("</table>")
    out.append("<p>What several stores share counts once in what is kept, and in each of them.</p>")
    return HttpResponse("".join(out))


_STYLE = "body{font:14px system-ui;margin:2rem;color:#2e2a27}td,th{padding:.1rem .8rem;text-align:right}"
_STYLE += "td:first-child,th:first-child{text-align:left}"
