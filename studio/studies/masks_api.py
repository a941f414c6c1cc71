"""Painted masks over HTTP: a stroke of the brush is an edit like any other, and can be undone like any."""

from __future__ import annotations

from django.http import Http404, HttpRequest
from ninja import Router, Schema
from pydantic import Field

from studio.stock.models import kept_pictures
from studio.studies.api import ChangedOut, study_of, told
from studio.studies.models import Study
from warmgraphite.regions.painted import BrushStroke
from warmgraphite.study import Change, StudyDocument
from warmgraphite.study.commands.views import ChangeView

router = Router()


class StrokeIn(Schema):
    base: int
    stroke: BrushStroke
    token: str = Field(default="", max_length=64)


@router.post("/studies/{slug}/masks/{mask_id}/strokes", response=ChangedOut)
def paint(request: HttpRequest, slug: str, mask_id: str, body: StrokeIn) -> ChangedOut:
    """Lay a stroke on a painted mask of the view on the desk."""
    found = next((m for m in study_of(slug).document.desk.view.masks if m.id == mask_id), None)
    if found is None:
        raise Http404
    label = f"{'Take paint off' if body.stroke.erases else 'Paint'} “{found.name}”"

    def change(document: StudyDocument) -> StudyDocument:
        # Upon what is painted now: somebody may have painted meanwhile.
        mask = next((m for m in document.desk.view.masks if m.id == mask_id), found)
        tiles = kept_pictures().masks.stroke(mask.tiles, body.stroke)
        return ChangeView(changes=(Change(path=("masks", mask_id, "tiles"), value=tiles),), label=label).apply(document)

    return told(slug, body.base, lambda: Study.edit(slug, body.base, label, change, "", body.token))
