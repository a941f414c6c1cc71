"""What every kind of view is.
The settings that an illustrator changes, how it reduces to the view file, and how it is recognised there.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property
from typing import Annotated, Any, ClassVar, Literal, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.geometry.tolerances import FINEST, HAIR, NEAR, NO_SIZE, ROUNDING
from warmgraphite.specification import Specification
from warmgraphite.view.specification import Cut, Oblique, Parallel, Perspective, ViewSpecification

__all__ = [
    "ISOMETRIC",
    "KIND_CUT",
    "Box",
    "Degrees",
    "Distance",
    "Kind",
    "Metres",
    "Outlook",
    "bearing_of",
    "level",
    "level_cut",
    "own_cut",
    "same_plane",
    "tidy",
    "tipped",
    "triple",
    "unit_normal",
    "upright_cut",
]  # fmt: skip

#: The name of the cut that a plan or a section brings with it.
KIND_CUT = "Kind"
#: Degrees from level at which three square axes are drawn equally long.
ISOMETRIC = math.degrees(math.atan(1 / math.sqrt(2)))

#: Degrees from level beyond which a direction cannot be told from upright.
STEEPEST = 90 - 1e-5

Degrees = Annotated[float, Field(ge=-360, le=360)]
#: A kind is read from any view, so it has no narrower limits than the view file: sums of its coordinates are below
#: this.
Metres = Annotated[float, Field(ge=-1e13, le=1e13, allow_inf_nan=False)]
Distance = Annotated[float, Field(gt=0.05, le=1e13)]
Box = NDArray[np.float64]


def level(bearing: float) -> NDArray[np.float64]:
    """The level direction of a bearing, degrees clockwise from north."""
    return np.array([math.sin(math.radians(bearing)), math.cos(math.radians(bearing)), 0.0])


def tipped(bearing: float, down: float) -> NDArray[np.float64]:
    """The direction of a bearing that runs ``down`` degrees below level.
    Never quite upright, or it would have no bearing.
    """
    down = min(max(down, -STEEPEST), STEEPEST)
    return level(bearing) * math.cos(math.radians(down)) - [0, 0, math.sin(math.radians(down))]


def triple(vector: NDArray[np.float64]) -> tuple[float, float, float]:
    x, y, z = (round(float(c), 9) + 0.0 for c in vector)
    return x, y, z


def upright_cut(bearing: float, place: float) -> Cut:
    """The cut of a section that looks along a bearing, ``place`` metres from zero."""
    way = level(bearing)
    return Cut(point=triple(way * place), normal=triple(-way), name=KIND_CUT)


def level_cut(height: float, away: Literal[1, -1]) -> Cut:
    """The cut of a plan, with what is above it taken away, or, −1, of a ceiling, with what is below."""
    return Cut(point=(0, 0, height), normal=(0, 0, away), name=KIND_CUT)


def unit_normal(cut: Cut) -> NDArray[np.float64]:
    return np.array(cut.normal, float) / np.linalg.norm(cut.normal)


def same_plane(first: Cut, second: Cut) -> bool:
    if (
        first.role != second.role
        or first.jogs
        or not np.allclose(unit_normal(first), unit_normal(second), atol=ROUNDING)
    ):
        return False
    return abs(float(unit_normal(first) @ (np.array(first.point) - second.point))) < NEAR


def own_cut(view: ViewSpecification) -> Cut | None:
    """The cut that makes a plan or a section of a view.
    The one that a kind brought, else the first that is square to it.
    """
    named = next((c for c in view.cuts if c.name == KIND_CUT), None)
    if named is not None:
        return named
    spec = view.projection
    sight = (
        np.array(spec.target, float) - spec.eye if isinstance(spec, Perspective) else np.array(spec.direction, float)
    )
    if isinstance(spec, Perspective) and spec.upright:
        sight[2] = 0.0
    size = float(np.linalg.norm(sight))
    square = (
        c for c in view.cuts if c.role == "cut" and size and np.allclose(unit_normal(c), -sight / size, atol=NEAR)
    )
    return next(square, None)


def tidy(value: float) -> float:
    return round(float(value), 6) + 0.0


def bearing_of(vector: NDArray[np.float64]) -> float:
    return round(math.degrees(math.atan2(vector[0], vector[1])) % 360, 6) % 360


@dataclass(frozen=True)
class Outlook:
    """How a view looks at what lies in a ``box`` (2, 3), in words that kinds are told by."""

    view: ViewSpecification
    box: Box

    @property
    def projection(self) -> Parallel | Oblique | Perspective:
        """The projection that the view file says."""
        return self.view.projection

    @property
    def is_central(self) -> bool:
        """Whether it is a perspective."""
        return isinstance(self.projection, Perspective)

    @property
    def is_parallel(self) -> bool:
        """Whether it is parallel, and square to its paper."""
        return not isinstance(self.projection, Oblique | Perspective)

    @cached_property
    def cut(self) -> Cut | None:
        """The cut that makes a plan or a section of it."""
        return own_cut(self.view)

    @cached_property
    def eye(self) -> NDArray[np.float64]:
        """(3,) the viewer of a perspective, in metres."""
        return np.array(self.projection.eye, float)  # type: ignore[union-attr]

    @cached_property
    def ahead(self) -> NDArray[np.float64]:
        """(3,) where it looks: from the eye to the target, or one metre along a parallel one."""
        if isinstance(self.projection, Perspective):
            return np.array(self.projection.target, float) - self.eye
        sight = np.array(self.projection.direction, float)
        return np.asarray(sight / np.linalg.norm(sight), float)

    @cached_property
    def flat(self) -> float:
        """How long that is as seen from above."""
        return float(np.linalg.norm([self.ahead[0], self.ahead[1], 0.0]))

    @cached_property
    def way(self) -> NDArray[np.float64]:
        """(3,) the same, level."""
        return np.array([self.ahead[0], self.ahead[1], 0.0]) / max(self.flat, NO_SIZE)

    @property
    def right(self) -> NDArray[np.float64]:
        """(3,) to the right of that, level."""
        return np.array([self.way[1], -self.way[0], 0.0])

    @property
    def bearing(self) -> float:
        """Its bearing, degrees clockwise from north."""
        return bearing_of(self.way if self.is_central else self.ahead)

    @property
    def top(self) -> float:
        """The bearing at the paper's top."""
        return bearing_of(np.array(self.projection.up, float))

    @property
    def is_level(self) -> bool:
        """Whether a parallel one looks level."""
        return not self.is_upright and abs(self.ahead[2]) < NEAR

    @property
    def is_upright(self) -> bool:
        """Whether a parallel one looks straight down or up."""
        return abs(abs(self.ahead[2]) - 1) < ROUNDING

    @property
    def is_askew(self) -> bool:
        """Whether a parallel one looks down or up at an angle."""
        return self.is_parallel and not self.is_level and not self.is_upright

    @property
    def down(self) -> float:
        """Degrees that a parallel one looks down from level."""
        return round(math.degrees(math.asin(min(max(-self.ahead[2], -1.0), 1.0))), 6)

    @property
    def corner(self) -> int | None:
        """The bearing over a corner of a square building, where it looks along one."""
        return next((c for c in (45, 135, 225, 315) if abs(self.bearing - c) < HAIR), None)

    @property
    def is_steep(self) -> bool:
        """Whether a perspective looks straight down or up."""
        return self.flat < ROUNDING

    @property
    def is_slanted(self) -> bool:
        """Whether uprights of a perspective run together."""
        return self.is_steep or (not self.projection.upright and abs(self.ahead[2]) > ROUNDING * self.flat)  # type: ignore[union-attr]

    @property
    def is_square(self) -> bool:
        """Whether it looks straight at a front of a square building."""
        return min(self.bearing % 90, 90 - self.bearing % 90) < FINEST

    @property
    def is_onto_cut(self) -> bool:
        """Whether a perspective has its scale on a cut that it looks at squarely."""
        scaled = bool(self.projection.scale_distance) and not self.is_steep  # type: ignore[union-attr]
        return scaled and self.cut is not None and bool(np.allclose(unit_normal(self.cut), -self.way, atol=NEAR))


class Kind(Specification):
    """A kind of view.
    ``order`` is its place among those that are offered; one that is more ``general`` is recognised after others; a
    ``straight`` one looks straight at something, others with a bearing askew.
    """

    order: ClassVar[int]
    general: ClassVar[int] = 0
    straight: ClassVar[bool] = False
    #: Whether it needs a scale, which it has on its cut.
    scaled: ClassVar[bool] = False

    kind: str = ""

    def cut(self) -> Cut | None:
        """The cut that the kind brings."""
        return None

    def projection(self, at: Box) -> Parallel | Oblique | Perspective:
        """How it looks at what lies in a box (2, 3), in metres."""
        raise NotImplementedError

    @classmethod
    def seen(cls, look: Outlook) -> Self | None:
        """The kind with the settings that make a view so; ``None`` where it is not of this kind."""
        raise NotImplementedError


class Central(Kind):
    """A view from a place before the building.
    ``eye_height`` metres above zero, ``distance`` from the nearest face of the model along the bearing, ``aside``
    metres to the right of its middle; ``angle`` is the field of view across the frame.
    """

    bearing: Degrees = 0
    eye_height: Metres = 1.6
    distance: Distance = 20
    aside: Metres = 0
    angle: float = Field(default=50, ge=1, le=170)

    def _eye(self, at: Box) -> tuple[NDArray[np.float64], NDArray[np.float64], float]:
        """The eye, the level direction of sight, and metres from the eye to the middle of the model along it."""
        way = level(self.bearing)
        right = np.array([way[1], -way[0], 0.0])
        middle = at.mean(0)
        depth = float(np.abs(way[:2]) @ (at[1] - at[0])[:2]) / 2
        eye = middle - way * (depth + self.distance) + right * self.aside
        eye[2] = self.eye_height
        return eye, way, depth + self.distance

    @classmethod
    def _seen(cls, look: Outlook) -> Self:
        """Its settings by those of a perspective."""
        spec: Any = look.projection
        if look.is_steep:
            reach = max(float(np.linalg.norm(look.ahead)), 0.1)
            return cls(bearing=0, eye_height=float(look.eye[2]), distance=reach, angle=spec.field_of_view)
        middle = look.box.mean(0)
        depth = float(np.abs(look.way[:2]) @ (look.box[1] - look.box[0])[:2]) / 2
        return cls(
            bearing=look.bearing,
            eye_height=float(look.eye[2]),
            distance=max(tidy((middle - look.eye) @ look.way - depth), 0.06),
            aside=tidy((look.eye - middle) @ look.right),
            angle=spec.field_of_view,
        )
