"""Part sets."""

from __future__ import annotations

from typing import Literal

from warmgraphite.errors import EditError
from warmgraphite.model.edits._edit import Edit, Name, Numbers, checked_parts
from warmgraphite.model.model import Model


class KeepSet(Edit):
    """Keep a part set under a name; one of that name is replaced."""

    do: Literal["keep_set"] = "keep_set"
    name: Name
    parts: Numbers

    def apply(self, model: Model) -> Model:
        return model.said(sets={**model.sets, self.name.strip(): tuple(checked_parts(model, self.parts))})

    def called(self, _what: str) -> str:
        return f"Keep part set “{self.name[:40]}”"


class RemoveSet(Edit):
    do: Literal["remove_set"] = "remove_set"
    name: Name

    def apply(self, model: Model) -> Model:
        if self.name not in model.sets:
            raise EditError(f"There is no part set “{self.name}” any more.")
        return model.said(sets={n: p for n, p in model.sets.items() if n != self.name})

    def called(self, _what: str) -> str:
        return "Remove part set"
