"""The look of drawings: finishes, which views wear, and what a view changes of its own for itself."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from typing import Any

from pydantic import Field, ValidationError, model_validator

from warmgraphite import MADE_BY
from warmgraphite.collage.specification import AnyTrace, Trace, default_traces
from warmgraphite.errors import NotThere, ViewError
from warmgraphite.figures.choosing import Marked, figure_sentence
from warmgraphite.figures.figure import Figure
from warmgraphite.formats import read_json
from warmgraphite.ink.entourage import FigureRule
from warmgraphite.ink.marks.specification import Ground, Mark
from warmgraphite.ink.rules import Ink, SurfaceRule
from warmgraphite.ink.sentences import sentence
from warmgraphite.notes.kinds import AnyNote
from warmgraphite.notes.lettering import Lettering
from warmgraphite.notes.note import Note
from warmgraphite.regions.query import NamedRegion, resolved
from warmgraphite.specification import Specification, Words, valid
from warmgraphite.study.changes import Change, changes_between, make_changes
from warmgraphite.study.formats import FINISH
from warmgraphite.view.differences import Difference

__all__ = [
    "DrawnLook",
    "Finish",
    "Look",
    "OwnChange",
    "changed_look",
    "compare_looks",
    "describe_changes",
    "fresh_finish",
    "own_changes",
    "read_finish",
    "worn",
    "write_finish",
]


class Look(Ink):
    """How a drawing is inked, toned and lettered: its ink, traces from the lowest up, and how notes are written."""

    traces: tuple[AnyTrace, ...] = Field(default_factory=default_traces, max_length=60)
    lettering: Lettering = Lettering()

    @model_validator(mode="after")
    def _one_of_each(self) -> Look:
        rooms = (
            ("pens", self.pens),
            ("poche", self.poche),
            ("surfaces", self.surfaces),
            ("traces", self.traces),
            ("construction", self.construction),
            ("entourage", self.entourage),
        )
        for what, rows in rooms:  # type: ignore[assignment]
            if len({r.id for r in rows}) != len(rows):
                raise ValueError(f"two of the {what} have the same id")
        return self

    @property
    def plain(self) -> Look:
        """The look alone, without the name of the finish that it may be."""
        return Look(**{name: getattr(self, name) for name in Look.model_fields})

    def resolved(self, regions: tuple[NamedRegion, ...]) -> Look:
        """The look with kept regions taken for what they mean. What goes by one that is not kept is off."""

        def meant(trace: Trace) -> Trace:
            try:
                return trace.model_copy(update={"where": trace.where and resolved(trace.where, regions)})
            except NotThere:
                return trace.model_copy(update={"on": False, "where": None})

        def known(rule: SurfaceRule) -> SurfaceRule:
            try:
                return rule.model_copy(update={"where": resolved(rule.where, regions)})
            except NotThere:
                return rule.model_copy(update={"on": False})

        traces, surfaces = tuple(meant(t) for t in self.traces), tuple(known(r) for r in self.surfaces)
        return self.model_copy(update={"traces": traces, "surfaces": surfaces})

    def marked(
        self, marks: Sequence[Mark | Ground], figures: Sequence[Figure] = (), notes: Sequence[Note] = ()
    ) -> DrawnLook:
        """The look as something is drawn in it.
        With that on which these marks lie, in which these figures stand, and on which these notes are written.
        """
        said = {name: getattr(self, name) for name in Look.model_fields}
        return DrawnLook.model_construct(**said, marks=tuple(marks), figures=tuple(figures), notes=tuple(notes))


class DrawnLook(Look, Marked):
    """A look as a view is drawn in it, with the marks that lie on what it draws, the figures in it, and its notes."""

    notes: tuple[AnyNote, ...] = Field(default=(), max_length=2000)


class Finish(Look):
    """A look under a name."""

    id: str = Field(pattern=r"^[a-z0-9-]{1,40}$")
    name: Words = Field(min_length=1, max_length=100)

    def like(self, look: Look) -> Finish:
        """This finish with another look."""
        return self.model_copy(update={name: getattr(look, name) for name in Look.model_fields})


def fresh_finish() -> Finish:
    """The finish of a new study: a pen for each rank, poche in graphite, washes over paper."""
    return Finish(id="finish-1", name="Graphite and wash")


def own_changes(finish: Look, look: Look) -> tuple[Change, ...]:
    """What a look changes of a finish."""
    return tuple(changes_between(finish.plain.model_dump(mode="json"), look.plain.model_dump(mode="json")))


def worn(finish: Look, changes: Sequence[Change]) -> Look:
    """The look of a finish with a view's own changes.
    What no longer fits, because the finish lost what it was about, has no effect and stays with the view.
    """
    if not changes:
        return finish.plain
    base = finish.plain
    try:
        return Look.model_validate(make_changes(base.model_dump(mode="json"), changes, loose=True))
    except ValidationError:
        pass
    for change in changes:
        try:
            base = Look.model_validate(make_changes(base.model_dump(mode="json"), [change], loose=True))
        except ValidationError:
            continue
    return base


def changed_look(look: Look, changes: Sequence[Change], *, loose: bool = False) -> Look:
    """A look after changes. Raises :class:`ViewError` that names what is wrong with them."""
    with valid("This change"):
        return Look.model_validate(make_changes(look.plain.model_dump(mode="json"), changes, loose=loose))


class OwnChange(Specification):
    """A view's own change in words: ``what`` it is about, as the finish has it and as the view has it."""

    path: tuple[str, ...]
    what: str
    finish: str
    view: str


_PERCENT = {"opacity", "thinner", "paler", "mottle", "grain"}


def _said(name: str, value: Any) -> str:
    if isinstance(value, bool):
        return "on" if value else "off"
    if value is None:
        return "none"
    if isinstance(value, int | float):
        return f"{value * 100:.0f} %" if name in _PERCENT else f"{value:.2f} mm" if name == "weight" else f"{value:g}"
    if isinstance(value, list) and any(isinstance(v, dict) for v in value):
        return "; ".join(str(v.get("colour", "one")) for v in value)
    if isinstance(value, dict):
        return "what it says"
    if isinstance(value, list):
        return ", ".join(f"{v:g}" if isinstance(v, int | float) else str(v) for v in value) or "none"
    return str(value) or "none"


def _value(look: Mapping[str, Any], path: Sequence[str]) -> Any:
    place: Any = look
    for step in path:
        rows = {r["id"]: r for r in place} if isinstance(place, list) else place
        if not isinstance(rows, Mapping) or step not in rows:
            return None
        place = rows[step]
    return place


def _called(rule: Any) -> str:
    return figure_sentence(rule) if isinstance(rule, FigureRule) else sentence(rule)


def describe_changes(finish: Look, look: Look, changes: Sequence[Change]) -> list[OwnChange]:
    """The changes that make one look of the other, in words."""
    first, second = finish.plain.model_dump(mode="json"), look.plain.model_dump(mode="json")
    names = {t.id: t.name for t in (*finish.traces, *look.traces)}
    built = {b.id: b.name for b in (*finish.build_ups, *look.build_ups)}
    rules = {
        "pens": (*finish.pens, *look.pens), "poche": (*finish.poche, *look.poche),
        "surfaces": (*finish.surfaces, *look.surfaces),
        "construction": (*finish.construction, *look.construction),
        "entourage": (*finish.entourage, *look.entourage),
    }  # fmt: skip
    titles = {room: {r.id: _called(r) for r in rows} for room, rows in rules.items()}  # type: ignore[attr-defined]
    found = []
    for change in changes:
        room, *rest = change.path
        last = change.path[-1]
        if change.do == "order":
            found.append(
                OwnChange(path=change.path, what=f"order of the {room}", finish="as it is there", view="its own")
            )
            continue
        thing = {"traces": names, "build_ups": built, **titles}.get(room, {}).get(rest[0], rest[0]) if rest else room
        before, after = _value(first, change.path), _value(second, change.path)
        if len(rest) < 2 and (isinstance(before, dict) or isinstance(after, dict)):
            there = ["there" if v is not None else "not there" for v in (before, after)]
            found.append(OwnChange(path=change.path, what=thing, finish=there[0], view=there[1]))
        elif before != after:
            words = last.replace("_", " ").replace("where", "confined to")
            found.append(
                OwnChange(
                    path=change.path, what=f"{thing}: {words}", finish=_said(last, before), view=_said(last, after)
                )
            )
    return found


def compare_looks(first: Look, second: Look) -> list[Difference]:
    """What is not the same in two looks, in words."""
    rows = describe_changes(first, second, own_changes(first, second))
    return [Difference(r.what, r.finish, r.view) for r in rows]


def write_finish(finish: Finish) -> str:
    """A finish as the text of its file."""
    data = {"format": FINISH.number, "made_by": MADE_BY, "name": finish.name, **finish.plain.model_dump(mode="json")}
    return json.dumps(data, indent=1, ensure_ascii=False)


def read_finish(text: str, name: str = "The finish file") -> tuple[str, Look]:
    """Name and look from the text of a finish file.
    Raises :class:`ViewError` with one sentence, which calls it ``name``.
    """
    data = read_json(text, name)
    if not isinstance(data, dict) or "format" not in data:
        raise ViewError(f"{name} is no finish: it has no “format”; copy it whole.")
    data = FINISH.upgraded(data, name)
    called = data.pop("name", "Finish")
    with valid(name):
        return str(called)[:100].strip() or "Finish", Look.model_validate(
            {k: v for k, v in data.items() if k != "format"}
        )
