"""The work that a job worker does for models: reading, taking in, mending, looking at their health, writing."""

from __future__ import annotations

import json
import shutil
import zipfile
from collections.abc import Callable
from dataclasses import asdict
from pathlib import Path
from typing import Any

import numpy as np
from django.conf import settings
from pydantic import TypeAdapter

from studio.jobs.models import Job, Watch
from studio.jobs.queue import work
from studio.jobs.received import AS_READ, put_away, received, received_in
from studio.stock.models import kept_pictures
from studio.studies.making import create_study
from studio.studies.mesh import mesh_file
from studio.studies.models import ChangedElsewhere, ModelFile, Study, model_of_version, model_store
from studio.studies.names import file_name
from warmgraphite.atomic import DRAFT, atomic_write, make_folder, settle, settle_all
from warmgraphite.drawing import Drawing
from warmgraphite.errors import ModelFileError
from warmgraphite.model.edits import ModelEdit
from warmgraphite.model.edits.file import Mend, Remeasure, in_step
from warmgraphite.model.edits.joined import PlaceJoined, TakeOutJoined
from warmgraphite.model.edits.parts import Drop, Restore
from warmgraphite.model.health import FINDINGS, check
from warmgraphite.model.joining import Joined, free_id, join, notes_of, renewed
from warmgraphite.model.mending import mend
from warmgraphite.model.model import Model, far_origin
from warmgraphite.model.obj import write_obj
from warmgraphite.model.sandboxed import read_sandboxed
from warmgraphite.model.store import ModelLost, load_model
from warmgraphite.model.succession import Report, succeed
from warmgraphite.model.units import to_metres
from warmgraphite.study import StudyDocument, follow_names, read_document
from warmgraphite.study.kit import shipped_finishes

__all__ = ["health_key", "health_path", "is_slow"]

_EDITS: TypeAdapter[Any] = TypeAdapter(list[ModelEdit])


def is_slow(edit: Any) -> bool:
    """Whether an edit touches the triangles, so that it belongs in a job."""
    return isinstance(edit, Mend | Remeasure | Drop | Restore | PlaceJoined | TakeOutJoined)


def health_key(study: Study, tolerance: float) -> str:
    assert study.head is not None
    return f"health {study.model.mesh.geometry} {_looks(study.model)} {tolerance:g}"


def health_path(study: Study, tolerance: float) -> Path:
    return settings.DATA / "health" / f"{study.model.mesh.geometry}-{_looks(study.model)}-{tolerance:g}.json"


def _looks(model: Model) -> str:
    """Glass is left out of some findings, so they are known only for parts as they are."""
    import hashlib

    return hashlib.sha256(model.parts.is_glass.tobytes()).hexdigest()[:8]


def _put_away_unread(job: Job) -> None:
    """What was read waits until somebody takes it."""
    if job.state != Job.State.DONE:
        put_away(job)


def _put_away_taken(job: Job) -> None:
    """What was taken lies with the study; what could not be may be tried again, with other units perhaps."""
    if job.state == Job.State.DONE:
        put_away(job)


@work("read", after=_put_away_unread)
def read_upload(job: Job, watch: Watch) -> dict:
    """Read a received model in a process of its own, under limits of time and memory."""
    watch("Reading the model", 0.01)
    found = read_sandboxed(
        received(job),
        received_in(job) / AS_READ,
        watch,
        seconds=settings.READ_SECONDS,
        megabytes=settings.READ_MEGABYTES,
    )
    return {**found, "notes": [*job.wanted.get("notes", []), *found["notes"]]}


@work("take", after=_put_away_taken)
def take_in(job: Job, watch: Watch) -> dict:
    """Make a study of a model that was read, or the next version of a study's model."""
    known = ModelFile.objects.filter(job=job.pk).select_related("study").first()
    if known:  # done by a worker that was killed before it could say so
        return {"slug": known.study.slug, "number": known.number, "report": known.report}
    wanted = job.wanted
    incoming = received_in(job)
    watch("Laying the model down", 0.05)
    if not (incoming / AS_READ).exists():
        raise ModelFileError("This model was taken or put away already; bring the file again.")
    read = load_model(incoming / AS_READ)
    kept = settings.DATA / "received" / wanted["folder"]
    file = {
        "name": wanted["file"],
        "folder": wanted["folder"],
        "format": wanted["format"],
        "notes": wanted["notes"],
        "job": job.pk,
    }
    if job.study is None:
        model = far_origin(read.transformed(to_metres(wanted["units"], wanted["up"])), None)
        model = model.said(units=wanted["units"], up=wanted["up"])
        if not len(model.triangles):
            raise ModelFileError(
                f"{wanted['file']} has only lines, which hide nothing and cast nothing; join it to a study that has a "
                f"building (Model bench, Files)."
            )
        watch("Drawing its edges", 0.4)
        mesh_file(model)
        watch("Keeping the file", 0.9)
        _keep(incoming, kept)
        study = create_study(wanted["name"], model, file=file, finishes=shipped_finishes())
        answer = {"slug": study.slug, "number": 1, "report": {}}
    else:
        for attempt in range(4):
            try:
                answer = _next_version(job, read, file, watch, lambda: _keep(incoming, kept))
                break
            except ChangedElsewhere:  # somebody went on working meanwhile: their work stands, and this comes upon it
                if attempt == 3:
                    raise
    return answer


def file_stem(name: str) -> str:
    """What a joined file's layer is called: its name without the ending, and without what would part layers."""
    return Path(name).stem.replace("/", " ").strip()[:80] or "Joined"


def _keep(incoming: Path, kept: Path) -> None:
    """Copy what was received, with all that came with it, to where it stays: whole or not at all."""
    if kept.exists():
        return
    draft = kept.with_name(f".{kept.name}{DRAFT}")
    shutil.rmtree(draft, ignore_errors=True)
    make_folder(draft.parent)
    shutil.copytree(incoming, draft, ignore=shutil.ignore_patterns(".*"))
    settle_all(draft)
    draft.replace(kept)
    settle(kept.parent)


def _next_version(job: Job, read: Model, file: dict[str, Any], watch: Watch, keep: Callable[[], None]) -> dict:
    assert job.study is not None
    study = Study.objects.select_related("head", "head__file").get(pk=job.study.pk)
    assert study.head is not None and study.head.file is not None
    wanted, old_file = job.wanted, study.head.file
    measured, source = read.transformed(to_metres(wanted["units"], wanted["up"])), str(wanted.get("source") or "")
    watch("Finding each part again", 0.3)
    base = current = None
    try:
        base, current = model_store().load(old_file.base_version), study.model
    except ModelLost:
        if source or wanted.get("joins"):
            raise
    if base is None or current is None:
        # Nothing can be found again in it: it lies in the place of what was lost, and views, looks and pages go on with
        # it.
        new_base = state = far_origin(measured, tuple(study.head.about_model["origin"])).said(
            units=wanted["units"], up=wanted["up"]
        )
        parts = tuple(p.path for p in state.parts)
        report = Report(
            new=parts, counts={"new": len(parts)}, notes=("What lay here before could not be read any more.",)
        )
    elif wanted.get("joins"):
        joined = Joined(free_id(current), file_stem(wanted["file"]))
        source = joined.id
        new_base, state = join(in_step(base, current), measured, joined), join(current, measured, joined)
        new = tuple(p.path for p in state.parts[len(current.parts) :])
        same = int(current.parts.present.sum())
        report = Report(same=same, new=new, notes=notes_of(state), counts={"same": same, "new": len(new)})
    else:
        # About the same origin as before, or every part would have moved.
        fresh = (
            measured if source else far_origin(measured, current.origin).said(units=wanted["units"], up=wanted["up"])
        )
        fresh = renewed(in_step(base, current), fresh, source)
        new_base, state, report = succeed(base, current, fresh, study.document.role_rules, source)
    watch("Drawing its edges", 0.7)
    mesh_file(state)
    watch("Keeping the file", 0.9)
    base_version, version = model_store().save(new_base), model_store().save(state)
    keep()

    def follow(document: StudyDocument) -> StudyDocument:
        return document if current is None else follow_names(document, current, state)

    head, number = study.head, 1 + max(study.files.values_list("number", flat=True))

    def brought() -> ModelFile:
        ModelFile.objects.filter(pk=old_file.pk).update(last_version=head.model_version)
        return ModelFile.objects.create(
            study=study,
            number=number,
            base_version=base_version,
            last_version=version,
            report=report.as_json(),
            source=source,
            **file,
        )

    label = f"{'Join' if wanted.get('joins') else 'Newer'} {wanted['file']}"[:120]
    Study.commit(study.slug, head.number, label, follow, state, file=brought)
    return {"slug": study.slug, "number": number, "report": report.as_json()}


@work("edit_model")
def edit_model(job: Job, watch: Watch) -> dict:
    """Edits that touch the triangles: dropping and bringing back, mending, other units."""
    assert job.study is not None
    edits = _EDITS.validate_python(job.wanted["edits"])
    base, slug = int(job.wanted["base"]), job.study.slug
    study = Study.objects.select_related("head", "head__file").get(pk=job.study.pk)
    said = ""
    if study.revisions.filter(job=job.pk).exists():  # done by a worker that was killed before it could say so
        return {"said": said}
    watch("Changing the model", 0.1)

    def ready(model: Model) -> None:
        # Before it is kept: a worker killed at this has changed nothing, and the next one makes the whole of it.
        watch("Drawing its edges", 0.6)
        mesh_file(model)

    if len(edits) == 1 and isinstance(edits[0], Mend):
        model, said = mend(study.model, edits[0].kind, edits[0].tolerance)
        ready(model)
        title = FINDINGS[edits[0].kind].title
        Study.commit(slug, base, f"Mend: {title.lower()}", lambda d: d, model, job=job.pk)
    else:
        Study.edit_model(slug, base, edits, ready=ready, job=job.pk)
    return {"said": said}


@work("health")
def look_at_health(job: Job, watch: Watch) -> dict:
    """Find what would spoil a drawing."""
    assert job.study is not None
    model = model_of_version(job.wanted["version"])
    tolerance = float(job.wanted["tolerance"])
    rows = [asdict(f) for f in check(model, tolerance, watch)] if len(model.triangles) else []
    study = Study.objects.select_related("head").get(pk=job.study.pk)
    path = settings.DATA / "health" / f"{model.mesh.geometry}-{_looks(model)}-{tolerance:g}.json"
    with atomic_write(path, lasting=False) as draft:
        draft.write_text(json.dumps(rows))
    return {"findings": len(rows), "current": study.model_version == job.wanted["version"]}


@work("write_model")
def write_model(job: Job, watch: Watch) -> dict:
    """Write the model, or a part set, as an open format."""
    assert job.study is not None
    model = model_of_version(job.wanted["version"])
    chosen = model.in_set(job.wanted["part_set"]) if job.wanted["part_set"] else None
    if chosen is not None:
        model = model.only(chosen[model.triangle_part])
    if job.wanted.get("figures"):
        document = read_document(job.wanted["document"])
        standing = Drawing(
            model, document.desk.view, ink=document.drawn_look(document.on_desk), pictures=kept_pictures()
        )
        model = standing.model
    title = f"{job.study.document.name} - {job.wanted['part_set'] or 'model'}"
    words = file_name(title, "model")
    folder = settings.DATA / "exports" / str(job.pk)
    make_folder(folder)
    watch("Writing the model", 0.2)
    if job.wanted["format"] == "glb":
        path = folder / f"{words}.glb"
        from warmgraphite.model.glb import write_glb  # takes a third of a second to import

        write_glb(model, path)
    else:
        path = folder / f"{words}.zip"
        inner = folder / "files"
        inner.mkdir(exist_ok=True)
        write_obj(model, inner / f"{words}.obj")
        watch("Packing the archive", 0.8)
        with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED, compresslevel=4) as archive:
            for file in sorted(inner.iterdir()):
                archive.write(file, file.name)
        shutil.rmtree(inner)
    settle_all(folder)
    watch("Writing the model", 1.0)
    return {"file": path.name, "bytes": path.stat().st_size, "parts": int(np.unique(model.triangle_part).size)}
