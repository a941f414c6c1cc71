"""The proof, over HTTP: papers, a print, and what fills in."""

from __future__ import annotations

import datetime
from dataclasses import dataclass
from typing import Any

from django.http import FileResponse, Http404, HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema
from pydantic import Field

from studio.jobs.api import JobOut, job_out
from studio.jobs.models import Job
from studio.jobs.queue import cancel_others, enqueue
from studio.studies.api import study_of
from studio.studies.boards import board_of, source_of
from studio.studies.desk import PICTURES
from studio.studies.models import Study
from studio.studies.proof_work import LOOKS, MARKS, proof_folder
from warmgraphite.board.specification import Board
from warmgraphite.colour import is_light
from warmgraphite.keys import key_of
from warmgraphite.proof.printer import PAPERS, PrintPaperName
from warmgraphite.sheet.notes import inks_for
from warmgraphite.study.lifting import lifted_by

router = Router()

#: What makes a proof: older ones are made anew where that is another.
MADE_BY = (*PICTURES, "warmgraphite.proof.proof")


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
    """What a drawing or a page is printed on.
    It says whether with black ink alone, and whether its own paper is printed, too: a dark one where nothing is said.
    """

    paper: PrintPaperName = "uncoated"
    black_only: bool = False
    own_paper: bool | None = None
    board: str = ""
    page: int = Field(default=1, ge=1)


class ProofOut(Schema):
    """The job that prints; how far the drawing, or any on the page, is lifted for print now, where it is."""

    job: JobOut
    own_paper: bool
    lift: float | None
    black: float | None


@router.get("/print-papers", response=list[PrintPaperOut])
def read_papers(request: HttpRequest) -> list[PrintPaperOut]:
    """The papers of the simulated printer."""
    return [PrintPaperOut(name=n, label=p.label, about=p.about, white=p.white, gain=p.gain, limit=p.limit, gap=p.gap)
        for n, p in PAPERS.items()]  # fmt: skip


@dataclass(frozen=True)
class _Printed:
    """What is printed: all that it shows, as JSON values; the colour of its paper; and how far it is lifted."""

    said: list[Any]
    paper: str
    lifted: tuple[float, float] | None


def _view(study: Study) -> _Printed:
    document = study.document
    saved, look = document.on_desk, document.drawn_look(document.on_desk)
    said = [s.model_dump(mode="json") for s in (document.desk.view, look, saved.sheet)]
    return _Printed(said, inks_for(look.traces).paper, lifted_by(document.look.traces))


def _page(study: Study, board: Board, number: int) -> _Printed:
    board.refuse_page(number)
    rows = [d for d in board.drawings if d.page == number and d.lift > 0]
    sources = [source_of(study, d) for d in board.drawings]
    said = [[m.model_dump(mode="json") for m in (s.view, s.look, s.sheet)] for s in sources]
    lifted = max(((d.lift, d.black) for d in rows), default=None)
    return _Printed(
        [board.model_dump(mode="json"), number, str(datetime.date.today()), said], board.page.colour, lifted
    )


@router.post("/studies/{slug}/proofs", response=ProofOut)
def make_proof(request: HttpRequest, slug: str, body: ProofIn) -> ProofOut:
    """Print the drawing on the desk or a page of a board, or give the print that there is of just this.
    Another print of this study that is under way is stopped.
    """
    study = study_of(slug)
    document = study.document
    made = _page(study, board_of(study, body.board), body.page) if body.board else _view(study)
    own_paper = not is_light(made.paper) if body.own_paper is None else body.own_paper
    key = "proof " + key_of(
        "page",
        study.slug,
        study.model_version,
        vars(PAPERS[body.paper]),
        body.black_only,
        own_paper,
        document.name,
        made.said,
        by=MADE_BY,
    )
    assert study.head is not None
    job = Job.objects.filter(study=study, key=key, state=Job.State.DONE).order_by("-pk").first()
    if job is None or not (proof_folder(job) / MARKS).is_file():
        arguments = {"version": study.model_version, **body.model_dump(), "own_paper": own_paper}
        cancel_others(study, ("proof",), key)
        job = enqueue("proof", key, arguments, study, study.head.text)
    lift, black = made.lifted or (None, None)
    return ProofOut(job=job_out(job), own_paper=own_paper, lift=lift, black=black)


@router.get("/studies/{slug}/proofs/{job_id}/{name}", include_in_schema=False)
def read_proof(request: HttpRequest, slug: str, job_id: int, name: str) -> FileResponse:
    """A picture of a proof: how it looks, or what fills in."""
    job = get_object_or_404(Job, pk=job_id, kind="proof", state=Job.State.DONE, study__slug=slug)
    path = proof_folder(job) / name
    if name not in (LOOKS, MARKS) or not path.is_file():
        raise Http404
    response = FileResponse(path.open("rb"))
    response["Cache-Control"] = "private, max-age=86400"
    return response
