"""What differs between two documents, as changes at places, and such changes made.

A document is taken as JSON: objects, lists, values. Rows of a list that each have an ``id`` are told apart by it, so
that a change in one of them stays a change of that row when others are added, taken away or moved.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from warmgraphite.errors import NotThere
from warmgraphite.specification import Specification

__all__ = ["Change", "changes_between", "make_changes"]

#: A place in a list, as a step of a path.
_NUMBER = re.compile(r"[0-9]{1,6}")


class Change(Specification):
    """One change.
    A value ``set`` at a place, a thing ``drop``-ped from it, or the rows of a list put in the ``order`` of these ids.
    Steps of the path are field names; in a list of things with an id, that id, in any other list a number counted from
    0. A row that is set and not there yet is added at the end.
    """

    path: tuple[Annotated[str, Field(max_length=1000)], ...] = Field(min_length=1, max_length=12)
    do: Literal["set", "drop", "order"] = "set"
    value: Any = None

    @model_validator(mode="after")
    def _ids_in_order(self) -> Change:
        if self.do == "order" and not (isinstance(self.value, list) and all(isinstance(v, str) for v in self.value)):
            raise ValueError("an order is a list of ids")
        return self

    @property
    def words(self) -> str:
        """The path as it is named in a sentence."""
        return ".".join(self.path)[:200]


def _identified(rows: object) -> bool:
    """Whether something is a list of things that each have an id of their own."""
    return (
        isinstance(rows, list)
        and bool(rows)
        and all(isinstance(r, dict) and isinstance(r.get("id"), str) for r in rows)
    )


def changes_between(before: Any, after: Any, path: tuple[str, ...] = ()) -> list[Change]:
    """The changes that make one document of the other; none where they are equal."""
    if before == after:
        return []
    found: list[Change] = []
    if isinstance(before, dict) and isinstance(after, dict):
        found += [Change(path=(*path, k), do="drop") for k in before if k not in after]
        for key, value in after.items():
            here = (*path, key)
            found += changes_between(before[key], value, here) if key in before else [Change(path=here, value=value)]
        return found
    if not (_identified(before) and _identified(after)):
        return [Change(path=path, value=after)]
    old, new = {r["id"]: r for r in before}, {r["id"]: r for r in after}
    found += [Change(path=(*path, k), do="drop") for k in old if k not in new]
    for key, row in new.items():
        here = (*path, key)
        found += changes_between(old[key], row, here) if key in old else [Change(path=here, value=row)]
    if [*(k for k in old if k in new), *(k for k in new if k not in old)] != list(new):
        found.append(Change(path=path, do="order", value=list(new)))
    return found


def make_changes(data: Any, changes: Iterable[Change], *, loose: bool = False) -> Any:
    """The document ``data`` (which is changed itself) after changes.
    Raises :class:`NotThere` for a place that is not there; ``loose`` passes over these.
    """
    for change in changes:
        try:
            _make(data, change)
        except NotThere:
            if not loose:
                raise
    return data


def _make(data: Any, change: Change) -> None:
    place = data
    for step in change.path[:-1]:
        place = place[_step(place, step, change)]
    last = change.path[-1]
    if change.do == "order":
        rows = place[_step(place, last, change)]
        if not isinstance(rows, list):
            raise NotThere(f"“{change.words}” is no list whose order could be changed.")
        rank = {key: k for k, key in enumerate(change.value)}
        # Rows that are not named, because they came since, stay above those that they lay above.
        known = sorted((r for r in rows if isinstance(r, dict) and r.get("id") in rank), key=lambda r: rank[r["id"]])
        taken = iter(known)
        rows[:] = [next(taken) if isinstance(r, dict) and r.get("id") in rank else r for r in rows]
    elif change.do == "drop":
        del place[_step(place, last, change)]
    elif isinstance(place, dict):
        place[last] = change.value
    elif (
        isinstance(place, list)
        and isinstance(change.value, dict)
        and change.value.get("id") == last
        and not _has(place, last)
    ):
        place.append(change.value)
    else:
        place[_step(place, last, change)] = change.value


def _has(rows: list[Any], key: str) -> bool:
    return any(isinstance(r, dict) and r.get("id") == key for r in rows)


def _step(place: Any, step: str, change: Change) -> Any:
    """The key, or the place in a list, that a step of a path means."""
    if isinstance(place, dict) and step in place:
        return step
    if isinstance(place, list):
        for k, row in enumerate(place):
            if isinstance(row, dict) and row.get("id") == step:
                return k
        if _NUMBER.fullmatch(step) and int(step) < len(place):
            return int(step)
    raise NotThere(f"There is no “{change.words}” here that could be changed.")
