"""How a study goes along with its model: names, materials, sets and measures that changed there are followed here."""

from __future__ import annotations

from collections.abc import Callable
from glob import escape

import numpy as np

from warmgraphite.ink.specification import default_poche
from warmgraphite.model.edits import EditMaterial, ModelEdit, Remeasure, RemoveSet
from warmgraphite.model.model import Model
from warmgraphite.regions.query import named_parts, with_parts
from warmgraphite.study.changes import Change
from warmgraphite.study.document import StudyDocument, replaced
from warmgraphite.study.finish import Finish
from warmgraphite.view.specification import ViewSpecification, moved_view

__all__ = ["follow_edit", "follow_materials", "follow_names"]


def _each_view(document: StudyDocument, change: Callable[[ViewSpecification], ViewSpecification]) -> StudyDocument:
    views = tuple(v.model_copy(update={"view": change(v.view)}) for v in document.views)
    return replaced(document, views=views, desk=document.desk.model_copy(update={"view": change(document.desk.view)}))


def follow_materials(document: StudyDocument, model: Model) -> StudyDocument:
    """The document whose finishes have a poche for each material of the model; those that are there stay as they are."""
    usual = default_poche(model)
    if all(n in f.poche for f in document.finishes for n in usual):
        return document

    def change(finish: Finish) -> Finish:
        missing = {n: p for n, p in usual.items() if n not in finish.poche}
        return finish.model_copy(update={"poche": {**finish.poche, **missing}})

    return _each_finish(document, change)


def _each_finish(
    document: StudyDocument, change: Callable[[Finish], Finish], own: Callable[[Change], Change] = lambda c: c
) -> StudyDocument:
    """The document with each finish changed, and with them each view's own changes."""
    views = tuple(v.model_copy(update={"changes": tuple(own(c) for c in v.changes)}) for v in document.views)
    return replaced(document, finishes=tuple(change(f) for f in document.finishes), views=views)


def follow_names(document: StudyDocument, old: Model, new: Model) -> StudyDocument:
    """The document whose views leave the same parts out, and uncut, where those are called otherwise now.

    Only a pattern that names one part follows it; “Planting/*” means what is on that layer.
    """
    views = [document.desk.view, *(v.view for v in document.views)]
    used = {p for v in views for p in _patterns(v)} | {p for r in document.regions for p in named_parts(r.query)}
    if not used:
        return document
    renamed: dict[str, dict[str, None]] = {}
    for before, after in zip(old.parts, new.parts, strict=False):
        if before.path != after.path:
            for name in {before.path, escape(before.path)} & used:
                renamed.setdefault(name, {})[escape(after.path)] = None
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
        return view.model_copy(update={"parts": view.parts.model_copy(update=parts), "sun": view.sun.model_copy(update=sun)})

    document = _each_view(document, change)
    regions = tuple(r.model_copy(update={"query": with_parts(r.query, followed)}) for r in document.regions)
    return replaced(document, regions=regions)


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
    return follow_materials(follow_names(document, old, new), new)


def _renamed_material(document: StudyDocument, before: str, after: str) -> StudyDocument:
    if before == after:
        return document

    def change(finish: Finish) -> Finish:
        return finish.model_copy(update={"poche": {after if n == before else n: p for n, p in finish.poche.items()}})

    def own(change: Change) -> Change:
        if change.path[:2] != ("poche", before):
            return change
        return change.model_copy(update={"path": ("poche", after, *change.path[2:])})

    return _each_finish(document, change, own)


def _without_set(document: StudyDocument, name: str) -> StudyDocument:
    """The document where nothing goes by a part set that is no more."""

    def shown(view: ViewSpecification) -> ViewSpecification:
        return view.model_copy(update={"parts": view.parts.model_copy(update={"set": ""})}) if view.parts.set == name else view

    def change(finish: Finish) -> Finish:
        traces = tuple(t.model_copy(update={"part_set": ""}) if t.part_set == name else t for t in finish.traces)
        return finish.model_copy(update={"traces": traces})

    def own(change: Change) -> Change:
        if change.path[0] != "traces":
            return change
        if change.path[-1] == "part_set" and change.value == name:
            return change.model_copy(update={"value": ""})
        if isinstance(change.value, dict) and change.value.get("part_set") == name:
            return change.model_copy(update={"value": {**change.value, "part_set": ""}})
        return change

    return _each_finish(_each_view(document, shown), change, own)
