"""Boards over HTTP.
How their drawings lie and in which line they can stand, their pictures, what stands over them, and the way out.
"""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema

from studio.jobs.api import JobOut, job_out
from studio.jobs.models import Job
from studio.jobs.queue import cancel_others, enqueue
from studio.stock.models import kept_pictures
from studio.studies import boards
from studio.studies.api import study_of
from warmgraphite.board.drawn import draw_over
from warmgraphite.board.file import write_board_file
from warmgraphite.canvas.svg import SvgCanvas
from warmgraphite.keys import key_of
from warmgraphite.study.drawing_file import DrawingFile

router = Router()

Place = tuple[float, float]
Triple = tuple[float, float, float]


class LieOut(Schema):
    """Where a drawing shows points (x, y, z) of the model, in millimetres of its frame.
    To the right at ``across`` · point + ``left``, down at ``down`` · point + ``top``.
    """

    across: Triple
    left: float
    down: Triple
    top: float


class BoardDrawing(Schema):
    """A drawing on a board: where its frame lies and how large it is, in millimetres.
    Whether its picture is there, under a name that changes with all that it shows; how it lies, where it has one scale.
    """

    id: str
    at: Place
    size: Place
    fresh: bool
    picture: str
    paper: bool
    mark: str
    name: str
    scale: float | None
    problem: str
    lie: LieOut | None


class BoardState(Schema):
    """The drawings of a board, the name of what stands over them, and the job that makes what is not there."""

    revision: int
    drawings: list[BoardDrawing]
    over: str
    job: JobOut | None


def _state(slug: str, board_id: str, start: bool, fine: bool, again: bool = False) -> BoardState:
    study = study_of(slug)
    board = boards.board_of(study, board_id)
    shown = boards.shown_on(study, board, fine)
    stale = [s for s in shown if not s.fresh and not s.problem]
    job: Job | None = None
    if stale:
        key = key_of("board", [s.picture for s in stale])
        job = Job.last(study, key)
        given_up = job is not None and job.state == Job.State.FAILED and not again
        if start and not given_up and not (job is not None and job.is_open):
            cancel_others(study, ("board",), key)
            assert study.head is not None
            wanted = {"board": board_id, "version": study.model_version, "fine": fine}
            job = enqueue("board", key, wanted, study, study.head.text)
    assert study.head is not None
    rows = [
        BoardDrawing(
            id=s.row.id, at=s.at, size=s.size, fresh=s.fresh, picture=s.picture, paper=s.paper, mark=s.mark,
            name=s.name, scale=s.scale, problem=s.problem,
            lie=None if s.lie is None else LieOut(across=s.lie.across, left=s.lie.left, down=s.lie.down, top=s.lie.top),
        )
        for s in shown
    ]  # fmt: skip
    over = key_of(
        "over",
        [board.model_dump(mode="json"), study.document.name, [[r.id, r.at, r.size, r.name, r.scale] for r in rows]],
    )
    return BoardState(revision=study.head.number, drawings=rows, over=over, job=job_out(job) if job else None)


@router.get("/studies/{slug}/boards/{board_id}", response=BoardState)
def read_board(request: HttpRequest, slug: str, board_id: str, fine: bool = False) -> BoardState:
    """A board as it is; nothing is begun."""
    return _state(slug, board_id, False, fine)


@router.post("/studies/{slug}/boards/{board_id}", response=BoardState)
def show_board(request: HttpRequest, slug: str, board_id: str, fine: bool = False, again: bool = False) -> BoardState:
    """A board as it is; what its pictures lack is begun."""
    return _state(slug, board_id, True, fine, again)


@router.get("/studies/{slug}/boards/{board_id}/drawings/{drawing_id}/picture", include_in_schema=False)
def picture(request: HttpRequest, slug: str, board_id: str, drawing_id: str, fine: bool = False) -> HttpResponse:
    """A drawing of a board as JPEG; 204 while a pass of it is stale."""
    study = study_of(slug)
    data = boards.picture_of(study, boards.board_of(study, board_id), drawing_id, fine)
    if data is None:
        return HttpResponse(status=204)
    response = HttpResponse(data, content_type="image/jpeg")
    response["Cache-Control"] = "private, max-age=86400"
    return response


@router.get("/studies/{slug}/boards/{board_id}/pages/{number}/over", include_in_schema=False)
def over(request: HttpRequest, slug: str, board_id: str, number: int) -> HttpResponse:
    """What stands over the drawings of a page, as SVG."""
    study = study_of(slug)
    board = boards.board_of(study, board_id)
    told = {
        s.row.id: (s.mark, s.name, s.scale, s.box, s.perspective)
        for s in boards.shown_on(study, board)
        if not s.problem
    }
    canvas = SvgCanvas(board.page.width, board.page.height, title=board.name)
    draw_over(canvas, board, number, told, study.document.name, kept_pictures())
    response = HttpResponse(canvas.document(), content_type="image/svg+xml")
    response["Cache-Control"] = "private, max-age=86400"
    return response


@router.get("/studies/{slug}/boards/{board_id}/file", include_in_schema=False)
def read_file(request: HttpRequest, slug: str, board_id: str) -> HttpResponse:
    """The board as its file, with its drawings in it."""
    study = study_of(slug)
    board, document = boards.board_of(study, board_id), study.document

    def whole(row):  # type: ignore[no-untyped-def]
        # By how much it is lifted is said of its place, and not of what stands there.
        source = boards.source_of(study, row.model_copy(update={"lift": 0.0}))
        look = source.look
        drawing = DrawingFile(
            view=source.view,
            finish=look.plain,
            sheet=source.sheet,
            marks=look.marks,
            figures=look.figures,
            notes=look.notes,
        )
        return row.model_copy(
            update={
                "drawing": drawing.model_dump(mode="json"),
                "model": document.name,
                "view": "",
                "finish": "",
                "scale": None,
            }
        )

    text = write_board_file(board.model_copy(update={"drawings": tuple(whole(d) for d in board.drawings)}))
    return HttpResponse(text, content_type="application/json")
