"""Poses: one module for each family, found by being here.
A pose makes a posture of a build, of what it touches and of chance.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from warmgraphite.catalogue import Catalogue, modules_in
from warmgraphite.figures.people.build import Build
from warmgraphite.figures.people.posture import Posture, Skeleton
from warmgraphite.figures.piece import Piece

__all__ = ["POSES", "Pose", "Touches", "pose"]

#: What a pose touches but the ground: the height of that is what it is fitted to.
Touches = Literal["ground", "seat", "rail", "top", "step"]
#: How high that usually is, in metres.
USUAL: dict[str, float] = {"ground": 0.0, "seat": 0.44, "rail": 1.0, "top": 0.86, "step": 0.17}


@dataclass(frozen=True)
class Pose:
    """One pose.
    ``posture`` is asked with the build, the height in metres of what it touches, and chance; ``things`` are what is
    held, pushed or sat on that belongs to it. ``ages`` are those it is natural for; ``leaves`` garments that get in its
    way.
    """

    name: str
    label: str
    group: str
    posture: Callable[[Build, float, np.random.Generator], Posture]
    touches: Touches = "ground"
    things: Callable[[Skeleton, float, np.random.Generator], list[Piece]] | None = None
    leaves: frozenset[str] = frozenset()
    usual: float | None = None
    #: Whether what is sat on comes with it.
    brings_seat: bool = False
    #: Whether it stands in the stock; else it is taken where it fits.
    offered: bool = True

    @property
    def height(self) -> float:
        """How high what it touches usually is, in metres."""
        return USUAL[self.touches] if self.usual is None else self.usual


_made: list[Pose] = []


def _poses() -> list[Pose]:
    modules_in(__name__)
    return _made


#: Each pose by its name.
POSES: Catalogue[Pose] = Catalogue(_poses, lambda p: p.name)


def pose(
    name: str, label: str, group: str, **more: object
) -> Callable[[Callable[..., Posture]], Callable[..., Posture]]:
    """Make a pose of the function that gives its posture."""

    def keep(made: Callable[..., Posture]) -> Callable[..., Posture]:
        _made.append(Pose(name, label, group, made, **more))  # type: ignore[arg-type]
        return made

    return keep
