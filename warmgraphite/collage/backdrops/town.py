"""A town: gables, sheds, chimneys and a tower or two, in rows that grow paler."""

from __future__ import annotations

import numpy as np

from warmgraphite.collage.backdrop import Backdrop, Blob, Painted, Spot, mixed
from warmgraphite.noise.easing import eased
from warmgraphite.noise.value import random_of, ridge

#: Of each row, from the farthest: how wide a house is, how high to its eaves, and the tone.
ROWS = ((9.0, 15.0, 0.82), (11.0, 11.0, 0.48), (14.0, 7.0, 0.12))


def _house(x: float, wide: float, eaves: float, tone: float, chance: np.random.Generator) -> list[Blob]:
    box = [[x, -18], [x + wide, -18], [x + wide, eaves]]
    sort = chance.random()
    rise = wide * (0.32 + 0.3 * chance.random())
    if sort < 0.42:  # gable to the viewer
        top = [[x + wide / 2, eaves + rise], [x, eaves]]
    elif sort < 0.74:  # eaves to the viewer
        inset = 0.06 * wide
        top = [[x + wide - inset, eaves + 0.55 * rise], [x + inset, eaves + 0.55 * rise], [x, eaves]]
    elif sort < 0.88:  # lean-to
        top = [[x, eaves + 0.5 * rise]]
    else:  # a row of north lights
        teeth = 3
        step = wide / teeth
        top = [p for k in reversed(range(teeth)) for p in ([x + k * step, eaves + 0.3 * rise], [x + k * step, eaves])]
    out = [Blob(np.array(box + top), tone)]
    if chance.random() < 0.7 and sort < 0.74:
        cx, cw = x + wide * (0.2 + 0.6 * chance.random()), 0.5 + 0.4 * chance.random()
        high = eaves + rise * 0.5 + 1.6 + 1.5 * chance.random()
        out.append(Blob(np.array([[cx, eaves], [cx + cw, eaves], [cx + cw, high], [cx, high]]), tone - 0.04))
    return out


def _landmark(x: float, number: int, tone: float, chance: np.random.Generator) -> list[Blob]:
    """A stack, a spire or a water tower."""
    sort, high = chance.random(), (34, 27, 19)[number] * (0.85 + 0.4 * chance.random())
    if sort < 0.4:
        w = 1.1
        return [Blob(np.array([[x - w, -18], [x + w, -18], [x + 0.65 * w, high], [x - 0.65 * w, high]]), tone)]
    if sort < 0.75:
        w = 2.3
        return [
            Blob(
                np.array([[x - w, -18], [x + w, -18], [x + w, 0.6 * high], [x, 1.15 * high], [x - w, 0.6 * high]]), tone
            )
        ]
    w, t = 1.2, 3.4
    return [
        Blob(np.array([[x - w, -18], [x + w, -18], [x + 0.8 * w, 0.72 * high], [x - 0.8 * w, 0.72 * high]]), tone),
        Blob(
            np.array(
                [[x - t, 0.72 * high], [x + t, 0.72 * high], [x + t, 0.93 * high], [x, high], [x - t, 0.93 * high]]
            ),
            tone - 0.03,
        ),
    ]


def _rows(seed: int, low: float, high: float) -> list[list[Blob]]:
    rows = []
    for number, (apart, eaves_of, tone) in enumerate(ROWS):
        blobs: list[Blob] = []
        for k in range(int(np.floor(low / apart)), int(np.ceil(high / apart)) + 1):
            chance = random_of(seed, 80 + number, k)
            x = (k + 0.5 * chance.random()) * apart
            hill = 1 + 0.5 * float(ridge(np.array([x]), 90, 3, 800 + 10 * seed + number)[0])
            own = tone + 0.08 * chance.standard_normal()
            blobs += _house(
                x, apart * (0.7 + 0.6 * chance.random()), eaves_of * hill * (0.75 + 0.5 * chance.random()), own, chance
            )
            if chance.random() < 0.075:
                blobs = [*_landmark(x, number, own, chance), *blobs]
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
    uneven, fine = spot.noise(26, 4, 81), spot.noise(2.4, 3, 82)
    v = spot.v[:, None]
    for number, share, tone in drawn:
        fades = 1 - (0.55 if number < 2 else 0.3) * eased(1 - v / ROWS[number][1])
        strength = (0.34 + 0.5 * (1 - ROWS[number][2])) * fades * (0.92 + 0.2 * uneven + 0.08 * fine)
        own = mixed(mixed(spot.tones[0], spot.tones[1], np.clip(tone, 0, 1)), spot.tones[2], 0.3 * eased(0.4 + uneven))
        colour = mixed(colour, own, share)
        alpha = alpha * (1 - share) + np.clip(share * strength, 0, 1)
    alpha *= eased((v + 17) / 9)
    return Painted(colour, np.asarray(alpha, np.float32))


BACKDROP = Backdrop(
    "town", "Town", ("#7b6f72", "#b3b3b8", "#d8b796"), ("Near", "Far", "Light"), _paint, span=(-24.0, 58.0), order=6
)
