"""A wood's edge: crowns one before the other, each with its own tone and a lively rim, light on one side."""

from __future__ import annotations

import numpy as np

from warmgraphite.collage.backdrop import Backdrop, Blob, Painted, Spot, mixed
from warmgraphite.noise.easing import eased
from warmgraphite.noise.value import random_of, ridge

#: Of each row, from the farthest: how far crowns stand apart, how high, and the tone.
ROWS = ((9.0, 27.0, 0.8), (11.0, 25.0, 0.5), (12.0, 19.0, 0.22), (5.0, 7.0, 0.05))


def _crown(x: float, foot: float, wide: float, tall: float, tone: float, chance: np.random.Generator) -> list[Blob]:
    """A crown as a mass of lobes, from its foot up."""
    slim = 0.8 + 0.5 * chance.random()
    count = 96
    turn = np.linspace(0, 2 * np.pi, count, endpoint=False)
    lobes = np.zeros(count)
    for k in (3, 5, 8, 13, 19, 27):
        lobes += chance.standard_normal() * 0.5 / k * np.cos(k * turn + 6.28 * chance.random())
    lively = 1 + 0.32 * lobes + 0.02 * chance.standard_normal(count)
    up = np.sin(turn)
    outline = np.stack(
        [x + wide * np.cos(turn) * lively * slim * (1 - 0.18 * up), foot + tall * 0.52 + tall * 0.5 * up * lively], 1
    )
    out = [Blob(outline, tone, 0.0)]
    for _ in range(3):  # masses of leaves within, lighter above
        a, r = 6.28 * chance.random(), 0.55 * np.sqrt(chance.random())
        cx, cy = x + wide * slim * r * np.cos(a), foot + tall * (0.55 + 0.42 * r * np.sin(a))
        small = wide * (0.28 + 0.22 * chance.random())
        part = np.linspace(0, 2 * np.pi, 36, endpoint=False)
        rough = 1 + 0.1 * np.cos(5 * part + 6.28 * chance.random()) + 0.07 * chance.standard_normal(36)
        out.append(
            Blob(
                np.stack([cx + small * np.cos(part) * rough, cy + 0.8 * small * np.sin(part) * rough], 1),
                tone + 0.1 * (cy - foot) / tall - 0.02 + 0.05 * chance.standard_normal(),
            )
        )
    return out


def _rows(seed: int, low: float, high: float) -> list[list[Blob]]:
    rows = []
    for number, (apart, high_of, tone) in enumerate(ROWS):
        blobs: list[Blob] = []
        for k in range(int(np.floor(low / apart)), int(np.ceil(high / apart)) + 1):
            chance = random_of(seed, 60 + number, k)
            x = (k + 0.7 * chance.random()) * apart
            rise = 1 + 0.34 * float(ridge(np.array([x]), 70, 3, 700 + 10 * seed + number)[0])
            tall = high_of * rise * (0.75 + 0.5 * chance.random())
            own = tone + 0.09 * chance.standard_normal()
            stem = 0.3 + 0.25 * chance.random()
            if number < 3 and chance.random() < 0.8:
                trunk = np.array(
                    [[x - stem, -16], [x + stem, -16], [x + 0.6 * stem, 0.45 * tall], [x - 0.6 * stem, 0.45 * tall]]
                )
                blobs.append(Blob(trunk, max(own - 0.12, 0)))
            blobs += _crown(
                x, 0.1 * tall - (2 if number == 3 else 0), apart * (0.5 + 0.28 * chance.random()), tall, own, chance
            )
        rows.append(blobs)
    return rows


def _paint(spot: Spot) -> Painted:
    drawn = list(spot.drawn(_rows))
    if not drawn:
        return spot.bare
    colour, alpha = (
        np.broadcast_to(spot.tones[1], (*spot.shape, 3)).astype(np.float32),
        np.zeros(spot.shape, np.float32),
    )
    uneven, leaves = spot.noise(16, 4, 61), spot.noise(1.6, 3, 62)
    v = spot.v[:, None]
    for number, share, tone in drawn:
        wet = 0.9 + 0.26 * uneven + 0.16 * leaves
        strength = (0.36 + 0.56 * (1 - ROWS[number][2])) * wet * (0.74 + 0.26 * eased(v / 16))
        own = mixed(
            mixed(spot.tones[0], spot.tones[1], np.clip(tone + 0.1 * leaves, 0, 1)),
            spot.tones[2],
            0.25 * eased((tone - 0.1 + 0.4 * uneven) / 0.6),
        )
        colour = mixed(colour, own, share)
        alpha = alpha * (1 - share) + np.clip(share * strength, 0, 1)
    alpha *= eased((v + 16 + 4 * uneven) / 9)
    return Painted(colour, np.asarray(alpha, np.float32))


BACKDROP = Backdrop(
    "wood",
    "Wood’s edge",
    ("#5f7053", "#9fb0a2", "#d9cf94"),
    ("Near", "Far", "Light"),
    _paint,
    span=(-22.0, 64.0),
    order=5,
)
