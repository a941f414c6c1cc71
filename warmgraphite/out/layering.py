"""Which groups of a drawing become layers that can be switched."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from warmgraphite.out.settings import LayersBy, OutSettings

__all__ = ["Layering"]

#: How the groups begin that are told by rank, by material, or by what is noted.
_RANKED = ("lines ", "poche ", "hatch ", "figure ")


@dataclass(frozen=True)
class Layering:
    """Tells by the groups that are open whether the innermost is a layer.
    They are told from the outermost in; also whether one may lie in it.

    Where a page ``holds_drawings`` its outermost groups are drawings, whose groups are traces; else they are the
    traces.
    """

    by: tuple[LayersBy, ...] = ()
    only: tuple[str, ...] = ()
    holds_drawings: bool = False

    @staticmethod
    def of(settings: OutSettings, holds_drawings: bool) -> Layering:
        """As a person said it."""
        return Layering(settings.layers, settings.only, holds_drawings)

    def layer(self, groups: Sequence[str]) -> str:
        """What the layer of the innermost group is called; empty where it is none."""
        depth, name = len(groups) - self.holds_drawings, groups[-1]
        if not self.by:
            return ""
        if depth == 0:
            return name
        if depth == 1:
            return name if "traces" in self.by and (not self.only or name in self.only) else ""
        if name.startswith("layer "):
            return name.removeprefix("layer ") if "model" in self.by else ""
        return name[:1].upper() + name[1:] if "ranks" in self.by and name.startswith(_RANKED) else ""

    def goes_deeper(self, groups: Sequence[str]) -> bool:
        """Whether a layer may lie in the innermost group."""
        if not self.by:
            return False
        if len(groups) - self.holds_drawings < 1:
            return True
        return ("ranks" in self.by and not groups[-1].startswith(_RANKED)) or (
            "model" in self.by and not groups[-1].startswith(("layer ", *_RANKED))
        )
