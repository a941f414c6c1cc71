"""What a person says of a model: each change is a small specification that makes a new state of it.

The triangles are touched only by dropping, mending and reading in other units; everything else is said of parts,
materials and sets. Parts go by their number, which they keep for as long as the study lives.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from fnmatch import fnmatchcase
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field

from warmgraphite.errors import EditError
from warmgraphite.model.behaviour import Role
from warmgraphite.model.health import GAP
from warmgraphite.model.joining import joined_points, place_joined, taken_out
from warmgraphite.model.mending import dropped, mend, restored
from warmgraphite.model.model import Contours, Material, Model, Part, far_origin, localised
from warmgraphite.model.units import to_metres
from warmgraphite.specification import Colour, Specification

__all__ = ["ModelEdit", "Restore", "RoleRule", "apply_rules", "in_step", "label_of"]

Numbers = Annotated[tuple[int, ...], Field(min_length=1, max_length=2_000_000)]
Metres = Annotated[float, Field(ge=-1e7, le=1e7, allow_inf_nan=False)]
Name = Annotated[str, Field(min_length=1, max_length=200)]


class RoleRule(Specification):
    """Parts whose ``layer/path/name`` matches ``pattern`` (``*`` and ``?``, whatever the case) get ``role``."""

    pattern: Name
    role: Role


def _checked(model: Model, parts: Sequence[int]) -> list[int]:
    """The parts that are there, each once. Raises :class:`EditError` when one is not of this model."""
    found = sorted(set(parts))
    if found and not 0 <= found[0] <= found[-1] < len(model.parts):
        raise EditError("A part was meant that this model does not have; look at the list again.")
    return [p for p in found if not model.parts[p].absent]


def _with_parts(model: Model, parts: Sequence[int], change: Callable[[Part], Part]) -> Model:
    rows = list(model.parts)
    for number in _checked(model, parts):
        rows[number] = change(rows[number])
    return model.said(parts=tuple(rows))


class Hide(Specification):
    """Hide parts on the bench."""

    do: Literal["hide"] = "hide"
    parts: Numbers

    def apply(self, model: Model) -> Model:
        return model.said(hidden=tuple(sorted({*model.hidden, *_checked(model, self.parts)})))


class Show(Specification):
    """Show hidden parts again; all of them when none are named."""

    do: Literal["show"] = "show"
    parts: tuple[int, ...] = ()

    def apply(self, model: Model) -> Model:
        left = set(model.hidden) - set(self.parts) if self.parts else ()
        return model.said(hidden=tuple(sorted(left)))


class Isolate(Specification):
    """Hide all but these parts."""

    do: Literal["isolate"] = "isolate"
    parts: Numbers

    def apply(self, model: Model) -> Model:
        kept = set(_checked(model, self.parts))
        return model.said(hidden=tuple(i for i, p in enumerate(model.parts) if i not in kept and not p.absent))


class Drop(Specification):
    """Take parts out of the study."""

    do: Literal["drop"] = "drop"
    parts: Numbers

    def apply(self, model: Model) -> Model:
        chosen = _checked(model, self.parts)
        if len(chosen) == int(model.present.sum()):
            raise EditError("A study keeps at least one part; drop fewer of them.")
        return dropped(model, chosen)


class Restore(Specification):
    """Bring dropped parts back, as they are in the file."""

    do: Literal["restore"] = "restore"
    parts: Numbers

    def apply(self, model: Model, base: Model | None = None) -> Model:
        """``base`` is the model as its file was read."""
        if base is None or not 0 <= min(self.parts) <= max(self.parts) < len(model.parts):
            raise EditError("A part was meant that this model does not have; look at the list again.")
        return restored(model, in_step(base, model), sorted(set(self.parts)))


class Rename(Specification):
    do: Literal["rename"] = "rename"
    part: int
    name: Name

    def apply(self, model: Model) -> Model:
        return _with_parts(model, [self.part], lambda p: replace(p, name=self.name.strip() or p.name))


class Move(Specification):
    """Move parts to a layer, which may be new; steps of its path are parted by ``/``."""

    do: Literal["move"] = "move"
    parts: Numbers
    layer: Annotated[str, Field(max_length=300)]

    def apply(self, model: Model) -> Model:
        layer = "/".join(step.strip() for step in self.layer.split("/") if step.strip())
        return _with_parts(model, self.parts, lambda p: replace(p, layer=layer))


class SetRole(Specification):
    do: Literal["role"] = "role"
    parts: Numbers
    role: Role

    def apply(self, model: Model) -> Model:
        return _with_parts(model, self.parts, lambda p: replace(p, role=self.role))


class Behave(Specification):
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
        return _with_parts(model, self.parts, lambda p: replace(p, **change))


class SetMaterial(Specification):
    """Give parts a material, by its number."""

    do: Literal["material"] = "material"
    parts: Numbers
    material: int = Field(ge=0)

    def apply(self, model: Model) -> Model:
        if self.material >= len(model.materials):
            raise EditError("That material is not among the model's any more; choose another.")
        return _with_parts(model, self.parts, lambda p: replace(p, material=self.material))


class EditMaterial(Specification):
    """Change a material; what is left out stays. ``size`` are the metres that its texture spans."""

    do: Literal["edit_material"] = "edit_material"
    material: int = Field(ge=0)
    name: Name | None = None
    colour: Colour | None = None
    opacity: float | None = Field(default=None, ge=0, le=1)
    size: tuple[float, float] | None = None
    plain: bool = False

    def apply(self, model: Model) -> Model:
        if self.material >= len(model.materials):
            raise EditError("That material is not among the model's any more; choose another.")
        old = model.materials[self.material]
        if self.size is not None and not all(1e-4 <= s <= 1e5 for s in self.size):
            raise EditError("A texture spans between a tenth of a millimetre and a hundred kilometres.")
        if self.name and any(m.name == self.name for i, m in enumerate(model.materials) if i != self.material):
            raise EditError(f"There is a material “{self.name}” already; merge the two, or choose another name.")
        new = replace(
            old, name=self.name or old.name, colour=self.colour or old.colour, size=self.size or old.size, was=old.names,
            opacity=old.opacity if self.opacity is None else self.opacity, texture="" if self.plain else old.texture,
        )  # fmt: skip
        return model.said(materials=tuple(new if i == self.material else m for i, m in enumerate(model.materials)))


class CutOrder(Specification):
    """The order in which materials prevail where cut bodies overlap, the strongest first; those left out follow as usual."""

    do: Literal["cut_order"] = "cut_order"
    materials: Annotated[tuple[int, ...], Field(max_length=10_000)]

    def apply(self, model: Model) -> Model:
        if not all(0 <= m < len(model.materials) for m in self.materials):
            raise EditError("That material is not among the model's any more; look at the list again.")
        return model.said(cut_order=tuple(model.materials[m].name for m in dict.fromkeys(self.materials)))


class MergeMaterials(Specification):
    """Make several materials one: the one named ``into`` stands for all of them."""

    do: Literal["merge"] = "merge"
    materials: Annotated[tuple[int, ...], Field(min_length=1)]
    into: int

    def apply(self, model: Model) -> Model:
        gone = sorted(set(self.materials) - {self.into})
        if not gone or not all(0 <= m < len(model.materials) for m in (*gone, self.into)):
            raise EditError("Choose two materials or more of this model to merge.")
        names = list(model.materials[self.into].names)
        for m in gone:
            names += [n for n in model.materials[m].names if n not in names]
        kept = [m for m in range(len(model.materials)) if m not in gone]
        number = {m: i for i, m in enumerate(kept)} | {m: kept.index(self.into) for m in gone}
        table = tuple(replace(model.materials[m], was=tuple(names)) if m == self.into else model.materials[m] for m in kept)
        return model.said(materials=table, parts=tuple(replace(p, material=number[p.material]) for p in model.parts))


class AddMaterial(Specification):
    do: Literal["add_material"] = "add_material"
    name: Name
    colour: Colour = "#cfc8bc"
    opacity: float = Field(default=1.0, ge=0, le=1)

    def apply(self, model: Model) -> Model:
        if any(m.name == self.name for m in model.materials):
            raise EditError(f"There is a material “{self.name}” already; choose another name.")
        return model.said(materials=(*model.materials, Material(self.name, self.colour, self.opacity)))


class WhiteCard(Specification):
    """One look of white card for all that is not seen through."""

    do: Literal["white_card"] = "white_card"
    on: bool

    def apply(self, model: Model) -> Model:
        return model.said(white_card=self.on)


class KeepSet(Specification):
    """Keep a part set under a name; one of that name is replaced."""

    do: Literal["keep_set"] = "keep_set"
    name: Name
    parts: Numbers

    def apply(self, model: Model) -> Model:
        return model.said(sets={**model.sets, self.name.strip(): tuple(_checked(model, self.parts))})


class RemoveSet(Specification):
    do: Literal["remove_set"] = "remove_set"
    name: Name

    def apply(self, model: Model) -> Model:
        if self.name not in model.sets:
            raise EditError(f"There is no part set “{self.name}” any more.")
        return model.said(sets={n: p for n, p in model.sets.items() if n != self.name})


class ApplyRules(Specification):
    """Assign roles by name pattern; of several rules that match a part the last one counts."""

    do: Literal["rules"] = "rules"
    rules: Annotated[tuple[RoleRule, ...], Field(min_length=1, max_length=500)]

    def apply(self, model: Model) -> Model:
        return apply_rules(model, self.rules)


class DrawContours(Specification):
    """Level lines on the ground every ``interval`` metres, every ``index``-th stronger; ``None`` takes them away."""

    do: Literal["contours"] = "contours"
    interval: float | None = Field(default=None, gt=0.001, le=1000)
    index: int = Field(default=5, ge=1, le=100)

    def apply(self, model: Model) -> Model:
        return model.said(contours=Contours(self.interval, self.index) if self.interval else None)


class Mend(Specification):
    """Mend one kind of finding; ``tolerance`` in metres is for gaps."""

    do: Literal["mend"] = "mend"
    kind: Name
    tolerance: float = Field(default=GAP, gt=0, le=0.1)

    def apply(self, model: Model) -> Model:
        return mend(model, self.kind, self.tolerance)[0]


class Remeasure(Specification):
    """Read the file's numbers in other units, or with another axis up."""

    do: Literal["remeasure"] = "remeasure"
    units: Literal["m", "cm", "mm", "ft", "in"]
    up: Literal["z", "y"]

    def matrix(self, model: Model) -> np.ndarray:
        """4×4 from the model's coordinates as they are, its origin included, to the new ones."""
        return to_metres(self.units, self.up) @ np.linalg.inv(to_metres(model.units, model.up))

    def apply(self, model: Model) -> Model:
        home = np.eye(4)
        home[:3, 3] = model.origin
        moved = replace(model.transformed(self.matrix(model) @ home), origin=(0.0, 0.0, 0.0), units=self.units, up=self.up)
        if model.joined:
            # What is joined has units of its own, and stays where it lies.
            points, lines = joined_points(model)
            vertices, ends = moved.vertices.copy(), moved.line_ends.copy()
            vertices[points], ends[lines] = model.vertices[points] + model.origin, model.line_ends[lines] + model.origin
            moved = replace(moved, vertices=vertices, line_ends=ends)
        return localised(moved)


class PlaceJoined(Specification):
    """Move a joined file ``by`` (x, y, z) metres from where its coordinates, or the map, have it, and turn it by ``turn`` degrees about its middle."""

    do: Literal["place_joined"] = "place_joined"
    source: str = Field(min_length=1, max_length=40)
    by: tuple[Metres, Metres, Metres]
    turn: float = Field(default=0.0, ge=-360, le=360)

    def apply(self, model: Model) -> Model:
        return place_joined(model, self.source, self.by, self.turn)


class TakeOutJoined(Specification):
    """Take a joined file out of the study."""

    do: Literal["take_out_joined"] = "take_out_joined"
    source: str = Field(min_length=1, max_length=40)

    def apply(self, model: Model) -> Model:
        left, parts = taken_out(model, self.source)
        return dropped(left, parts) if parts else left


ModelEdit = Annotated[
    Hide | Show | Isolate | Drop | Restore | Rename | Move | SetRole | Behave | SetMaterial | EditMaterial | CutOrder | MergeMaterials | AddMaterial
    | WhiteCard | KeepSet | RemoveSet | ApplyRules | DrawContours | Mend | Remeasure | PlaceJoined | TakeOutJoined,
    Field(discriminator="do"),
]  # fmt: skip


def in_step(base: Model, model: Model) -> Model:
    """The model as its file was read, in the units, the axis and about the origin of the state that was made of it."""
    if (base.units, base.up) != (model.units, model.up):
        base = Remeasure(units=model.units, up=model.up).apply(base)  # type: ignore[arg-type]
    base = far_origin(base, model.origin)
    lies = {j.id: (j.by, j.turn) for j in base.joined}
    for own in model.joined:
        if own.id in lies and lies[own.id] != (own.by, own.turn):
            base = place_joined(base, own.id, own.by, own.turn)
    return base


def apply_rules(model: Model, rules: Sequence[RoleRule], parts: Sequence[int] | None = None) -> Model:
    """The model with roles by rules; only for some ``parts`` when they are given."""
    numbers = range(len(model.parts)) if parts is None else parts
    rows = list(model.parts)
    tests = [(r.pattern.lower(), r.role) for r in rules]
    for number in numbers:
        part = rows[number]
        path, name = part.path.lower(), part.name.lower()
        role = next((role for p, role in reversed(tests) if fnmatchcase(path, p) or fnmatchcase(name, p)), None)
        if role is not None and role != part.role:
            rows[number] = replace(part, role=role)
    return model.said(parts=tuple(rows))


def label_of(edit: Any, model: Model) -> str:
    """What an edit is called beside Undo."""
    parts: tuple[int, ...] = getattr(edit, "parts", ())
    what = (
        f"“{model.parts[parts[0]].name[:40]}”"
        if len(parts) == 1 and 0 <= parts[0] < len(model.parts)
        else f"{len(parts):,} parts"
    )
    name = getattr(edit, "name", None) or ""
    words = {
        "hide": f"Hide {what}", "show": "Show all parts" if not parts else f"Show {what}", "isolate": f"Show {what} alone",
        "drop": f"Drop {what}", "restore": f"Bring {what} back", "rename": "Rename part", "move": f"Move {what} to layer", "role": f"Role of {what}",
        "behave": f"Behaviour of {what}", "material": f"Material of {what}", "edit_material": "Change material",
        "merge": "Count materials as one", "cut_order": "Order of cut materials", "add_material": "New material", "white_card": "White card",
        "keep_set": f"Keep part set “{name[:40]}”", "remove_set": "Remove part set",
        "rules": "Roles by rule", "contours": "Contours", "mend": "Mend the model", "remeasure": "Units of the file",
        "place_joined": "Place of a joined file", "take_out_joined": "Take a joined file out",
    }  # fmt: skip
    return words[edit.do]
