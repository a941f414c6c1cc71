"""What of a person is not cloth: head and neck, hands, legs; and the rings round the body that clothes are cut by."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from warmgraphite.figures.people.posture import Skeleton
from warmgraphite.geometry.tolerances import HAIR, ROUNDING
from warmgraphite.model.solids import Mesh, limb, loft

__all__ = ["arm", "hand", "head", "head_rings", "leg", "on_trunk", "shoe", "torso_rings", "trunk"]

Array = NDArray[np.float64]

#: Round the trunk: torso lengths above the hip joints; half as wide and as deep, and how far ahead, as shares of the
#: stature.
TRUNK = np.array([
    (-0.19, 0.040, 0.044, -0.006),
    (-0.09, 0.083, 0.064, -0.011),
    (0.06, 0.091, 0.068, -0.011),
    (0.24, 0.083, 0.060, -0.003),
    (0.42, 0.076, 0.054, 0.003),
    (0.60, 0.084, 0.060, 0.004),
    (0.78, 0.094, 0.064, 0.003),
    (0.90, 0.096, 0.057, -0.003),
    (0.99, 0.076, 0.046, -0.008),
    (1.06, 0.050, 0.038, -0.008),
    (1.12, 0.035, 0.033, -0.004),
])  # fmt: skip


def torso_rings(
    body: Skeleton,
    low: float = -0.19,
    high: float = 1.12,
    ease: float = 0.0,
    around: int = 14,
    belly: float = 0.0,
    hem: float = 0.0,
) -> Array:
    """Rings (R, around, 3) round the trunk from ``low`` to ``high``.
    These are in torso lengths above the hip joints, ``ease`` metres off it and ``hem`` more at the lowest. The first
    point of each lies to the right, a quarter of the way round to the front.
    """
    build = body.build
    heights = np.unique(
        np.concatenate([[low, high], TRUNK[(TRUNK[:, 0] > low + 0.02) & (TRUNK[:, 0] < high - 0.02), 0]])
    )
    wide, deep, ahead = (np.interp(heights, TRUNK[:, 0], TRUNK[:, k]) * build.stature for k in (1, 2, 3))
    hips = np.interp(
        heights, [-0.1, 0.2, 0.6, 1.0], [1.0 + 0.06 * build.hips, 1.0 + 0.03 * build.hips, 1.0 - 0.03 * build.hips, 1.0]
    )
    stout = build.girth ** np.interp(heights, [0.0, 0.4, 0.9, 1.1], [0.7, 1.25, 0.7, 0.4])
    wide, deep = wide * hips * stout + ease, deep * stout + ease
    wide[0], deep[0] = wide[0] + hem, deep[0] + hem
    round_ = belly * build.stature * np.exp(-(((heights - 0.34) / 0.2) ** 2))
    deep, ahead = deep + round_ / 2, ahead + round_ / 2
    angle = 2 * np.pi * np.arange(around) / around
    c, s = np.cos(angle), np.sin(angle)
    # Fuller than an ellipse, and flatter behind.
    c, s = np.sign(c) * np.abs(c) ** 0.82, np.sign(s) * np.abs(s) ** np.where(s > 0, 0.9, 0.78)
    out = []
    for h, w, d, a in zip(heights, wide, deep, ahead, strict=True):
        middle, turn = _spine(body, h)
        out.append(middle + (np.column_stack([w * c, a + d * s, np.zeros(around)])) @ turn.T)
    return np.array(out)


def on_trunk(body: Skeleton, heights: Array, angles: Array, ease: float) -> Array:
    """Points (N, 3) on the trunk.
    ``heights`` (N,) as rings have them, at ``angles`` (N,) in degrees from the right by the front.
    """
    out = []
    for height, angle in zip(heights, angles, strict=True):
        ring = torso_rings(body, float(height), float(height) + 0.05, ease, 36)[0]
        out.append(ring[round(float(angle) / 10) % 36])
    return np.array(out)


def _spine(body: Skeleton, h: float) -> tuple[Array, Array]:
    """The middle of the trunk ``h`` torso lengths above the hip joints, and how it is turned there."""
    torso = body.build.torso
    lower, middle, upper = (body.turns[n] for n in ("hip", "waist", "chest"))
    if h <= 0.30:
        share = float(np.clip((h - 0.05) / 0.25, 0, 1)) * 0.5
        return body.hip + lower @ np.array([0, 0, h * torso]), _between(lower, middle, share)
    if h <= 0.66:
        share = (h - 0.30) / 0.36
        return body.waist + middle @ np.array([0, 0, (h - 0.30) * torso]), _between(
            lower, middle, 0.5
        ) if share < 0.01 else _between(middle, upper, share)
    return body.chest + upper @ np.array([0, 0, (h - 0.66) * torso]), upper


def _between(a: Array, b: Array, share: float) -> Array:
    u, _, v = np.linalg.svd((1 - share) * a + share * b)
    return np.asarray(u @ v)


def trunk(
    body: Skeleton,
    low: float = -0.19,
    high: float = 1.12,
    ease: float = 0.0,
    around: int = 14,
    belly: float = 0.0,
    hem: float = 0.0,
) -> Mesh:
    """The trunk as a closed body."""
    return loft(torso_rings(body, low, high, ease, body.build.around(around, 2), belly, hem))


def arm(body: Skeleton, side: int, ease: float, until: float = 1.0, cuff: float = 1.0, around: int = 8) -> Mesh:
    """A sleeve from inside the shoulder, ``until`` that share of the forearm; its end is ``cuff`` times as wide."""
    s, unit = body.build, body.build.stature
    stout, around = s.girth**0.6, s.around(around)
    shoulder, elbow, wrist = body.shoulders[side], body.elbows[side], body.wrists[side]
    chest, inner = body.turns["chest"], -1 if side else 1
    # The shoulder slopes from the neck, and rounds off over the arm.
    inside = shoulder + chest @ np.array([inner * 0.042 * unit, 0, 0.002 * unit])
    over = shoulder + chest @ np.array([inner * 0.014 * unit, 0, 0.002 * unit])
    top = shoulder + (elbow - shoulder) * 0.10
    path = [inside, over, top, shoulder + (elbow - shoulder) * 0.38, shoulder + (elbow - shoulder) * 0.84]
    radius = [0.022, 0.0275, 0.0305, 0.029, 0.025]
    if until > 0.05:
        bent = elbow + (elbow - (shoulder + wrist) / 2) * 0.04
        ends = [
            bent,
            elbow + (wrist - elbow) * 0.2 * min(1, until),
            elbow + (wrist - elbow) * 0.6 * until,
            elbow + (wrist - elbow) * until,
        ]
        path += ends
        radius += [0.025, 0.0245, 0.022, 0.0185 * cuff]
    radii = np.array(radius) * unit * stout + ease
    pole = np.cross(elbow - shoulder, wrist - elbow)
    across = pole if np.linalg.norm(pole) > HAIR else body.turns["chest"] @ np.array([0, 1.0, 0])
    return limb(np.array(path), radii, radii * 0.94, across, around)


def hand(body: Skeleton, side: int) -> list[Mesh]:
    """A hand as a mitten with its thumb, closed where it grips."""
    unit, posture = body.build.stature, body.posture
    wrist, elbow = body.wrists[side], body.elbows[side]
    way = wrist - elbow
    way /= np.linalg.norm(way)
    inward = body.turns["chest"] @ np.array([1.0 if side == 0 else -1.0, 0.15, 0.0])
    flat = np.cross(way, inward)
    flat /= max(float(np.linalg.norm(flat)), ROUNDING)
    palm = np.cross(flat, way)
    grip = posture.hands[side].grip
    long = 0.060 if grip else 0.098
    curl = 0.016 if grip else 0.008
    steps = np.array([-0.012, 0.018, 0.045, 0.07, 0.092, 0.1]) * (long / 0.1)
    path = wrist + steps[:, None] * unit * way + (steps[:, None] / 0.1) ** 2 * curl * unit * palm
    wide = np.array([0.0145, 0.021, 0.0245, 0.022, 0.016, 0.006]) * unit
    deep = np.array([0.0125, 0.0125, 0.0115, 0.0095, 0.0075, 0.004]) * unit * (1.5 if grip else 1.0)
    thumb = (
        wrist
        + np.array([[0.012], [0.034], [0.055]]) * unit * way
        + np.array([[0.010], [0.026], [0.026]]) * unit * _thumb(flat, body)
    )
    thumb += np.array([[0.0], [0.006], [0.012]]) * unit * palm
    size = np.array([0.0095, 0.009, 0.0055]) * unit
    if body.build.fine < 1:  # a thumb is not told any more
        return [limb(path[::2], wide[::2], deep[::2], flat, body.build.around(7))]
    return [limb(path, wide, deep, flat, body.build.around(7)), limb(thumb, size, size, palm, body.build.around(5))]


def _thumb(flat: Array, body: Skeleton) -> Array:
    """The side of the hand on which the thumb is: ahead, or up."""
    ahead = body.turns["chest"] @ np.array([0.0, 1.0, 0.35])
    return flat if flat @ ahead > 0 else -flat


def head_rings(body: Skeleton, around: int = 12) -> Array:
    """Rings (R, around, 3) round the head from the chin up; the point at a quarter of each is the face's middle."""
    h = body.build.head
    child = np.clip((14 - body.build.age) / 10, 0, 1)
    # Height from the chin, half as wide, half as deep, and how far ahead, in heights of the head.
    rows = np.array([
        (0.005, 0.11, 0.10, 0.20),
        (0.03, 0.165, 0.165, 0.155),
        (0.10, 0.215 + 0.02 * child, 0.235, 0.095),
        (0.20, 0.255 + 0.03 * child, 0.29, 0.055),
        (0.33, 0.285 + 0.03 * child, 0.335, 0.03),
        (0.48, 0.312 + 0.02 * child, 0.372, 0.012),
        (0.64, 0.325, 0.395, 0.0),
        (0.80, 0.298, 0.37, -0.006),
        (0.92, 0.208, 0.265, -0.012),
        (0.985, 0.09, 0.12, -0.012),
    ])  # fmt: skip
    angle = 2 * np.pi * np.arange(around) / around
    c, s = np.cos(angle), np.sin(angle)
    out = []
    for z, w, d, a in rows:
        x, y = w * np.sign(c) * np.abs(c) ** 0.9, a + d * np.sign(s) * np.abs(s) ** 0.95
        nose = np.exp(-(((z - 0.33) / 0.07) ** 2)) * 0.085 + np.exp(-(((z - 0.44) / 0.10) ** 2)) * 0.03 * (1 - child)
        # Brow and chin stand out a little beside the eyes and the mouth.
        face = np.exp(-(((z - 0.44) / 0.05) ** 2)) * -0.018
        front = np.exp(-((np.angle(np.exp(1j * (angle - np.pi / 2))) / 0.24) ** 2))
        y += nose * front + face * (s > 0.5) * (1 - front)
        out.append(body.head + np.column_stack([x, y, np.full(around, z - 0.5)]) @ (body.turns["head"].T * h))
    return np.array(out)


def head(body: Skeleton) -> list[Mesh]:
    """Head, neck and ears."""
    unit, turn, h = body.build.stature, body.turns["head"], body.build.head
    top = body.head + turn @ np.array([0, -0.10 * h, -0.22 * h])
    low = body.neck + body.turns["chest"] @ np.array([0, -0.004 * unit, -0.03 * unit])
    neck = np.array([low, low * 0.55 + top * 0.45, top])
    thick = np.array([0.037, 0.0315, 0.031]) * unit * body.build.girth**0.5 * (0.86 if body.build.age < 12 else 1.0)
    found = [
        loft(head_rings(body, body.build.around(12, 4))),
        limb(neck, thick, thick * 1.02, turn @ np.array([1.0, 0, 0]), body.build.around(10)),
    ]
    for side in (-1, 1) if body.build.fine >= 1 else ():
        ear = body.head + turn @ (np.array([side * 0.315, -0.03, -0.06]) * h)
        path = ear + np.array([[-0.09], [-0.03], [0.04], [0.09]]) * h * (turn @ np.array([0, -0.25, 1.0]))
        found.append(
            limb(
                path,
                np.array([0.02, 0.05, 0.065, 0.03]) * h,
                np.array([0.02, 0.035, 0.04, 0.02]) * h,
                turn @ np.array([0, 1.0, 0]),
                5,
            )
        )
    return found


def leg(
    body: Skeleton, side: int, ease: float, since: float = 0.0, until: float = 1.0, hem: float = 0.0, around: int = 10
) -> Mesh:  # fmt: skip
    """A leg, or what it wears, from the share ``since`` of the thigh ``until`` that share of the shin.
    Its end is ``hem`` metres wider.
    """
    unit, stout, around = body.build.stature, body.build.girth**0.7, body.build.around(around)
    hip, knee, ankle = body.hips[side], body.knees[side], body.ankles[side]
    sign = -1 if side == 0 else 1
    root = hip + body.turns["hip"] @ np.array([sign * -0.004 * unit, -0.004 * unit, 0.012 * unit])
    cap = knee + (knee - (hip + ankle) / 2) * 0.05
    # The calf stands out behind.
    behind = -(body.feet[side] @ np.array([0, 1.0, 0]))
    path = [root, hip + (knee - hip) * 0.28, hip + (knee - hip) * 0.62, hip + (knee - hip) * 0.88, cap]
    radius = [0.045, 0.0475, 0.042, 0.036, 0.0345]
    slack = [ease] * 5
    if since > 0:
        keep = int(since * 4)
        path, radius, slack = path[keep:], radius[keep:], slack[keep:]
    if until > 0.05:
        steps = np.array([0.14, 0.36, 0.68, 1.0]) * until
        path += [knee + (ankle - knee) * t + behind * unit * 0.006 * np.sin(np.pi * min(t / 0.8, 1)) for t in steps]
        radius += [float(np.interp(t, [0.1, 0.36, 0.7, 1.0], [0.034, 0.0345, 0.026, 0.0215])) for t in steps]
        slack += [ease + hem * float(t / until) ** 2 for t in steps]
    radii = np.array(radius) * unit * stout + np.array(slack)
    across = body.feet[side] @ np.array([1.0, 0, 0])
    return limb(np.array(path), radii, radii * 1.04, across, around)


def shoe(body: Skeleton, side: int, ease: float = 0.006) -> Mesh:
    """A shoe: from the heel over the ball to the toes."""
    unit, turn, ankle = body.build.unit, body.feet[side], body.ankles[side]
    low = -body.build.ankle
    # Ahead of the ankle, height of the sole's edge, half wide, how high the shoe is there: metres of the reference
    # person.
    rows = [
        (-0.062, 0.022, 0.026, 0.040),
        (-0.03, 0.031, 0.034, 0.055),
        (0.03, 0.034, 0.038, 0.066),
        (0.09, 0.040, 0.045, 0.046),
        (0.145, 0.040, 0.045, 0.034),
        (0.185, 0.024, 0.026, 0.022),
    ]
    rings = []
    count = body.build.around(9)
    angle = 2 * np.pi * np.arange(count) / count
    for y, _, w, tall in rows:
        x = np.cos(angle) * (w * unit + ease)
        z = low + np.clip(np.sin(angle) * 0.5 + 0.5, 0.0, 1.0) ** 0.8 * tall * unit
        z = np.where(np.sin(angle) < -0.2, low, z)
        rings.append(ankle + np.column_stack([x, np.full(count, y * unit), z]) @ turn.T)
    return loft(np.array(rings))
