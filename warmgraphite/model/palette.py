"""The palette of a model: its materials, and how they are shown."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

__all__ = ["CARD", "SEE_THROUGH", "Material", "as_card", "number_named"]

#: Materials with less opacity than this are seen through and count as glass.
SEE_THROUGH = 0.6

#: The colour of white card.
CARD = "#f4f1ea"


@dataclass(frozen=True)
class Material:
    """A surface: ``colour`` as ``#rrggbb``, ``opacity`` from 0 (clear) to 1.
    ``texture`` names a picture of the model, which spans ``size`` (width, height) metres, or is empty. ``was`` are the
    names in the file that it stands for.
    """

    name: str
    colour: str = "#cfc8bc"
    opacity: float = 1.0
    texture: str = ""
    size: tuple[float, float] = (1.0, 1.0)
    was: tuple[str, ...] = ()

    @property
    def names(self) -> tuple[str, ...]:
        """The materials of the file that this one stands for."""
        return self.was or (self.name,)


def number_named(materials: Sequence[Material], name: str) -> int | None:
    """The number of the material of this name, or of one that took its place."""
    for names in ([(m.name,) for m in materials], [m.names for m in materials]):
        for number, known in enumerate(names):
            if name in known:
                return number
    return None


def as_card(materials: Sequence[Material]) -> tuple[Material, ...]:
    """The materials as white card, where they are opaque."""
    return tuple(m if m.opacity < SEE_THROUGH else replace(m, colour=CARD, texture="") for m in materials)
