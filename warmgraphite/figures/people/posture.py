"""Postures, and the skeleton that takes one: hands and feet are put where they are to be, and arms and legs follow."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from warmgraphite.figures.people.build import Build
from warmgraphite.geometry.tolerances import NEAR, ROUNDING
from warmgraphite.model.solids import rotation

__all__ = ["HANGING", "Foot", "Hand", "Posture", "Skeleton", "both", "skeleton_of"]

Vector = NDArray[np.float64]
Triple = tuple[float, float, float]


@dataclass(frozen=True)
class Foot:
    """Where the heel is, in metres of the reference person: ``x`` to the right, ``y`` ahead, ``lift`` off the ground.
    ``turn`` in degrees outwards, ``pitch`` with the toes down. ``real`` heights are metres as they are, those of a
    step.
    """

    x: float
    y: float = 0.0
    lift: float = 0.0
    turn: float = 9.0
    pitch: float = 0.0
    real: bool = False


@dataclass(frozen=True)
class Hand:
    """Where a wrist is.
    In metres of the reference person from its shoulder as the chest stands, or from the ground (``of``), outwards,
    ahead and up; ``real`` ones are metres as they are. ``elbow`` is where that points, as the chest stands.
    """

    at: Triple
    of: Literal["shoulder", "ground", "head"] = "shoulder"
    elbow: Triple = (0.55, -0.8, -0.35)
    real: bool = False
    grip: bool = False


#: Arms that hang down, a little bent.
HANGING = Hand((0.055, 0.05, -0.535), elbow=(0.4, -1.0, 0.0))


def both(hand: Hand) -> tuple[Hand, Hand]:
    """Both hands alike."""
    return hand, hand


@dataclass(frozen=True)
class Posture:
    """Angles in degrees; leaning and nodding are forwards, tilting is to the right, turning to the left.
    ``hips`` is where the pelvis is over the feet, ``seat`` the height in metres of what is sat on. ``bend`` is how far
    knees give, as a share of the leg.
    """

    feet: tuple[Foot, Foot] = (Foot(-0.09), Foot(0.09))
    hands: tuple[Hand, Hand] = (HANGING, HANGING)
    hips: tuple[float, float] = (0.0, 0.0)
    seat: float | None = None
    bend: float = 0.012
    pelvis: Triple = (0.0, 0.0, 0.0)  # lean, tilt, turn
    spine: Triple = (0.0, 0.0, 0.0)
    head: Triple = (0.0, 0.0, 0.0)
    #: The leg (0 left, 1 right) that stands; both where it is none.
    stands: int | None = None
    #: Where knees point: outwards, as shares.
    knees: tuple[float, float] = (0.12, 0.12)

    def changed(self, **more: object) -> Posture:
        """The posture with something else."""
        return replace(self, **more)  # type: ignore[arg-type]


@dataclass
class Skeleton:
    """Joints in metres, left before right, and how pelvis, waist, chest and head are turned."""

    build: Build
    posture: Posture
    hip: Vector
    waist: Vector
    chest: Vector
    neck: Vector
    head: Vector
    turns: dict[str, Vector]
    hips: list[Vector] = field(default_factory=list)
    knees: list[Vector] = field(default_factory=list)
    ankles: list[Vector] = field(default_factory=list)
    feet: list[Vector] = field(default_factory=list)
    shoulders: list[Vector] = field(default_factory=list)
    elbows: list[Vector] = field(default_factory=list)
    wrists: list[Vector] = field(default_factory=list)

    def at(self, bone: str, offset: Triple) -> Vector:
        """A place by a bone: metres to its right, ahead and up."""
        return np.asarray(getattr(self, bone) + self.turns[bone] @ np.array(offset))


def _turn(lean: float, tilt: float, turn: float) -> Vector:
    return np.asarray(rotation(turn, "z") @ rotation(-lean, "x") @ rotation(tilt, "y"))


def _bent(root: Vector, target: Vector, first: float, second: float, pole: Vector) -> tuple[Vector, Vector]:
    """The middle joint and the end of two bones that reach for a target; ``pole`` is where the middle one points."""
    way = target - root
    reach = float(np.linalg.norm(way))
    far = np.clip(reach, abs(first - second) * 1.02 + NEAR, (first + second) * 0.9995)
    along = way / max(reach, ROUNDING)
    a = (first**2 - second**2 + far**2) / (2 * far)
    out = pole - (pole @ along) * along
    size = np.linalg.norm(out)
    out = out / size if size > NEAR else np.cross(along, [1.0, 0.0, 0.0])
    return root + a * along + np.sqrt(max(first**2 - a**2, 0.0)) * out, root + far * along


def skeleton_of(build: Build, posture: Posture) -> Skeleton:
    """The joints of a person in a posture; the lower foot stands on z = 0 unless one sits."""
    unit, p = build.unit, posture
    ankles, feet = [], []
    for side, foot in zip((-1, 1), p.feet, strict=True):
        turn = rotation(-side * foot.turn, "z") @ rotation(-foot.pitch, "x")
        scale = 1.0 if foot.real else unit
        heel = np.array([foot.x * unit, foot.y * unit, foot.lift * scale])
        # A foot that rolls over stands on its ball, or on its heel.
        ball = turn @ np.array([0, 0.155 * unit, -build.ankle])
        flat = rotation(-side * foot.turn, "z") @ np.array([0, 0.155 * unit, -build.ankle])
        back = turn @ np.array([0, -0.055 * unit, -build.ankle])
        rest = rotation(-side * foot.turn, "z") @ np.array([0, -0.055 * unit, -build.ankle])
        ankle = heel + np.array([0, 0, build.ankle]) + (flat - ball if foot.pitch > 0 else rest - back)
        ankles.append(ankle)
        feet.append(turn)
    leg = build.thigh + build.shin
    pelvis = _turn(*p.pelvis)
    middle = np.array([p.hips[0] * unit, p.hips[1] * unit, 0.0])
    if p.seat is not None:
        middle[2] = p.seat + 0.092 * unit * build.girth**0.5
    else:
        heights = []
        for side, ankle in zip((-1, 1), ankles, strict=True):
            joint = middle + pelvis @ np.array([side * build.hip_wide, 0, 0])
            gap = (leg * (1 - p.bend)) ** 2 - ((ankle - joint)[:2] ** 2).sum()
            heights.append(
                float(
                    ankle[2]
                    + np.sqrt(max(gap, (0.3 * leg) ** 2))
                    - (pelvis @ np.array([side * build.hip_wide, 0, 0]))[2]
                )
            )
        middle[2] = min(heights) if p.stands is None else heights[p.stands]
    lean, tilt, twist = p.spine
    lean += build.stoop
    half, whole = pelvis @ _turn(lean * 0.45, tilt * 0.45, twist * 0.45), pelvis @ _turn(lean, tilt, twist)
    waist = middle + pelvis @ np.array([0, 0, 0.30 * build.torso])
    chest = waist + half @ np.array([0, 0, 0.36 * build.torso])
    neck = chest + whole @ np.array([0, -0.006 * unit, 0.40 * build.torso])
    nod, nod_tilt, look = p.head
    # The head is carried level: it gives way to what the back does by itself, and looks where it is told to.
    facing = _turn(
        0.45 * lean + 0.45 * p.pelvis[0] + nod, 0.2 * (tilt + p.pelvis[1]) + nod_tilt, p.pelvis[2] + twist + look
    )
    short = build.stature - build.shoulder - 0.06 * build.torso
    head = neck + (0.6 * whole + 0.4 * facing) @ np.array([0, 0.012 * unit, short - build.head / 2])
    turns = {"hip": pelvis, "waist": half, "chest": whole, "neck": whole, "head": facing}
    found = Skeleton(build, p, middle, waist, chest, neck, head, turns)
    for side, ankle, foot_turn, out in zip((-1, 1), ankles, feet, p.knees, strict=True):
        joint = middle + pelvis @ np.array([side * build.hip_wide, 0, 0])
        pole = foot_turn @ np.array([0, 1.0, 0.0]) + pelvis @ np.array([side * out, 0.6, 0.25])
        knee, end = _bent(joint, ankle, build.thigh, build.shin, pole)
        found.hips.append(joint)
        found.knees.append(knee)
        found.ankles.append(end)
        found.feet.append(foot_turn)
    for side, hand in zip((-1, 1), p.hands, strict=True):
        joint = chest + whole @ np.array([side * build.shoulder_wide, 0, 0.285 * build.torso])
        scale = 1.0 if hand.real else (unit if hand.of == "ground" else build.arm / 0.556)
        offset = np.array([side * hand.at[0], hand.at[1], hand.at[2]]) * scale
        if hand.of == "ground":
            target = offset
        elif hand.of == "head":
            target = head + facing @ offset
        else:
            target = joint + whole @ offset
        pole = whole @ np.array([side * hand.elbow[0], hand.elbow[1], hand.elbow[2]])
        elbow, wrist = _bent(joint, target, build.upper, build.fore, pole)
        found.shoulders.append(joint)
        found.elbows.append(elbow)
        found.wrists.append(wrist)
    return found
