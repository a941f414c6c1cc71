"""Addresses: the API, and the built front end for everything else."""

from __future__ import annotations

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.urls import path, re_path
from ninja import NinjaAPI
from ninja.errors import ValidationError

from studio.jobs.api import router as jobs
from studio.studies.api import router as studies
from studio.studies.model_api import router as studies_models
from studio.studies.models import ChangedElsewhere
from warmgraphite.errors import GraphiteError

api = NinjaAPI(title="Warm Graphite", version="1", docs_url=None)
api.add_router("", studies)
api.add_router("", studies_models)
api.add_router("", jobs)


@api.exception_handler(GraphiteError)
def _said(request: HttpRequest, error: GraphiteError) -> HttpResponse:
    return api.create_response(request, {"message": str(error)}, status=409 if isinstance(error, ChangedElsewhere) else 422)


@api.exception_handler(ValidationError)
def _not_valid(request: HttpRequest, error: ValidationError) -> HttpResponse:
    rows = [f"“{'.'.join(str(p) for p in row['loc'][2:]) or row['loc'][-1]}”: {row['msg'].lower()}" for row in error.errors[:4]]
    return api.create_response(request, {"message": "This could not be done: " + "; ".join(rows) + "."}, status=422)


@api.get("/ready", include_in_schema=False)
def ready(request: HttpRequest) -> dict:
    """Whether the worker has compiled and warmed its kernels."""
    return {"ready": (settings.DATA / "worker.ready").exists()}


def page(request: HttpRequest) -> HttpResponse:
    """The one page of the application; its own routes are the front end's."""
    index = settings.WEB / "index.html"
    if not index.exists():
        return HttpResponse("The front end is not built; start with ./run demo.", status=503, content_type="text/plain")
    response = HttpResponse(index.read_bytes(), content_type="text/html; charset=utf-8")
    response["Cache-Control"] = "no-cache"
    return response


urlpatterns = [path("api/", api.urls), re_path(r"^(?!api/|assets/).*$", page)]
