"""The production server: one process, so that drawn layers are kept once.

Requests are taken in by one loop and given to a thread when they are there whole: one that is sent half, or byte by
byte, holds up nobody.
"""

from __future__ import annotations

import json
import logging
import os
import resource
import signal
import sys
import threading
from collections.abc import Callable, Iterable, Sequence
from concurrent.futures import Future
from importlib import import_module
from pathlib import Path
from typing import Any

from whitenoise import WhiteNoise

from studio.parent import end_with_parent, wait_for_gate

__all__ = ["Opening", "main"]

#: What answers a request: (its environment, what begins the answer) to the pieces of the answer.
Application = Callable[[dict[str, Any], Callable[..., Any]], Iterable[bytes]]


class Opening:
    """What answers from the first moment.
    The page and what it is made of at once, and all else as soon as that is loaded which answers.

    A browser has the page read and drawn while the rest is loaded, which takes some seconds. ``load`` gives the whole
    application.
    """

    def __init__(
        self, pages: Path, hosts: Sequence[str], headers: dict[str, str], load: Callable[[], Application]
    ) -> None:
        self._hosts = hosts
        self._whole: Future[Application] = Future()

        def guarded(said: Any, *_: object) -> None:
            for name, value in headers.items():
                said[name] = value

        files = {"root": pages} if pages.is_dir() else {}
        self._early = WhiteNoise(self._later, **files, index_file=True, add_headers_function=guarded)

        def begin() -> None:
            try:
                self._whole.set_result(load())
            except BaseException as error:
                from studio.sentences import no_room

                if no_room(error):
                    print(no_room(error), file=sys.stderr, flush=True)
                else:
                    logging.getLogger(__name__).exception("the application could not be loaded")
                os._exit(1)  # who started it says so

        threading.Thread(target=begin, daemon=True, name="loading").start()

    def __call__(self, environ: dict[str, Any], begin: Callable[..., Any]) -> Iterable[bytes]:
        # Whom the application answers at all is for it to say: here only those are answered that are surely among them.
        known = environ.get("HTTP_HOST", "").rpartition(":")[0] in self._hosts
        if self._whole.done() or not known or environ["REQUEST_METHOD"] != "GET":
            return self._later(environ, begin)
        return self._early(environ, begin)

    def _later(self, environ: dict[str, Any], begin: Callable[..., Any]) -> Iterable[bytes]:
        if environ.get("PATH_INFO") == "/api/ready" and not self._whole.done():
            begin("200 OK", [("Content-Type", "application/json")])
            return [b'{"ready": false}']
        return self._whole.result()(environ, begin)


def _load() -> Application:
    """All that answers, when the database is ready."""
    from django.core.wsgi import get_wsgi_application

    application = get_wsgi_application()
    import_module("studio.urls")  # and with it all that answers, so that the first request waits for nothing
    wait_for_gate()
    threading.Thread(target=_warm, daemon=True).start()
    return application


def _warm() -> None:
    """Draw the sample study's desk once, so that the first page finds fonts, model and layers in memory."""
    from django.conf import settings
    from django.db import connection
    from django.test import RequestFactory

    from studio.holding import keep_within
    from studio.studies.api import list_studies
    from studio.studies.desk import preview
    from studio.studies.models import Study
    from studio.warming import keep_for_good

    try:
        list_studies(RequestFactory().get("/"))
        keep_for_good()
        keep_within("server", settings.WEB_MEGABYTES * 1_000_000, threading.Event())
        study = Study.objects.select_related("head").filter(is_sample=True, head__isnull=False).first()
        if study:
            preview(study, study.document, 1280)
    except Exception as error:  # a cold start is slower, nothing worse
        logging.getLogger(__name__).warning("the first drawing could not be made ready: %s", error)
    finally:
        connection.close()


def _in_a_sentence(self: Any, ident: str) -> tuple[str, list[tuple[str, str]], bytes]:
    """What the server answers by itself to what is too long or broken, as the application would."""
    from studio.sentences import refusal

    body = json.dumps({"message": refusal(self.code)}).encode()
    return (
        f"{self.code} {self.reason}",
        [("Content-Type", "application/json"), ("Content-Length", str(len(body)))],
        body,
    )


def main(address: str) -> None:
    """Serve at ``host:port`` until told to end."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "studio.settings")
    end_with_parent()
    from django.conf import settings
    from waitress import create_server
    from waitress.utilities import Error

    from studio.front import HEADERS

    logging.getLogger("waitress").setLevel(logging.ERROR)
    # As many connections as are held open, and files beside them: the usual limit is a thousand of both together.
    _, most = resource.getrlimit(resource.RLIMIT_NOFILE)
    wanted = 2 * settings.SERVER_CONNECTIONS
    resource.setrlimit(resource.RLIMIT_NOFILE, (wanted if most == resource.RLIM_INFINITY else min(wanted, most), most))
    Error.to_response = _in_a_sentence
    server = create_server(
        Opening(settings.WEB, settings.ALLOWED_HOSTS, HEADERS, _load),
        listen=address,
        threads=settings.SERVER_THREADS,
        channel_timeout=settings.SERVER_SECONDS,
        cleanup_interval=max(1, settings.SERVER_SECONDS // 4),
        connection_limit=settings.SERVER_CONNECTIONS,
        max_request_body_size=settings.UPLOAD_LIMIT + 1_000_000,
        asyncore_use_poll=True,
        ident="",
    )

    def end(*_: object) -> None:
        raise SystemExit(0)

    signal.signal(signal.SIGTERM, end)
    server.run()


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "127.0.0.1:8640")
