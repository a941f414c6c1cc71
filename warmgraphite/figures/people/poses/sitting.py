"""Sitting: on a chair, a bench, the ground or a wall."""

from __future__ import annotations

import numpy as np

from warmgraphite.figures.people.build import Build
from warmgraphite.figures.people.poses import pose
from warmgraphite.figures.people.posture import Foot, Hand, Posture, both
from warmgraphite.figures.people.things import book, chair_under, wheelchair_under

Chance = np.random.Generator

#: Hands that lie in the lap.
LAP = (Hand((-0.09, 0.30, -0.395), elbow=(0.7, -0.7, -0.2)), Hand((-0.11, 0.27, -0.40), elbow=(0.7, -0.7, -0.2)))


def seated(b: Build, seat: float, chance: Chance, *, crossed: bool | None = None) -> Posture:
    """On a seat ``seat`` metres high: the hips are at the origin, the feet where the shins let them stand, or hang."""
    shin, thigh, u = b.shin + b.ankle, b.thigh, b.unit
    lift = max(0.0, seat + 0.045 * u - shin)
    forward = min(thigh * 0.98, 0.9 * thigh + max(0.0, (shin - seat) * 0.4)) / u
    if crossed is None:
        crossed = bool(chance.random() < 0.35) and lift < 0.02 and b.age > 14
    left = Foot(-0.10, forward - 0.04, lift, 10, 12 if lift else 0, real=True)
    right = Foot(0.11, forward + 0.05, lift, 12, 8 if lift else 0, real=True)
    if crossed:
        right = Foot(-0.09, forward + 0.20, 0.20 * u + lift, -6, 28, real=True)
    return Posture(
        feet=(left, right), hands=LAP, seat=seat, pelvis=(-8.0, 0.0, 0.0),
        spine=(13.0, 0.0, float(chance.uniform(-8, 8))),
        head=(0.0, 0.0, float(chance.uniform(-24, 24))), knees=(0.25, -0.3 if crossed else 0.3),
    )  # fmt: skip


@pose(
    "sitting",
    "Sitting on a chair",
    "sitting",
    touches="seat",
    things=lambda _b, fits, _c: chair_under(fits),
    brings_seat=True,
)
def sitting(b: Build, fits: float, chance: Chance) -> Posture:
    return seated(b, fits, chance)


@pose("sitting on a bench", "Sitting on a bench or a wall", "sitting", touches="seat")
def on_bench(b: Build, fits: float, chance: Chance) -> Posture:
    found = seated(b, fits, chance)
    if chance.random() < 0.45:
        beside = Hand((0.14, -0.03, -0.50), elbow=(0.8, -0.8, 0.0))
        return found.changed(hands=(beside, found.hands[1]), spine=(6.0, -4.0, 6.0))
    if chance.random() < 0.5:
        knees = both(Hand((-0.03, 0.42, -0.38), elbow=(0.8, -0.2, -0.6)))
        return found.changed(hands=knees, spine=(26.0, 0.0, 0.0), head=(-8.0, 0.0, found.head[2]))
    return found


@pose("sitting on the ground", "Sitting on the ground", "sitting", leaves=frozenset({"bag", "coat"}))
def on_ground(b: Build, _fits: float, chance: Chance) -> Posture:
    back = Hand((0.27, -0.27, 0.13), "ground", elbow=(0.5, -1.0, 0.0))
    knee = Hand((-0.05, 0.38, -0.24), elbow=(0.8, -0.2, -0.8))
    return Posture(
        feet=(Foot(-0.10, 0.42, 0.0, 8, 0), Foot(0.16, 0.62, 0.0, 20, -14)), hands=(knee, back), seat=0.0,
        pelvis=(-24, 0, 0),
        spine=(16, 2, float(chance.uniform(-6, 6))), head=(8, 0, float(chance.uniform(-20, 20))), knees=(0.2, 0.5),
    )  # fmt: skip


@pose("reading", "Reading, sitting", "sitting", touches="seat", things=lambda body, _f, _c: book(body))
def reading(b: Build, fits: float, chance: Chance) -> Posture:
    hands = both(Hand((-0.095, 0.29, -0.26), elbow=(0.6, -0.5, -0.8), grip=True))
    return seated(b, fits, chance, crossed=b.age > 14).changed(
        hands=hands, spine=(14.0, 0.0, 0.0), head=(24.0, 0.0, 0.0)
    )


@pose(
    "at a table",
    "Sitting at a table",
    "sitting",
    touches="seat",
    things=lambda _b, fits, _c: chair_under(fits),
    brings_seat=True,
)
def at_table(b: Build, fits: float, chance: Chance) -> Posture:
    top = 0.30 * b.unit + fits
    hands = (
        Hand((0.06, 0.40 * b.unit, top), "ground", elbow=(0.9, -0.4, -0.5), real=True),
        Hand((0.10, 0.44 * b.unit, top), "ground", elbow=(0.9, -0.4, -0.5), real=True, grip=True),
    )
    return seated(b, fits, chance, crossed=False).changed(
        hands=hands, spine=(20.0, 0.0, float(chance.uniform(-5, 5))), head=(10.0, 0.0, 0.0)
    )


@pose(
    "in a wheelchair",
    "Using a wheelchair",
    "sitting",
    things=lambda body, _f, _c: wheelchair_under(body),
    leaves=frozenset({"umbrella", "bag"}),
)
def in_wheelchair(b: Build, _fits: float, chance: Chance) -> Posture:
    u = b.unit
    hands = both(Hand((0.29 * u, 0.06 * u, 0.60), "ground", elbow=(0.7, -1.0, 0.2), real=True, grip=True))
    return Posture(
        feet=(Foot(-0.09, 0.50, 0.11, 4, 0, real=True), Foot(0.09, 0.50, 0.11, 4, 0, real=True)), hands=hands,
        seat=0.50, pelvis=(-10, 0, 0),
        spine=(14, 0, 0), head=(-2, 0, float(chance.uniform(-15, 15))), knees=(0.1, 0.1),
    )  # fmt: skip
