"""What a job was asked about: the state of the model that it names, and what drawings of a board show of it."""

from __future__ import annotations

from collections.abc import Callable

from studio.jobs.models import Job
from studio.studies.models import model_of_version
from warmgraphite.board.specification import PlacedDrawing
from warmgraphite.model.model import Model
from warmgraphite.study import StudyDocument
from warmgraphite.study.placed_drawings import Source, in_study

__all__ = ["model_of", "source_of"]


def model_of(job: Job) -> Model:
    """The state of the model that a job was asked about; a job from before models had states means the study's."""
    assert job.study is not None
    return model_of_version(job.wanted.get("version") or job.study.model_version)


def source_of(job: Job, document: StudyDocument) -> Callable[[PlacedDrawing], Source]:
    """What the drawings of a board show."""
    model = model_of(job)
    return lambda row: in_study(row, document, model)
