"""Hills: ridges one behind the other, paler with distance, the nearest with hedges and trees on it."""

from __future__ import annotations

import numpy as np

from warmgraphite.collage.backdrop import Backdrop, Blob, Painted, Spot, mixed
from warmgraphite.noise.easing import eased
from warmgraphite.noise.value import random_of, ridge

#: Of each ridge, from the farthest: height and unevenness in millimetres, how wide its swells are, and its tone.
RIDGES = ((30.0, 13.0, 150.0, 0.85), (22.0, 9.0, 105.0, 0.55), (14.0, 6.0, 80.0, 0.25), (6.5, 3.2, 64.0, 0.0))
FOOT = -60.0


def _profile(u: np.ndarray, number: int, seed: int) -> np.ndarray:
    height, swell, wide, _ = RIDGES[number]
    found: np.ndarray = height + swell * ridge(u, wide, 4, 500 + 10 * seed + number)
    return found


def _rows(seed: int, low: float, high: float) -> list[list[Blob]]:
    u = np.arange(np.floor(low), np.ceil(high) + 1, 1.0)
    rows = []
    for number, (_, _, _, tone) in enumerate(RIDGES):
        top = _profile(u, number, seed)
        blobs = [Blob(np.concatenate([np.stack([u, top], 1), [[u[-1], FOOT], [u[0], FOOT]]]), tone, 0.0)]
        if number >= 2:
            blobs += _hedges(seed, low, high, number)
        rows.append(blobs)
    return rows


def _hedges(seed: int, low: float, high: float, number: int) -> list[Blob]:
    """Low crowns along a ridge, in lines that break off."""
    out, cell = [], 2.6 if number == 3 else 1.7
    for k in range(int(np.floor(low / cell)), int(np.ceil(high / cell)) + 1):
        chance = random_of(seed, 7 + number, k)
        stands = float(ridge(np.array([k * cell]), 40, 2, 900 + 10 * seed + number)[0])
        if stands + 0.25 * chance.random() < 0.18:
            continue
        x = (k + chance.random()) * cell
        wide, tall = cell * (0.55 + 0.6 * chance.random()), cell * (0.7 + 0.9 * chance.random())
        y = float(_profile(np.array([x]), number, seed)[0]) + 0.3 * tall
        turn = np.linspace(0, 2 * np.pi, 14, endpoint=False)
        lively = 1 + 0.16 * chance.standard_normal(14)
        outline = np.stack([x + wide * np.cos(turn) * lively, y + tall * np.sin(turn) * lively], 1)
        out.append(Blob(outline, RIDGES[number][3] + 0.06 * chance.standard_normal() - 0.05))
    return out


def _paint(spot: Spot) -> Painted:
    drawn = list(spot.drawn(_rows))
    if not drawn:
        return spot.bare
    colour, alpha = (
        np.broadcast_to(spot.tones[1], (*spot.shape, 3)).astype(np.float32),
        np.zeros(spot.shape, np.float32),
    )
    uneven, fine = spot.noise(30, 4, 51), spot.noise(3, 3, 52)
    for number, share, tone in drawn:
        top = _profile(spot.u, number, spot.seed)[None]
        # Mist gathers at the foot of each ridge: it thins out downwards until the next one begins.
        depth = (top - spot.v[:, None]) / (RIDGES[number][0] + RIDGES[number][1] + 8)
        last = number == len(RIDGES) - 1
        strength = (
            (0.34 + 0.56 * (1 - RIDGES[number][3]))
            * (1 - (0.25 if last else 0.62) * eased(depth))
            * (0.9 + 0.2 * uneven + 0.08 * fine)
        )
        own = mixed(mixed(spot.tones[0], spot.tones[1], tone), spot.tones[2], 0.22 * eased(depth))
        layer = np.clip(share * strength, 0, 1)
        # A nearer ridge hides what lies behind it.
        colour = mixed(colour, own, share)
        alpha = alpha * (1 - share) + layer
    alpha *= eased((spot.v[:, None] + 36) / 30)
    return Painted(colour, np.asarray(alpha, np.float32))


BACKDROP = Backdrop(
    "hills", "Hills", ("#77846a", "#a9b7bd", "#e6dcc4"), ("Near", "Far", "Mist"), _paint, span=(-60.0, 55.0), order=4
)
