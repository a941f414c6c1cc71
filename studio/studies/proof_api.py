"""The proof, over HTTP: papers, a print, and what fills in."""

from __future__ import annotations

from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Router, Schema

from studio.jobs.api import JobOut, job_out
from studio.jobs.models import Job
from studio.jobs.queue import enqueue
from studio.studies.api import study_of
from studio.studies.proof_work import LOOKS, MARKS, proof_folder
from warmgraphite.notes.setting import is_dark
from warmgraphite.passes.store import pass_key
from warmgraphite.proof.printer import PAPERS, PrintPaperName
from warmgraphite.sheet.notes import inks_for
from warmgraphite.study.lifting import lifted_by

router = Router()


class PrintPaperOut(Schema):
    """A paper of the simulated printer."""

    name: str
    label: str
    about: str
    white: str
    gain: float
    limit: float
    gap: float


class ProofIn(Schema):
    """What the drawing on the desk is printed on, whether with black ink alone, and whether its own paper is printed, too: a dark one where
    nothing is said."""

    paper: PrintPaperName = "uncoated"
    black_only: bool = False
    own_paper: bool | None = None


class ProofOut(Schema):
    """The job that prints; how far the drawing is lifted for print now, where it is."""

    job: JobOut
    own_paper: bool
    lift: float | None
    black: float | None


@router.get("/print-papers", response=list[PrintPaperOut])
def read_papers(request: HttpRequest) -> list[PrintPaperOut]:
    """The papers of the simulated printer."""
    return [PrintPaperOut(name=n, label=p.label, about=p.about, white=p.white, gain=p.gain, limit=p.limit, gap=p.gap) for n, p in PAPERS.items()]  # fmt: skip


@router.post("/studies/{slug}/proofs", response=ProofOut)
def make_proof(request: HttpRequest, slug: str, body: ProofIn) -> ProofOut:
    """Print the drawing on the desk, or give the print that there is of just this."""
    study = study_of(slug)
    document = study.document
    saved, look = document.on_desk, document.drawn_look(document.on_desk)
    own_paper = is_dark(inks_for(look.traces).paper) if body.own_paper is None else body.own_paper
    said = [document.desk.view, look, saved.sheet]
    key = "proof " + pass_key(
        study.slug, study.model_version, vars(PAPERS[body.paper]), body.black_only, own_paper, document.name,
        [s.model_dump(mode="json") for s in said],
    )  # fmt: skip
    job = Job.objects.filter(key=key, state=Job.State.DONE).order_by("-pk").first()
    if job is None or not (proof_folder(job) / MARKS).is_file():
        arguments = {
            "document": document.model_dump(mode="json"),
            "version": study.model_version,
            **body.model_dump(),
            "own_paper": own_paper,
        }
        job = enqueue("proof", key, arguments, study)
    lifted = lifted_by(document.look.traces)
    return ProofOut(job=job_out(job), own_paper=own_paper, lift=lifted and lifted[0], black=lifted and lifted[1])


@router.get("/studies/{slug}/proofs/{job_id}/{name}", include_in_schema=False)
def read_proof(request: HttpRequest, slug: str, job_id: int, name: str) -> HttpResponse:
    """A picture of a proof: how it looks, or what fills in."""
    job = get_object_or_404(Job, pk=job_id, kind="proof", state=Job.State.DONE, study__slug=slug)
    path = proof_folder(job) / name
    if name not in (LOOKS, MARKS) or not path.is_file():
        raise Http404
    response = FileResponse(path.open("rb"))
    response["Cache-Control"] = "private, max-age=86400"
    return response
