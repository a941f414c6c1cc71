"""Mirrors, as they are asked for."""

from __future__ import annotations

from typing import Literal

from warmgraphite.specification import Wanted

__all__ = ["MirrorSpec"]


class MirrorSpec(Wanted):
    """What mirrors: level water, or panes."""

    sort: Literal["water", "glass"] = "water"
