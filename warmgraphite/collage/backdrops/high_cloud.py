"""High cloud: wisps drawn out by the wind, left white in the blue."""

from __future__ import annotations

import numpy as np

from warmgraphite.collage.backdrop import Backdrop, Painted, Spot, mixed
from warmgraphite.noise.easing import eased

HIGH = 170.0


def _paint(spot: Spot) -> Painted:
    rise = eased((spot.v / HIGH)[:, None] + 0.1 * spot.noise(110, 2, 21))
    # Wisps lie flat and far apart near the horizon, and open out above it.
    wide = spot.noise(26, 4, 22, stretch=4.5)
    fine = spot.noise(7, 4, 23, stretch=6.0)
    cloud = eased((wide + 0.45 * fine + 0.12) / 0.55)
    colour = mixed(mixed(spot.tones[1], spot.tones[0], rise), spot.tones[2], 0.55 * cloud)
    alpha = (0.42 + 0.5 * rise) * (1 - 0.86 * cloud) + 0.06 * cloud
    return Painted(colour, np.asarray(np.clip(alpha, 0, 1), np.float32))


BACKDROP = Backdrop(
    "high-cloud",
    "High cloud",
    ("#86a9c2", "#e9dfcc", "#cfd3d2"),
    ("Zenith", "Horizon", "Cloud"),
    _paint,
    above=True,
    order=1,
)
