"""Standing: weight on one leg, shoulders turned against the hips, a head that looks at something."""

from __future__ import annotations

import numpy as np

from warmgraphite.figures.people.build import Build
from warmgraphite.figures.people.poses import pose
from warmgraphite.figures.people.posture import HANGING, Foot, Hand, Posture, both
from warmgraphite.figures.people.things import book, camera, telephone

Chance = np.random.Generator


def at_ease(side: int = 1, chance: Chance | None = None) -> Posture:
    """Weight on one leg (0 left, 1 right); the other foot rests, its hip lower, its knee forward."""
    s = 1 if side else -1
    stride = float(chance.uniform(-0.02, 0.1)) if chance else 0.04
    rest = Foot(-s * 0.13, stride, 0.0, 24.0)
    firm = Foot(s * 0.045, 0.0, 0.0, 10.0)
    feet = (rest, firm) if side else (firm, rest)
    return Posture(
        feet=feet, hips=(s * 0.035, 0.0), pelvis=(1.0, -s * 5.0, s * 5.0), spine=(-2.0, s * 6.5, -s * 9.0),
        head=(2.0, s * 2.0, -s * 14.0), stands=side, bend=0.006,
    )  # fmt: skip


@pose("standing", "Standing at ease", "standing")
def standing(_b: Build, _fits: float, chance: Chance) -> Posture:
    side = int(chance.integers(2))
    free = Hand((0.10, 0.02, -0.53), elbow=(0.7, -0.8, 0.0))
    hip = Hand((0.075, -0.005, -0.40), elbow=(1.0, -0.5, 0.0))
    hands = (free, hip) if side and chance.random() < 0.4 else (free, HANGING)
    return at_ease(side, chance).changed(hands=hands if side else hands[::-1])


@pose("arms folded", "Standing, arms folded", "standing")
def arms_folded(_b: Build, _fits: float, chance: Chance) -> Posture:
    side = int(chance.integers(2))
    left = Hand((-0.235, 0.215, -0.275), elbow=(0.8, 0.25, -0.9))
    right = Hand((-0.21, 0.185, -0.235), elbow=(0.8, 0.25, -0.9), grip=True)
    return at_ease(side, chance).changed(hands=(left, right), spine=(0.0, (1 if side else -1) * 4.0, -6.0))


@pose("hands behind", "Standing, hands behind", "standing")
def hands_behind(_b: Build, _fits: float, chance: Chance) -> Posture:
    base = at_ease(int(chance.integers(2)), chance)
    left, right = (
        Hand((-0.12, -0.175, -0.40), elbow=(0.9, -0.5, 0)),
        Hand((-0.10, -0.165, -0.42), elbow=(0.9, -0.5, 0), grip=True),
    )
    return base.changed(
        hands=(left, right),
        head=(-5.0, 2.0, float(chance.uniform(-25, 25))),
        spine=(-5.0, base.spine[1] * 0.5, base.spine[2]),
    )


@pose("hands in pockets", "Standing, hands in pockets", "standing", leaves=frozenset({"dress"}))
def in_pockets(_b: Build, _fits: float, chance: Chance) -> Posture:
    left, right = (Hand((0.065, 0.045, -0.44), elbow=(1.0, -0.75, 0.0), grip=True) for _ in range(2))
    return at_ease(int(chance.integers(2)), chance).changed(hands=(left, right))


@pose("talking", "Talking", "standing")
def talking(_b: Build, _fits: float, chance: Chance) -> Posture:
    side = int(chance.integers(2))
    open_ = Hand((0.06, 0.34, -0.27), elbow=(0.5, -0.6, -0.7))
    other = Hand((0.02, 0.15, -0.42), elbow=(0.8, -0.7, -0.3))
    hands = (other, open_) if side else (open_, other)
    return at_ease(side, chance).changed(hands=hands, spine=(3.0, (1 if side else -1) * 5.0, (1 if side else -1) * 7.0))


@pose("listening", "Listening", "standing")
def listening(_b: Build, _fits: float, chance: Chance) -> Posture:
    side = int(chance.integers(2))
    chin = Hand((-0.115, 0.185, 0.075), elbow=(0.35, 0.1, -1.0), grip=True)
    across = Hand((-0.19, 0.17, -0.28), elbow=(0.9, 0.1, -0.6), grip=True)
    return at_ease(side, chance).changed(hands=(across, chin), head=(6.0, 5.0, float(chance.uniform(-12, 12))))


@pose("pointing", "Pointing", "standing")
def pointing(_b: Build, _fits: float, chance: Chance) -> Posture:
    out = Hand((0.14, 0.50, 0.06), elbow=(0.6, -0.1, -0.8))
    return at_ease(0, chance).changed(hands=(HANGING, out), spine=(0.0, -3.0, 8.0), head=(-2.0, 0.0, -16.0))


@pose("waving", "Waving", "standing")
def waving(_b: Build, _fits: float, chance: Chance) -> Posture:
    up = Hand((0.20, 0.08, 0.40), elbow=(1.0, 0.1, -0.6))
    return at_ease(0, chance).changed(hands=(HANGING, up), spine=(-2.0, -5.0, -4.0), head=(-4.0, 3.0, -8.0))


@pose("photographing", "Taking a photograph", "standing", things=lambda body, _f, _c: camera(body))
def photographing(_b: Build, _fits: float, _chance: Chance) -> Posture:
    hands = both(Hand((0.055, 0.165, -0.065), "head", elbow=(0.7, 0.15, -1.0), grip=True))
    return Posture(
        feet=(Foot(-0.10, 0.10, 0, 12), Foot(0.11, -0.06, 0, 30)), hands=hands, hips=(0.02, 0.0), pelvis=(0, 2, -10),
        spine=(-4, -2, 8),
        head=(0, 0, 4),
    )  # fmt: skip


@pose("on the telephone", "On the telephone", "standing", things=lambda body, _f, _c: telephone(body))
def on_telephone(_b: Build, _fits: float, chance: Chance) -> Posture:
    ear = Hand((0.085, 0.045, -0.085), "head", elbow=(0.8, 0.35, -1.0), grip=True)
    return at_ease(0, chance).changed(
        hands=(Hand((-0.17, 0.15, -0.30), elbow=(0.8, 0.0, -0.6)), ear), head=(7.0, 5.0, 12.0)
    )


@pose("reading standing", "Reading, standing", "standing", things=lambda body, _f, _c: book(body))
def reading_standing(_b: Build, _fits: float, chance: Chance) -> Posture:
    hands = both(Hand((-0.09, 0.29, -0.21), elbow=(0.6, -0.4, -0.9), grip=True))
    return at_ease(int(chance.integers(2)), chance).changed(hands=hands, head=(20.0, 0.0, 0.0), spine=(4.0, 3.0, 0.0))


@pose("leaning on a rail", "Leaning on a rail", "standing", touches="rail")
def on_rail(b: Build, fits: float, chance: Chance) -> Posture:
    # Forearms lie on the rail; who is too small for that takes hold of it.
    u = b.unit
    high = fits / u
    if fits > b.shoulder * 0.94:
        hands = both(Hand((0.16, 0.30, fits + 0.015), "ground", elbow=(0.9, -0.3, -0.8), real=True, grip=True))
        return Posture(
            feet=(Foot(-0.08, 0.05), Foot(0.09, -0.02, 0, 14)),
            hands=hands,
            hips=(0.0, 0.03),
            spine=(3, 0, 0),
            head=(0, 0, float(chance.uniform(-20, 20))),
        )
    lean = float(np.clip((1.42 - high) * 62, 8, 44))
    hands = (
        Hand((0.02, 0.53 * u, fits + 0.05), "ground", elbow=(1.0, 0.1, -0.5), real=True),
        Hand((-0.05, 0.50 * u, fits + 0.075), "ground", elbow=(1.0, 0.1, -0.5), real=True),
    )
    return Posture(
        feet=(Foot(-0.12, -0.02, 0, 16), Foot(0.08, 0.12, 0.02, 10, 8)), hands=hands, hips=(-0.02, -0.10),
        pelvis=(lean * 0.35, -3, 4), spine=(lean * 0.62, 0, -6),
        head=(-10, 2, float(chance.uniform(-28, 28))), stands=0,
    )  # fmt: skip


@pose("looking up", "Looking up", "standing")
def looking_up(_b: Build, _fits: float, chance: Chance) -> Posture:
    shade = Hand((-0.02, 0.155, 0.06), "head", elbow=(1.0, 0.3, 0.1))
    hip = Hand((0.075, 0.0, -0.40), elbow=(1.0, -0.5, 0.0))
    return at_ease(1, chance).changed(hands=(hip, shade), spine=(-8.0, 3.0, 0.0), head=(-18.0, 0.0, 6.0))
