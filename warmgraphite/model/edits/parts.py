"""What a part is: whether it is there, what it is called, where it belongs, how it behaves."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Any, Literal

from pydantic import Field

from warmgraphite.errors import EditError
from warmgraphite.model.behaviour import Role
from warmgraphite.model.edits._edit import Edit, Name, Numbers, checked_parts, with_parts
from warmgraphite.model.edits.file import in_step
from warmgraphite.model.mending import dropped, restored
from warmgraphite.model.model import Model


class Drop(Edit):
    """Take parts out of the study."""

    do: Literal["drop"] = "drop"
    parts: Numbers

    def apply(self, model: Model) -> Model:
        chosen = checked_parts(model, self.parts)
        if len(chosen) == int(model.parts.present.sum()):
            raise EditError("A study keeps at least one part; drop fewer of them.")
        return dropped(model, chosen)

    def called(self, what: str) -> str:
        return f"Drop {what}"


class Restore(Edit):
    """Bring dropped parts back, as they are in the file."""

    do: Literal["restore"] = "restore"
    parts: Numbers

    def apply(self, model: Model, base: Model | None = None) -> Model:
        """``base`` is the model as its file was read."""
        if base is None or not 0 <= min(self.parts) <= max(self.parts) < len(model.parts):
            raise EditError("A part was meant that this model does not have; look at the list again.")
        return restored(model, in_step(base, model), sorted(set(self.parts)))

    def called(self, what: str) -> str:
        return f"Bring {what} back"


class Rename(Edit):
    do: Literal["rename"] = "rename"
    part: int
    name: Name

    def apply(self, model: Model) -> Model:
        return with_parts(model, [self.part], lambda p: replace(p, name=self.name.strip() or p.name))

    def called(self, _what: str) -> str:
        return "Rename part"


class Move(Edit):
    """Move parts to a layer, which may be new; steps of its path are parted by ``/``."""

    do: Literal["move"] = "move"
    parts: Numbers
    layer: Annotated[str, Field(max_length=300)]

    def apply(self, model: Model) -> Model:
        layer = "/".join(step.strip() for step in self.layer.split("/") if step.strip())
        return with_parts(model, self.parts, lambda p: replace(p, layer=layer))

    def called(self, what: str) -> str:
        return f"Move {what} to layer"


class SetRole(Edit):
    do: Literal["role"] = "role"
    parts: Numbers
    role: Role

    def apply(self, model: Model) -> Model:
        return with_parts(model, self.parts, lambda p: replace(p, role=self.role))

    def called(self, what: str) -> str:
        return f"Role of {what}"


class Behave(Edit):
    """Overrule what the role says of parts in one respect, or leave it to the role again (``None``)."""

    do: Literal["behave"] = "behave"
    parts: Numbers
    field: Literal["cut", "clear", "drawn", "poche", "cut_as"]
    value: bool | Name | None = None

    def apply(self, model: Model) -> Model:
        allowed: dict[str, tuple[Any, ...]] = {
            "cut": (True, False), "clear": (True, False), "drawn": ("soft", "plain", "strong"),
            "poche": ("solid", "earth", "void"), "cut_as": tuple(m.name for m in model.materials),
        }  # fmt: skip
        if self.value is not None and self.value not in allowed[self.field]:
            raise EditError(f"“{self.value}” is nothing that “{self.field}” can be.")
        change: dict[str, Any] = {self.field: self.value}
        return with_parts(model, self.parts, lambda p: replace(p, **change))

    def called(self, what: str) -> str:
        return f"Behaviour of {what}"
