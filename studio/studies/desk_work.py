"""Setting a job to work on the passes that the drawing on the desk wants."""

from __future__ import annotations

import logging
from collections.abc import Sequence
from typing import Any

from studio.jobs.models import Job
from studio.jobs.queue import cancel_others, enqueue
from studio.studies import desk
from studio.studies.models import Study
from warmgraphite.drawing import Drawing, Need
from warmgraphite.errors import GraphiteError
from warmgraphite.keys import key_of
from warmgraphite.needs import packed_need
from warmgraphite.study import Look
from warmgraphite.view.scene import shown_parts

__all__ = ["arguments_of", "begin", "problem_of", "state_of", "working"]

log = logging.getLogger(__name__)


def state_of(study: Study) -> tuple[Drawing, Look, dict[Need, bool]]:
    """The drawing on the desk, its look, and which of its passes are fresh.
    They are those that its picture shows and that close the cuts of the model beside it. Raises :class:`GraphiteError`
    where there is nothing to draw.
    """
    document = study.document
    shown_parts(study.model, document.desk.view)
    drawing, look = desk.on_desk(study, document)
    return drawing, look, {n: drawing.is_fresh(n) for n in (*desk.wanted(look), Need("caps"))}


def problem_of(drawing: Drawing) -> str:
    """Why nothing of a drawing lies on the paper, as far as that is known; else nothing."""
    return str(drawing.result("frame").problem) if drawing.is_fresh("frame") else ""


def working(
    study: Study, drawing: Drawing, look: Look, needs: Sequence[Need], start: bool, again: bool = False
) -> Job | None:
    """The job that makes passes of the desk; where none does, one is begun if it shall ``start``.
    What failed is not begun again by itself, only ``again``: else a fault would be met for ever and never be seen.
    """
    key = key_of("desk", [drawing.key(n) for n in needs])
    job = Job.last(study, key)
    given_up = job is not None and job.state == Job.State.FAILED and not again
    if not start or given_up or (job is not None and job.is_open):
        return job
    # What an earlier state of this study asked for is wanted no more.
    cancel_others(study, ("passes", "suns"), key)
    return enqueue("passes", key, arguments_of(study, look, needs), study)


def arguments_of(study: Study, look: Look, needs: Sequence[Need]) -> dict[str, Any]:
    """The arguments of a job that makes passes of the desk."""
    passes = [packed_need(n) for n in needs]
    view, inked = study.document.desk.view.model_dump(mode="json"), look.model_dump(mode="json", exclude={"traces"})
    return {"view": view, "version": study.model_version, "look": inked, "passes": passes}


def begin(study: Study) -> None:
    """Begin what an edit leaves to be drawn, before its answer is under way: whoever made it asks for the desk next."""
    try:
        drawing, look, fresh = state_of(study)
        if not all(fresh.values()) and not problem_of(drawing):
            working(study, drawing, look, tuple(fresh), start=True)
    except GraphiteError:
        return  # the desk says it when it is asked
    except Exception as error:  # the edit is made all the same
        log.warning("the desk of study %s could not be begun: %s", study.slug, error)
