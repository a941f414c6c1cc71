"""The kinds of trace: one module each, found by being here."""

from __future__ import annotations

from importlib import import_module
from pkgutil import iter_modules
from typing import TYPE_CHECKING, Annotated, Any, Union

from pydantic import Field

from warmgraphite.collage.trace import Trace

__all__ = ["KINDS", "AnyTrace"]


def _found() -> dict[str, type[Trace]]:
    modules = [import_module(f"{__name__}.{m.name}") for m in iter_modules(__path__)]
    classes = [c for m in modules for c in vars(m).values() if isinstance(c, type) and issubclass(c, Trace)]
    named = {
        c.model_fields["kind"].default: c
        for c in classes
        if isinstance(c.model_fields["kind"].default, str) and not c.__name__.startswith("_")
    }
    return dict(sorted(named.items(), key=lambda row: row[1].label))


#: Each kind by its name, in the order of their labels.
KINDS: dict[str, type[Trace]] = _found()

if TYPE_CHECKING:
    AnyTrace = Trace
else:
    AnyTrace: Any = Annotated[Union[tuple(KINDS.values())], Field(discriminator="kind")]  # noqa: UP007 - made of what is found
