"""Samples of ink over HTTP: a fill at a drawing's scale, a stroke of a hand."""

from __future__ import annotations

from django.http import Http404, HttpRequest, HttpResponse
from ninja import Query, Router, Schema
from pydantic import Field, TypeAdapter, ValidationError

from studio.studies.api import study_of
from warmgraphite.drawing.build_up_sample import build_up_sample
from warmgraphite.errors import ViewError
from warmgraphite.ink.buildups.kit import KIT
from warmgraphite.ink.fills import Fill
from warmgraphite.ink.hand import STILL, Hand
from warmgraphite.ink.own import OwnTile, tile_from_svg
from warmgraphite.ink.swatches import fill_swatch, hand_sample
from warmgraphite.specification import Colour, describe_faults

router = Router()

_FILL: TypeAdapter[Fill] = TypeAdapter(Fill)


class Sample(Schema):
    """What is asked for: millimetres of paper, and what is drawn as JSON."""

    width: float = Field(gt=1, le=120)
    height: float = Field(gt=1, le=80)
    hand: str = Field(default="", max_length=2000)
    fill: str = Field(default="", max_length=150_000)  # with a tile of one's own in it
    scale: float = Field(default=100, gt=0, le=1e5)
    weight: float = Field(default=0.3, gt=0, le=5)
    colour: Colour = "#2e2a27"


def _svg(text: str) -> HttpResponse:
    answer = HttpResponse(text, content_type="image/svg+xml")
    answer["Cache-Control"] = "private, max-age=86400"
    return answer


def _hand(text: str) -> Hand:
    return Hand.model_validate_json(text) if text else STILL


@router.get("/samples/fill", include_in_schema=False)
def read_fill(request: HttpRequest, asked: Query[Sample]) -> HttpResponse:
    """A fill as SVG."""
    try:
        return _svg(
            fill_swatch(_FILL.validate_json(asked.fill), _hand(asked.hand), asked.width, asked.height, asked.scale)
        )
    except ValidationError as error:
        raise ViewError(describe_faults(error, "This fill")) from None


class TileIn(Schema):
    """An SVG as text, to be a tile."""

    text: str = Field(max_length=400_000)


@router.post("/samples/tile", response=OwnTile)
def read_tile(request: HttpRequest, body: TileIn) -> OwnTile:
    """The tile of a pattern of one's own that an SVG shows."""
    return tile_from_svg(body.text)


class BuildUpSample(Schema):
    """Millimetres of paper; ``version`` names the picture."""

    width: float = Field(ge=10, le=120)
    height: float = Field(ge=10, le=80)
    version: str = Field(default="", max_length=40)


@router.get("/studies/{slug}/build-ups/{build_up_id}/sample", include_in_schema=False)
def read_build_up(request: HttpRequest, slug: str, build_up_id: str, asked: Query[BuildUpSample]) -> HttpResponse:
    """A build-up of the look on the desk, or of the kit, as a little section."""
    look = study_of(slug).document.look
    found = {**KIT, **{b.id: b for b in look.build_ups}}.get(build_up_id)
    if found is None:
        raise Http404
    return _svg(build_up_sample(found, look.hand, asked.width, asked.height))


@router.get("/samples/hand", include_in_schema=False)
def read_hand(request: HttpRequest, asked: Query[Sample]) -> HttpResponse:
    """Strokes of a hand as SVG."""
    try:
        return _svg(hand_sample(_hand(asked.hand), asked.weight, asked.colour, asked.width, asked.height))
    except ValidationError as error:
        raise ViewError(describe_faults(error, "This hand")) from None
