"""Veils: another part set through the same frame, as it is asked for."""

from __future__ import annotations

from pydantic import Field

from warmgraphite.specification import Wanted

__all__ = ["VeilSpec"]


class VeilSpec(Wanted):
    """A part ``set`` alone, with the view's cuts or, not ``sawn``, without them."""

    set: str = Field(default="", max_length=200)
    sawn: bool = True
