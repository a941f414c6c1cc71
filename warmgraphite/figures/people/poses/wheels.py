"""With wheels: pushing a cart or a pram, cycling."""

from __future__ import annotations

import numpy as np

from warmgraphite.figures.people.build import Build
from warmgraphite.figures.people.poses import pose
from warmgraphite.figures.people.poses.walking import stride
from warmgraphite.figures.people.posture import Foot, Hand, Posture, both
from warmgraphite.figures.people.things import bicycle_under, cart_before, pram_before

Chance = np.random.Generator


@pose(
    "pushing a cart",
    "Pushing a cart",
    "wheels",
    things=lambda body, _f, _c: cart_before(body),
    leaves=frozenset({"umbrella"}),
)
def pushing_cart(b: Build, _fits: float, chance: Chance) -> Posture:
    hands = both(Hand((0.21, 0.42 * b.unit, 0.98), "ground", elbow=(0.8, -0.8, -0.3), real=True, grip=True))
    return stride(0.5, int(chance.integers(2)), 0.3).changed(
        hands=hands, pelvis=(8, 0, 0), spine=(10, 0, 0), head=(-6, 0, 0)
    )


@pose(
    "pushing a pram",
    "Pushing a pram",
    "wheels",
    things=lambda body, _f, _c: pram_before(body),
    leaves=frozenset({"umbrella"}),
)
def pushing_pram(b: Build, _fits: float, chance: Chance) -> Posture:
    hands = both(Hand((0.19, 0.40 * b.unit, 1.0), "ground", elbow=(0.8, -0.8, -0.3), real=True, grip=True))
    return stride(0.44, int(chance.integers(2)), 0.25).changed(hands=hands, spine=(4, 0, 0), head=(12, 0, 0))


@pose(
    "cycling",
    "Cycling",
    "wheels",
    things=lambda body, _f, _c: bicycle_under(body),
    leaves=frozenset({"umbrella", "skirt", "dress", "apron"}),
)
def cycling(b: Build, _fits: float, chance: Chance) -> Posture:
    u = b.unit
    hands = both(Hand((0.23, 0.52 * u, 1.02 * u), "ground", elbow=(0.7, -0.6, -0.7), grip=True, real=True))
    return Posture(
        feet=(Foot(-0.10, 0.02, 0.12, 4, 12), Foot(0.10, 0.14, 0.40, 4, 4)), hands=hands, hips=(0, -0.20),
        seat=0.90 * u, pelvis=(22, 0, 0), spine=(22, 0, 0),
        head=(-16, 0, float(chance.uniform(-12, 12))), knees=(0.0, 0.05),
    )  # fmt: skip
