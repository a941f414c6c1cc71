"""What the collage bench asks for over HTTP: samples of the stock, and what of the picture would fill in when it is printed."""

from __future__ import annotations

from functools import lru_cache

from django.http import Http404, HttpRequest, HttpResponse
from ninja import Query, Router, Schema
from pydantic import Field

from studio.studies import desk
from studio.studies.api import study_of
from warmgraphite.collage.histogram import Histogram
from warmgraphite.collage.stock import shipped
from warmgraphite.drawing.trace_sample import trace_sample

router = Router()


class StockSample(Schema):
    """Millimetres of a drawing at 1:``scale``, and pixels across."""

    width: float = Field(ge=5, le=120)
    height: float = Field(ge=5, le=80)
    scale: float = Field(default=100, ge=1, le=5000)
    pixels: int = Field(default=160, ge=16, le=640)


@lru_cache(maxsize=400)
def _sample(item: str, width: float, height: float, scale: float, pixels: int) -> bytes | None:
    found = next((i for i in shipped() if i.id == item), None)
    return found and trace_sample(found.trace, width, height, scale, pixels)


@router.get("/stock/{item}/sample", include_in_schema=False)
def read_sample(request: HttpRequest, item: str, asked: Query[StockSample]) -> HttpResponse:
    """What is in the stock as PNG, as it lies at a drawing's scale."""
    data = _sample(item, asked.width, asked.height, asked.scale, asked.pixels)
    if data is None:
        raise Http404
    answer = HttpResponse(data, content_type="image/png")
    answer["Cache-Control"] = "private, max-age=86400"
    return answer


@router.get("/studies/{slug}/histogram", response={200: Histogram, 204: None})
def read_histogram(request: HttpRequest, slug: str, width: int = 960, revision: int = 0) -> tuple[int, Histogram | None]:
    """How light and dark the picture on the desk is; 204 while a pass is stale. ``revision`` only makes the address change."""
    study = study_of(slug)
    found = desk.histogram(study, study.document, width)
    return (200, found) if found else (204, None)
