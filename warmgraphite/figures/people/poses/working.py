"""Working: at a wheel, at a bench, with a broom; crouching, reaching, lifting."""

from __future__ import annotations

import numpy as np

from warmgraphite.figures.people.build import Build
from warmgraphite.figures.people.poses import pose
from warmgraphite.figures.people.poses.sitting import seated
from warmgraphite.figures.people.posture import Foot, Hand, Posture, both
from warmgraphite.figures.people.things import broom, clay_under, pot_held, stool_under, wheel_before

Chance = np.random.Generator


@pose(
    "at the wheel",
    "Throwing at the wheel",
    "working",
    touches="seat",
    usual=0.46,
    things=lambda body, fits, chance: [*stool_under(fits), *wheel_before(body, chance)],
    brings_seat=True,
)
def at_wheel(b: Build, fits: float, chance: Chance) -> Posture:
    u = b.unit
    hands = (
        Hand((0.085, 0.46 * u, 0.72), "ground", elbow=(1.0, -0.1, -0.6), real=True, grip=True),
        Hand((0.075, 0.43 * u, 0.76), "ground", elbow=(1.0, -0.1, -0.6), real=True, grip=True),
    )
    found = seated(b, fits, chance, crossed=False)
    feet = (Foot(-0.30, 0.30, 0.0, 30), Foot(0.31, 0.34, 0.0, 30))
    return found.changed(feet=feet, hands=hands, pelvis=(6, 0, 0), spine=(30, 0, 0), head=(10, 4, 0), knees=(0.9, 0.9))


@pose("wheel already there", "Throwing at a wheel that is there", "working", touches="seat", usual=0.46, offered=False)
def at_other_wheel(b: Build, fits: float, chance: Chance) -> Posture:
    return at_wheel(b, fits, chance)


@pose(
    "wedging", "Wedging clay on a bench", "working", touches="top", things=lambda body, fits, _c: clay_under(body, fits)
)
def wedging(b: Build, fits: float, _chance: Chance) -> Posture:
    u = b.unit
    lean = float(np.clip((1.18 - fits / u) * 75, 14, 48))
    hands = (
        Hand((0.085, 0.45 * u, fits + 0.14), "ground", elbow=(0.9, -0.4, 0.1), real=True),
        Hand((0.075, 0.43 * u, fits + 0.13), "ground", elbow=(0.9, -0.4, 0.1), real=True),
    )
    return Posture(
        feet=(Foot(-0.10, 0.10, 0, 8), Foot(0.11, -0.24, 0, 14, 22)), hands=hands, hips=(0, -0.08),
        pelvis=(lean * 0.4, 0, 4), spine=(lean * 0.75, 0, -4),
        head=(14, 0, 0), stands=0, bend=0.02,
    )  # fmt: skip


@pose("at a bench", "Standing at a bench", "working", touches="top")
def at_bench(b: Build, fits: float, chance: Chance) -> Posture:
    u = b.unit
    hands = (
        Hand((0.14, 0.36 * u, fits + 0.07), "ground", elbow=(0.8, -0.8, -0.2), real=True),
        Hand((0.06, 0.40 * u, fits + 0.10), "ground", elbow=(0.8, -0.8, -0.3), real=True, grip=True),
    )
    lean = float(np.clip((1.12 - fits / u) * 42, 3, 30))
    return Posture(
        feet=(Foot(-0.11, 0.03, 0, 14), Foot(0.07, -0.03, 0, 10)), hands=hands, hips=(0.02, -0.03),
        pelvis=(lean * 0.3, -3, 3), spine=(lean * 0.8, 3, -5),
        head=(20, 0, float(chance.uniform(-10, 6))), stands=1,
    )  # fmt: skip


@pose("sweeping", "Sweeping", "working", things=lambda body, _f, _c: broom(body))
def sweeping(_b: Build, _fits: float, _chance: Chance) -> Posture:
    hands = (
        Hand((-0.10, 0.36, -0.14), elbow=(0.7, -0.4, -0.8), grip=True),
        Hand((0.10, 0.34, -0.42), elbow=(0.7, -0.8, 0.0), grip=True),
    )
    return Posture(
        feet=(Foot(-0.09, 0.24, 0, 12), Foot(0.12, -0.16, 0, 26, 10)), hands=hands, hips=(0, 0.04), pelvis=(8, 0, -10),
        spine=(14, 0, -14), head=(16, 0, 8),
        bend=0.03, stands=0,
    )  # fmt: skip


@pose("crouching", "Crouching", "working", leaves=frozenset({"coat", "bag"}))
def crouching(_b: Build, _fits: float, chance: Chance) -> Posture:
    hands = (Hand((-0.02, 0.40, -0.36), elbow=(0.8, -0.4, -0.5)), Hand((0.0, 0.42, -0.30), elbow=(0.8, -0.3, -0.6)))
    return Posture(
        feet=(Foot(-0.11, 0.12, 0, 14, 14), Foot(0.12, -0.16, 0, 10, 44)), hands=hands, seat=0.24, hips=(0, -0.12),
        pelvis=(14, 0, 0), spine=(26, 0, 0),
        head=(-6, 0, float(chance.uniform(-12, 12))), knees=(0.5, 0.35),
    )  # fmt: skip


@pose("loading", "Loading a kiln or a shelf", "working", things=lambda body, _f, chance: pot_held(body, chance))
def loading(_b: Build, _fits: float, _chance: Chance) -> Posture:
    hands = both(Hand((-0.08, 0.43, -0.10), elbow=(0.7, -0.3, -0.9), grip=True))
    return Posture(
        feet=(Foot(-0.09, 0.22, 0, 8), Foot(0.10, -0.18, 0, 16, 16)), hands=hands, hips=(0, 0.05), pelvis=(12, 0, 0),
        spine=(20, 0, 4), head=(-4, 0, 0),
        bend=0.03, stands=0,
    )  # fmt: skip


@pose("lifting", "Lifting from the ground", "working", things=lambda body, _f, chance: pot_held(body, chance))
def lifting(b: Build, _fits: float, _chance: Chance) -> Posture:
    hands = both(Hand((0.095 * b.unit, 0.36 * b.unit, 0.42), "ground", elbow=(0.8, -0.4, -0.2), real=True, grip=True))
    return Posture(
        feet=(Foot(-0.15, 0.08, 0, 16), Foot(0.15, -0.06, 0, 18)), hands=hands, hips=(0, -0.24), bend=0.16,
        pelvis=(34, 0, 0), spine=(30, 0, 0),
        head=(-14, 0, 0), knees=(0.4, 0.4),
    )  # fmt: skip


@pose("reaching", "Reaching up to a shelf", "working")
def reaching(_b: Build, _fits: float, _chance: Chance) -> Posture:
    return Posture(
        feet=(Foot(-0.08, -0.04, 0, 10, 18), Foot(0.08, 0.06, 0, 8, 12)),
        hands=(Hand((0.05, 0.22, -0.30), elbow=(0.8, -0.6, -0.4)),
            Hand((0.0, 0.27, 0.44), elbow=(0.7, 0.3, -0.6), grip=True)),
        spine=(-4, -5, 6), head=(-16, 0, -4),
    )  # fmt: skip
