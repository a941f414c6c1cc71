"""How a computation says how far it is, and learns that it should stop.

A stage takes a ``Progress`` and calls it with a fraction from 0 to 1. The callable may raise
:class:`warmgraphite.errors.Cancelled`; stages let that pass and leave nothing half-written behind.
"""

from __future__ import annotations

from collections.abc import Callable

__all__ = ["Progress", "Stages", "part_of", "silent", "unwatched"]

Progress = Callable[[float], None]
#: Told the stage of a longer work and how far the whole is, from 0 to 1; may raise to stop it.
Stages = Callable[[str, float], None]


def silent(_fraction: float) -> None:
    """Progress for callers who do not watch."""


def unwatched(_stage: str, _fraction: float) -> None:
    """Stages for callers who do not watch."""


def part_of(progress: Progress, start: float, end: float) -> Progress:
    """Progress of a step that fills the stretch from ``start`` to ``end`` of a longer piece of work."""
    return lambda fraction: progress(start + (end - start) * fraction)
