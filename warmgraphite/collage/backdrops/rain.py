"""Rain: heavy cloud over a pale horizon, and showers that fall from it aslant."""

from __future__ import annotations

import numpy as np

from warmgraphite.collage.backdrop import Backdrop, Painted, Spot, mixed
from warmgraphite.noise.easing import eased
from warmgraphite.noise.value import ridge

#: Millimetres above the horizon at which the clouds have their feet, and how far showers are blown for each millimetre
#: that they fall.
FOOT, SLANT = 62.0, 0.42


def _paint(spot: Spot) -> Painted:
    v = spot.v[:, None]
    heavy = spot.noise(70, 5, 31, stretch=1.6)
    foot = FOOT + 26 * heavy + 14 * spot.noise(24, 3, 32, stretch=2.2)
    cloud = eased((v - foot) / 34)
    dark = eased(1 - np.abs(v - foot - 16) / 46) * eased((heavy + 0.75) / 1.1)
    # A shower is a curtain: as dense all the way down as where it begins, moved aside as it falls.
    along = spot.u[None] + SLANT * v
    flat = along.reshape(-1)
    low, high = float(flat.min()), float(flat.max())
    places = np.linspace(low, high, max(64, int((high - low) / max(spot.pixel, 0.12))))
    curtain = eased((ridge(places, 46, 2, 33 + spot.seed) - 0.05) / 0.4) * (
        0.62 + 0.38 * ridge(places, 2.6, 3, 34 + spot.seed)
    )
    shower = np.interp(flat, places, curtain).reshape(along.shape) * eased((foot + 20 - v) / 40) * eased((v + 14) / 30)
    colour = mixed(mixed(spot.tones[1], spot.tones[0], np.clip(cloud * 0.75 + dark * 0.5, 0, 1)), spot.tones[2], dark)
    alpha = 0.24 + 0.5 * cloud + 0.2 * dark - 0.22 * cloud * eased((heavy - 0.05) / 0.5) + 0.42 * shower
    return Painted(colour, np.asarray(np.clip(alpha + 0.04 * spot.noise(5, 3, 35), 0, 1), np.float32))


BACKDROP = Backdrop(
    "rain",
    "Rain",
    ("#93a0a8", "#d9d6cb", "#6f7a86"),
    ("Cloud", "Horizon", "Under the cloud"),
    _paint,
    above=True,
    order=2,
)
