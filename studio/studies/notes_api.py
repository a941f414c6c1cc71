"""Notes over HTTP.
What there is to write, what a place of the drawing offers to them, where they stand, and axes along walls.
"""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
from django.http import Http404, HttpRequest
from ninja import Router, Schema
from pydantic import Field

from studio.studies import desk
from studio.studies.api import study_of
from warmgraphite.errors import ViewError
from warmgraphite.forms import Setting, settings_of
from warmgraphite.model.axes import wall_axes
from warmgraphite.notes.kinds import KINDS
from warmgraphite.notes.kinds.rooms import Rooms
from warmgraphite.notes.laid import LaidNote
from warmgraphite.notes.lettering import FACE_NAMES, Lettering
from warmgraphite.notes.note import Spot
from warmgraphite.notes.pointing import pointed_at
from warmgraphite.notes.setting import Setting as There
from warmgraphite.notes.written import Line, Ribbon
from warmgraphite.sheet.notes import inks_for, laid_notes

router = Router()

Place = tuple[float, float]
Triple = tuple[float, float, float]


class NoteForm(Schema):
    """A kind of note: what it is called, how it is placed, what it is about, and its settings.
    ``writes`` is whether it has text of its own.
    """

    kind: str
    label: str
    #: A path in a box of 20 by 16.
    sign: str
    group: str
    hint: str
    least: int
    most: int
    about: str
    writes: bool
    settings: list[Setting]


class NoteForms(Schema):
    """The kinds of note, and how they are lettered."""

    kinds: list[NoteForm]
    lettering: list[Setting]
    faces: dict[str, str]


class NotePlaceIn(Schema):
    """A place of the drawing in frame millimetres.
    How near a thing must be to catch it, and what is asked for there.
    """

    x: float
    y: float
    reach: float = Field(default=2.0, ge=0, le=50)
    panes: bool = False
    paper: bool = False


class NotePlaceOut(Schema):
    """The point of a note, in metres, or in millimetres from the middle of the drawing where it lies on the paper.
    Where it is in frame millimetres, the part, and the layer of what is cut, with its thickness in metres; and what it
    caught on.
    """

    point: Triple
    x: float
    y: float
    lies: Literal["model", "paper"]
    part: str
    layer: str
    thickness: float
    caught: str
    sign: str


class NoteSpotIn(Schema):
    """A place that was pointed at, as it was answered."""

    point: Triple | None
    x: float
    y: float
    part: str = Field(default="", max_length=1000)
    layer: str = Field(default="", max_length=100)
    thickness: float = 0.0


class NoteMadeIn(Schema):
    """A kind of note, and the places that it is put on."""

    kind: str = Field(max_length=40)
    spots: list[NoteSpotIn] = Field(default=[], max_length=400)


class NoteMovedIn(NotePlaceIn):
    """A note of the view on the desk, one of its handles, and the place that this is moved to."""

    note_id: str = Field(max_length=60)
    index: int = Field(ge=-1, le=1000)


class NoteMadeOut(Schema):
    """A note, as JSON."""

    note: dict[str, Any]


class NoteHandleOut(Schema):
    index: int
    at: Place


class RoomShown(Schema):
    """A room that a note names, by a point in it."""

    name: str
    number: str
    area: float
    point: Triple
    at: Place


class NoteOut(Schema):
    """A note in the view on the desk, in frame millimetres.
    The rooms of its texts, lines of it to show it by, and where it is taken hold of; what is not as one expects.
    """

    id: str
    called: str
    boxes: list[tuple[float, float, float, float]]
    lines: list[list[Place]]
    handles: list[NoteHandleOut]
    told: str
    rooms: list[RoomShown] = []


class AxisOut(Schema):
    name: str
    start: Triple
    end: Triple


#: Lines of one note that are shown to take hold of it by.
MOST_LINES = 60


@router.get("/notes/kinds", response=NoteForms)
def kinds(request: HttpRequest) -> NoteForms:
    """What can be written."""
    without = {"kind", "id", "name", "on"}
    forms = [
        NoteForm(
            kind=name, label=k.label, sign=k.sign, group=k.group, hint=k.hint, least=k.takes[0], most=k.takes[1],
            about=k.about, writes="text" in k.model_fields,
            settings=list(settings_of(k, without)),
        )
        for name, k in KINDS.items()
    ]  # fmt: skip
    return NoteForms(kinds=forms, lettering=list(settings_of(Lettering, {"face", "themes"})), faces=FACE_NAMES)


@router.post("/studies/{slug}/notes/point", response=NotePlaceOut)
def point(request: HttpRequest, slug: str, body: NotePlaceIn) -> NotePlaceOut:
    """What a place of the drawing offers to a note."""
    study = study_of(slug)
    drawing, _ = desk.on_desk(study, study.document)
    if not all(drawing.is_fresh(n) for n in ("lines", "strokes", "surface")):
        raise ViewError("The drawing is still being computed; wait a moment and place it again.")
    found = pointed_at(drawing, np.array([body.x, body.y]), body.reach, panes=body.panes, paper=body.paper)
    x, y, z = (round(float(v), 6) for v in found.point)
    return NotePlaceOut(
        point=(x, y, z), x=round(float(found.xy[0]), 3), y=round(float(found.xy[1]), 3), lies=found.lies,  # type: ignore[arg-type]
        part=found.part,
        layer=found.layer, thickness=found.thickness, caught=found.caught, sign=found.sign,
    )  # fmt: skip


def _spot(at: NoteSpotIn | NotePlaceOut, middle: tuple[float, float], model: bool = True) -> Spot:
    return Spot(
        at.point if model else None,
        (round(at.x - middle[0], 4), round(at.y - middle[1], 4)),
        at.part,
        at.layer,
        at.thickness,
    )


@router.post("/studies/{slug}/notes/made", response=NoteMadeOut)
def make(request: HttpRequest, slug: str, body: NoteMadeIn) -> NoteMadeOut:
    """A fresh note of a kind on places of the drawing; it is written by whoever asks."""
    kind = KINDS.get(body.kind)
    if kind is None:
        raise ViewError(f"There is no kind of note “{body.kind}”; the kinds are {', '.join(KINDS)}.")
    least, most = kind.takes
    if not least <= len(body.spots) <= max(most, least):
        raise ViewError(
            f"{kind.label}: it is placed by {least if least == most else f'{least} to {most}'} places, and these are "
            f"{len(body.spots)}."
        )
    study = study_of(slug)
    drawing, _ = desk.on_desk(study, study.document)
    return NoteMadeOut(note=kind.placed([_spot(s, drawing.middle) for s in body.spots]).model_dump(mode="json"))


@router.post("/studies/{slug}/notes/moved", response=NoteMadeOut)
def move(request: HttpRequest, slug: str, body: NoteMovedIn) -> NoteMadeOut:
    """A note with what is taken hold of by a handle moved to a place of the drawing; it is written by whoever asks."""
    study = study_of(slug)
    document = study.document
    note = next((n for n in document.on_desk.notes if n.id == body.note_id), None)
    if note is None:
        raise Http404
    drawing, look = desk.on_desk(study, document)
    found = point(request, slug, body)
    there = There(
        drawing.plate(document.name, look),
        look.lettering,
        inks_for(look.traces),
        (0, 0, *(drawing.view.frame.width, drawing.view.frame.height)),
    )
    moved = note.taken_to(body.index, _spot(found, drawing.middle, found.lies == "model"), there)
    return NoteMadeOut(note=moved.model_dump(mode="json"))


def _lines(row: LaidNote) -> list[list[Place]]:
    found = [m.points for _, marks in row.groups for m in marks if isinstance(m, Line | Ribbon)]
    return [
        [(round(x, 2), round(y, 2)) for x, y in line[:: max(1, len(line) // 24)].tolist()]
        for line in found[:MOST_LINES]
    ]


@router.get("/studies/{slug}/notes", response=list[NoteOut])
def read_notes(request: HttpRequest, slug: str) -> list[NoteOut]:
    """The notes of the view on the desk, where they stand; none while the drawing is being computed."""
    study = study_of(slug)
    document = study.document
    drawing, look = desk.on_desk(study, document)
    if not all(drawing.fresh(desk.wanted(look)).values()) or drawing.result("frame").problem:
        return []
    plate, inks = drawing.plate(document.name, look), inks_for(look.traces)
    laid = laid_notes(plate, document.on_desk.sheet, inks)
    out = []
    for row in laid.notes:
        rooms: list[RoomShown] = []
        if isinstance(row.note, Rooms):
            there = There(plate, look.lettering, inks, (0, 0, *plate.frame))
            spaces = row.note.spaces(there)
            places: Any = there.at([s.place for s in spaces]) if spaces else []
            rooms = [
                RoomShown(name=s.name, number=s.number, area=round(s.area, 2), point=s.place,
                    at=(round(float(p[0]), 2), round(float(p[1]), 2)))
                for s, p in zip(spaces, places, strict=True)
                if np.isfinite(p).all()
            ]  # fmt: skip
        out.append(
            NoteOut(
                id=row.note.id, called=row.note.called, boxes=[tuple(round(v, 2) for v in b) for b in row.boxes],  # type: ignore[misc]
                lines=_lines(row),
                handles=[NoteHandleOut(index=h.index, at=(round(h.at[0], 3), round(h.at[1], 3))) for h in row.handles],
                told=row.told, rooms=rooms,
            )
        )  # fmt: skip
    return out


@router.get("/studies/{slug}/notes/axes", response=list[AxisOut])
def read_axes(request: HttpRequest, slug: str) -> list[AxisOut]:
    """Axes along the walls of the model, to be set as a grid."""
    found: list[Any] = wall_axes(study_of(slug).model)
    if not found:
        raise ViewError(
            "No two wall faces of this model belong together, so there are no axes along them; set them by hand."
        )
    return [AxisOut(name=a.name, start=a.start, end=a.end) for a in found]
