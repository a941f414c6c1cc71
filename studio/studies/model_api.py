"""The model of a study over HTTP: its parts, what is said of them, its health, the files it came in."""

from __future__ import annotations

import json
import uuid
from pathlib import Path
from typing import Annotated

import numpy as np
from django.http import HttpRequest, HttpResponse
from ninja import Query, Router, Schema
from pydantic import Field

from studio.jobs.api import JobOut, job_out
from studio.jobs.models import Job
from studio.jobs.queue import enqueue
from studio.studies.api import ChangedOut, study_of, told
from studio.studies.mesh import mesh_file
from studio.studies.model_work import health_key, health_path, is_slow
from studio.studies.models import RULES, RuleBook, Study
from warmgraphite.errors import EditError
from warmgraphite.model.behaviour import BEHAVIOUR, ROLES
from warmgraphite.model.edits import ModelEdit
from warmgraphite.model.health import FINDINGS, GAP
from warmgraphite.model.model import Model
from warmgraphite.model.palette import SEE_THROUGH
from warmgraphite.model.role_rules import RoleRule
from warmgraphite.model.shapes import forms_of, in_classes

router = Router()


class MaterialOut(Schema):
    """``parts`` counts those that have it; ``clear`` ones are seen through.
    ``texture`` is empty or the name of a picture, ``size`` the metres it spans.
    """

    name: str
    colour: str
    shown: str
    opacity: float
    clear: bool
    texture: str
    size: tuple[float, float]
    parts: int
    was: list[str]


class BehaviourOut(Schema):
    cut: bool
    clear: bool
    drawn: str
    poche: str


class RoomOut(Schema):
    name: str
    number: str
    layer: str
    area: float


class JoinedOut(Schema):
    """A file that was joined.
    How it is moved (metres) and turned (degrees) from where its coordinates, or the map (``shared``), have it.
    """

    id: str
    name: str
    by: tuple[float, float, float]
    turn: float
    shared: bool
    parts: int


class PartsOut(Schema):
    """The parts in columns of one length, row n being part n.
    ``layer``, ``material`` and ``role`` are numbers in their lists.

    ``shape`` is the same for parts of the same shape; ``size`` and ``middle`` hold three metres for each part.
    ``overruled`` has what is said of single parts, by part number; ``whole``, ``clear`` and ``earth`` are the numbers
    of those that, all said, no plane cuts, that are seen through, and that are filled as earth. Absent parts keep their
    row; of these ``dropped`` ones are still in the file.
    """

    version: str
    name: list[str]
    layer: list[int]
    material: list[int]
    role: list[int]
    triangles: list[int]
    shape: list[int]
    size: list[float]
    middle: list[float]
    absent: list[int]
    dropped: list[int]
    hidden: list[int]
    overruled: dict[int, dict[str, bool | str]]
    whole: list[int]
    clear: list[int]
    earth: list[int]
    layers: list[str]
    materials: list[MaterialOut]
    roles: list[str]
    behaviour: dict[str, BehaviourOut]
    sets: dict[str, list[int]]
    joined: list[JoinedOut]
    rooms: list[RoomOut]
    white_card: bool
    cut_order: list[int]
    contour_interval: float | None
    contour_index: int


class ModelEditIn(Schema):
    """Edits that are one step of undo together."""

    base: int
    edits: list[ModelEdit] = Field(min_length=1, max_length=200)
    gesture: str = Field(default="", max_length=120)


class ModelEditOut(Schema):
    """What the edits changed, or the job that makes them when they take longer than a request should."""

    changed: ChangedOut | None
    job: JobOut | None


class PlaceOut(Schema):
    part: int
    point: tuple[float, float, float]
    count: int


class FindingOut(Schema):
    kind: str
    title: str
    harm: str
    mend: str
    count: int
    parts: int
    places: list[PlaceOut]
    whole: bool = True


class HealthOut(Schema):
    """``findings`` once they are known; ``tolerance`` in metres is for gaps."""

    findings: list[FindingOut] | None
    tolerance: float
    job: JobOut | None


class RuleBookOut(Schema):
    name: str
    rules: list[RoleRule]


@router.get("/studies/{slug}/parts", response=PartsOut)
def list_parts(request: HttpRequest, slug: str, version: str = "") -> PartsOut:
    """Everything said of the parts; ``version`` only makes the address change."""
    study = study_of(slug)
    model = study.model
    count = len(model.parts)
    gone = np.flatnonzero(~model.parts.present)
    base = study.base if len(gone) else None
    layers = {layer: i for i, layer in enumerate(sorted({p.layer for p in model.parts}))}
    boxes = np.where(np.isfinite(model.part_bounds), model.part_bounds, 0.0)
    uses = np.bincount(model.parts.material[model.parts.present], minlength=len(model.materials))
    fields = ("cut", "clear", "drawn", "poche", "cut_as")
    overruled = {i: {f: v for f in fields if (v := getattr(p, f)) is not None} for i, p in enumerate(model.parts)}
    return PartsOut(
        version=model.version,
        joined=[
            JoinedOut(
                id=j.id, name=j.name, by=j.by, turn=j.turn, shared=j.shared,
                parts=sum(p.source == j.id and not p.absent for p in model.parts),
            )
            for j in model.joined
        ],
        name=[p.name for p in model.parts],
        layer=[layers[p.layer] for p in model.parts],
        material=model.parts.material.tolist(),
        role=[ROLES.index(p.role) for p in model.parts],  # type: ignore[arg-type]
        triangles=np.bincount(model.triangle_part, minlength=count).tolist(),
        shape=_shape_numbers(model),
        size=np.round(boxes[:, 1] - boxes[:, 0], 4).ravel().tolist(),
        middle=np.round(boxes.mean(1), 4).ravel().tolist(),
        absent=gone.tolist(),
        dropped=[n for n in gone.tolist() if base is not None and n < len(base.parts) and not base.parts[n].absent],
        hidden=list(model.hidden),
        overruled={i: row for i, row in overruled.items() if row},
        whole=np.flatnonzero(~model.parts.is_cut).tolist(),
        clear=np.flatnonzero(model.parts.is_glass).tolist(),
        earth=np.flatnonzero(model.parts.earth).tolist(),
        layers=list(layers),
        materials=[
            MaterialOut(name=m.name, colour=m.colour, shown=s.colour, opacity=m.opacity, clear=m.opacity < SEE_THROUGH,
                texture=m.texture, size=m.size, parts=int(n), was=list(m.names))
            for m, s, n in zip(model.materials, model.looks, uses, strict=True)
        ],
        roles=list(ROLES),
        behaviour={r: BehaviourOut(cut=b.cut, clear=b.clear, drawn=b.drawn, poche=b.poche) for r,
            b in BEHAVIOUR.items()},
        sets={n: [p for p in rows if not model.parts[p].absent] for n, rows in model.sets.items()},
        rooms=[RoomOut(name=r.name, number=r.number, layer=r.layer, area=r.area) for r in model.rooms],
        white_card=model.white_card,
        cut_order=np.argsort(model.parts.cut_rank).tolist(),
        contour_interval=model.contours.interval if model.contours else None,
        contour_index=model.contours.index if model.contours else 5,
    )  # fmt: skip


_known_shapes: dict[tuple[str, int], list[int]] = {}


def _shape_numbers(model: Model) -> list[int]:
    """A small number for each part's shape; found anew only when triangles change."""
    key = model.mesh.geometry, len(model.parts)
    found = _known_shapes.get(key)
    if found is None:
        while len(_known_shapes) > 6:
            _known_shapes.pop(next(iter(_known_shapes)), None)
        found = _known_shapes[key] = in_classes(forms_of(model).signature)[0].tolist()
    return found


@router.get("/studies/{slug}/mesh")
def read_mesh(request: HttpRequest, slug: str, geometry: str = "") -> HttpResponse:
    """The model for the 3D view; see :mod:`studio.studies.mesh`. ``geometry`` only makes the address change."""
    response = HttpResponse(mesh_file(study_of(slug).model).read_bytes(), content_type="application/octet-stream")
    response["Content-Encoding"] = "gzip"
    response["Cache-Control"] = "private, max-age=31536000, immutable" if geometry else "no-store"
    return response


@router.get("/studies/{slug}/textures/{name}")
def read_texture(request: HttpRequest, slug: str, name: str) -> HttpResponse:
    """A picture of a material, as it came."""
    data = study_of(slug).model.textures.get(name)
    if data is None:
        return HttpResponse(status=404)
    kind = "image/jpeg" if name.endswith(".jpg") else "image/png"
    response = HttpResponse(data, content_type=kind)
    response["Cache-Control"] = "private, max-age=31536000, immutable"  # the name is a hash of the picture
    return response


@router.post("/studies/{slug}/model", response=ModelEditOut)
def edit_model(request: HttpRequest, slug: str, body: ModelEditIn) -> ModelEditOut:
    """Change what is said of the model, or the model itself."""
    study = study_of(slug)
    if any(is_slow(e) for e in body.edits):
        arguments = {"base": body.base, "edits": [e.model_dump(mode="json") for e in body.edits]}
        return ModelEditOut(
            changed=None,
            job=job_out(enqueue("edit_model", f"edit {slug} {body.base} {uuid.uuid4().hex}", arguments, study)),
        )
    work = lambda: Study.edit_model(slug, body.base, body.edits, body.gesture)
    return ModelEditOut(changed=told(slug, body.base, work), job=None)


Tolerance = Annotated[float, Query(ge=0.0001, le=0.1, allow_inf_nan=False)]


def _findings(path: Path) -> list[FindingOut] | None:
    """What was found; ``None`` where nobody looked yet, or what is kept of it cannot be read.
    Then it is looked for again.
    """
    try:
        return [
            FindingOut(
                title=FINDINGS[r["kind"]].title, harm=FINDINGS[r["kind"]].harm, mend=FINDINGS[r["kind"]].mend, **r
            )
            for r in json.loads(path.read_text())
        ]
    except (OSError, ValueError, KeyError, TypeError):
        return None


def _health(study: Study, tolerance: float, start: bool) -> HealthOut:
    rows = _findings(health_path(study, tolerance))
    if rows is not None:
        return HealthOut(findings=rows, tolerance=tolerance, job=None)
    key = health_key(study, tolerance)
    job = Job.last(study, key)
    if start and (job is None or (not job.is_open and job.state != Job.State.FAILED)):
        job = enqueue("health", key, {"tolerance": tolerance, "version": study.model_version}, study)
    return HealthOut(findings=None, tolerance=tolerance, job=job_out(job) if job else None)


@router.get("/studies/{slug}/health", response=HealthOut)
def read_health(request: HttpRequest, slug: str, tolerance: Tolerance = GAP) -> HealthOut:
    """What is wrong with the model, as far as that is known; ``tolerance`` in metres is for gaps."""
    return _health(study_of(slug), tolerance, start=False)


@router.post("/studies/{slug}/health", response=HealthOut)
def look_at_health(request: HttpRequest, slug: str, tolerance: Tolerance = GAP) -> HealthOut:
    """As GET, and a job looks when it is not known yet."""
    return _health(study_of(slug), tolerance, start=True)


@router.get("/rule-books", response=list[RuleBookOut])
def list_rule_books(request: HttpRequest) -> list[RuleBookOut]:
    """Role rules that were kept for any model."""
    return [RuleBookOut.model_validate({"name": b.name, "rules": b.current}) for b in RuleBook.objects.all()]


@router.post("/rule-books", response=RuleBookOut)
def keep_rule_book(request: HttpRequest, body: RuleBookOut) -> RuleBookOut:
    """Keep role rules under a name; what was kept under it before is replaced."""
    name = body.name.strip()
    if not name or len(name) > 120:
        raise EditError("The rules need a name of up to 120 letters.")
    RuleBook.objects.update_or_create(
        name=name, defaults={"rules": [r.model_dump(mode="json") for r in body.rules], "format": RULES.number}
    )
    return body


@router.delete("/rule-books/{name}", response={204: None})
def remove_rule_book(request: HttpRequest, name: str) -> tuple[int, None]:
    RuleBook.objects.filter(name=name).delete()
    return 204, None
