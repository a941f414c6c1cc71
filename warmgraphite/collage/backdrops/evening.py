"""Evening: warm light along the horizon, bars of cloud lit from below."""

from __future__ import annotations

import numpy as np

from warmgraphite.collage.backdrop import Backdrop, Painted, Spot, mixed
from warmgraphite.noise.easing import eased

HIGH = 150.0


def _paint(spot: Spot) -> Painted:
    v = spot.v[:, None]
    bloom = spot.noise(80, 3, 41)
    rise = eased(v / HIGH + 0.12 * bloom)
    glow = eased(1 - v / 46 + 0.2 * bloom)
    colour = mixed(mixed(spot.tones[1], spot.tones[0], rise), spot.tones[1], glow * 0.4)
    bars = spot.noise(13, 4, 42, stretch=9.0)
    under = spot.noise(13, 4, 42, stretch=9.0)
    bar = eased((bars - 0.06) / 0.26) * eased((v - 8) / 22) * eased(1.35 - v / HIGH)
    # What a bar shows below is lit: where it begins, seen from beneath.
    lit = eased((under + 0.1) / 0.2) * (1 - eased((bars - 0.04) / 0.2)) * eased((v - 6) / 20) * eased(1.2 - v / HIGH)
    colour = mixed(colour, spot.tones[2], 0.85 * bar)
    alpha = 0.5 + 0.36 * rise + 0.2 * glow + 0.16 * bar - 0.3 * lit + 0.05 * spot.noise(6, 3, 43)
    return Painted(colour, np.asarray(np.clip(alpha, 0, 1), np.float32))


BACKDROP = Backdrop(
    "evening",
    "Evening",
    ("#8d8fb0", "#f0bf8e", "#a17f93"),
    ("Zenith", "Glow", "Bars of cloud"),
    _paint,
    above=True,
    order=3,
)
