"""How a study goes along with its model: names, materials, sets and measures that changed there are followed here."""

from __future__ import annotations

import re
from collections.abc import Callable
from glob import escape
from typing import Any

import numpy as np
from pydantic import TypeAdapter

from warmgraphite.ink.marks.following import moved_marks, renamed_marks
from warmgraphite.ink.marks.specification import AnyMark, Mark, OnFace
from warmgraphite.model.edits import ModelEdit
from warmgraphite.model.edits.file import Remeasure
from warmgraphite.model.edits.materials import EditMaterial
from warmgraphite.model.edits.sets import RemoveSet
from warmgraphite.model.model import Model
from warmgraphite.regions.query import Match, named_parts, with_parts
from warmgraphite.study.changes import Change
from warmgraphite.study.document import StudyDocument, replaced
from warmgraphite.study.figures import moved_figures, renamed_figures
from warmgraphite.study.finish import Finish
from warmgraphite.study.notes import each_note
from warmgraphite.view.specification import ViewSpecification, moved_view

__all__ = ["each_look", "follow_edit", "follow_names"]


def _each_view(document: StudyDocument, change: Callable[[ViewSpecification], ViewSpecification]) -> StudyDocument:
    views = tuple(v.model_copy(update={"view": change(v.view)}) for v in document.views)
    return replaced(document, views=views, desk=document.desk.model_copy(update={"view": change(document.desk.view)}))


#: What each word of a match says of a part: how a list of names under it is changed.
Followed = Callable[[str, list[str]], list[str]]


def _with_names(value: Any, followed: Followed) -> Any:
    """JSON in which every query names things as they are called now."""
    if isinstance(value, list):
        return [_with_names(v, followed) for v in value]
    if not isinstance(value, dict):
        return value
    found = {k: _with_names(v, followed) for k, v in value.items()}
    if found.get("kind") == "kept":
        found["name"] = followed("regions", [found["name"]])[0]
    if found.get("kind") == "match":
        found |= {word: followed(word, found[word]) for word in _NAMED if found.get(word)}
        if found.get("face"):
            found["face"] = {**found["face"], "part": followed("parts", [found["face"]["part"]])[0]}
    return found


_MARK: TypeAdapter[Any] = TypeAdapter(AnyMark)
_NAMED = ("parts", "materials", "sets")


def each_look(document: StudyDocument, followed: Followed) -> StudyDocument:
    """The document whose finishes name things as they are called now.
    So do what views change of them, and what marks are confined to.
    """

    def own(change: Change) -> Change:
        if change.path[-1] == "name" and "where" in change.path and isinstance(change.value, str):
            return change.model_copy(update={"value": followed("regions", [change.value])[0]})
        if change.path[-1] in _NAMED and "where" in change.path and isinstance(change.value, list):
            return change.model_copy(update={"value": followed(change.path[-1], change.value)})
        return change.model_copy(update={"value": _with_names(change.value, followed)})

    views = tuple(v.model_copy(update={"changes": tuple(own(c) for c in v.changes)}) for v in document.views)
    finishes = tuple(Finish.model_validate(_with_names(f.model_dump(mode="json"), followed)) for f in document.finishes)
    marks = tuple(_MARK.validate_python(_with_names(m.model_dump(mode="json"), followed)) for m in document.marks)
    return replaced(document, finishes=finishes, views=views, marks=marks)


def _named_in_looks(document: StudyDocument) -> set[str]:
    """The names and patterns of parts that finishes and views' own changes hold."""
    found: set[str] = set()

    def seen(word: str, names: list[str]) -> list[str]:
        if word == "parts":
            found.update(names)
        return names

    each_look(document, seen)
    return found


def follow_names(document: StudyDocument, old: Model, new: Model, shapes: bool = True) -> StudyDocument:
    """The document whose views leave the same parts out, and uncut, where those are called otherwise now.

    Only a pattern that names one part follows it; “Planting/*” means what is on that layer. Notes go along with the
    ``shapes`` of parts, too.
    """
    views = [document.desk.view, *(v.view for v in document.views)]
    used = {p for v in views for p in _patterns(v)} | {p for r in document.regions for p in named_parts(r.query)}
    used |= _named_in_looks(document)
    used |= {m.plane.part for m in document.marks if isinstance(m, Mark) and isinstance(m.plane, OnFace)}
    used |= {p for f in document.figures for p in f.replaces}
    if shapes:
        document = each_note(document, lambda n: n.following(old, new))
    if not used and not any(v.notes for v in document.views):
        return document
    renamed: dict[str, dict[str, None]] = {}
    paths: dict[str, str] = {}
    for before, after in zip(old.parts, new.parts, strict=False):
        if before.path != after.path:
            for name in {before.path, escape(before.path)} & used:
                renamed.setdefault(name, {})[escape(after.path)] = None
            paths.setdefault(before.path, after.path)
    if paths:
        document = each_note(document, lambda n: n.renamed(lambda path: paths.get(path, path)))
    if not renamed:
        return document
    staying = {p.path for p in new.parts if not p.absent}
    for name, names in renamed.items():
        if name in staying or any(escape(p) == name for p in staying):
            names[name] = None  # another part is called as this one was

    def followed(patterns: tuple[str, ...]) -> tuple[str, ...]:
        return tuple(dict.fromkeys(n for p in patterns for n in renamed.get(p, (p,))))

    def change(view: ViewSpecification) -> ViewSpecification:
        parts = {"hidden": followed(view.parts.hidden), "uncut": followed(view.parts.uncut)}
        sun = {
            name: exempt.model_copy(update={"parts": followed(exempt.parts)})
            for name, exempt in (("not_casting", view.sun.not_casting), ("not_receiving", view.sun.not_receiving))
        }
        return view.model_copy(
            update={"parts": view.parts.model_copy(update=parts), "sun": view.sun.model_copy(update=sun)}
        )

    document = _each_view(document, change)
    document = each_look(document, lambda word, names: list(followed(tuple(names))) if word == "parts" else names)
    regions = tuple(r.model_copy(update={"query": with_parts(r.query, followed)}) for r in document.regions)

    # A mark lies on one part: where a name became several, it stays with the first.
    def called(path: str) -> str:
        return _unescaped(next(iter(renamed[path]))) if path in renamed else path

    marks, figures = renamed_marks(document.marks, called), renamed_figures(document.figures, called)
    return replaced(document, regions=regions, marks=marks, figures=figures)


def _unescaped(pattern: str) -> str:
    """The name that a pattern means which was made of it by escaping."""
    return re.sub(r"\[([*?[])\]", r"\1", pattern)


def _patterns(view: ViewSpecification) -> tuple[str, ...]:
    """Every name or pattern of parts that a view holds."""
    sun = view.sun
    return (*view.parts.hidden, *view.parts.uncut, *sun.not_casting.parts, *sun.not_receiving.parts)


def follow_edit(document: StudyDocument, edit: ModelEdit, old: Model, new: Model) -> StudyDocument:
    """The document after an edit of the model: views and finishes go along with what they refer to."""
    if isinstance(edit, EditMaterial) and edit.name:
        document = _renamed_material(document, old.materials[edit.material].name, edit.name)
    elif isinstance(edit, RemoveSet):
        document = _without_set(document, edit.name)
    elif isinstance(edit, Remeasure):
        matrix = edit.matrix(old)
        matrix[:3, 3] = matrix[:3, :3] @ np.array(old.origin) - np.array(new.origin)
        document = _each_view(document, lambda view: moved_view(view, matrix))
        document = each_note(document, lambda n: n.moved(matrix))
        document = replaced(
            document, marks=moved_marks(document.marks, matrix), figures=moved_figures(document.figures, matrix)
        )
    return follow_names(document, old, new, shapes=not isinstance(edit, Remeasure))


def _renamed_material(document: StudyDocument, before: str, after: str) -> StudyDocument:
    def followed(word: str, names: list[str]) -> list[str]:
        return [after if word == "materials" and n == before else n for n in names]

    document = each_look(document, followed)
    regions = tuple(
        r.model_copy(update={"query": type(r).model_validate(_with_names(r.model_dump(mode="json"), followed)).query})
        for r in document.regions
    )
    return replaced(document, regions=regions)


def _without_set(document: StudyDocument, name: str) -> StudyDocument:
    """The document where no view shows, and no trace is confined to, a part set that is no more.
    Rules that go by it take hold of nothing.
    """

    def shown(view: ViewSpecification) -> ViewSpecification:
        return (
            view.model_copy(update={"parts": view.parts.model_copy(update={"set": ""})})
            if view.parts.set == name
            else view
        )

    def freed(trace: Any) -> Any:
        where = trace.get("where") if isinstance(trace, dict) else None
        return {**trace, "where": None} if where == gone.model_dump(mode="json") else trace

    def own(change: Change) -> Change:
        if change.path[0] != "traces":
            return change
        if change.path[-1] == "where":
            return change.model_copy(update={"value": freed({"where": change.value})["where"]})
        return change.model_copy(update={"value": freed(change.value)})

    gone = Match(sets=(name,))
    finishes = []
    for finish in document.finishes:
        data = finish.model_dump(mode="json")
        data["traces"] = [freed(t) for t in data["traces"]]
        finishes.append(Finish.model_validate(data))
    views = tuple(v.model_copy(update={"changes": tuple(own(c) for c in v.changes)}) for v in document.views)
    return _each_view(replaced(document, finishes=tuple(finishes), views=views), shown)
