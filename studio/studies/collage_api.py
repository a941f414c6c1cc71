"""What the collage bench asks for over HTTP.
Samples of the stock, and what of the picture would fill in when it is printed.
"""

from __future__ import annotations

import re
import uuid

from django.conf import settings
from django.http import Http404, HttpRequest, HttpResponse
from ninja import File, Query, Router, Schema
from ninja.files import UploadedFile
from pydantic import Field, TypeAdapter

from studio.jobs.api import JobOut, job_out
from studio.jobs.models import Job
from studio.jobs.queue import enqueue
from studio.jobs.received import enqueue_received
from studio.stock.models import StockPicture, kept_pictures
from studio.studies import desk
from studio.studies.api import study_of
from studio.studies.names import received_name
from warmgraphite.collage.histogram import Histogram
from warmgraphite.collage.kinds import AnyTrace
from warmgraphite.collage.stock import StockItem, shipped
from warmgraphite.errors import ModelFileError
from warmgraphite.keys import key_of
from warmgraphite.memory import remembered
from warmgraphite.sheet.trace_sample import trace_sample

router = Router()

TRACE: TypeAdapter[AnyTrace] = TypeAdapter(AnyTrace)


class StockSample(Schema):
    """Millimetres of a drawing at 1:``scale``, and pixels across; ``version`` only makes the address change."""

    width: float = Field(ge=5, le=120)
    height: float = Field(ge=5, le=80)
    scale: float = Field(default=100, ge=1, le=5000)
    pixels: int = Field(default=160, ge=16, le=640)
    version: str = Field(default="", max_length=80)


@remembered("samples of the stock")
def _sample(trace: str, width: float, height: float, scale: float, pixels: int) -> bytes:
    return trace_sample(TRACE.validate_json(trace), width, height, scale, pixels, kept_pictures())


def _item(name: str) -> StockItem | None:
    if name.startswith("pictures-"):
        row = StockPicture.objects.filter(digest=name.removeprefix("pictures-")).first()
        return row.item if row else None
    return next((i for i in shipped() if i.id == name), None)


@router.get("/stock/{item}/sample", include_in_schema=False)
def read_sample(request: HttpRequest, item: str, asked: Query[StockSample]) -> HttpResponse:
    """What is in the stock as PNG, as it lies at a drawing's scale."""
    found = _item(item)
    if found is None:
        raise Http404
    data = _sample(found.trace.model_dump_json(), asked.width, asked.height, asked.scale, asked.pixels)
    answer = HttpResponse(data, content_type="image/png")
    answer["Cache-Control"] = "private, max-age=86400"
    return answer


@router.get("/studies/{slug}/histogram", response={200: Histogram, 204: None})
def read_histogram(
    request: HttpRequest, slug: str, width: int = 960, revision: int = 0
) -> tuple[int, Histogram | None]:
    """How light and dark the picture on the desk is; 204 while a pass is stale.
    ``revision`` only makes the address change.
    """
    study = study_of(slug)
    found = desk.histogram(study, study.document, width)
    return (200, found) if found else (204, None)


class VariantOut(Schema):
    """The view on the desk in one finish; its picture has an address, which answers 204 until it is drawn."""

    finish: str
    name: str
    worn: bool
    picture: str


class PhotographIn(Schema):
    seed: int = Field(default=1, ge=0, le=9999)


@router.post("/studies/{slug}/photographs", response=JobOut)
def photograph(request: HttpRequest, slug: str, body: PhotographIn) -> JobOut:
    """Photograph the drawing on the desk with the stand-in for a telephone.
    A job, which takes the photograph into the stock.
    """
    study = study_of(slug)
    assert study.head is not None
    shown = {"version": study.model_version, "seed": body.seed}
    return job_out(enqueue("photograph", f"photograph {uuid.uuid4().hex}", shown, study, study.head.text))


@router.post("/studies/{slug}/variants", response=list[VariantOut])
def draw_variants(request: HttpRequest, slug: str) -> list[VariantOut]:
    """The view on the desk in each finish of the study: a job draws them."""
    study = study_of(slug)
    document = study.document
    rows = [(finish, desk.variant_key(study.model, document, look)) for finish, look in desk.variant_looks(document)]
    missing = [key for _, key in rows if desk.picture(study, key) is None]
    if missing:
        key = f"variants {key_of('variants', missing)}"
        if not Job.has_failed(study, key):
            assert study.head is not None
            enqueue("variants", key, {"version": study.model_version}, study, study.head.text)
    return [
        VariantOut(
            finish=f.id,
            name=f.name,
            worn=f.id == document.on_desk.finish,
            picture=f"/api/studies/{slug}/variant-pictures/{key}",
        )
        for f, key in rows
    ]


@router.get("/studies/{slug}/variant-pictures/{key}")
def read_variant(request: HttpRequest, slug: str, key: str) -> HttpResponse:
    """One picture of the row; 204 while it is being drawn."""
    if not re.fullmatch(r"variant-[0-9a-f]{32}", key):
        raise Http404
    found = desk.picture(study_of(slug), key)
    if found is None:
        return HttpResponse(status=204)
    answer = HttpResponse(found, content_type="image/jpeg")
    answer["Cache-Control"] = "private, max-age=86400"
    return answer


@router.post("/studies/{slug}/archive", response=JobOut)
def pack_archive(request: HttpRequest, slug: str) -> JobOut:
    """Write the study with its model and the pictures that it shows as one archive: a job."""
    study = study_of(slug)
    return job_out(enqueue("pack", f"pack {study.pk} {uuid.uuid4().hex}", {}, study))


@router.post("/archives", response=JobOut)
def take_archive(request: HttpRequest, file: UploadedFile = File(...)) -> JobOut:  # type: ignore[type-arg] # noqa: B008
    """Take a study in from its archive: a job, whose result has its ``slug``."""
    name, _ = received_name(file.name or "study.zip")
    if (file.size or 0) > settings.UPLOAD_LIMIT:
        raise ModelFileError(f"“{name}” is larger than {settings.UPLOAD_LIMIT // 1_000_000} MB, which is not taken in.")
    return job_out(enqueue_received("unpack", {name: file}, name))
