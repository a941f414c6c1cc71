"""A clear sky: one graded gesture, with large soft blooms."""

from __future__ import annotations

import numpy as np

from warmgraphite.collage.backdrop import Backdrop, Painted, Spot, mixed
from warmgraphite.noise.easing import eased

#: Millimetres from the horizon to where the zenith's tone is reached.
HIGH = 170.0


def _paint(spot: Spot) -> Painted:
    bloom = spot.noise(95, 3, 11)
    rise = eased((spot.v / HIGH)[:, None] + 0.14 * bloom)
    colour = mixed(spot.tones[1], spot.tones[0], rise)
    light = np.clip(0.18 - bloom, 0, 1) * 0.3
    alpha = 0.5 + 0.45 * rise - light * rise + 0.05 * spot.noise(6, 3, 12)
    return Painted(mixed(colour, spot.tones[2], light * 0.4), np.asarray(np.clip(alpha, 0, 1), np.float32))


BACKDROP = Backdrop(
    "clear",
    "Clear sky",
    ("#8fb0c4", "#f0dcc0", "#f6ead6"),
    ("Zenith", "Horizon", "Blooms"),
    _paint,
    above=True,
    order=0,
)
