"""The drawing file: one drawing, a view wearing a finish with its sheet, as one JSON text that any study takes in."""

from __future__ import annotations

import json
from typing import Any

from pydantic import Field, field_validator

from warmgraphite import MADE_BY
from warmgraphite.collage.kinds import KINDS
from warmgraphite.errors import ViewError
from warmgraphite.figures.figure import with_figure_ids
from warmgraphite.figures.kinds import AnyFigure
from warmgraphite.formats import read_json
from warmgraphite.ink.marks.specification import AnyMark
from warmgraphite.notes.kinds import KINDS as NOTES
from warmgraphite.notes.kinds import AnyNote
from warmgraphite.notes.note import numbered_notes
from warmgraphite.sheet.specification import Sheet
from warmgraphite.specification import Specification, valid
from warmgraphite.study.finish import DrawnLook, Look
from warmgraphite.study.formats import DRAWING, pens_along, pens_of_figures
from warmgraphite.view.specification import Parallel, ViewSpecification

__all__ = ["DrawingFile", "read_drawing", "read_drawing_data", "write_drawing_file"]


def _usual_view() -> ViewSpecification:
    return ViewSpecification(name="Axonometric", projection=Parallel(direction=(0.6, 1.0, -0.75)))


class DrawingFile(Specification):
    """One drawing. What it says nothing of is as usual: an axonometric of all, in graphite and wash."""

    format: int = DRAWING.number
    view: ViewSpecification = Field(default_factory=_usual_view)
    finish: Look = Field(default_factory=Look)
    sheet: Sheet = Sheet()
    marks: tuple[AnyMark, ...] = Field(default=(), max_length=2000)
    figures: tuple[AnyFigure, ...] = Field(default=(), max_length=5000)
    notes: tuple[AnyNote, ...] = Field(default=(), max_length=2000)

    @field_validator("notes")
    @classmethod
    def _numbered(cls, notes: tuple[Any, ...]) -> tuple[Any, ...]:
        return numbered_notes(notes)

    @field_validator("figures")
    @classmethod
    def _known(cls, figures: tuple[Any, ...]) -> tuple[Any, ...]:
        return with_figure_ids(figures)

    @property
    def drawn_look(self) -> DrawnLook:
        """Its finish with its marks, figures and notes."""
        return self.finish.marked(self.marks, self.figures, self.notes)


def _named(traces: Any, name: str) -> None:
    """Give traces that have none an id and a name; raises :class:`ViewError` for a kind that there is not."""
    for number, trace in enumerate(traces if isinstance(traces, list) else ()):
        if not isinstance(trace, dict) or not isinstance(trace.get("kind"), str):
            continue
        kind = KINDS.get(trace["kind"])
        if kind is None:
            known = ", ".join(sorted(KINDS))
            raise ViewError(
                f"{name}: “finish.traces.{number}”: there is no kind of trace “{trace['kind'][:60]}”; the kinds are "
                f"{known}."
            )
        trace.setdefault("id", f"{trace['kind']}-{number + 1}")
        trace.setdefault("name", kind.label)


def _known_notes(notes: Any, name: str) -> None:
    """Raises :class:`ViewError` for a note of a kind that there is not."""
    for number, note in enumerate(notes if isinstance(notes, list) else ()):
        kind = note.get("kind") if isinstance(note, dict) else None
        if kind not in NOTES:
            raise ViewError(
                f"{name}: “notes.{number}”: there is no kind of note “{str(kind or '')[:60]}”; the kinds are "
                f"{', '.join(NOTES)}."
            )


def read_drawing(text: str, name: str = "The drawing") -> DrawingFile:
    """The drawing of a text. Raises :class:`ViewError` with one sentence, which calls it ``name``."""
    return read_drawing_data(read_json(text, name), name)


def read_drawing_data(data: Any, name: str = "The drawing") -> DrawingFile:
    """The drawing of what its text says, as JSON.
    Raises :class:`ViewError` with one sentence, which calls it ``name``.
    """
    if not isinstance(data, dict) or "format" not in data:
        raise ViewError(f"{name} is no drawing: it has no “format”; copy it whole.")
    if data["format"] == 0:
        raise ViewError(f"{name} says format 0, which there never was; the first is 1.")
    data = DRAWING.upgraded(data, name)
    _known_notes(data.get("notes"), name)
    finish = data.get("finish")
    if isinstance(finish, dict):
        _named(finish.get("traces"), name)
        if isinstance(finish.get("pens"), list):
            finish["pens"] = pens_along(finish["pens"])
            if data.get("figures"):
                data["finish"] = pens_of_figures(finish)
    if isinstance(data.get("view"), dict) and "projection" not in data["view"]:
        data["view"]["projection"] = _usual_view().projection.model_dump()
    with valid(name):
        return DrawingFile.model_validate(data)


def write_drawing_file(view: ViewSpecification, look: Look, sheet: Sheet) -> str:
    """A drawing as text, with the marks, figures and notes that its look has.
    Regions that the look names must be taken for what they mean: they stay with their study.
    """
    marks = look.marks if isinstance(look, DrawnLook) else ()
    figures = look.figures if isinstance(look, DrawnLook) else ()
    notes = look.notes if isinstance(look, DrawnLook) else ()
    drawing = DrawingFile(view=view, finish=look.plain, sheet=sheet, marks=marks, figures=figures, notes=notes)
    return json.dumps(
        {"format": DRAWING.number, "made_by": MADE_BY, **drawing.model_dump(mode="json")}, indent=1, ensure_ascii=False
    )
