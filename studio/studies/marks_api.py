"""Marks over HTTP: where a point of one falls, what it lies on, and where a mark is in the view on the desk."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
from django.http import Http404, HttpRequest
from ninja import Router, Schema
from pydantic import Field

from studio.studies import desk
from studio.studies.api import study_of
from studio.studies.models import Study
from warmgraphite.drawing import Drawing
from warmgraphite.errors import ViewError
from warmgraphite.ink.marks.planes import lain
from warmgraphite.ink.marks.shapes import line_of
from warmgraphite.ink.marks.snapping import Caught, Sheet, caught, on_sheet, under
from warmgraphite.ink.marks.specification import Ground, OnCut, OnFace, OnLevel, OnPaper, Plane
from warmgraphite.model.bodies import bodies_of
from warmgraphite.model.model import Model
from warmgraphite.passes.line_set import KINDS
from warmgraphite.view.specification import ViewSpecification

router = Router()

Triple = tuple[float, float, float]


class SnapIn(Schema):
    """A place of the drawing in frame millimetres, and how near a thing must be to catch it.
    ``lies`` is what it is laid on; once a mark has begun, its ``plane`` and a point ``on`` that, in metres, and the
    place ``before`` in frame millimetres. ``height`` is that of a level.
    """

    x: float
    y: float
    reach: float = Field(default=2.0, ge=0, le=50)
    lies: Literal["face", "cut", "level", "paper"] = "face"
    plane: Plane | None = None
    on: Triple | None = None
    before: tuple[float, float] | None = None
    height: float = 0.0


class SnapOut(Schema):
    """Where it falls, in frame millimetres; what it caught on.
    The ``point`` of a mark, in metres, or in millimetres from the middle of the drawing on the paper; the plane, and
    what that is called.
    """

    x: float
    y: float
    sign: str
    caught: str
    point: Triple
    plane: Plane
    called: str


class LaidIn(Schema):
    """Places in frame millimetres to be laid on a plane through a point ``on`` it."""

    places: list[tuple[float, float]] = Field(max_length=4000)
    plane: Plane
    on: Triple


class MarkOut(Schema):
    """A mark in the view on the desk.
    Its points and its line in frame millimetres, empty where the view does not show it; what it lies on in words, and a
    point on its plane in metres.
    """

    points: list[tuple[float, float]]
    line: list[tuple[float, float]]
    called: str
    on: Triple | None


def _fresh(study: Study) -> Drawing:
    drawing, _ = desk.on_desk(study, study.document)
    if not all(drawing.is_fresh(n) for n in ("lines", "strokes", "surface")):
        raise ViewError("The drawing is still being computed; wait a moment and draw again.")
    return drawing


def _called(plane: Plane, model: Model, height: float) -> str:
    """What a plane is called."""
    if isinstance(plane, OnFace):
        return f"on {plane.part.rpartition('/')[2]}"
    if isinstance(plane, OnCut):
        return "in the cut"
    if isinstance(plane, OnLevel):
        return f"at {height:+.2f} m"
    return "on the paper"


def _sheet(plane: Plane, on: Triple) -> Sheet | None:
    if isinstance(plane, OnPaper):
        return None
    normal = np.array((0.0, 0.0, 1.0) if isinstance(plane, OnLevel) else plane.normal, float)
    return Sheet(np.array(on, float), normal / np.linalg.norm(normal))


def _begun(drawing: Drawing, asked: SnapIn, view_id: str) -> tuple[Plane, Sheet | None]:
    """The plane that a mark begins on. Raises :class:`ViewError` where there is none."""
    paper = drawing.paper
    if asked.lies == "paper":
        return OnPaper(view=view_id), None
    if asked.lies == "level":
        return OnLevel(), Sheet(np.array([0.0, 0.0, asked.height]), np.array([0.0, 0.0, 1.0]))
    found = under(paper, drawing.model, drawing.surface(), drawing.view.cuts, np.array([asked.x, asked.y]))
    if asked.lies == "cut":
        return _in_cut(drawing.view, found[0] if found and found[2] else None)
    if found is None:
        raise ViewError("Nothing of the model is there; begin on a face, or lay the mark on a level or on the paper.")
    sheet, part, is_cut = found
    normal = (float(sheet.normal[0]), float(sheet.normal[1]), float(sheet.normal[2]))
    return (OnCut(normal=normal) if is_cut else OnFace(part=drawing.model.parts[part].path, normal=normal)), sheet


def _in_cut(view: ViewSpecification, sheet: Sheet | None) -> tuple[Plane, Sheet]:
    """The cut under the pointer, or the first of the view."""
    if sheet is None:
        cut = next((c for c in view.cuts if c.role == "cut"), None)
        if cut is None:
            raise ViewError("This view has no cut; lay the mark on a face, on a level or on the paper.")
        normal = np.array(cut.normal, float)
        sheet = Sheet(np.array(cut.point, float), normal / np.linalg.norm(normal))
    return OnCut(normal=(float(sheet.normal[0]), float(sheet.normal[1]), float(sheet.normal[2]))), sheet


def _words(drawing: Drawing, found: Caught) -> str:
    """What a point caught on."""
    if found.line < 0:
        return {"parallel": "level or upright", "perpendicular": "upright or level"}.get(found.sign, "")
    lines = drawing.lines()
    return f"{KINDS[int(lines.kind[found.line])]} of {drawing.model.parts[int(lines.part[found.line])].name}"


@router.post("/studies/{slug}/snap", response=SnapOut)
def snap(request: HttpRequest, slug: str, body: SnapIn) -> SnapOut:
    """Where a point of a mark falls."""
    study = study_of(slug)
    drawing = _fresh(study)
    if body.plane is not None and body.on is not None:
        plane, sheet = body.plane, _sheet(body.plane, body.on)
    else:
        plane, sheet = _begun(drawing, body, study.document.desk.view_id)
    xy = np.array([body.x, body.y])
    before = np.array(body.before, float) if body.before else None
    found = caught(drawing.lines(), drawing.result("strokes").index, drawing.paper, xy, body.reach, before, sheet)
    point = _points(drawing, sheet, found.xy[None])[0]
    return SnapOut(
        x=round(float(found.xy[0]), 3), y=round(float(found.xy[1]), 3), sign=found.sign, caught=_words(drawing, found),
        point=point, plane=plane,
        called=_called(plane, drawing.model, point[2]),
    )  # fmt: skip


def _points(drawing: Drawing, sheet: Sheet | None, places: np.ndarray) -> list[Triple]:
    """Places in frame millimetres as the points of a mark."""
    if sheet is None:
        return [(round(x, 3), round(y, 3), 0.0) for x, y in (places - np.array(drawing.middle)).tolist()]
    found = on_sheet(drawing.paper, sheet, places)
    if found is None:
        raise ViewError("One looks along that plane here, or it lies behind the viewer; draw on it in another view.")
    return [(round(x, 5), round(y, 5), round(z, 5)) for x, y, z in found.tolist()]


@router.post("/studies/{slug}/laid", response=list[Triple])
def lay(request: HttpRequest, slug: str, body: LaidIn) -> Any:
    """Places of the drawing as points of a mark."""
    drawing = _fresh(study_of(slug))
    return _points(drawing, _sheet(body.plane, body.on), np.array(body.places, float).reshape(-1, 2))


@router.get("/studies/{slug}/marks/{mark_id}", response=MarkOut)
def read_mark(request: HttpRequest, slug: str, mark_id: str) -> MarkOut:
    """A mark in the view on the desk."""
    study = study_of(slug)
    mark = next((m for m in study.document.marks if m.id == mark_id), None)
    if mark is None:
        raise Http404
    drawing, _ = desk.on_desk(study, study.document)
    fresh = drawing.is_fresh("frame")
    if isinstance(mark, Ground):
        spots = _seen_at(drawing, np.array(mark.points)) if fresh else []
        return MarkOut(points=spots, line=spots, called="the line of the ground", on=mark.points[0])
    if isinstance(mark.plane, OnPaper):
        here = mark.plane.view == study.document.desk.view_id
        flat = np.array(mark.points)[:, :2]
        moved, line = flat + np.array(drawing.middle), line_of(mark.kind, flat) + np.array(drawing.middle)
        return MarkOut(
            points=_rows(moved) if here else [],
            line=_rows(line) if here else [],
            called=_called(mark.plane, drawing.model, 0),
            on=(0, 0, 0),
        )
    # Where its points lie on the plane itself, which is where they are moved: what stands off it is drawn beside them.
    found = lain(mark.model_copy(update={"lift": 0.0}), bodies_of(drawing.model), drawing.model.parts.at)
    if found is None or not fresh:
        gone = isinstance(mark.plane, OnFace) and found is None
        called = f"{_called(mark.plane, drawing.model, mark.points[0][2])}, which is not there any more" if gone else ""
        return MarkOut(points=[], line=[], called=called, on=None)
    lifted = found.frame.lifted(found.flat)
    line = found.frame.lifted(line_of(mark.kind, found.flat))
    return MarkOut(
        points=_seen_at(drawing, lifted), line=_seen_at(drawing, line),
        called=_called(mark.plane, drawing.model, float(lifted[0, 2])),
        on=tuple(round(float(v), 5) for v in lifted[0]),  # type: ignore[arg-type]
    )  # fmt: skip


def _rows(flat: np.ndarray) -> list[tuple[float, float]]:
    return [(round(x, 2), round(y, 2)) for x, y in flat.tolist()]


def _seen_at(drawing: Drawing, points: np.ndarray) -> list[tuple[float, float]]:
    """Points in metres in frame millimetres; none where one lies behind the viewer."""
    paper = drawing.paper
    if paper.eye is not None and ((points - paper.eye) @ paper.sight <= 0).any():
        return []
    return _rows(paper.project(points)[:, :2])
