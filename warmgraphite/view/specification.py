"""The view file: projection, cuts, parts, sun and frame, as a user saves them.

Model space: metres, right-handed, Z up, +Y north. Angles in degrees; azimuth clockwise from north.
"""

from __future__ import annotations

import itertools
import math
from pathlib import Path
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, field_validator, model_validator

from warmgraphite.errors import ViewError
from warmgraphite.formats import read_json
from warmgraphite.geometry.tolerances import NEAR, ROUNDING
from warmgraphite.model.behaviour import Role
from warmgraphite.specification import Specification, Words, valid
from warmgraphite.view.sun import Patterns, Sun
from warmgraphite.view.windows import Disc, OnModel, PaintedMask

__all__ = [
    "Cut",
    "Depth",
    "Frame",
    "Jog",
    "Lines",
    "Oblique",
    "Occlusion",
    "Parallel",
    "PartChoice",
    "Perspective",
    "ProjectionSpec",
    "Shade",
    "Sun",
    "ViewSpecification",
    "moved_view",
    "read_view",
    "trace_of",
]

Number = Annotated[float, Field(allow_inf_nan=False, ge=-1e12, le=1e12)]
Vector = tuple[Number, Number, Number]


def _length(vector: tuple[float, float, float]) -> float:
    return math.sqrt(sum(c * c for c in vector))


class Perspective(Specification):
    """Central projection from ``eye`` towards ``target``; ``field_of_view`` spans the frame's width.

    Where ``scale_distance`` is given, and the frame has a scale, that scale holds on the plane so many metres before
    the eye, square to the direction of sight, and says the field of view.
    """

    kind: Literal["perspective"] = "perspective"
    eye: Vector
    target: Vector
    up: Vector = (0, 0, 1)
    field_of_view: float = Field(default=50, ge=1, le=170)
    upright: bool = False
    scale_distance: float | None = Field(default=None, gt=0, le=1e7)

    @model_validator(mode="after")
    def _looks_somewhere(self) -> Perspective:
        sight = tuple(t - e for t, e in zip(self.target, self.eye, strict=True))
        _check_direction(sight, self.up, "eye and target")  # type: ignore[arg-type]
        if self.upright and math.hypot(sight[0], sight[1]) < NEAR * _length(sight):  # type: ignore[arg-type]
            raise ValueError("an upright perspective cannot look straight up or down; move the target aside")
        return self


class Parallel(Specification):
    """Parallel projection along ``direction`` (from the viewer into the model); ``centre`` is the point mid-frame.

    ``mirrored`` shows it as in a mirror, left for right, as reflected plans are drawn.
    """

    kind: Literal["parallel"] = "parallel"
    direction: Vector
    up: Vector = (0, 0, 1)
    centre: Vector | None = None
    mirrored: bool = False

    @model_validator(mode="after")
    def _looks_somewhere(self) -> Parallel:
        _check_direction(self.direction, self.up, "direction")
        return self


class Oblique(Specification):
    """A parallel projection whose depth also runs across the paper.

    A point that is one metre farther along ``direction`` is drawn ``receding_ratio`` metres away on the paper, at
    ``receding_angle`` counter-clockwise from the paper's right.
    """

    kind: Literal["oblique"] = "oblique"
    direction: Vector
    up: Vector = (0, 0, 1)
    centre: Vector | None = None
    receding_angle: Number = 45
    receding_ratio: float = Field(default=0.5, ge=0, le=4)

    @model_validator(mode="after")
    def _looks_somewhere(self) -> Oblique:
        _check_direction(self.direction, self.up, "direction")
        return self


def _check_direction(direction: tuple[float, float, float], up: tuple[float, float, float], what: str) -> None:
    if _length(direction) < ROUNDING:
        raise ValueError(f"{what} must give a direction, but it has no length")
    if _length(up) < ROUNDING:
        raise ValueError("up must give a direction, but it has no length")
    cross = (
        direction[1] * up[2] - direction[2] * up[1],
        direction[2] * up[0] - direction[0] * up[2],
        direction[0] * up[1] - direction[1] * up[0],
    )
    if _length(cross) < ROUNDING * _length(direction) * _length(up):
        raise ValueError(f"up must not run along the line of sight; choose another up for this {what}")


class Jog(Specification):
    """A step of a cut.
    From ``at`` metres along its trace on, counted from its point, the plane stands ``by`` metres farther along its
    normal than the point says. The trace runs level, to the right of one who looks along the normal's other way.
    """

    at: Number
    by: Number


class Cut(Specification):
    """A plane; what lies on the side that ``normal`` points to is removed. Only a ``cut`` gives poche and cut lines.

    ``jogs`` make it a stepped section. Cuts of one ``name`` belong together, as the six of a cutting box do.
    """

    point: Vector
    normal: Vector
    role: Literal["cut", "limit"] = "cut"
    jogs: tuple[Jog, ...] = Field(default=(), max_length=32)
    name: Words = Field(default="", max_length=100)

    @field_validator("normal")
    @classmethod
    def _has_length(cls, normal: Vector) -> Vector:
        if _length(normal) < ROUNDING:
            raise ValueError("must give a direction, but it has no length")
        return normal

    @field_validator("jogs")
    @classmethod
    def _steps_apart(cls, jogs: tuple[Jog, ...]) -> tuple[Jog, ...]:
        places = sorted(j.at for j in jogs)
        if any(b - a < NEAR for a, b in itertools.pairwise(places)):
            raise ValueError("two jogs are at the same place along the trace; take one of them out")
        return jogs


class PartChoice(Specification):
    """Globs on ``layer/path/name``: parts not shown, and parts that ``cut`` planes leave whole.
    ``set`` names the part set of the study that is shown; all parts without one. ``roles`` says for whole roles whether
    planes cut them here or leave them whole, whatever is usual.
    """

    set: str = Field(default="", max_length=200)
    hidden: Patterns = ()
    uncut: Patterns = ()
    roles: dict[Role, Literal["cut", "whole"]] = {}


class Shade(Specification):
    """The tone of each face by its turn to the sun: continuous, or in so many even ``steps``.
    ``sky`` and ``ground`` 0–1 are how much light they throw back on what the sun does not reach.
    """

    steps: int = Field(default=0, ge=0, le=12)
    sky: float = Field(default=0, ge=0, le=1)
    ground: float = Field(default=0, ge=0, le=1)


class Occlusion(Specification):
    """The darkening of corners: how much stands within ``radius`` metres of each point, told by so many ``samples``."""

    radius: float = Field(default=1.5, gt=0, le=1e5)
    strength: float = Field(default=1.0, ge=0, le=1)
    samples: int = Field(default=32, ge=4, le=512)


class Depth(Specification):
    """The range of the depth pass in metres from the viewer, or from the cutting plane that is nearest.
    What is seen decides where nothing is said. ``bands`` is how many even bands it is divided into.
    """

    near: Number | None = None
    far: Number | None = None
    bands: int = Field(default=6, ge=2, le=64)

    @model_validator(mode="after")
    def _reaches(self) -> Depth:
        if self.near is not None and self.far is not None and self.far <= self.near:
            raise ValueError("far must lie beyond near")
        return self


class Frame(Specification):
    """The paper in millimetres, the scale 1:``scale`` (parallel kinds), and pixels per inch.
    ``shift`` is how far, to the right and down, the drawing's middle lies from the paper's.
    """

    width: float = Field(default=420, ge=10, le=5000)
    height: float = Field(default=297, ge=10, le=5000)
    scale: float | None = Field(default=None, gt=0, le=1e7)
    resolution: float = Field(default=150, ge=10, le=2400)
    shift: tuple[Number, Number] = (0.0, 0.0)

    @property
    def pixels(self) -> tuple[int, int]:
        """Width and height of the frame in pixels."""
        return (max(1, round(self.width / 25.4 * self.resolution)), max(1, round(self.height / 25.4 * self.resolution)))


class Lines(Specification):
    """Which edges are lines, and what makes one an outline.

    ``crease_angle`` degrees of bend from which an edge is drawn; ``outline_depth`` metres that must lie behind a line
    for it to be an outline. Drawn only where asked for: ``smooth`` edges, in which a curved surface runs out into
    another; ``seams`` between parts or faces that lie flush and are of one material; ``facets``, every edge of the
    mesh.
    """

    crease_angle: float = Field(default=24, ge=0.1, le=179)
    outline_depth: float = Field(default=0.30, ge=0, le=1e6)
    smooth: bool = False
    seams: bool = False
    facets: bool = False


class FigureChoice(Specification):
    """The figures that a view hides: by their ids, by group, all of a kind, or all of them where it is not ``on``."""

    on: bool = True
    hidden: Annotated[tuple[Annotated[str, Field(max_length=60)], ...], Field(max_length=5000)] = ()
    groups: Annotated[tuple[Annotated[str, Field(max_length=60)], ...], Field(max_length=500)] = ()
    kinds: Annotated[tuple[Annotated[str, Field(max_length=60)], ...], Field(max_length=50)] = ()


#: Any way of looking.
ProjectionSpec = Perspective | Parallel | Oblique


class ViewSpecification(Specification):
    """One view of the model. Every field but the projection has a default."""

    name: Words = Field(default="View", max_length=200)
    projection: Annotated[ProjectionSpec, Field(discriminator="kind")]
    cuts: tuple[Cut, ...] = Field(default=(), max_length=64)
    parts: PartChoice = PartChoice()
    sun: Sun = Sun()
    shade: Shade = Shade()
    occlusion: Occlusion = Occlusion()
    depth: Depth = Depth()
    frame: Frame = Frame()
    lines: Lines = Lines()
    discs: tuple[Disc, ...] = Field(default=(), max_length=100)
    masks: tuple[PaintedMask, ...] = Field(default=(), max_length=100)
    figures: FigureChoice = FigureChoice()

    def windows(self, name: str) -> tuple[Disc | PaintedMask, ...]:
        """The discs and masks of a name."""
        return (*(d for d in self.discs if d.name == name), *(m for m in self.masks if m.name == name))


def trace_of(normal: NDArray[np.float64]) -> NDArray[np.float64]:
    """The unit direction in which the trace of a cut runs, and its jogs are counted.
    Level, to the right of one who looks along the normal's other way; in a level plane, across the way that is up on a
    plan.
    """
    normal = normal / np.linalg.norm(normal)
    along = np.cross([0.0, 0.0, 1.0] if abs(normal[2]) < 0.9 else [0.0, 1.0, 0.0], normal)
    return along / np.linalg.norm(along)


def moved_view(view: ViewSpecification, matrix: NDArray[np.float64]) -> ViewSpecification:
    """The view that sees a model moved by a 4×4 similarity ``matrix`` as this one saw it before.

    The steps of a section stay level, even where the move would set them upright.
    """
    turn, move = matrix[:3, :3], matrix[:3, 3]
    size = abs(float(np.linalg.det(turn))) ** (1 / 3)

    def point(p: Vector) -> tuple[float, ...]:
        return tuple((turn @ np.array(p) + move).tolist())

    def way(d: Vector) -> tuple[float, ...]:
        return tuple((turn @ np.array(d) / size).tolist())

    spec = view.projection
    changes: dict[str, tuple[float, ...] | None] = {"up": way(spec.up)}
    if isinstance(spec, Perspective):
        changes |= {"eye": point(spec.eye), "target": point(spec.target)}
        if spec.scale_distance is not None:
            spec = spec.model_copy(update={"scale_distance": spec.scale_distance * size})
    else:
        changes |= {"direction": way(spec.direction), "centre": point(spec.centre) if spec.centre is not None else None}

    def moved(cut: Cut) -> Cut:
        normal, last = np.array(way(cut.normal)), 0.0
        jogs = sorted((Jog(at=j.at * size, by=j.by * size) for j in cut.jogs), key=lambda jog: jog.at)
        if jogs and turn @ trace_of(np.array(cut.normal)) @ trace_of(normal) < 0:
            # The trace now runs the other way: the section begins where it ended, and steps back to where it began.
            depths, last = [0.0, *(j.by for j in jogs)], jogs[-1].by
            jogs = [Jog(at=-j.at, by=depth - last) for j, depth in zip(jogs, depths, strict=False)][::-1]
        at = np.array(point(cut.point)) + last * normal / np.linalg.norm(normal)
        return cut.model_copy(update={"point": tuple(at.tolist()), "normal": way(cut.normal), "jogs": tuple(jogs)})

    discs = tuple(
        d.model_copy(update={"middle": OnModel(at=point(d.middle.at))}) if isinstance(d.middle, OnModel) else d  # type: ignore[arg-type]
        for d in view.discs
    )
    cuts = tuple(moved(cut) for cut in view.cuts)
    return view.model_copy(update={"projection": spec.model_copy(update=changes), "cuts": cuts, "discs": discs})


def read_view(source: str | bytes | Path, what: str = "The view") -> ViewSpecification:
    """The view of a JSON file or text. Raises :class:`ViewError` that names each wrong field."""
    if isinstance(source, Path):
        what = source.name
        try:
            source = source.read_bytes()
        except OSError as error:
            raise ViewError(f"{what} cannot be opened ({error.strerror or error}); check that it is there.") from error
    data = read_json(source, what)
    if not isinstance(data, dict):
        raise ViewError(f"{what} must be a JSON object with a “projection”.")
    with valid(what):
        return ViewSpecification.model_validate(data)
