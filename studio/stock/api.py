"""Pictures of one's own over HTTP: dropped in, called and laid otherwise, taken out again."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from ninja import File, Router, Schema
from ninja.files import UploadedFile
from pydantic import Field

from studio.jobs.api import JobOut, job_out
from studio.jobs.received import enqueue_received
from studio.stock.models import StockPicture, kept_pictures
from studio.studies.models import Study
from studio.studies.names import received_name
from warmgraphite.canvas.own_faces import own_faces, refuse_face
from warmgraphite.collage.pictures.intake import MOST_BYTES
from warmgraphite.collage.pictures.sheet import found_corners
from warmgraphite.collage.pictures.specification import Corner, Endless
from warmgraphite.collage.stock import StockItem
from warmgraphite.errors import PictureError
from warmgraphite.model.flat import USUAL
from warmgraphite.vectors import said_scale

router = Router()

_DAMAGED = (
    "Its file is gone or damaged in the data folder and shows nothing; bring the picture again, and it is as it was."
)


class StockPictureOut(Schema):
    """A picture of one's own; ``notes`` are what was worth a word when it was taken in."""

    digest: str
    name: str
    kind: str
    width: int
    height: int
    notes: list[str]
    item: StockItem
    #: The n of 1:n that a vector drawing is at, as far as it says so; 0 for one that is none.
    at_scale: float
    #: Metres that a body is tall; 0 for what is a picture alone.
    tall: float


class LaidIn(Schema):
    """What is said anew of a picture; what is left out stays."""

    name: str | None = Field(default=None, max_length=120)
    real_width: float | None = Field(default=None, gt=0.001, le=1000)
    endless: Endless | None = None
    evened: float | None = Field(default=None, ge=0, le=1)
    corners: tuple[Corner, Corner, Corner, Corner] | None = None


def _out(row: StockPicture) -> StockPictureOut:
    written = kept_pictures().drawn_at(row.digest)
    scale = 0.0 if written is None else said_scale(row.name) or written or USUAL
    return StockPictureOut(
        at_scale=scale,
        tall=round(kept_pictures().tall(row.digest), 4),
        digest=row.digest,
        name=row.name,
        kind=row.kind,
        width=row.width,
        height=row.height,
        notes=[*row.notes, *([_DAMAGED] if kept_pictures().is_damaged(row.digest) else [])],
        item=row.item,
    )


def _found(digest: str) -> StockPicture:
    row = StockPicture.objects.filter(digest=digest).first()
    if row is None:
        raise Http404
    return row


@router.get("/pictures", response=list[StockPictureOut])
def list_pictures(request: HttpRequest) -> list[StockPictureOut]:
    """All of them, by name."""
    return [_out(row) for row in StockPicture.objects.all()]


@router.post("/pictures", response=JobOut)
def take_picture(request: HttpRequest, file: UploadedFile = File(...)) -> JobOut:  # type: ignore[type-arg] # noqa: B008
    """Take a picture in, PNG, JPEG, WebP, SVG, PDF, or a body as GLB: a job, whose result has its ``digest``."""
    name, _ = received_name(file.name or "picture")
    if (file.size or 0) > MOST_BYTES:
        raise PictureError(
            f"“{name}” has {(file.size or 0) / 1e6:.0f} MB; {MOST_BYTES // 1_000_000} MB are taken in: make it smaller."
        )
    return job_out(enqueue_received("take-picture", {name: file}, name))


@router.patch("/pictures/{digest}", response=StockPictureOut)
def change_picture(request: HttpRequest, digest: str, body: LaidIn) -> StockPictureOut:
    """Call a picture otherwise, or lay it otherwise from now on."""
    row = _found(digest)
    said: dict[str, Any] = body.model_dump(mode="json", exclude_none=True)
    row.change(said.pop("name", None), said)
    return _out(row)


@router.delete("/pictures/{digest}", response={204: None})
def remove_picture(request: HttpRequest, digest: str) -> tuple[int, None]:
    """Take a picture out of the stock. One that a study shows stays."""
    row = _found(digest)
    showing = [
        s for s in Study.objects.select_related("head").filter(head__isnull=False) if s.head and digest in s.head.text
    ]
    if showing:
        study = showing[0].head.name  # type: ignore[union-attr]
        raise PictureError(f"“{row.name}” is laid in the study “{study}”; take its traces out there first.")
    row.delete()
    # What undo may still bring back stays on the disk until no history has it: see the clearing.
    return 204, None


class FaceOut(Schema):
    """A face of one's own, as lettering names it, what it is called, and how many letters it has."""

    face: str
    name: str
    letters: int


@router.get("/faces", response=list[FaceOut])
def list_faces(request: HttpRequest) -> list[FaceOut]:
    """The faces of one's own, by name."""
    return [
        FaceOut(face=f"own-{f.digest}", name=f.name, letters=f.letters)
        for f in own_faces(kept_pictures().folder / "faces")
    ]


@router.post("/faces", response=JobOut)
def take_own_face(request: HttpRequest, file: UploadedFile = File(...)) -> JobOut:  # type: ignore[type-arg] # noqa: B008
    """Take a face in from a TTF, OTF or WOFF file: a job, whose result has its ``face``."""
    name, _ = received_name(file.name or "face")
    begins = file.read(4)
    file.seek(0)
    refuse_face(begins, file.size or 0, name)
    return job_out(enqueue_received("take-face", {name: file}, name))


class SheetOut(Schema):
    """The corners of a sheet of paper in a picture, in shares of it: top left, top right, bottom right, bottom left."""

    corners: list[tuple[float, float]]


@router.get("/pictures/{digest}/sheet", response=SheetOut)
def find_sheet(request: HttpRequest, digest: str) -> SheetOut:
    """Where a sheet of paper lies in a picture; its own corners where none is found in it."""
    row = _found(digest)
    if not row.corners:
        pixels = kept_pictures().pixels(row.digest)
        if pixels is None:
            raise Http404
        row.corners = [list(c) for c in found_corners(pixels)]
        row.save(update_fields=["corners"])
    return SheetOut(corners=row.corners)


@router.get("/pictures/{digest}/picture")
def read_picture(request: HttpRequest, digest: str) -> HttpResponse:
    """The picture itself, as it was taken in."""
    row = _found(digest)
    if not kept_pictures().has(row.digest):
        raise Http404
    response = HttpResponse(kept_pictures().path(row.digest).read_bytes(), content_type="image/png")
    response["Cache-Control"] = "private, max-age=86400"
    return response
