"""The kept regions of a study: queries under a name."""

from __future__ import annotations

from warmgraphite.errors import ViewError
from warmgraphite.ink.marks.specification import Mark
from warmgraphite.regions.query import Kept, NamedRegion, Query
from warmgraphite.specification import valid
from warmgraphite.study.document import StudyDocument, replaced
from warmgraphite.study.following import each_look

__all__ = ["keep_region", "remove_region", "rename_region"]


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
    return replaced(document, regions=(*document.regions, fresh))


def _region(document: StudyDocument, region_id: str) -> NamedRegion:
    for region in document.regions:
        if region.id == region_id:
            return region
    raise ViewError("That region is not among the kept ones any more; choose another.")


def rename_region(document: StudyDocument, region_id: str, name: str) -> StudyDocument:
    """The document with a kept region under another name."""
    before = _region(document, region_id).name
    name = _free_region(document, name, but=region_id)

    def followed(word: str, names: list[str]) -> list[str]:
        return [name if word == "regions" and n == before else n for n in names]

    document = each_look(document, followed)
    regions = tuple(r.model_copy(update={"name": name}) if r.id == region_id else r for r in document.regions)
    return replaced(document, regions=regions)


def remove_region(document: StudyDocument, region_id: str) -> StudyDocument:
    """The document without a kept region. Raises :class:`ViewError` while a trace is confined to it."""
    region = _region(document, region_id)
    looks = [*document.finishes, *(document.look_of(v) for v in document.views)]
    using = [t.name for look in looks for t in look.traces if isinstance(t.where, Kept) and t.where.name == region.name]
    if using:
        raise ViewError(
            f"Trace “{using[0]}” is confined to region “{region.name}”; confine it to something else first."
        )
    marks = [
        m.name or m.kind
        for m in document.marks
        if isinstance(m, Mark) and isinstance(m.where, Kept) and m.where.name == region.name
    ]
    if marks:
        raise ViewError(f"Mark “{marks[0]}” is confined to region “{region.name}”; confine it to something else first.")
    return replaced(document, regions=tuple(r for r in document.regions if r.id != region_id))
