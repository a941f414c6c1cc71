"""The kinds of note: one module each, found by being here."""

from __future__ import annotations

from importlib import import_module
from pkgutil import iter_modules
from typing import TYPE_CHECKING, Annotated, Any, Union

from pydantic import Field

from warmgraphite.notes.note import Note

__all__ = ["KINDS", "AnyNote"]


def _found() -> dict[str, type[Note]]:
    modules = [import_module(f"{__name__}.{m.name}") for m in iter_modules(__path__)]
    classes = [
        c
        for m in modules
        for c in vars(m).values()
        if isinstance(c, type) and issubclass(c, Note) and "kind" in c.model_fields and c.__module__ == m.__name__
    ]
    return dict(sorted((c.model_fields["kind"].default, c) for c in classes))


#: Each kind by its name.
KINDS: dict[str, type[Note]] = _found()

if TYPE_CHECKING:
    AnyNote = Note
else:
    AnyNote: Any = Annotated[Union[tuple(KINDS.values())], Field(discriminator="kind")]  # noqa: UP007 - made of what is found
