"""Materials: whose they are, how they look, in which order they prevail."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Literal

from pydantic import Field

from warmgraphite.errors import EditError
from warmgraphite.model.edits._edit import Edit, Name, Numbers, with_parts
from warmgraphite.model.model import Model
from warmgraphite.model.palette import Material
from warmgraphite.specification import Colour

#: Metres that a texture may be wide or high.
SMALLEST, LARGEST = 1e-4, 1e5


class SetMaterial(Edit):
    """Give parts a material, by its number."""

    do: Literal["material"] = "material"
    parts: Numbers
    material: int = Field(ge=0)

    def apply(self, model: Model) -> Model:
        if self.material >= len(model.materials):
            raise EditError("That material is not among the model's any more; choose another.")
        return with_parts(model, self.parts, lambda p: replace(p, material=self.material))

    def called(self, what: str) -> str:
        return f"Material of {what}"


class EditMaterial(Edit):
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
        if self.size is not None and not all(SMALLEST <= s <= LARGEST for s in self.size):
            raise EditError("A texture spans between a tenth of a millimetre and a hundred kilometres.")
        if self.name and any(m.name == self.name for i, m in enumerate(model.materials) if i != self.material):
            raise EditError(f"There is a material “{self.name}” already; merge the two, or choose another name.")
        new = replace(
            old, name=self.name or old.name, colour=self.colour or old.colour, size=self.size or old.size,
            was=old.names,
            opacity=old.opacity if self.opacity is None else self.opacity, texture="" if self.plain else old.texture,
        )  # fmt: skip
        return model.said(materials=tuple(new if i == self.material else m for i, m in enumerate(model.materials)))

    def called(self, _what: str) -> str:
        return "Change material"


class CutOrder(Edit):
    """The order in which materials prevail where cut bodies overlap, the strongest first.
    Those left out follow as usual.
    """

    do: Literal["cut_order"] = "cut_order"
    materials: Annotated[tuple[int, ...], Field(max_length=10_000)]

    def apply(self, model: Model) -> Model:
        if not all(0 <= m < len(model.materials) for m in self.materials):
            raise EditError("That material is not among the model's any more; look at the list again.")
        return model.said(cut_order=tuple(model.materials[m].name for m in dict.fromkeys(self.materials)))

    def called(self, _what: str) -> str:
        return "Order of cut materials"


class MergeMaterials(Edit):
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
        table = tuple(
            replace(model.materials[m], was=tuple(names)) if m == self.into else model.materials[m] for m in kept
        )
        return model.said(materials=table, parts=tuple(replace(p, material=number[p.material]) for p in model.parts))

    def called(self, _what: str) -> str:
        return "Count materials as one"


class AddMaterial(Edit):
    do: Literal["add_material"] = "add_material"
    name: Name
    colour: Colour = "#cfc8bc"
    opacity: float = Field(default=1.0, ge=0, le=1)

    def apply(self, model: Model) -> Model:
        if any(m.name == self.name for m in model.materials):
            raise EditError(f"There is a material “{self.name}” already; choose another name.")
        return model.said(materials=(*model.materials, Material(self.name, self.colour, self.opacity)))

    def called(self, _what: str) -> str:
        return "New material"


class WhiteCard(Edit):
    """One look of white card for all that is not seen through."""

    do: Literal["white_card"] = "white_card"
    on: bool

    def apply(self, model: Model) -> Model:
        return model.said(white_card=self.on)

    def called(self, _what: str) -> str:
        return "White card"
