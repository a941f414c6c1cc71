"""The marks of a study: laid, changed, taken out."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from warmgraphite.collage.kinds.marks import MarksTrace
from warmgraphite.errors import ViewError
from warmgraphite.ink.marks.specification import AnyMark, Mark, OnPaper
from warmgraphite.specification import Specification, valid
from warmgraphite.study.changes import Change, make_changes
from warmgraphite.study.document import StudyDocument, replaced

__all__ = ["change_marks"]


class _Marks(Specification):
    marks: tuple[AnyMark, ...] = ()


def change_marks(document: StudyDocument, changes: Sequence[Change]) -> StudyDocument:
    """The document with other marks; paths begin with ``marks``.
    Every finish that has no sheet to show them on gets one.
    """
    rows = [m.model_dump(mode="json") for m in document.marks]
    with valid("This mark"):
        marks = _Marks.model_validate(make_changes({"marks": rows}, changes)).marks
    views = {v.id for v in document.views}
    for mark in marks:
        if isinstance(mark, Mark) and isinstance(mark.plane, OnPaper) and mark.plane.view not in views:
            raise ViewError("That mark lies on the paper of a view that is not saved any more; draw it on another.")
    return replaced(
        document, marks=marks, finishes=tuple(_with_sheet(f) for f in document.finishes) if marks else document.finishes
    )


def _with_sheet(finish: Any) -> Any:
    """A finish with a sheet of marks on it."""
    if any(t.kind == "marks" for t in finish.traces):
        return finish
    taken = {t.id for t in finish.traces}
    identity = next(n for n in ("marks", *(f"marks-{k}" for k in range(2, 100))) if n not in taken)
    return finish.model_copy(update={"traces": (*finish.traces, MarksTrace(id=identity, name="Marks"))})
