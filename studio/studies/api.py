"""The studies over HTTP: thin views, all rules are the core's.

The drawing on the desk is in :mod:`studio.studies.desk_api`, the model in :mod:`studio.studies.model_api`.
"""

# Long: one route after another of what a study is.
from __future__ import annotations

import hashlib
import logging
from collections.abc import Callable
from typing import Any
from urllib.parse import quote

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Router, Schema
from pydantic import Field

from studio.studies.desk_work import begin
from studio.studies.healing import mended_from
from studio.studies.making import remove_study
from studio.studies.models import Study, StudyUnreadable, model_store
from studio.studies.names import file_name
from warmgraphite.ink.sentences import held_words, sentence
from warmgraphite.memory import Store
from warmgraphite.model.landmarks import landmarks_of
from warmgraphite.model.store import ModelLost
from warmgraphite.study import (
    Change,
    Command,
    Look,
    OwnChange,
    StudyDocument,
    apply_commands,
    changes_between,
    compare_looks,
    describe_changes,
    label_of,
    reshape_view,
    write_drawing_file,
    write_finish,
)  # fmt: skip
from warmgraphite.view.differences import differences
from warmgraphite.view.frame import Side, extended, fitted
from warmgraphite.view.kinds import ViewKind, begun, of_kind
from warmgraphite.view.scene import build_scene
from warmgraphite.view.specification import ViewSpecification
from warmgraphite.view.sun import Moment, Preset, placed, preset_sun, sun_path

router = Router()

log = logging.getLogger(__name__)


class ModelFacts(Schema):
    """What a study's model is.
    Lengths in metres; the focus is the building without its ground and planting.

    ``version`` changes with all that is said of it, ``geometry`` only with its triangles; ``origin`` is where its zero
    lies in the file's coordinates.
    """

    version: str
    geometry: str
    parts: int
    triangles: int
    low: tuple[float, float, float]
    high: tuple[float, float, float]
    focus_low: tuple[float, float, float]
    focus_high: tuple[float, float, float]
    origin: tuple[float, float, float]
    source: str
    units: str
    up: str


class StudyRow(Schema):
    """A study in the list; one that cannot be shown as it is has a ``problem`` and no model."""

    slug: str
    name: str
    views: int
    model: ModelFacts | None
    is_sample: bool
    first_view: str
    problem: str = ""


class StudyOut(Schema):
    """A study as it is.
    ``unsaved`` says that the view on the desk is another than it was saved, ``look`` is that of it, ``own`` what it
    changes of its finish for itself, ``sentences`` what its rules take hold of, in words, by room and id; ``samples``
    names the pictures of its build-ups by id, and of those of the kit.
    """

    slug: str
    revision: int
    undo: str
    redo: str
    model: ModelFacts
    document: StudyDocument
    kind: ViewKind
    unsaved: bool
    look: Look
    own: list[OwnChange]
    sentences: dict[str, dict[str, str]]
    samples: dict[str, str]


class ChangedOut(Schema):
    """What was changed of a study as it was at revision ``base``: changes at places of :class:`StudyOut`.
    Who cannot have had it as it was then has the whole ``study``.
    """

    base: int
    changes: list[Change]
    study: StudyOut | None = None


class EditIn(Schema):
    """Commands that are one step of undo together.
    ``gesture`` names a drag whose steps are one step of undo; ``token`` this one edit, so that it can be sent again
    when no answer came. ``show`` is whether the drawing on the desk is waited for.
    """

    base: int
    commands: list[Command] = Field(min_length=1, max_length=200)
    gesture: str = Field(default="", max_length=120)
    token: str = Field(default="", max_length=40)
    show: bool = False


class KindIn(Schema):
    """The view on the desk as another kind of it, or with other settings of its kind."""

    base: int
    kind: ViewKind
    gesture: str = Field(default="", max_length=120)


class BeginIn(Schema):
    """The view on the desk as another kind of it, set up as the trade usually does."""

    base: int
    kind: str = Field(max_length=60)


class FrameIn(Schema):
    """Draw a ``side`` of the paper out by so many ``millimetres``, or, without one, fit all that is shown on it."""

    base: int
    side: Side | None = None
    millimetres: float = Field(default=0, ge=-5000, le=5000)


class DifferenceOut(Schema):
    what: str
    first: str
    second: str


class Level(Schema):
    """A storey's floor, metres above zero."""

    name: str
    height: float


class Landmarks(Schema):
    """The storeys from below, and the bearings of fronts.
    The bearings are those, in degrees from north, in which one looks squarely at a front, largest first.
    """

    levels: list[Level]
    fronts: list[float]


class SunIn(Schema):
    """The sun of the view on the desk: set as the trade does, or as it stands at a moment."""

    base: int
    preset: Preset | None = None
    moment: Moment | None = None
    gesture: str = Field(default="", max_length=120)


class StepIn(Schema):
    base: int


def _facts(study: Study) -> ModelFacts:
    assert study.head is not None
    about = study.head.about_model
    source = study.head.file.name if study.head.file else ""
    return ModelFacts(
        version=study.model_version, source=source, **{k: about[k] for k in ModelFacts.model_fields if k in about}
    )


def _sentences(look: Look) -> dict[str, dict[str, str]]:
    rules = {
        room: {r.id: sentence(r) for r in getattr(look, room)} for room in ("pens", "poche", "surfaces", "construction")
    }
    return rules | {"traces": {t.id: held_words(t.where, "regions") for t in look.traces if t.where}}


def _samples(look: Look) -> dict[str, str]:
    """What names the picture of each build-up: all that it shows, and the hand that draws it."""
    hand = look.hand.model_dump_json()
    named = lambda text: hashlib.sha256((text + hand).encode()).hexdigest()[:16]
    return {"kit": named("")} | {b.id: named(b.model_dump_json()) for b in look.build_ups}


def study_out(study: Study) -> StudyOut:
    """A study as it is. Raises :class:`StudyUnreadable` where it cannot be shown: then undo is what is left to do."""
    assert study.head is not None
    try:
        model_store().refuse_lost(study.model_version)
        document = study.document
        saved = document.on_desk
        return StudyOut(
            slug=study.slug, revision=study.head.number, undo=study.undo_label(), redo=study.redo_label(),
            model=_facts(study),
            document=document, kind=study.kind, unsaved=document.unsaved, look=document.look,
            own=describe_changes(document.finish_of(saved), document.look, saved.changes),
            sentences=_sentences(document.look), samples=_samples(document.look),
        )  # fmt: skip
    except ModelLost as lost:
        raise StudyUnreadable(study, lost, mending=mended_from(study)) from lost
    except Exception as error:
        log.exception("study %s cannot be shown at revision %s", study.slug, study.head.number)
        raise StudyUnreadable(study, error) from error


def told(slug: str, base: int, work: Callable[[], Study]) -> ChangedOut:
    """What ``work`` changes of a study that is at revision ``base``."""
    try:
        before = _shown(study_of(slug))
    except StudyUnreadable:
        before = None
    after = work()
    if before is None or before["revision"] != base:
        return ChangedOut(base=base, changes=[], study=study_out(after))
    return ChangedOut(base=base, changes=changes_between(before, _shown(after)))


#: Studies as they were shown, and of which document: what an edit leaves is what the next one is made upon.
_as_shown: Store[tuple[StudyDocument, dict[str, Any]]] = Store("documents", most=8, weigh=lambda _key, _found: SHOWN)
#: Bytes that a study takes as it is shown, roughly.
SHOWN = 2_000_000


def _shown(study: Study) -> dict[str, Any]:
    """A study as it is, as data that nobody changes.
    It depends on its row, on its head and on what can be undone and redone. Raises :class:`StudyUnreadable` where it
    cannot be shown.
    """
    assert study.head is not None
    key = (study.slug, study.head.pk, study.head.created, study.undo_label(), study.redo_label())
    found = _as_shown.peek(key)
    try:
        if found and study.document is found[0]:
            return found[1]  # type: ignore[no-any-return]
    except Exception:  # it was harmed since it was shown
        log.warning("study %s was shown before and cannot be read any more", study.slug)
    shown = study_out(study).model_dump(mode="json")
    _as_shown.put(key, (study.document, shown))
    return shown


def study_of(slug: str) -> Study:
    return get_object_or_404(Study.objects.select_related("head", "head__file").filter(head__isnull=False), slug=slug)


@router.get("/studies", response=list[StudyRow])
def list_studies(request: HttpRequest) -> list[StudyRow]:
    """All studies. One that cannot be read is in the list with a sentence, and does not hide the others."""
    rows = []
    for study in Study.objects.select_related("head", "head__file").filter(head__isnull=False):
        assert study.head is not None
        try:
            document = study.document
            row = StudyRow(
                slug=study.slug, name=document.name, views=len(document.views), model=_facts(study),
                is_sample=study.is_sample,
                first_view=document.views[0].id,
            )  # fmt: skip
        except Exception as error:
            log.exception("study %s cannot be listed", study.slug)
            row = StudyRow(
                slug=study.slug, name=study.head.name or study.slug, views=0, model=None, is_sample=study.is_sample,
                first_view="",
                problem=str(StudyUnreadable(study, error)),
            )  # fmt: skip
        rows.append(row)
    return rows


@router.get("/studies/{slug}", response=StudyOut)
def read_study(request: HttpRequest, slug: str) -> StudyOut:
    return study_out(study_of(slug))


@router.delete("/studies/{slug}", response={204: None})
def remove(request: HttpRequest, slug: str) -> tuple[int, None]:
    remove_study(study_of(slug))
    return 204, None


@router.post("/studies/{slug}/edits", response=ChangedOut)
def edit_study(request: HttpRequest, slug: str, body: EditIn) -> ChangedOut:
    """Do something to a study; see :mod:`warmgraphite.study.commands`."""
    label = label_of(body.commands)
    change = lambda d: apply_commands(d, body.commands)

    def work() -> Study:
        made = Study.edit(slug, body.base, label, change, body.gesture, body.token)
        if body.show:
            begin(made)
        return made

    return told(slug, body.base, work)


def _as_kind(study: Study, kind: ViewKind, base: int, gesture: str = "") -> ChangedOut:
    def change(view: ViewSpecification) -> ViewSpecification:
        scale = build_scene(study.model, view).projection.scale if kind.scaled else None
        return of_kind(view, kind, study.box, scale)

    label = f"View as {kind.kind}"
    edit = lambda: Study.edit(study.slug, base, label, lambda d: reshape_view(d, change), gesture)
    return told(study.slug, base, edit)


@router.post("/studies/{slug}/kind", response=ChangedOut)
def set_kind(request: HttpRequest, slug: str, body: KindIn) -> ChangedOut:
    """The view on the desk as a plan, a section, an isometric …"""
    return _as_kind(study_of(slug), body.kind, body.base, body.gesture)


@router.post("/studies/{slug}/kind/begin", response=ChangedOut)
def begin_kind(request: HttpRequest, slug: str, body: BeginIn) -> ChangedOut:
    """The view on the desk as another kind, looking the way it looked before where both kinds have a bearing."""
    study = study_of(slug)
    floors = [z for _, z in landmarks_of(study.model).levels]
    return _as_kind(study, begun(body.kind, study.document.desk.view, study.box, floors), body.base)


@router.post("/studies/{slug}/frame", response=ChangedOut)
def set_frame(request: HttpRequest, slug: str, body: FrameIn) -> ChangedOut:
    """Another paper for the view on the desk: a side drawn out, or all that is shown fitted."""
    study = study_of(slug)

    def change(view: ViewSpecification) -> ViewSpecification:
        scene = build_scene(study.model, view)
        if body.side is None:
            return fitted(view, scene.corners.reshape(-1, 3))
        return extended(view, body.side, body.millimetres, scene.projection)

    label = f"Draw the paper out, {body.side}" if body.side else "Fit the drawing"
    edit = lambda: Study.edit(slug, body.base, label, lambda d: reshape_view(d, change), f"frame {body.side}")
    return told(slug, body.base, edit)


@router.post("/studies/{slug}/sun", response=ChangedOut)
def set_sun(request: HttpRequest, slug: str, body: SunIn) -> ChangedOut:
    """The sun of the view on the desk, by the trade's habit or by place, day and hour."""
    study = study_of(slug)
    kind = study.kind.model_dump()
    bearing = float(kind.get("bearing", kind.get("corner", kind.get("top", 0))))

    def change(view: ViewSpecification) -> ViewSpecification:
        sun = preset_sun(view.sun, body.preset, bearing) if body.preset else view.sun
        return view.model_copy(update={"sun": placed(sun, body.moment) if body.moment else sun})

    label = f"Sun: {body.preset}" if body.preset else "Sun by place and time"
    edit = lambda: Study.edit(slug, body.base, label, lambda d: reshape_view(d, change), body.gesture)
    return told(slug, body.base, edit)


@router.get("/studies/{slug}/sun-path", response=list[tuple[float, float, float]])
def read_sun_path(request: HttpRequest, slug: str) -> list[tuple[float, float, float]]:
    """Where the sun goes on the day that it is set by: azimuth, altitude and hour, while it is up."""
    moment = study_of(slug).document.desk.view.sun.moment
    return sun_path(moment) if moment else []


@router.get("/studies/{slug}/views/{first}/differences/{second}", response=list[DifferenceOut])
def compare_views(request: HttpRequest, slug: str, first: str, second: str) -> list[DifferenceOut]:
    """What differs between two saved views; “desk” is the one on the desk."""
    study = study_of(slug)
    views = {v.id: v.view for v in study.document.views} | {"desk": study.document.desk.view}
    if first not in views or second not in views:
        raise Http404
    return [DifferenceOut(**d._asdict()) for d in differences(views[first], views[second], study.box)]


@router.get("/studies/{slug}/finishes/{first}/differences/{second}", response=list[DifferenceOut])
def compare_finishes(request: HttpRequest, slug: str, first: str, second: str) -> list[DifferenceOut]:
    """What differs between two finishes; “desk” is the look of the view on the desk."""
    document = study_of(slug).document
    looks = {f.id: f.plain for f in document.finishes} | {"desk": document.look}
    if first not in looks or second not in looks:
        raise Http404
    return [DifferenceOut(**d._asdict()) for d in compare_looks(looks[first], looks[second])]


@router.get("/studies/{slug}/finishes/{finish_id}/file")
def read_finish_file(request: HttpRequest, slug: str, finish_id: str) -> HttpResponse:
    """A finish as a file that any study takes in."""
    document = study_of(slug).document
    finish = next((f for f in document.finishes if f.id == finish_id), None)
    if finish is None:
        raise Http404
    # What regions of this study mean goes along: another study has not kept them.
    response = HttpResponse(
        write_finish(finish.like(finish.plain.resolved(document.regions))), content_type="application/json"
    )
    name = quote(f"{file_name(finish.name, 'finish')}.finish.json")
    response["Content-Disposition"] = f"attachment; filename*=UTF-8''{name}"
    return response


@router.get("/studies/{slug}/views/{view_id}/drawing")
def read_drawing_file(request: HttpRequest, slug: str, view_id: str) -> HttpResponse:
    """A saved view with its look and its sheet as one text; “desk” is the view as it is on the desk."""
    document = study_of(slug).document
    saved = document.on_desk if view_id == "desk" else next((v for v in document.views if v.id == view_id), None)
    if saved is None:
        raise Http404
    view = document.desk.view if view_id == "desk" else saved.view
    return HttpResponse(
        write_drawing_file(view, document.drawn_look(saved), saved.sheet), content_type="application/json"
    )


@router.get("/studies/{slug}/landmarks", response=Landmarks)
def read_landmarks(request: HttpRequest, slug: str) -> Landmarks:
    """What views of the model are set up by."""
    found = landmarks_of(study_of(slug).model)
    return Landmarks(levels=[Level(name=name, height=z) for name, z in found.levels], fronts=found.fronts)


@router.post("/studies/{slug}/undo", response=ChangedOut)
def undo(request: HttpRequest, slug: str, body: StepIn) -> ChangedOut:
    return told(slug, body.base, lambda: Study.step(slug, body.base, back=True))


@router.post("/studies/{slug}/redo", response=ChangedOut)
def redo(request: HttpRequest, slug: str, body: StepIn) -> ChangedOut:
    return told(slug, body.base, lambda: Study.step(slug, body.base, back=False))
