"""Pointing at the drawing on the desk over HTTP: what lies there, what a rule holds, and what a query means."""

from __future__ import annotations

from typing import Any, Literal

from django.http import Http404, HttpRequest, HttpResponse
from ninja import Router, Schema
from pydantic import Field

from studio.jobs.api import JobOut
from studio.studies import desk, pointing
from studio.studies.api import study_of
from studio.studies.desk_api import WideningOut, given_back, mapped_drawing, mapping_job
from studio.studies.models import Study
from warmgraphite.regions.query import NamedRegion, Query

__all__ = ["PointIn", "PointedOut", "ProbeOut", "point", "read_held", "read_probe", "read_region_mask", "shape_region"]

router = Router()


class ProbeOut(Schema):
    part: int | None
    name: str = ""
    layer: str = ""
    material: str
    role: str
    distance: float | None
    light: str
    cut: bool
    glass: bool
    pen: str
    #: The figure that it belongs to.
    figure: str = ""
    line: str = ""
    #: Pictures from elsewhere that hide it, the uppermost first.
    under: list[str] = []


class PointedOut(Schema):
    """The region at a place: what it is called, the query that means it, and its rings in frame millimetres.

    ``job`` makes the map where there is none yet; then there is nothing else.
    """

    job: JobOut | None = None
    widenings: list[WideningOut] = []
    wide: int = 0
    called: str = ""
    query: Query | None = None
    rings: list[list[tuple[float, float]]] = []
    share: float = 0.0
    part: int | None = None
    figure: str = ""
    material: str = ""
    cut: bool = False
    from_pixels: bool = False


class PointIn(Schema):
    """A place of the drawing in frame millimetres; ``wide`` steps wider than what lies there."""

    x: float = Field(allow_inf_nan=False)
    y: float = Field(allow_inf_nan=False)
    wide: int = Field(default=0, ge=0, le=100)


@router.get("/studies/{slug}/{room}/{rule_id}/lines", response=list[list[tuple[float, float]]])
def read_held(
    request: HttpRequest, slug: str, room: Literal["pens", "poche", "surfaces", "construction"], rule_id: str
) -> Any:
    """What a rule of the look takes hold of in the drawing on the desk, as lines in frame millimetres.
    None while it is stale.
    """
    study = study_of(slug)
    drawing, look = desk.on_desk(study, study.document)
    rule = next((r for r in getattr(look, room) if r.id == rule_id), None)
    # A rule that is on its way, or just went, takes hold of nothing yet.
    if rule is None or not all(drawing.fresh(("regions",) if room == "surfaces" else ("lines", "poche")).values()):
        return []
    return pointing.held_lines(drawing, rule)


@router.post("/studies/{slug}/pointed", response={200: PointedOut, 204: None})
def point(request: HttpRequest, slug: str, body: PointIn) -> Any:
    """The region at a place of the drawing; a job makes the map where there is none yet."""
    study = study_of(slug)
    drawing = mapped_drawing(study)
    if drawing is None:
        return 200, PointedOut(job=mapping_job(study))
    found = pointing.point_out(drawing, body.x, body.y, body.wide)
    return (200, PointedOut(**found)) if found else (204, None)


def _kept_region(study: Study, region_id: str) -> NamedRegion:
    found = next((r for r in study.document.regions if r.id == region_id), None)
    if found is None:
        raise Http404
    return found


@router.post("/studies/{slug}/regions/{region_id}/shape", response=PointedOut)
def shape_region(request: HttpRequest, slug: str, region_id: str) -> PointedOut:
    """A kept region in the view on the desk; a job makes the map where there is none yet."""
    study = study_of(slug)
    region = _kept_region(study, region_id)
    drawing = mapped_drawing(study)
    if drawing is None:
        return PointedOut(job=mapping_job(study))
    return PointedOut(called=region.name, query=region.query, **pointing.named_shape(drawing, region))


@router.get("/studies/{slug}/regions/{region_id}/mask")
def read_region_mask(request: HttpRequest, slug: str, region_id: str, width: int = 1600) -> HttpResponse:
    """A kept region as a grey PNG of any size that can be held; 204 while there is no map of the drawing."""
    study = study_of(slug)
    region = _kept_region(study, region_id)
    drawing = mapped_drawing(study)
    return given_back(None if drawing is None else pointing.region_mask(drawing, region, width), False, "image/png")


@router.get("/studies/{slug}/probe", response={200: ProbeOut, 204: None})
def read_probe(request: HttpRequest, slug: str, x: float, y: float) -> Any:
    """What lies at a place of the drawing, in frame millimetres."""
    study = study_of(slug)
    found = pointing.probe(study, study.document, x, y)
    return (200, found) if found else (204, None)
