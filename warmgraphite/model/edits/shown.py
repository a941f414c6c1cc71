"""Which parts are seen on the bench."""

from __future__ import annotations

from typing import Literal

from warmgraphite.model.edits._edit import Edit, Numbers, checked_parts
from warmgraphite.model.model import Model


class Hide(Edit):
    """Hide parts on the bench."""

    do: Literal["hide"] = "hide"
    parts: Numbers

    def apply(self, model: Model) -> Model:
        return model.said(hidden=tuple(sorted({*model.hidden, *checked_parts(model, self.parts)})))

    def called(self, what: str) -> str:
        return f"Hide {what}"


class Show(Edit):
    """Show hidden parts again; all of them when none are named."""

    do: Literal["show"] = "show"
    parts: tuple[int, ...] = ()

    def apply(self, model: Model) -> Model:
        left = set(model.hidden) - set(self.parts) if self.parts else ()
        return model.said(hidden=tuple(sorted(left)))

    def called(self, what: str) -> str:
        return f"Show {what}" if self.parts else "Show all parts"


class Isolate(Edit):
    """Hide all but these parts."""

    do: Literal["isolate"] = "isolate"
    parts: Numbers

    def apply(self, model: Model) -> Model:
        kept = set(checked_parts(model, self.parts))
        return model.said(hidden=tuple(i for i, p in enumerate(model.parts) if i not in kept and not p.absent))

    def called(self, what: str) -> str:
        return f"Show {what} alone"
