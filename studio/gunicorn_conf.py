"""The production server: one process, so that drawn layers are kept once, and threads for what waits."""

import threading

worker_class = "gthread"
workers = 1
threads = 8
timeout = 120
graceful_timeout = 3
keepalive = 30
control_socket_disable = True


def post_worker_init(worker):  # type: ignore[no-untyped-def]
    """Draw the newest study's desk once, so that the first page finds fonts, model and layers in memory."""

    def first() -> None:
        from django.db import connection
        from django.test import RequestFactory

        from studio.studies.api import list_studies
        from studio.studies.desk import preview
        from studio.studies.models import Study

        try:
            list_studies(RequestFactory().get("/"))
            study = Study.objects.select_related("head").filter(is_sample=True).first()
            if study:
                preview(study, study.document, 1280)
        except Exception as error:  # a cold start is slower, nothing worse
            worker.log.warning("the first drawing could not be made ready: %s", error)
        finally:
            connection.close()

    threading.Thread(target=first, daemon=True).start()
