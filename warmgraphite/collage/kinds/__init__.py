"""The kinds of trace: one module each, found by being here."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from warmgraphite.catalogue import Catalogue, any_of, classes_in, name_of
from warmgraphite.collage.trace import Trace

__all__ = ["KINDS", "AnyTrace"]

#: Each kind by its name, in the order of their labels.
KINDS: Catalogue[type[Trace]] = Catalogue(lambda: classes_in(__name__, Trace), name_of, lambda kind: kind.label)

if TYPE_CHECKING:
    AnyTrace = Trace
else:
    AnyTrace: Any = any_of(KINDS.values())
