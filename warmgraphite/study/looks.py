"""The look of the view on the desk, as it is changed, and the finishes of a study.
Laid over, kept, given changes back.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from warmgraphite.errors import ViewError
from warmgraphite.figures.figure import Figure
from warmgraphite.ink.buildups.kit import KIT
from warmgraphite.ink.buildups.specification import Outer
from warmgraphite.ink.fills import Fill
from warmgraphite.ink.marks.specification import Ground, Mark, OnPaper
from warmgraphite.ink.rules import BuildUpRule, PocheRule, SurfaceRule
from warmgraphite.regions.query import PART_WORDS, Match
from warmgraphite.specification import valid
from warmgraphite.study.changes import Change, make_changes
from warmgraphite.study.document import SavedView, StudyDocument, replaced
from warmgraphite.study.drawing_file import read_drawing
from warmgraphite.study.finish import Finish, Look, changed_look, own_changes, read_finish
from warmgraphite.study.views import add_view

__all__ = [
    "build",
    "change_look",
    "change_sheet",
    "drop_changes",
    "give_back",
    "keep_finish",
    "lay_finish",
    "paste_drawing",
    "pour",
    "remove_finish",
    "rename_finish",
    "take_finish",
]


def _with_view(document: StudyDocument, view_id: str, **changes: Any) -> tuple[SavedView, ...]:
    return tuple(v.model_copy(update=changes) if v.id == view_id else v for v in document.views)


def _with_finish(document: StudyDocument, finish: Finish) -> tuple[Finish, ...]:
    return tuple(finish if f.id == finish.id else f for f in document.finishes)


def change_look(document: StudyDocument, changes: Sequence[Change], everywhere: bool = False) -> StudyDocument:
    """The document with another look of the view on the desk.
    As a change of its own, or, ``everywhere``, of the finish that it wears, and so of every view that wears it and has
    no change of its own there.
    """
    saved = document.on_desk
    finish, look = document.finish_of(saved), changed_look(document.look, changes)
    if everywhere:
        finish = finish.like(changed_look(finish, changes, loose=True))
    views = _with_view(document, saved.id, changes=own_changes(finish, look))
    return replaced(document, views=views, finishes=_with_finish(document, finish))


def pour(
    document: StudyDocument, where: Match, fill: Fill, *, cut: bool, over: bool, everywhere: bool
) -> StudyDocument:
    """The document where a fill is poured into what a query means.
    Into what is ``cut``, or onto what is seen, there also ``over`` what lies there. Where the same was poured before it
    is emptied again, and another fill takes its place.
    """
    room = "poche" if cut else "surfaces"
    if cut:
        where = _of_parts(where)
    rules = document.look.poche if cut else document.look.surfaces
    held = [r for r in rules if r.where == where and (cut or r.over == over)]  # type: ignore[union-attr]
    laid = fill.model_dump(mode="json")
    changes: list[Change] = []
    if held and held[-1].on:
        rule = held[-1]
        emptied = rule.fills == (fill,)
        changes.append(Change(path=(room, rule.id, "fills"), value=[] if emptied else [laid]))
        if rules[-1].id != rule.id and not emptied:
            others = [r.id for r in rules if r.id != rule.id]
            changes.append(Change(path=(room,), do="order", value=[*others, rule.id]))
    else:
        identity = _free_id("poured", [r.id for r in rules])
        rule_kind = PocheRule if cut else SurfaceRule
        said: dict[str, Any] = {"id": identity, "where": where, "fills": (fill,)} | ({} if cut else {"over": over})
        whole = rule_kind.model_validate(said).model_dump(mode="json")
        changes.append(Change(path=(room, identity), value=whole))
    if not cut and not any(t.kind == "hatches" and t.on for t in document.look.traces):
        raise ViewError(
            "No sheet of hatches is on, so that nothing would be seen; put “Hatches” on at the Collage bench first."
        )
    return change_look(document, changes, everywhere)


def build(document: StudyDocument, where: Match, build_up: str, outer: Outer, *, everywhere: bool) -> StudyDocument:
    """The document where what a query means of the parts is built of a build-up.
    Of the look's or of the kit, which it is taken from. Where the same was built before it is taken away again, and
    another takes its place.
    """
    where, look = _of_parts(where), document.look
    known = {b.id: b for b in look.build_ups}
    changes: list[Change] = []
    if build_up not in known:
        if build_up not in KIT:
            raise ViewError("That build-up is not in this finish any more; choose another.")
        changes.append(Change(path=("build_ups", build_up), value=KIT[build_up].model_dump(mode="json")))
    rules = look.construction
    held = [r for r in rules if r.where == where]
    if held and held[-1].on:
        rule = held[-1]
        again = rule.build_up == build_up and rule.outer == outer
        changes.append(Change(path=("construction", rule.id, "build_up"), value="" if again else build_up))
        if not again:
            changes.append(Change(path=("construction", rule.id, "outer"), value=outer))
            if rules[-1].id != rule.id:
                others = [r.id for r in rules if r.id != rule.id]
                changes.append(Change(path=("construction",), do="order", value=[*others, rule.id]))
    else:
        identity = _free_id("built", [r.id for r in rules])
        whole = BuildUpRule(id=identity, where=where, build_up=build_up, outer=outer)
        changes.append(Change(path=("construction", identity), value=whole.model_dump(mode="json")))
    return change_look(document, changes, everywhere)


def _free_id(word: str, taken: Sequence[str]) -> str:
    return next(f"{word}-{k}" for k in range(1, len(taken) + 2) if f"{word}-{k}" not in taken)


def _of_parts(where: Match) -> Match:
    """What a query says of parts: what is cut is known by nothing else."""
    said = {word: getattr(where, word) for word in PART_WORDS}
    if where.face is not None:
        said["parts"] = (where.face.part,)
    found = Match(**said)
    if found == Match():
        raise ViewError("Nothing is cut there; tap what is cut, or choose a fill for what is seen.")
    return found


def change_sheet(document: StudyDocument, changes: Sequence[Change]) -> StudyDocument:
    """The document with another sheet round the view on the desk."""
    saved = document.on_desk
    with valid("This change"):
        sheet = type(saved.sheet).model_validate(make_changes(saved.sheet.model_dump(mode="json"), changes))
    return replaced(document, views=_with_view(document, saved.id, sheet=sheet))


def _found(document: StudyDocument, finish_id: str) -> Finish:
    for finish in document.finishes:
        if finish.id == finish_id:
            return finish
    raise ViewError("That finish is not in this study any more; choose another.")


def _free_name(document: StudyDocument, name: str, but: str = "") -> str:
    name = name.strip()
    if not name:
        raise ViewError("The finish needs a name; type one and keep it again.")
    if any(f.name == name and f.id != but for f in document.finishes):
        raise ViewError(f"There is a finish “{name}” already; choose another name.")
    return name


def _added(document: StudyDocument, name: str, look: Look) -> Finish:
    """A finish of its own with this name and look, not yet among the study's."""
    numbers = [int(f.id.rpartition("-")[2]) for f in document.finishes if f.id.rpartition("-")[2].isdigit()]
    with valid("This finish"):
        return Finish.model_validate(
            {"id": f"finish-{max(numbers, default=0) + 1}", "name": name, **look.plain.model_dump()}
        )


def lay_finish(document: StudyDocument, finish_id: str, view_id: str = "") -> StudyDocument:
    """The document with a finish laid over a view (the one on the desk by default).
    It then looks as the finish says: what the view had changed of the one before is gone.
    """
    _found(document, finish_id)
    view_id = view_id or document.desk.view_id
    if all(v.id != view_id for v in document.views):
        raise ViewError("That view is not among the saved views any more; choose another.")
    return replaced(document, views=_with_view(document, view_id, finish=finish_id, changes=()))


def keep_finish(document: StudyDocument, name: str) -> StudyDocument:
    """The document with the look of the view on the desk kept as a finish, which that view wears from now on."""
    finish = _added(document, _free_name(document, name), document.look)
    views = _with_view(document, document.desk.view_id, finish=finish.id, changes=())
    return replaced(document, views=views, finishes=(*document.finishes, finish))


def _split(saved: SavedView, path: Sequence[str]) -> tuple[list[Change], list[Change]]:
    """A view's own changes at a place, or all of them without one, and the others."""
    step = tuple(path)
    chosen = [c for c in saved.changes if c.path[: len(step)] == step]
    if not chosen:
        raise ViewError("This view has no change of its own there; look at the list again.")
    return chosen, [c for c in saved.changes if c not in chosen]


def give_back(document: StudyDocument, path: Sequence[str] = ()) -> StudyDocument:
    """The document with what the view on the desk changed for itself (at a place, or all of it) given to its finish.
    Every view that wears it has it then.
    """
    saved = document.on_desk
    chosen, _ = _split(saved, path)
    finish = document.finish_of(saved)
    finish = finish.like(changed_look(finish, chosen, loose=True))
    views = _with_view(document, saved.id, changes=own_changes(finish, document.look))
    return replaced(document, views=views, finishes=_with_finish(document, finish))


def drop_changes(document: StudyDocument, path: Sequence[str] = ()) -> StudyDocument:
    """The document without what the view on the desk changed for itself (at a place, or all of it)."""
    saved = document.on_desk
    _, left = _split(saved, path)
    return replaced(document, views=_with_view(document, saved.id, changes=tuple(left)))


def rename_finish(document: StudyDocument, finish_id: str, name: str) -> StudyDocument:
    """The document with a finish under another name."""
    finish = _found(document, finish_id)
    renamed = finish.model_copy(update={"name": _free_name(document, name, but=finish_id)})
    return replaced(document, finishes=_with_finish(document, renamed))


def remove_finish(document: StudyDocument, finish_id: str) -> StudyDocument:
    """The document without a finish that no view wears."""
    finish = _found(document, finish_id)
    wearing = [v.view.name or v.mark for v in document.views if v.finish == finish_id]
    if wearing:
        more = f" and {len(wearing) - 1} more" if len(wearing) > 1 else ""
        raise ViewError(f"View “{wearing[0]}”{more} wears the finish “{finish.name}”; lay another over it first.")
    return replaced(document, finishes=tuple(f for f in document.finishes if f.id != finish_id))


def paste_drawing(document: StudyDocument, text: str) -> StudyDocument:
    """The document with a drawing from its text.
    Its view, wearing a finish of the study that looks just so, or one more.
    """
    drawing = read_drawing(text, "The pasted drawing")
    document = add_view(document, drawing.view)
    like = next((f for f in document.finishes if f.plain == drawing.finish), None)
    if like is None:
        like = _added(document, _free(document, f"Of “{drawing.view.name[:80]}”"), drawing.finish)
        document = replaced(document, finishes=(*document.finishes, like))
    views = _with_view(
        document, document.desk.view_id, finish=like.id, changes=(), sheet=drawing.sheet, notes=drawing.notes
    )
    marks, figures = _taken_in(document, drawing.marks), _put_in(document, drawing.figures)
    return replaced(document, views=views, marks=(*document.marks, *marks), figures=(*document.figures, *figures))


def _taken_in(document: StudyDocument, marks: Sequence[Mark | Ground]) -> list[Mark | Ground]:
    """Marks of a drawing as they are laid in a study: those on the paper onto that of the view on the desk.
    What lies on the model and is there already stays once.
    """
    there = {m.model_copy(update={"id": ""}).model_dump_json() for m in document.marks}
    out: list[Mark | Ground] = []
    for mark in marks:
        bare: Mark | Ground = mark.model_copy(update={"id": ""})
        if isinstance(bare, Mark) and isinstance(bare.plane, OnPaper):
            out.append(bare.model_copy(update={"plane": OnPaper(view=document.desk.view_id)}))
        elif bare.model_dump_json() not in there:
            out.append(bare)
    return out


def _put_in(document: StudyDocument, figures: Sequence[Figure]) -> list[Figure]:
    """Figures of a drawing as they are put in a study: those on the paper onto that of the view on the desk.
    Who stands there already stands there once.
    """
    there = {f.model_copy(update={"id": ""}).model_dump_json() for f in document.figures}
    out: list[Figure] = []
    for figure in figures:
        bare = figure.model_copy(update={"id": ""})
        if bare.paper is not None:
            out.append(bare.model_copy(update={"paper": bare.paper.model_copy(update={"view": document.desk.view_id})}))
        elif bare.model_dump_json() not in there:
            out.append(bare)
    return out


def _free(document: StudyDocument, name: str) -> str:
    """A name like this one that no finish has."""
    names = {f.name for f in document.finishes}
    return (
        name
        if name not in names
        else next(n for k in range(2, len(names) + 3) if (n := f"{name[:90]} {k}") not in names)
    )


def take_finish(document: StudyDocument, text: str) -> StudyDocument:
    """The document with a finish from the text of its file.
    It is there under a name that is free, and laid over the view on the desk.
    """
    name, look = read_finish(text, "The finish")
    finish = _added(document, _free(document, name), look)
    return lay_finish(replaced(document, finishes=(*document.finishes, finish)), finish.id)
