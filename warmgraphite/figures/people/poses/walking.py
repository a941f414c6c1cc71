"""Going somewhere: a stride, arms against it, heel and toe."""

from __future__ import annotations

import numpy as np

from warmgraphite.figures.people.build import Build
from warmgraphite.figures.people.poses import pose
from warmgraphite.figures.people.posture import HANGING, Foot, Hand, Posture, both
from warmgraphite.figures.people.things import box_held, child_on, dog_on_lead, pot_held, ware_board

Chance = np.random.Generator


def stride(long: float, side: int, swing: float = 1.0) -> Posture:
    """A step with one foot (0 left, 1 right) ahead; ``long`` from heel to heel, in metres of the reference person."""
    ahead, behind = (
        Foot(0, long * 0.52, 0.0, 6.0, -16.0 * min(long / 0.62, 1.2)),
        Foot(0, -long * 0.48, 0.0, 8.0, 34.0 * min(long / 0.62, 1.3)),
    )
    s = 1 if side else -1
    first = Foot(s * 0.055, ahead.y, 0.0, ahead.turn, ahead.pitch)
    second = Foot(-s * 0.055, behind.y, 0.0, behind.turn, behind.pitch)
    feet = (second, first) if side else (first, second)
    fore = Hand((0.02, 0.06 + 0.28 * swing, -0.49 + 0.05 * swing), elbow=(0.35, -1.0, -0.2))
    back = Hand((0.06, -0.02 - 0.19 * swing, -0.52), elbow=(0.35, -1.0, 0.0))
    # The arm goes ahead that the leg does not.
    hands = (fore, back) if side else (back, fore)
    return Posture(
        feet=feet, hands=hands, hips=(s * 0.008, 0.02), pelvis=(3.0, s * 1.5, s * 7.0 * swing),
        spine=(2.0, -s * 1.0, -s * 13.0 * swing),
        head=(1.0, 0.0, s * 5.0 * swing), bend=0.005, stands=side,
    )  # fmt: skip


@pose("walking", "Walking", "going")
def walking(_b: Build, _fits: float, chance: Chance) -> Posture:
    found = stride(float(chance.uniform(0.56, 0.7)), int(chance.integers(2)), float(chance.uniform(0.6, 1.0)))
    return found.changed(head=(2.0, 0.0, float(chance.uniform(-14, 14))))


@pose("strolling", "Strolling", "going")
def strolling(_b: Build, _fits: float, chance: Chance) -> Posture:
    found = stride(float(chance.uniform(0.34, 0.46)), int(chance.integers(2)), 0.35)
    behind = (
        Hand((-0.12, -0.175, -0.40), elbow=(0.9, -0.5, 0)),
        Hand((-0.10, -0.165, -0.42), elbow=(0.9, -0.5, 0), grip=True),
    )
    return found.changed(
        head=(4.0, 0.0, float(chance.uniform(-30, 30))), **({"hands": behind} if chance.random() < 0.5 else {})
    )


@pose("hurrying", "Hurrying", "going")
def hurrying(_b: Build, _fits: float, chance: Chance) -> Posture:
    side = int(chance.integers(2))
    found = stride(0.9, side, 1.0)
    fore, back = (
        Hand((0.0, 0.33, -0.26), elbow=(0.4, -1.0, -0.3), grip=True),
        Hand((0.09, -0.10, -0.36), elbow=(0.5, -1.0, 0.2), grip=True),
    )
    return found.changed(
        hands=(fore, back) if side else (back, fore),
        pelvis=(9.0, 0.0, found.pelvis[2]),
        spine=(7.0, 0.0, found.spine[2]),
        head=(-6.0, 0.0, 0.0),
    )


@pose("climbing", "Climbing a stair", "going", touches="step")
def climbing(b: Build, fits: float, chance: Chance) -> Posture:
    # One foot stands a step higher, the weight goes over it; the other has just left the step below.
    up = fits
    side = int(chance.integers(2))
    s = 1 if side else -1
    first, second = Foot(s * 0.07, 0.19 / b.unit, up, 6, 0, real=True), Foot(-s * 0.07, -0.10, 0.0, 8, 26)
    feet = (second, first) if side else (first, second)
    rail = Hand((0.20, 0.30, -0.30), elbow=(0.8, -0.6, -0.4), grip=True)
    hands = (
        (rail, HANGING)
        if chance.random() < 0.5
        else (Hand((0.05, 0.22, -0.46), elbow=(0.4, -1, 0)), Hand((0.06, -0.12, -0.51), elbow=(0.4, -1, 0)))
    )
    return Posture(
        feet=feet,
        hands=hands,
        hips=(s * 0.015, 0.07),
        pelvis=(8, 0, s * 5),
        spine=(7, 0, -s * 8),
        head=(2, 0, 0),
        bend=0.02,
    )


@pose("carrying", "Carrying a box", "carrying", things=lambda body, _f, _c: box_held(body))
def carrying(_b: Build, _fits: float, chance: Chance) -> Posture:
    hands = both(Hand((-0.03, 0.33, -0.31), elbow=(0.7, -0.7, -0.7), grip=True))
    return stride(0.42, int(chance.integers(2)), 0.3).changed(hands=hands, spine=(-5, 0, 0), head=(2, 0, 0))


@pose("carrying a pot", "Carrying a pot", "carrying", things=lambda body, _f, chance: pot_held(body, chance))
def carrying_pot(_b: Build, _fits: float, chance: Chance) -> Posture:
    hands = both(Hand((-0.075, 0.29, -0.25), elbow=(0.7, -0.6, -0.8), grip=True))
    return stride(0.36, int(chance.integers(2)), 0.25).changed(hands=hands, spine=(-3, 0, 0), head=(8, 0, 0))


@pose(
    "carrying a board", "Carrying a board of ware", "carrying", things=lambda body, _f, chance: ware_board(body, chance)
)
def carrying_board(_b: Build, _fits: float, chance: Chance) -> Posture:
    hold = Hand((0.015, 0.10, 0.055), elbow=(0.4, 0.35, -1.0))
    steady = Hand((0.02, 0.08, -0.50), elbow=(0.5, -1.0, 0.0))
    return stride(0.46, 0, 0.3).changed(
        hands=(steady, hold), spine=(0, -3, 0), head=(0, -4, float(chance.uniform(0, 12)))
    )


@pose(
    "child on the shoulders",
    "With a child on the shoulders",
    "going",
    things=lambda body, _f, chance: child_on(body, chance),
    leaves=frozenset({"hat", "umbrella"}),
)
def child_on_shoulders(_b: Build, _fits: float, chance: Chance) -> Posture:
    hands = both(Hand((-0.075, 0.185, -0.13), elbow=(0.7, 0.2, -1.0), grip=True))
    return stride(0.40, int(chance.integers(2)), 0.25).changed(hands=hands, spine=(2, 0, 0), head=(4, 0, 0))


@pose("with a dog", "Walking a dog", "going", things=lambda body, _f, chance: dog_on_lead(body, chance))
def with_dog(_b: Build, _fits: float, chance: Chance) -> Posture:
    lead = Hand((0.07, 0.24, -0.44), elbow=(0.4, -1.0, -0.2), grip=True)
    found = stride(float(chance.uniform(0.45, 0.6)), 0, 0.6)
    return found.changed(hands=(found.hands[0], lead), head=(6, 0, -12))
