"""The study document: everything of a study that a user can change, but for the model itself."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from glob import escape
from typing import Annotated, Any

import numpy as np
from pydantic import Field, model_validator

from warmgraphite.collage.specification import Trace, default_traces
from warmgraphite.errors import ViewError
from warmgraphite.ink.specification import PenSet, Poche, default_poche
from warmgraphite.model.edits import EditMaterial, ModelEdit, Remeasure, RemoveSet, RoleRule
from warmgraphite.model.model import Model
from warmgraphite.regions.query import NamedRegion, Query, named_parts, with_parts
from warmgraphite.sheet.specification import Sheet
from warmgraphite.specification import Specification, Words, valid
from warmgraphite.view.specification import Parallel, ViewSpecification, moved_view, read_view

#: A place in a list, as a step of a path.
_NUMBER = re.compile(r"[0-9]{1,6}")

__all__ = [
    "Desk",
    "SavedView",
    "StudyDocument",
    "duplicate_view",
    "follow_edit",
    "follow_materials",
    "follow_names",
    "fresh_document",
    "keep_region",
    "keep_view",
    "mark_view",
    "open_view",
    "order_view",
    "paste_view",
    "remove_region",
    "remove_view",
    "rename_region",
    "reshape_view",
    "save_view",
    "with_changes",
]


class SavedView(Specification):
    """A view under its mark (a letter), with the collage and the sheet that belong to it.

    A ``locked`` one is neither saved over nor removed; those of one ``group`` are listed together.
    """

    id: str = Field(pattern=r"^[a-z0-9-]{1,40}$")
    mark: str = Field(max_length=3)
    view: ViewSpecification
    traces: tuple[Trace, ...] = Field(default_factory=default_traces, max_length=60)
    sheet: Sheet = Sheet()
    locked: bool = False
    group: Words = Field(default="", max_length=100)

    @model_validator(mode="after")
    def _one_of_each(self) -> SavedView:
        if len({t.id for t in self.traces}) != len(self.traces):
            raise ValueError("two traces have the same id")
        return self


class Desk(Specification):
    """What lies on the desk: a saved view, as it is being changed."""

    view_id: str
    view: ViewSpecification


class StudyDocument(Specification):
    """Views, desk, pens, poche, role rules and named regions of a study. ``poche`` goes by material name."""

    name: Words = Field(min_length=1, max_length=120)
    views: tuple[SavedView, ...] = Field(min_length=1, max_length=200)
    desk: Desk
    pens: PenSet = PenSet()
    poche: dict[Annotated[str, Field(max_length=1000)], Poche] = Field(default_factory=dict, max_length=20_000)
    role_rules: tuple[RoleRule, ...] = Field(default=(), max_length=500)
    regions: tuple[NamedRegion, ...] = Field(default=(), max_length=500)

    @model_validator(mode="after")
    def _hangs_together(self) -> StudyDocument:
        ids = [v.id for v in self.views]
        if len(set(ids)) != len(ids):
            raise ValueError("two views have the same id")
        if len({r.id for r in self.regions}) != len(self.regions) or len({r.name for r in self.regions}) != len(self.regions):
            raise ValueError("two regions have the same name")
        if self.desk.view_id not in ids:
            raise ValueError("the view on the desk is not among the saved views")
        return self

    @property
    def on_desk(self) -> SavedView:
        """The saved view that the desk began from."""
        return next(v for v in self.views if v.id == self.desk.view_id)


def fresh_document(name: str, model: Model, views: list[ViewSpecification] | None = None) -> StudyDocument:
    """The document of a new study: the views given, or one axonometric of all."""
    chosen = views or [ViewSpecification(name="Axonometric", projection=Parallel(direction=(0.6, 1.0, -0.75)))]
    saved = tuple(SavedView(id=f"view-{i + 1}", mark=chr(65 + i), view=view) for i, view in enumerate(chosen))
    return StudyDocument(name=name, views=saved, desk=Desk(view_id=saved[0].id, view=saved[0].view), poche=default_poche(model))


def _replaced(document: StudyDocument, **changes: Any) -> StudyDocument:
    with valid("This change"):
        return StudyDocument.model_validate(document.model_copy(update=changes).model_dump())


def open_view(document: StudyDocument, view_id: str) -> StudyDocument:
    """The document with a saved view laid on the desk, exactly as it was saved."""
    for saved in document.views:
        if saved.id == view_id:
            return _replaced(document, desk=Desk(view_id=view_id, view=saved.view))
    raise ViewError("That view is not among the saved views any more; choose another.")


def save_view(document: StudyDocument) -> StudyDocument:
    """The document with the view on the desk saved over the one it began from, unless that one is locked."""
    _unlocked(document.on_desk)
    views = tuple(
        v.model_copy(update={"view": document.desk.view}) if v.id == document.desk.view_id else v for v in document.views
    )
    return _replaced(document, views=views)


def keep_view(document: StudyDocument, name: str) -> StudyDocument:
    """The document with the view on the desk kept as a new one, with the collage of the one it began from."""
    name = name.strip()
    if not name:
        raise ViewError("The new view needs a name; type one and keep it again.")
    if any(v.view.name == name for v in document.views):
        raise ViewError(f"There is a view “{name}” already; choose another name.")
    view = document.desk.view.model_copy(update={"name": name})
    document, saved = _added(document, document.on_desk, view)
    return _replaced(document, desk=Desk(view_id=saved.id, view=view))


def _found(document: StudyDocument, view_id: str) -> SavedView:
    for saved in document.views:
        if saved.id == view_id:
            return saved
    raise ViewError("That view is not among the saved views any more; choose another.")


def _unlocked(saved: SavedView) -> None:
    if saved.locked:
        raise ViewError(f"View “{saved.view.name}” is locked; unlock it first, or keep the desk as a new view.")


def _added(document: StudyDocument, like: SavedView, view: ViewSpecification, after: str = "") -> tuple[StudyDocument, SavedView]:
    """The document with one more view, with the collage of another, and that view; ``after`` one, or at the end."""
    marks = {v.mark for v in document.views}
    letters = [chr(65 + i) for i in range(26)] + [chr(65 + i // 26 - 1) + chr(65 + i % 26) for i in range(26, 702)]
    mark = next(letter for letter in letters if letter not in marks)
    numbers = [int(v.id.rpartition("-")[2]) for v in document.views if v.id.rpartition("-")[2].isdigit()]
    number = max(numbers, default=0) + 1
    saved = like.model_copy(update={"id": f"view-{number}", "mark": mark, "view": view, "locked": False})
    views = list(document.views)
    views.insert(next((i + 1 for i, v in enumerate(views) if v.id == after), len(views)), saved)
    return _replaced(document, views=tuple(views)), saved


def _free_name(document: StudyDocument, name: str) -> str:
    """A name like this one that no saved view has."""
    names = {v.view.name for v in document.views}
    if name not in names:
        return name
    return next(f"{name[:190]} {k}" for k in range(2, len(names) + 3) if f"{name[:190]} {k}" not in names)


def duplicate_view(document: StudyDocument, view_id: str) -> StudyDocument:
    """The document with a saved view a second time, behind the first; the desk stays as it is."""
    saved = _found(document, view_id)
    view = saved.view.model_copy(update={"name": _free_name(document, saved.view.name)})
    return _added(document, saved, view, after=view_id)[0]


def order_view(document: StudyDocument, view_id: str, place: int) -> StudyDocument:
    """The document with a saved view at another place of the list, counted from 0."""
    saved = _found(document, view_id)
    views = [v for v in document.views if v.id != view_id]
    views.insert(min(max(place, 0), len(views)), saved)
    return _replaced(document, views=tuple(views))


def mark_view(document: StudyDocument, view_id: str, **marks: Any) -> StudyDocument:
    """The document with a saved view ``locked`` or not, or in another ``group``."""
    _found(document, view_id)
    return _replaced(document, views=tuple(v.model_copy(update=marks) if v.id == view_id else v for v in document.views))


def paste_view(document: StudyDocument, text: str) -> StudyDocument:
    """The document with a view from its JSON, as it was copied, kept as a new one and laid on the desk."""
    view = read_view(text, "The pasted text")
    view = view.model_copy(update={"name": _free_name(document, view.name)})
    document, saved = _added(document, document.on_desk, view)
    return _replaced(document, desk=Desk(view_id=saved.id, view=view))


def reshape_view(document: StudyDocument, change: Callable[[ViewSpecification], ViewSpecification]) -> StudyDocument:
    """The document with the view on the desk changed."""
    return _replaced(document, desk=document.desk.model_copy(update={"view": change(document.desk.view)}))


def remove_view(document: StudyDocument, view_id: str) -> StudyDocument:
    """The document without a saved view. The last one stays, and so does a locked one."""
    left = tuple(v for v in document.views if v.id != view_id)
    if not left:
        raise ViewError("A study keeps at least one view; save another before you remove this one.")
    if len(left) == len(document.views):
        raise ViewError("That view is not among the saved views any more.")
    _unlocked(_found(document, view_id))
    desk = document.desk if document.desk.view_id != view_id else Desk(view_id=left[0].id, view=left[0].view)
    return _replaced(document, views=left, desk=desk)


def _free_region(document: StudyDocument, name: str, but: str = "") -> str:
    name = name.strip()
    if not name:
        raise ViewError("The region needs a name; type one and keep it again.")
    if any(r.name == name and r.id != but for r in document.regions):
        raise ViewError(f"There is a region “{name}” already; choose another name.")
    return name


def keep_region(document: StudyDocument, name: str, query: Query) -> StudyDocument:
    """The document with a query kept under a name."""
    name = _free_region(document, name)
    numbers = [int(r.id.rpartition("-")[2]) for r in document.regions if r.id.rpartition("-")[2].isdigit()]
    kept = {"id": f"region-{max(numbers, default=0) + 1}", "name": name, "query": query}
    with valid("This region"):
        fresh = NamedRegion.model_validate(kept)
    return _replaced(document, regions=(*document.regions, fresh))


def _region(document: StudyDocument, region_id: str) -> NamedRegion:
    for region in document.regions:
        if region.id == region_id:
            return region
    raise ViewError("That region is not among the kept ones any more; choose another.")


def rename_region(document: StudyDocument, region_id: str, name: str) -> StudyDocument:
    """The document with a kept region under another name."""
    _region(document, region_id)
    name = _free_region(document, name, but=region_id)
    regions = tuple(r.model_copy(update={"name": name}) if r.id == region_id else r for r in document.regions)
    return _replaced(document, regions=regions)


def remove_region(document: StudyDocument, region_id: str) -> StudyDocument:
    """The document without a kept region."""
    _region(document, region_id)
    return _replaced(document, regions=tuple(r for r in document.regions if r.id != region_id))


def _each_view(document: StudyDocument, change: Callable[[ViewSpecification], ViewSpecification]) -> StudyDocument:
    views = tuple(v.model_copy(update={"view": change(v.view)}) for v in document.views)
    return _replaced(document, views=views, desk=document.desk.model_copy(update={"view": change(document.desk.view)}))


def follow_materials(document: StudyDocument, model: Model) -> StudyDocument:
    """The document with a poche for each material of the model; those that are there stay as they are."""
    missing = {n: p for n, p in default_poche(model).items() if n not in document.poche}
    return _replaced(document, poche={**document.poche, **missing}) if missing else document


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
    return _replaced(document, regions=regions)


def _patterns(view: ViewSpecification) -> tuple[str, ...]:
    """Every name or pattern of parts that a view holds."""
    sun = view.sun
    return (*view.parts.hidden, *view.parts.uncut, *sun.not_casting.parts, *sun.not_receiving.parts)


def follow_edit(document: StudyDocument, edit: ModelEdit, old: Model, new: Model) -> StudyDocument:
    """The document after an edit of the model: views, traces and poche go along with what they refer to."""
    if isinstance(edit, EditMaterial) and edit.name:
        before = old.materials[edit.material].name
        if before != edit.name and before in document.poche:
            poche = {edit.name if n == before else n: p for n, p in document.poche.items()}
            document = _replaced(document, poche=poche)
    elif isinstance(edit, RemoveSet):

        def without(view: ViewSpecification) -> ViewSpecification:
            shown = view.parts.model_copy(update={"set": ""}) if view.parts.set == edit.name else view.parts
            return view.model_copy(update={"parts": shown})

        document = _each_view(document, without)
        views = tuple(
            v.model_copy(
                update={
                    "traces": tuple(t.model_copy(update={"part_set": ""}) if t.part_set == edit.name else t for t in v.traces)
                }
            )
            for v in document.views
        )
        document = _replaced(document, views=views)
    elif isinstance(edit, Remeasure):
        matrix = edit.matrix(old)
        matrix[:3, 3] = matrix[:3, :3] @ np.array(old.origin) - np.array(new.origin)
        document = _each_view(document, lambda view: moved_view(view, matrix))
    return follow_materials(follow_names(document, old, new), new)


def with_changes(document: StudyDocument, changes: Sequence[tuple[Sequence[str], Any]]) -> StudyDocument:
    """The document with values set at paths such as ``("views", "view-1", "traces", "shadow", "opacity")``.

    Steps are field names; in a list of things with an id, that id, in any other list a number counted from 0. Raises
    :class:`ViewError` that names what is wrong, also where a locked view would be changed.
    """
    data = document.model_dump(mode="json")
    for path, value in changes:
        place: Any = data
        for step in path[:-1]:
            place = place[_step(place, step, path)]
        last = path[-1] if path else ""
        if isinstance(place, dict):
            place[last] = value
        else:
            place[_step(place, last, path)] = value
    with valid("This change"):
        changed = StudyDocument.model_validate(data)
    _locked_stay(document, changed)
    return changed


def _step(place: Any, step: str, path: Sequence[str]) -> str | int:
    """The key, or the place in a list, that a step of a path means."""
    if isinstance(place, dict) and step in place:
        return step
    if isinstance(place, list):
        for k, row in enumerate(place):
            if isinstance(row, dict) and row.get("id") == step:
                return k
        if _NUMBER.fullmatch(step) and int(step) < len(place):
            return int(step)
    raise ViewError(f"There is no “{'.'.join(path)[:200]}” in this study that could be changed.")


def _locked_stay(before: StudyDocument, after: StudyDocument) -> None:
    """Raises :class:`ViewError` where a locked view is not what it was: it is unlocked as such, and then changed."""
    now = {v.id: v for v in after.views}
    for saved in before.views:
        if saved.locked and (saved.id not in now or (now[saved.id].view, now[saved.id].locked) != (saved.view, True)):
            _unlocked(saved)
