"""Kinds of view as an illustrator names them, each with the few settings that matter; all reduce to the view file.

A kind says how one looks; it leaves the parts, the sun and the paper of a view alone. A plan and a section bring the one cut
that makes them what they are, under a name of its own, and leave all other cuts.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated, Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, TypeAdapter

from warmgraphite.errors import ViewError
from warmgraphite.specification import Specification, valid
from warmgraphite.view.specification import Cut, Oblique, Parallel, Perspective, ViewSpecification
from warmgraphite.view.surfaces import axes_in

__all__ = ["KIND_LABELS", "ViewKind", "begun", "kind_of", "of_kind", "other_cuts", "usual_views"]

#: The name of the cut that a plan or a section brings with it.
KIND_CUT = "Kind"
#: Degrees from level at which three square axes are drawn equally long.
ISOMETRIC = math.degrees(math.atan(1 / math.sqrt(2)))

#: Degrees from level beyond which a direction cannot be told from upright.
STEEPEST = 90 - 1e-5

Degrees = Annotated[float, Field(ge=-360, le=360)]
#: A kind is read from any view, so it has no narrower limits than the view file: sums of its coordinates are below this.
Metres = Annotated[float, Field(ge=-1e13, le=1e13, allow_inf_nan=False)]
Distance = Annotated[float, Field(gt=0.05, le=1e13)]
Box = NDArray[np.float64]


def usual_views(box: Box) -> list[ViewSpecification] | None:
    """The views that a study of what lies in a box (2, 3) begins with, where they are not those of any model: a flat drawing is looked at
    from above."""
    size = box[1] - box[0]
    if size[2] > 1e-9 * max(float(size.max()), 1.0):
        return None
    return [ViewSpecification(name="Drawing", projection=Parallel(direction=(0, 0, -1), up=(0, 1, 0)))]


def _level(bearing: float) -> NDArray[np.float64]:
    """The level direction of a bearing, degrees clockwise from north."""
    return np.array([math.sin(math.radians(bearing)), math.cos(math.radians(bearing)), 0.0])


def _tipped(bearing: float, down: float) -> NDArray[np.float64]:
    """The direction of a bearing that runs ``down`` degrees below level; never quite upright, or it would have no bearing."""
    down = min(max(down, -STEEPEST), STEEPEST)
    return _level(bearing) * math.cos(math.radians(down)) - [0, 0, math.sin(math.radians(down))]


def _t(vector: NDArray[np.float64]) -> tuple[float, float, float]:
    x, y, z = (round(float(c), 9) + 0.0 for c in vector)
    return x, y, z


def _upright_cut(bearing: float, place: float) -> Cut:
    """The cut of a section that looks along a bearing, ``place`` metres from zero."""
    way = _level(bearing)
    return Cut(point=_t(way * place), normal=_t(-way), name=KIND_CUT)


def _level_cut(height: float, away: Literal[1, -1]) -> Cut:
    """The cut of a plan, with what is above it taken away, or, −1, of a ceiling, with what is below."""
    return Cut(point=(0, 0, height), normal=(0, 0, away), name=KIND_CUT)


class _Kind(Specification):
    def cut(self) -> Cut | None:
        """The cut that the kind brings."""
        return None


class Plan(_Kind):
    """From above, cut ``height`` metres above the storey at ``storey`` metres; ``top`` is the bearing at the paper's top."""

    kind: Literal["plan"] = "plan"
    storey: Metres = 0
    height: Metres = 1.2
    top: Degrees = 0

    def cut(self) -> Cut:
        return _level_cut(self.storey + self.height, 1)

    def projection(self, at: Box) -> Parallel:
        return Parallel(direction=(0, 0, -1), up=_t(_level(self.top)), centre=_t(at.mean(0)))


class ReflectedPlan(Plan):
    """The ceiling over a cut, as a mirror on the floor shows it: the same way round as the plan."""

    kind: Literal["reflected plan"] = "reflected plan"  # type: ignore[assignment]

    def cut(self) -> Cut:
        return _level_cut(self.storey + self.height, -1)

    def projection(self, at: Box) -> Parallel:
        return Parallel(direction=(0, 0, 1), up=_t(_level(self.top)), centre=_t(at.mean(0)), mirrored=True)


class Elevation(_Kind):
    """Level, straight on, looking along ``bearing``."""

    kind: Literal["elevation"] = "elevation"
    bearing: Degrees = 0

    def projection(self, at: Box) -> Parallel:
        return Parallel(direction=_t(_level(self.bearing)), centre=_t(at.mean(0)))


class Section(Elevation):
    """An elevation of what lies behind a cut; ``place`` metres from zero along the bearing."""

    kind: Literal["section"] = "section"  # type: ignore[assignment]
    place: Metres = 0

    def cut(self) -> Cut:
        return _upright_cut(self.bearing, self.place)


class Isometric(_Kind):
    """Parallel, with the three axes of a square building equally long; ``corner`` is the bearing of sight."""

    kind: Literal["isometric"] = "isometric"
    corner: Literal[45, 135, 225, 315] = 45
    below: bool = False

    def projection(self, at: Box) -> Parallel:
        down = -ISOMETRIC if self.below else ISOMETRIC
        return Parallel(direction=_t(_tipped(self.corner, down)), centre=_t(at.mean(0)))


class Dimetric(Isometric):
    """Parallel, with two axes of a square building equally long, looking ``down`` degrees from level."""

    kind: Literal["dimetric"] = "dimetric"  # type: ignore[assignment]
    down: float = Field(default=20, ge=1, le=89)

    def projection(self, at: Box) -> Parallel:
        return Parallel(direction=_t(_tipped(self.corner, -self.down if self.below else self.down)), centre=_t(at.mean(0)))


class Trimetric(_Kind):
    """Parallel, at any angle: ``bearing`` and degrees ``down`` from level, negative for a worm's eye."""

    kind: Literal["trimetric"] = "trimetric"
    bearing: Degrees = 30
    down: float = Field(default=35, ge=-90, le=90)

    def projection(self, at: Box) -> Parallel:
        return Parallel(direction=_t(_tipped(self.bearing, self.down)), centre=_t(at.mean(0)))


class WormsEye(Trimetric):
    """Parallel, from below: the floor plan cut and seen from underneath, with what stands above it."""

    kind: Literal["worm's eye"] = "worm's eye"  # type: ignore[assignment]
    down: float = Field(default=-45, ge=-90, le=0)
    storey: Metres = 0
    height: Metres = 1.2

    def cut(self) -> Cut:
        return _level_cut(self.storey + self.height, -1)


class PlanOblique(_Kind):
    """The plan in its true shape, turned; uprights at ``angle`` from the paper's right, ``ratio`` of their length."""

    kind: Literal["plan oblique"] = "plan oblique"
    top: Degrees = 30
    angle: Degrees = 90
    ratio: float = Field(default=1, ge=0, le=4)

    def projection(self, at: Box) -> Oblique:
        # What lies deeper recedes the other way from what rises.
        angle, up = (self.angle + 180) % 360, _t(_level(self.top))
        return Oblique(direction=(0, 0, -1), up=up, centre=_t(at.mean(0)), receding_angle=angle, receding_ratio=self.ratio)


class ElevationOblique(_Kind):
    """A front in its true shape; depth at ``angle`` from the paper's right, ``ratio`` of its length."""

    kind: Literal["elevation oblique"] = "elevation oblique"
    bearing: Degrees = 0
    angle: Degrees = 45
    ratio: float = Field(default=0.5, ge=0, le=4)

    def projection(self, at: Box) -> Oblique:
        way = _t(_level(self.bearing))
        return Oblique(direction=way, centre=_t(at.mean(0)), receding_angle=self.angle % 360, receding_ratio=self.ratio)


class _Central(_Kind):
    """``eye_height`` metres above zero, ``distance`` from the nearest face of the model along the bearing, ``aside`` metres to
    the right of its middle; ``angle`` is the field of view across the frame."""

    bearing: Degrees = 0
    eye_height: Metres = 1.6
    distance: Distance = 20
    aside: Metres = 0
    angle: float = Field(default=50, ge=1, le=170)

    def _eye(self, at: Box) -> tuple[NDArray[np.float64], NDArray[np.float64], float]:
        """The eye, the level direction of sight, and metres from the eye to the middle of the model along it."""
        way = _level(self.bearing)
        right = np.array([way[1], -way[0], 0.0])
        middle = at.mean(0)
        depth = float(np.abs(way[:2]) @ (at[1] - at[0])[:2]) / 2
        eye = middle - way * (depth + self.distance) + right * self.aside
        eye[2] = self.eye_height
        return eye, way, depth + self.distance


class OnePoint(_Central):
    """Level and square to a front: one vanishing point; the frame is shifted to show the building's height."""

    kind: Literal["one-point perspective"] = "one-point perspective"

    def projection(self, at: Box) -> Perspective:
        eye, way, reach = self._eye(at)
        target = eye + way * reach
        target[2] = at.mean(0)[2]
        return Perspective(eye=_t(eye), target=_t(target), field_of_view=self.angle, upright=True)


class TwoPoint(OnePoint):
    """Level, at an angle to the fronts: two vanishing points, verticals upright."""

    kind: Literal["two-point perspective"] = "two-point perspective"  # type: ignore[assignment]
    bearing: Degrees = 35


class ThreePoint(_Central):
    """Looking at the middle of the model from above or below its level: three vanishing points."""

    kind: Literal["three-point perspective"] = "three-point perspective"
    bearing: Degrees = 35
    eye_height: Metres = 12

    def projection(self, at: Box) -> Perspective:
        eye, _, _ = self._eye(at)
        return Perspective(eye=_t(eye), target=_t(at.mean(0)), field_of_view=self.angle)


class SectionPerspective(_Kind):
    """One-point onto a cut, which is drawn at the frame's scale; ``distance`` is the eye's from the cutting plane."""

    kind: Literal["section perspective"] = "section perspective"
    bearing: Degrees = 0
    place: Metres = 0
    distance: Distance = 15
    eye_height: Metres = 1.6
    aside: Metres = 0

    def cut(self) -> Cut:
        return _upright_cut(self.bearing, self.place)

    def projection(self, at: Box) -> Perspective:
        way = _level(self.bearing)
        right = np.array([way[1], -way[0], 0.0])
        middle = at.mean(0)
        eye = way * (self.place - self.distance) + right * (middle @ right + self.aside)
        eye[2] = self.eye_height
        target = eye + way * self.distance
        target[2] = middle[2]
        return Perspective(eye=_t(eye), target=_t(target), field_of_view=60, upright=True, scale_distance=self.distance)


ViewKind = Annotated[
    Plan | ReflectedPlan | Elevation | Section | Isometric | Dimetric | Trimetric | WormsEye | PlanOblique | ElevationOblique
    | OnePoint | TwoPoint | ThreePoint | SectionPerspective,
    Field(discriminator="kind"),
]  # fmt: skip
KINDS: TypeAdapter[ViewKind] = TypeAdapter(ViewKind)


_CLASSES: dict[str, type[_Kind]] = {
    str(k.model_fields["kind"].default): k
    for k in (
        Plan, ReflectedPlan, Elevation, Section, Isometric, Dimetric, Trimetric, WormsEye, PlanOblique, ElevationOblique, OnePoint,
        TwoPoint, ThreePoint, SectionPerspective,
    )
}  # fmt: skip
#: The kinds in the order in which they are offered, with what each is called.
KIND_LABELS: dict[str, str] = {name: name.replace("'", "’") for name in _CLASSES}
#: Kinds that look straight at something; the other ones with a bearing look askew.
_STRAIGHT = ("elevation", "section", "elevation oblique", "one-point perspective", "section perspective")


def begun(name: str, view: ViewSpecification, box: Box, floors: Sequence[float] = ()) -> ViewKind:
    """Another kind for a view, set up as the trade usually does: it looks the way that the view looked, as nearly as the kind
    can, and a section stands where the view is cut already, else in the middle. ``floors`` are the storeys' heights, from
    below. Raises :class:`ViewError` for a kind that is none."""
    made = _CLASSES.get(name)
    if made is None:
        raise ViewError(f"“{name[:60]}” is no kind of view; choose one of {', '.join(KIND_LABELS)}.")
    now = kind_of(view, box)
    bearing = float(getattr(now, "bearing", getattr(now, "corner", 0)))
    settings: dict[str, Any] = {}
    if "corner" in made.model_fields:
        settings["corner"] = (45, 135, 225, 315)[int(bearing % 360 // 90)]
    if "bearing" in made.model_fields:
        square = round(bearing / 90) * 90 % 360
        near = abs((bearing + 45) % 90 - 45) < 1
        bearing = square if name in _STRAIGHT else (bearing + 30) % 360 if near else bearing
        settings["bearing"] = bearing
    if "storey" in made.model_fields:
        cut = now.storey + now.height if isinstance(now, Plan | WormsEye) else -math.inf
        lowest = floors[0] if floors else _tidy(box[0, 2])
        settings["storey"] = max((z for z in floors if z <= cut + 1e-6), default=lowest)
    if "eye_height" in made.model_fields and not box[0, 2] <= 0 <= box[1, 2]:
        # The model's zero is not this building's: it stands at its height above the sea, and the eye does so with it.
        ground = floors[0] if floors else _tidy(box[0, 2])
        settings["eye_height"] = _tidy(ground + made.model_fields["eye_height"].default)
    if "place" in made.model_fields:
        way = _level(bearing)
        standing = [c for c in view.cuts if c.role == "cut" and np.allclose(_unit_normal(c), -way, atol=1e-6)]
        middle = round(float(box.mean(0) @ way), 2)
        settings["place"] = getattr(now, "place", _tidy(float(np.array(standing[0].point) @ way)) if standing else middle)
    with valid("This kind of view"):
        return KINDS.validate_python({"kind": name, **settings})


def of_kind(view: ViewSpecification, kind: ViewKind, box: Box, scale: float | None = None) -> ViewSpecification:
    """The view as another kind of it. ``box`` (2, 3) bounds what is drawn, in metres; ``scale`` stands in for an absent one
    where the kind needs a scale."""
    with valid("This kind of view"):
        return _reduced(view, kind, box, scale)


def _reduced(view: ViewSpecification, kind: ViewKind, box: Box, scale: float | None) -> ViewSpecification:
    brought = kind.cut()
    # The cut that made the view what it was goes with that; one in the very place of the new one is that one.
    made = _own_cut(view)
    gone = made if made is not None and (made.name == KIND_CUT or kind_of(view, box).cut() is not None) else None
    if (
        made is not None
        and made.jogs
        and brought is not None
        and np.allclose(_unit_normal(made), _unit_normal(brought), atol=1e-6)
    ):
        # The steps of a section go with it, each in its place along the trace.
        start = float((np.array(made.point) - brought.point) @ axes_in(_unit_normal(brought))[0])
        jogs = tuple(jog.model_copy(update={"at": _tidy(jog.at + start)}) for jog in made.jogs)
        brought, gone = brought.model_copy(update={"jogs": jogs}), made
    cuts = tuple(c for c in view.cuts if c is not gone and c.name != KIND_CUT and not (brought and _same_plane(c, brought)))
    frame = view.frame
    if isinstance(kind, SectionPerspective) and frame.scale is None:
        frame = frame.model_copy(update={"scale": scale or 100.0})
    return view.model_copy(
        update={
            "projection": kind.projection(box),
            "cuts": (brought, *cuts) if brought else cuts,
            "frame": frame,
        }
    )


def _unit_normal(cut: Cut) -> NDArray[np.float64]:
    return np.array(cut.normal, float) / np.linalg.norm(cut.normal)


def _same_plane(first: Cut, second: Cut) -> bool:
    if first.role != second.role or first.jogs or not np.allclose(_unit_normal(first), _unit_normal(second), atol=1e-9):
        return False
    return abs(float(_unit_normal(first) @ (np.array(first.point) - second.point))) < 1e-6


def _own_cut(view: ViewSpecification) -> Cut | None:
    """The cut that makes a plan or a section of a view: the one that a kind brought, else the first that is square to it."""
    named = next((c for c in view.cuts if c.name == KIND_CUT), None)
    if named is not None:
        return named
    spec = view.projection
    sight = np.array(spec.target, float) - spec.eye if isinstance(spec, Perspective) else np.array(spec.direction, float)
    if isinstance(spec, Perspective) and spec.upright:
        sight[2] = 0.0
    size = float(np.linalg.norm(sight))
    square = (c for c in view.cuts if c.role == "cut" and size and np.allclose(_unit_normal(c), -sight / size, atol=1e-6))
    return next(square, None)


def other_cuts(view: ViewSpecification, box: Box) -> list[Cut]:
    """The cuts that the kind's settings do not tell of: all but the one that makes a plan or section, which is with them
    where it steps."""
    own = _own_cut(view)
    told = own if own is not None and not own.jogs and kind_of(view, box).cut() is not None else None
    return [c for c in view.cuts if c is not told]


def _tidy(value: float) -> float:
    return round(float(value), 6) + 0.0


def _bearing(vector: NDArray[np.float64]) -> float:
    return round(math.degrees(math.atan2(vector[0], vector[1])) % 360, 6) % 360


def kind_of(view: ViewSpecification, box: Box) -> ViewKind:
    """What an illustrator would call a view, with the settings that make it so: ``of_kind`` of the answer gives the same
    direction, and the same picture but for where it is centred."""
    spec = view.projection
    own = _own_cut(view)
    up = np.array(spec.up, float)
    middle = box.mean(0)
    if isinstance(spec, Perspective):
        return _central_kind(view, spec, own, box)
    sight = np.array(spec.direction, float)
    sight /= np.linalg.norm(sight)
    level = abs(sight[2]) < 1e-6
    upright = abs(abs(sight[2]) - 1) < 1e-9
    place = _tidy(float(np.array(own.point) @ -_unit_normal(own))) if own else 0.0
    if isinstance(spec, Oblique):
        if upright:
            return PlanOblique(top=_bearing(up), angle=(spec.receding_angle - 180) % 360, ratio=spec.receding_ratio)
        return ElevationOblique(bearing=_bearing(sight), angle=spec.receding_angle % 360, ratio=spec.receding_ratio)
    if upright:
        height = own.point[2] if own else _tidy(middle[2])
        made = ReflectedPlan if sight[2] > 0 else Plan
        return made(storey=0, height=height, top=_bearing(up))
    bearing = _bearing(sight)
    if level:
        return Section(bearing=bearing, place=place) if own is not None else Elevation(bearing=bearing)
    down = round(math.degrees(math.asin(min(max(-sight[2], -1.0), 1.0))), 6)
    corner = next((c for c in (45, 135, 225, 315) if abs(bearing - c) < 1e-4), None)
    if own is not None and own.name == KIND_CUT and down < 0 and own.normal[2] < 0:
        return WormsEye(bearing=bearing, down=down, storey=0, height=own.point[2])
    if corner and abs(abs(down) - ISOMETRIC) < 1e-3:
        return Isometric(corner=corner, below=down < 0)  # type: ignore[arg-type]
    if corner and 1 <= abs(down) <= 89:
        return Dimetric(corner=corner, below=down < 0, down=abs(down))  # type: ignore[arg-type]
    return Trimetric(bearing=bearing, down=down)


def _central_kind(view: ViewSpecification, spec: Perspective, own: Cut | None, box: Box) -> ViewKind:
    eye, target = np.array(spec.eye, float), np.array(spec.target, float)
    sight = target - eye
    level = np.array([sight[0], sight[1], 0.0])
    size = float(np.linalg.norm(level))
    if size < 1e-9:  # straight down or up
        return ThreePoint(
            bearing=0, eye_height=float(eye[2]), distance=max(float(np.linalg.norm(sight)), 0.1), angle=spec.field_of_view
        )
    way = level / size
    right = np.array([way[1], -way[0], 0.0])
    bearing = _bearing(way)
    middle = box.mean(0)
    if (
        spec.scale_distance
        and own is not None
        and np.allclose(np.array(own.normal) / np.linalg.norm(own.normal), -way, atol=1e-6)
    ):
        place = float(np.array(own.point) @ way)
        distance = max(place - float(eye @ way), 0.06)
        aside = float((eye - middle) @ right)
        return SectionPerspective(bearing=bearing, place=place, distance=distance, eye_height=float(eye[2]), aside=aside)
    depth = float(np.abs(way[:2]) @ (box[1] - box[0])[:2]) / 2
    settings: Any = {
        "bearing": bearing,
        "eye_height": float(eye[2]),
        "distance": max(_tidy((middle - eye) @ way - depth), 0.06),
        "aside": _tidy((eye - middle) @ right),
        "angle": spec.field_of_view,
    }
    if not spec.upright and abs(sight[2]) > 1e-9 * size:
        return ThreePoint(**settings)
    square = min(bearing % 90, 90 - bearing % 90) < 1e-3
    return OnePoint(**settings) if square else TwoPoint(**settings)
