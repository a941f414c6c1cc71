"""Figures over HTTP.
What there is to take, where one would stand, many at once, and where they are in the view on the desk.
"""

from __future__ import annotations

from typing import Annotated, Any, Literal

import numpy as np
from django.http import Http404, HttpRequest, HttpResponse
from ninja import Router, Schema
from pydantic import Field, TypeAdapter

from studio.stock.models import kept_pictures
from studio.studies import pointing
from studio.studies.api import study_of
from studio.studies.figure_samples import PIXELS, sample_of
from studio.studies.models import Study
from warmgraphite.errors import ViewError
from warmgraphite.figures.figure import Figure, FigureItem, OnSheet
from warmgraphite.figures.kinds import KINDS, AnyFigure
from warmgraphite.figures.placing import along_line, dressed_parts, fitted, gathered, on_seats, over_area, stood_at
from warmgraphite.figures.pointing import foot_on_paper, outline_of, pointed_at
from warmgraphite.figures.spots import projection_without
from warmgraphite.figures.stock import figure_stock
from warmgraphite.forms import Setting, settings_of
from warmgraphite.model.model import Model
from warmgraphite.sheet.figure_patch import figure_patch
from warmgraphite.specification import valid

router = Router()

_FIGURE: TypeAdapter[Any] = TypeAdapter(AnyFigure)
Place = tuple[Annotated[float, Field(allow_inf_nan=False)], Annotated[float, Field(allow_inf_nan=False)]]
Ring = list[tuple[float, float]]


class FigureForm(Schema):
    """A kind of figure with its settings."""

    kind: str
    label: str
    settings: list[Setting]


class FigureStockOut(Schema):
    items: list[FigureItem]
    forms: list[FigureForm]


class StandIn(Schema):
    """A figure, as JSON, to be put at a place of the drawing in frame millimetres.
    On what bears there, or on the paper alone, as seen from ``distance`` metres.
    """

    figure: dict[str, Any]
    place: Place
    distance: float | None = Field(default=None, ge=0.1, le=1e5)


class FittedIn(Schema):
    """A figure, as JSON."""

    figure: dict[str, Any]


class StoodOut(Schema):
    """A figure where it stands, its outline in frame millimetres, and what it stands on."""

    figure: dict[str, Any]
    rings: list[Ring]
    foot: Place | None
    on: str


class ManyIn(Schema):
    """Many figures at once.
    In a row along places of the drawing, strewn over the area between them, a group in talk round one, on the seats of
    the model, or in place of ``parts`` of it (of all modelled planting and people where none are named).
    """

    figure: dict[str, Any] | None = None
    how: Literal["row", "area", "group", "seats", "parts"]
    places: list[Place] = Field(default=[], max_length=500)
    apart: float = Field(default=2.0, ge=0.05, le=1000)
    density: float = Field(default=0.1, gt=0, le=100)
    least: float = Field(default=0.5, ge=0, le=100)
    count: int = Field(default=3, ge=2, le=12)
    share: float = Field(default=1.0, ge=0, le=1)
    parts: list[int] = Field(default=[], max_length=20_000)
    seed: int = Field(default=1, ge=0, le=1_000_000)


class OutlineOut(Schema):
    """Where a figure is in the view on the desk, in frame millimetres; nothing where the view does not show it.
    ``tall`` is its height in metres, the usual one where it is told none.
    """

    rings: list[Ring]
    foot: Place | None
    tall: float


def _figure(data: dict[str, Any]) -> Figure:
    with valid("This figure"):
        found: Figure = _FIGURE.validate_python(data)
    return found


def _json(figure: Figure) -> dict[str, Any]:
    return figure.model_dump(mode="json")


@router.get("/figures", response=FigureStockOut)
def read_stock(request: HttpRequest) -> FigureStockOut:
    """What figures there are to take, and the settings of each kind."""
    forms = [
        FigureForm(kind=name, label=kind.label, settings=list(settings_of(kind, {"kind"})))
        for name, kind in KINDS.items()
    ]
    return FigureStockOut(items=figure_stock(), forms=forms)


@router.get("/figures/{item}/sample", include_in_schema=False)
def read_sample(request: HttpRequest, item: str, pixels: int = PIXELS) -> HttpResponse:
    """A figure of the stock as a small picture."""
    data = sample_of(item, min(max(pixels, 32), 600))
    if data is None:
        raise Http404
    response = HttpResponse(data, content_type="image/png")
    response["Cache-Control"] = "private, max-age=86400"
    return response


def _rings(figure: Figure, model: Model, study: Study) -> list[Ring]:
    return pointing.rings_of(outline_of(figure, model, study.document.desk.view, kept_pictures()))


@router.post("/studies/{slug}/figures/stand", response=StoodOut)
def stand(request: HttpRequest, slug: str, body: StandIn) -> StoodOut:
    """Where a figure would stand that is put at a place of the drawing; nothing is changed."""
    study = study_of(slug)
    document, model, figure = study.document, study.model, _figure(body.figure)
    view = document.desk.view
    if body.distance is not None:
        paper = projection_without(model, view)
        on = OnSheet(
            view=document.desk.view_id, x=round(body.place[0] - paper.width / 2, 2),
            y=round(body.place[1] - paper.height / 2, 2),
            distance=body.distance,
        )  # fmt: skip
        stood, called = figure.model_copy(update={"paper": on}), f"on the paper, as from {body.distance:g} m"
    else:
        point = pointed_at(model, view, np.array([body.place], float))[0]
        paper = projection_without(model, view)
        eye = paper.eye if paper.eye is not None else point - paper.sight * 100
        stood = stood_at(model, figure.model_copy(update={"paper": None}), point.tolist(), np.asarray(eye).tolist())
        called = f"{stood.at[2]:+.2f} m"
    return StoodOut(
        figure=_json(stood), rings=_rings(stood, model, study), foot=foot_on_paper(stood, model, view), on=called
    )


@router.post("/studies/{slug}/figures/fitted", response=dict[str, Any])
def read_fitted(request: HttpRequest, slug: str, body: FittedIn) -> Any:
    """A figure put to what it touches where it stands; nothing is changed."""
    figure = _figure(body.figure)
    if figure.paper is not None:
        return _json(figure)
    return _json(
        fitted(study_of(slug).model, figure.model_copy(update={"fits": None}) if hasattr(figure, "fits") else figure)
    )


def _many(study: Study, body: ManyIn) -> list[Figure]:
    model, view = study.model, study.document.desk.view
    figure = _figure(body.figure) if body.figure is not None else None
    if body.how == "parts":
        gone = {p for f in study.document.figures for p in f.replaces}
        roles = model.parts.role
        chosen = body.parts or [
            n for n, p in enumerate(model.parts) if roles[n] in ("planting", "people") and p.path not in gone
        ]
        return dressed_parts(model, chosen, figure, body.seed)
    if figure is None:
        raise ViewError("Take a figure from the stock first.")
    if body.how == "seats":
        return on_seats(model, figure, body.share, body.seed)
    least = {"row": 2, "area": 3, "group": 1}[body.how]
    if len(body.places) < least:
        raise ViewError(f"That needs {least} places at least; click them on the drawing.")
    points = pointed_at(model, view, np.array(body.places, float)).tolist()
    if body.how == "row":
        return along_line(model, figure, points, body.apart, body.seed)
    if body.how == "group":
        return gathered(model, figure, points[0], body.count, body.seed)
    return over_area(model, figure, points, body.density, body.least, body.seed)


@router.post("/studies/{slug}/figures/many", response=list[dict[str, Any]])
def stand_many(request: HttpRequest, slug: str, body: ManyIn) -> Any:
    """Many figures where they would stand, each with an id that is free; nothing is changed."""
    study = study_of(slug)
    taken = {f.id for f in study.document.figures}
    found, number = [], 1
    for figure in _many(study, body):
        while f"figure-{number}" in taken:
            number += 1
        taken.add(f"figure-{number}")
        found.append(_json(figure.model_copy(update={"id": f"figure-{number}"})))
    if not found:
        raise ViewError("Nothing of that stands anywhere: there is no ground, or only water, below it.")
    return found


@router.get("/studies/{slug}/figures/{figure_id}/patch")
def read_patch(request: HttpRequest, slug: str, figure_id: str, density: float = 2.0, key: str = "") -> HttpResponse:
    """A figure alone in the window of the view on the desk that it stands in, as PNG.
    What is shown until the drawing knows it. Its place, in frame millimetres, is told in the header ``X-Place``; 204
    where nothing of it is there. ``key`` only makes the address change.
    """
    study = study_of(slug)
    document = study.document
    figure = next((f for f in document.figures if f.id == figure_id), None)
    if figure is None:
        raise Http404
    found = figure_patch(
        study.model, document.desk.view, document.look, figure, float(np.clip(density, 0.5, 12.0)), kept_pictures()
    )
    if found is None:
        return HttpResponse(status=204)
    place, data = found
    response = HttpResponse(data, content_type="image/png")
    response["X-Place"] = ",".join(f"{v:g}" for v in place)
    response["Cache-Control"] = "no-store"
    return response


@router.get("/studies/{slug}/figures/{figure_id}/outline", response=OutlineOut)
def read_outline(request: HttpRequest, slug: str, figure_id: str, key: str = "") -> OutlineOut:
    """A figure in the view on the desk. ``key`` only makes the address change."""
    study = study_of(slug)
    document = study.document
    figure = next((f for f in document.figures if f.id == figure_id), None)
    if figure is None:
        raise Http404
    if figure.paper is not None and figure.paper.view != document.desk.view_id:
        return OutlineOut(rings=[], foot=None, tall=figure.tall)
    rings, foot = _rings(figure, study.model, study), foot_on_paper(figure, study.model, document.desk.view)
    return OutlineOut(rings=rings, foot=foot, tall=figure.tall)
