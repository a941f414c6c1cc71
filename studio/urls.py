"""Addresses: the API, and the built front end for everything else."""

from __future__ import annotations

import logging

from django.conf import settings
from django.core.exceptions import RequestDataTooBig, TooManyFieldsSent, TooManyFilesSent
from django.http import Http404, HttpRequest, HttpResponse
from django.http.multipartparser import MultiPartParserError
from django.urls import path, re_path
from ninja import NinjaAPI, Schema
from ninja.errors import HttpError, ValidationError

from studio import holding
from studio.jobs.api import router as jobs
from studio.jobs.leases import any_ready
from studio.sentences import BUSY, no_room, refusal
from studio.stock.api import router as stock
from studio.studies.api import router as studies
from studio.studies.boards_api import router as studies_boards
from studio.studies.choices_api import router as studies_choices
from studio.studies.collage_api import router as studies_collage
from studio.studies.desk_api import router as studies_desk
from studio.studies.figures_api import router as studies_figures
from studio.studies.files_api import router as studies_files
from studio.studies.ink_api import router as studies_ink
from studio.studies.marks_api import router as studies_marks
from studio.studies.masks_api import router as studies_masks
from studio.studies.model_api import router as studies_models
from studio.studies.models import ChangedElsewhere, StudyUnreadable
from studio.studies.notes_api import router as studies_notes
from studio.studies.out_api import router as studies_out
from studio.studies.pointing_api import router as studies_pointing
from studio.studies.proof_api import router as studies_proof
from warmgraphite import __version__
from warmgraphite.errors import GraphiteError

log = logging.getLogger(__name__)

api = NinjaAPI(title="Warm Graphite", version="1", docs_url=None)
api.add_router("", studies)
api.add_router("", studies_choices)
api.add_router("", studies_desk)
api.add_router("", studies_pointing)
api.add_router("", studies_figures)
api.add_router("", studies_collage)
api.add_router("", studies_ink)
api.add_router("", studies_marks)
api.add_router("", studies_masks)
api.add_router("", studies_models)
api.add_router("", studies_files)
api.add_router("", studies_notes)
api.add_router("", studies_boards)
api.add_router("", studies_out)
api.add_router("", studies_proof)
api.add_router("", stock)
api.add_router("", jobs)


def _say(request: HttpRequest, status: int, message: str = "", **more: object) -> HttpResponse:
    return api.create_response(request, {"message": message or refusal(status), **more}, status=status)


@api.exception_handler(GraphiteError)
def _said(request: HttpRequest, error: GraphiteError) -> HttpResponse:
    if isinstance(error, StudyUnreadable):
        study = error.study
        assert study.head is not None
        about = {
            "slug": study.slug,
            "revision": study.head.number,
            "undo": study.undo_label(),
            "redo": study.redo_label(),
            "mending": bool(error.mending),
            "lost": error.lost,
        }
        return _say(request, 409, str(error), unreadable=about)
    return _say(request, 409 if isinstance(error, ChangedElsewhere) else 422, str(error))


@api.exception_handler(ValidationError)
def _not_valid(request: HttpRequest, error: ValidationError) -> HttpResponse:
    rows = [
        f"“{'.'.join(str(p) for p in row['loc'][2:]) or row['loc'][-1]}”: {row['msg'].lower()}"
        for row in error.errors[:4]
    ]
    return _say(request, 422, ("This could not be done: " + "; ".join(rows))[:1000] + ".")


@api.exception_handler(Http404)
def _nothing_there(request: HttpRequest, error: Http404) -> HttpResponse:
    return _say(request, 404)


@api.exception_handler(HttpError)
def _refused(request: HttpRequest, error: HttpError) -> HttpResponse:
    return _say(request, error.status_code)


@api.exception_handler(RequestDataTooBig)
def _too_big(request: HttpRequest, error: Exception) -> HttpResponse:
    return _say(
        request,
        413,
        f"This is more than {settings.DATA_UPLOAD_MAX_MEMORY_SIZE // 1_000_000} MB at once, and was not taken in.",
    )


@api.exception_handler(TooManyFilesSent)
@api.exception_handler(TooManyFieldsSent)
def _too_many(request: HttpRequest, error: Exception) -> HttpResponse:
    most = settings.DATA_UPLOAD_MAX_NUMBER_FILES
    return _say(
        request, 413, f"These are more than {most} files at once; pack the model and its pictures into one zip archive."
    )


@api.exception_handler(MultiPartParserError)
def _broken_form(request: HttpRequest, error: Exception) -> HttpResponse:
    return _say(request, 400, "What was sent broke off or is damaged; send it again.")


@api.exception_handler(UnicodeEncodeError)
def _half_a_letter(request: HttpRequest, error: Exception) -> HttpResponse:
    return _say(request, 422, "A text holds half of a letter, which cannot be kept; type it again.")


@api.exception_handler(RecursionError)
def _without_end(request: HttpRequest, error: Exception) -> HttpResponse:
    return _say(
        request,
        422,
        "What was sent is nested deeper than anything that is kept here; it is damaged, or something else.",
    )


@api.exception_handler(Exception)
def _fault(request: HttpRequest, error: Exception) -> HttpResponse:
    said = no_room(error)
    if said:
        return _say(request, 503 if said == BUSY else 507, said)
    log.exception("%s %s failed", request.method, request.path)
    return _say(request, 500)


@api.get("/ready", include_in_schema=False)
def ready(request: HttpRequest) -> dict:
    """Whether there is a worker that takes jobs."""
    return {"ready": any_ready()}


class AboutOut(Schema):
    """What runs here."""

    version: str


@api.get("/about", response=AboutOut)
def about(request: HttpRequest) -> AboutOut:
    """Which version this is."""
    return AboutOut(version=__version__)


def page(request: HttpRequest) -> HttpResponse:
    """The one page of the application; its own routes are the front end's."""
    index = settings.WEB / "index.html"
    if not index.exists():
        return HttpResponse("The front end is not built; start with ./run demo.", status=503, content_type="text/plain")
    response = HttpResponse(index.read_bytes(), content_type="text/html; charset=utf-8")
    response["Cache-Control"] = "no-cache"
    return response


urlpatterns = [path("api/memory", holding.page), path("api/", api.urls), re_path(r"^(?!api/|assets/).*$", page)]
handler400 = "studio.front.bad_request"
handler404 = "studio.front.not_found"
handler500 = "studio.front.server_error"
