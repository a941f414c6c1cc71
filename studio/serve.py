"""The production server: one process, so that drawn layers are kept once.

Requests are taken in by one loop and given to a thread when they are there whole: one that is sent half, or byte by byte,
holds up nobody.
"""

from __future__ import annotations

import logging
import os
import signal
import sys
import threading
from importlib import import_module

from django.core.wsgi import get_wsgi_application

from studio.parent import end_with_parent, wait_for_gate

__all__ = ["main"]


def _warm() -> None:
    """Draw the sample study's desk once, so that the first page finds fonts, model and layers in memory."""
    from django.db import connection
    from django.test import RequestFactory

    from studio.studies.api import list_studies
    from studio.studies.desk import preview
    from studio.studies.models import Study
    from studio.warming import keep_for_good

    try:
        list_studies(RequestFactory().get("/"))
        study = Study.objects.select_related("head").filter(is_sample=True, head__isnull=False).first()
        if study:
            preview(study, study.document, 1280)
        keep_for_good()
    except Exception as error:  # a cold start is slower, nothing worse
        logging.getLogger(__name__).warning("the first drawing could not be made ready: %s", error)
    finally:
        connection.close()


def main(address: str) -> None:
    """Serve at ``host:port`` until told to end."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "studio.settings")
    end_with_parent()
    application = get_wsgi_application()
    import_module("studio.urls")  # and with it all that answers, so that the first request waits for nothing
    wait_for_gate()
    from django.conf import settings
    from waitress import create_server

    logging.getLogger("waitress").setLevel(logging.ERROR)
    server = create_server(
        application,
        listen=address,
        threads=settings.SERVER_THREADS,
        channel_timeout=settings.SERVER_SECONDS,
        cleanup_interval=max(1, settings.SERVER_SECONDS // 4),
        connection_limit=settings.SERVER_CONNECTIONS,
        max_request_body_size=settings.UPLOAD_LIMIT + 1_000_000,
        asyncore_use_poll=True,
        ident="",
    )
    threading.Thread(target=_warm, daemon=True).start()

    def end(*_: object) -> None:
        raise SystemExit(0)

    signal.signal(signal.SIGTERM, end)
    server.run()


if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "127.0.0.1:8640")
