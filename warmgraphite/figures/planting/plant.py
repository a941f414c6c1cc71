"""A plant of a habit: stem and branches, foliage by season, varied by a seed."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from warmgraphite.figures.piece import WHOLE, Piece, merged
from warmgraphite.figures.planting.foliage import lobes, over_clumps
from warmgraphite.figures.planting.habit import Growth, Habit, Season, foliage_colour
from warmgraphite.figures.planting.habits import HABITS
from warmgraphite.figures.planting.kernels import colonise
from warmgraphite.geometry.tolerances import NEAR, ROUNDING
from warmgraphite.memory import remembered
from warmgraphite.model.solids import Mesh, joined, limb

__all__ = ["plant"]

Array = NDArray[np.float64]


def _half_width(habit: Habit, t: Array) -> Array:
    rows = np.array(habit.outline)
    return np.asarray(np.interp(t, rows[:, 0], rows[:, 1]))


def _skeleton(habit: Habit, ask: Growth) -> tuple[Array, NDArray[np.int32], NDArray[np.bool_], Array]:
    """Nodes (N, 3) of stem and branches, the parent of each, whether it is a tip; and the heart of the crown."""
    chance, high = ask.chance, ask.height
    low = habit.clear * high
    crown, half = high - low, ask.spread / 2
    heart = np.array([0.0, 0.0, low + crown * 0.42])
    step = max(min(high * 0.034, half * 0.16), 0.05) * (1.0 if ask.detail == 0 else 1.4)
    count = int((320 if ask.detail == 0 else 200) * np.clip(ask.spread / high / 0.6, 0.6, 1.5))
    t = chance.beta(1.3, 1.2, 4 * count)
    turn = chance.uniform(0, 2 * np.pi, 4 * count)
    r = np.sqrt(chance.uniform(0, 1, 4 * count)) ** 0.7
    # The crown is no body of revolution: its outline is lobed, and one side is fuller.
    lobed = 1 + 0.14 * np.sin(2 * turn + chance.uniform(0, 6)) + 0.10 * np.sin(3 * turn + 5 * t + chance.uniform(0, 6))
    wide = _half_width(habit, t) * half * lobed
    keep = chance.uniform(0, 1, 4 * count) < (wide / half) ** 1.4 * (0.35 + 0.65 * r)
    # Some gaps, in which one sees the sky.
    for _ in range(4):
        hole = np.array([*(chance.normal(0, 0.45, 2) * half), low + crown * chance.uniform(0.2, 0.8)])
        spot = np.column_stack([wide * r * np.cos(turn), wide * r * np.sin(turn), low + t * crown])
        keep &= np.linalg.norm(spot - hole, axis=1) > 0.16 * half + 0.05 * crown
    rows = np.flatnonzero(keep)[:count]
    attractors = np.column_stack([wide * r * np.cos(turn), wide * r * np.sin(turn), low + t * crown])[rows]
    room = 1200 if ask.detail == 0 else 500
    points, parent, n = np.zeros((room, 3)), np.full(room, -1, np.int32), 0
    for s in range(habit.stems):
        way = 2 * np.pi * s / habit.stems + chance.uniform(-0.5, 0.5)
        out = habit.lean * high * (3.0 if habit.stems > 1 else 1.0)
        foot = np.array([np.cos(way), np.sin(way)]) * (0.05 * high * 0.4 if habit.stems > 1 else 0.0)
        top = max(low, habit.leader * high)
        rise = np.arange(0, top + step, step)
        sway = np.cumsum(chance.normal(0, 0.16 * step, (len(rise), 2)), axis=0) * min(1, habit.wander * 6)
        xy = foot + np.outer((rise / top) ** 1.3 * out, [np.cos(way), np.sin(way)]) + sway * (0 if habit.whorls else 1)
        begin = n
        for k, z in enumerate(rise):
            points[n] = (*xy[k], z)
            parent[n] = n - 1 if n > begin else -1
            n += 1
    if habit.whorls:
        n = _whorls(habit, ask, points, parent, n, low, crown, half)
    else:
        n = int(
            colonise(
                points,
                parent,
                n,
                attractors,
                step,
                min(high * 0.19, max(0.8 * half, 0.09 * high)),
                step * 1.5,
                habit.up,
                habit.wander,
                chance.normal(size=997),
            )
        )
    points, parent = points[:n], parent[:n]
    tip = np.ones(n, bool)
    tip[parent[parent >= 0]] = False
    return points, parent, tip, heart


def _whorls(
    habit: Habit, ask: Growth, points: Array, parent: NDArray[np.int32], n: int, low: float, crown: float, half: float
) -> int:
    """Branches in whorls along the stem, as conifers have them; gives how many nodes there are then."""
    chance, stem = ask.chance, n
    count = habit.whorls if ask.detail == 0 else max(habit.whorls // 2, 5)
    for k in range(count):
        t = (k + 0.5 + chance.uniform(-0.3, 0.3)) / count
        z = low + t * crown
        root = int(np.argmin(np.abs(points[:stem, 2] - z)))
        long = float(_half_width(habit, np.array([t]))[0]) * half
        arms = int(np.clip(round(4 + 2.5 * long / max(half, NEAR)), 4, 7))
        for j in range(arms):
            way = 2 * np.pi * (j + chance.uniform(-0.25, 0.25)) / arms + 1.7 * k
            reach = long * chance.uniform(0.72, 1.08)
            steps = 4
            before = root
            for i in range(1, steps + 1):
                if n >= len(points):
                    return n
                s = i / steps
                droop = habit.up * reach * (s - 0.25 * s**3)
                points[n] = (
                    points[root, 0] + reach * s * np.cos(way),
                    points[root, 1] + reach * s * np.sin(way),
                    z + droop + 0.10 * reach * s**3,
                )
                parent[n] = before
                before = n
                n += 1
    return n


def _wood(
    points: Array,
    parent: NDArray[np.int32],
    tip: NDArray[np.bool_],
    thick: float,
    thinnest: float,
    bare: bool,
    detail: int,
) -> list[Mesh]:
    """Stem and branches as tapering limbs, those that are thicker than ``thinnest`` metres across."""
    n = len(points)
    child = np.full(n, -1, np.int32)
    load = np.where(tip, 1.0, 0.0)
    for k in range(n - 1, -1, -1):
        if parent[k] >= 0:
            load[parent[k]] += load[k]
    # Leonardo's rule, as it is found: a branch carries what its twigs carry.
    radius = load ** (1 / 2.25)
    radius *= thick / max(float(radius[parent < 0].max(initial=ROUNDING)), ROUNDING)
    best = np.zeros(n)
    for k in range(n):
        p = parent[k]
        if p >= 0 and load[k] > best[p]:
            best[p], child[p] = load[k], k
    found = []
    for k in range(n):
        if parent[k] >= 0 and child[parent[k]] == k:
            continue
        path = [parent[k], k] if parent[k] >= 0 else [k]
        while child[path[-1]] >= 0:
            path.append(child[path[-1]])
        chain = np.array(path)
        r = radius[chain].copy()
        if parent[k] >= 0:
            r[0] = r[1]
        keep = np.flatnonzero(r * 2 >= thinnest)
        if len(keep) < 2:
            continue
        chain, r = chain[: keep[-1] + 1], r[: keep[-1] + 1]
        if len(chain) > 4:
            # Every other node will do where it goes straight on.
            some = np.unique(np.append(np.arange(0, len(chain), 2 if r[0] * 2 > 0.06 else 3), len(chain) - 1))
            chain, r = chain[some], r[some]
        if bare:
            r[-1] *= 0.4
        if parent[k] < 0:
            r[0] *= 1.35  # it widens to its roots
        around = 7 if r[0] > 0.04 and detail == 0 else 4 if r[0] > 0.015 else 3
        found.append(limb(points[chain], r, r, np.array([0.93, 0.37, 0.0]), around))
    return found


def _foliage(
    habit: Habit, ask: Growth, points: Array, parent: NDArray[np.int32], tip: NDArray[np.bool_], heart: Array
) -> list[Mesh]:
    chance, high = ask.chance, ask.height
    coarse = ask.of(1.0, 1.65, 2.15, 3.0)
    lobe = max(habit.lobe * high, 0.05) * coarse
    amount = (
        ask.density
        * habit.full
        * {"spring": 0.75, "summer": 1.0, "autumn": 0.8}.get(ask.season, 1.0 if habit.evergreen else 0.0)
    )
    found = []
    if habit.whorls:
        # Sprays along the branches, level, their outer ends hanging a little.
        rows = np.flatnonzero(parent >= 0)
        rows = rows[np.hypot(*(points[rows] - points[parent[rows]])[:, :2].T) > NEAR]
        way = points[rows] - points[parent[rows]]
        long = np.linalg.norm(way, axis=1)
        copies = int(ask.of(3, 2, 1, 1))
        pick = np.repeat(np.arange(len(rows)), copies)
        pick = pick[chance.uniform(0, 1, len(pick)) < np.clip(amount, 0, 1)]
        side = np.cross(way, [0, 0, 1.0])
        side /= np.maximum(np.linalg.norm(side, axis=1, keepdims=True), ROUNDING)
        place = (
            points[rows][pick]
            - way[pick] * chance.uniform(0, 1, (len(pick), 1))
            + side[pick] * (chance.normal(0, 0.42, len(pick)) * long[pick])[:, None]
        )
        place[:, 2] -= 0.10 * long[pick]
        face = chance.normal(0, 0.30, (len(pick), 3)) + [0, 0, 1.0] + 0.35 * (place - heart) / high
        found.append(
            lobes(
                place,
                face,
                way[pick] + side[pick] * chance.normal(0, 0.5, (len(pick), 1)) * long[pick][:, None],
                np.maximum(lobe, 0.62 * long[pick] * coarse**0.5),
                habit.long,
                chance,
                7 if ask.detail == 0 else 5,
            )
        )
    else:
        tips = points[tip]
        if len(tips) == 0:
            return []
        clump = habit.clumps * high
        if ask.detail:
            tips = tips[:: ask.detail]
        tips = tips[chance.uniform(0, 1, len(tips)) < np.clip(0.35 + 0.6 * amount, 0, 1)]
        radius = clump * chance.uniform(0.7, 1.25, len(tips)) * coarse**0.45
        found.append(
            over_clumps(
                tips,
                radius,
                heart,
                lobe,
                (1.1, 2.4, 3.0)[ask.detail] * amount,
                habit.level,
                habit.long,
                chance,
                int(ask.of(habit.rim, min(habit.rim, 9), 5, 5)),
                int(ask.of(560, 140, 84, 40)),
            )
        )
    if habit.hangs > 0:
        found.append(_hanging(habit, ask, points[tip], heart))
    return found


def _hanging(habit: Habit, ask: Growth, tips: Array, heart: Array) -> Mesh:
    """What hangs from the tips, as a willow's twigs do, swinging a little outwards."""
    chance = ask.chance
    each = int(ask.of(3, 2, 1, 1))
    tips = chance.permutation(tips)[: int(ask.of(170, 60, 60, 40))]
    foot = np.repeat(tips, each, axis=0) + chance.normal(0, 0.03 * ask.height, (len(tips) * each, 3))
    long = np.minimum(
        habit.hangs * ask.height * chance.uniform(0.5, 1.2, len(foot)), np.maximum(foot[:, 2] - 0.25, 0.2)
    )
    out = foot[:, :2] - heart[:2]
    out /= np.maximum(np.linalg.norm(out, axis=1, keepdims=True), NEAR)
    rows = []
    steps = int(ask.of(4, 2, 2, 2))
    for k in range(steps):
        t = (k + 0.5) / steps
        place = foot + np.column_stack([out * (0.10 * long * np.sin(2.2 * t))[:, None], -long * t])
        way = np.column_stack([out * 0.12, -np.ones(len(foot))])
        face = np.column_stack([out, np.full(len(foot), 0.25)]) + chance.normal(0, 0.35, (len(foot), 3))
        rows.append(lobes(place, face, way, long / steps * 0.62, 3.4, chance, 5))
    return joined(*rows)


# Many arguments: the dials of growth, each with what is usual.
@remembered("plants")
def plant(
    habit: str, height: float | None = None, age: float | None = None, spread: float = 1.0, density: float = 1.0,
    season: Season = "summer",
    seed: int = 0, detail: int = 0, coarsely: bool = False,
) -> tuple[Piece, ...]:  # fmt: skip
    """A plant of a habit: its foot on z = 0, metres.
    ``spread`` is against the usual one, ``detail`` 0 is all of it. The same numbers grow the same plant.
    """
    kind = HABITS[habit]
    chance = np.random.default_rng([seed, 11])
    high = height or (kind.at_age(age) if age is not None else kind.height * float(chance.uniform(0.9, 1.1)))
    ask = Growth(high, kind.spread * high * spread, density, season, min(detail, 2), coarsely, chance)
    if kind.own is not None:
        return merged(kind.own(ask, kind))
    points, parent, tip, heart = _skeleton(kind, ask)
    leafless = season == "bare" and not kind.evergreen
    wood = _wood(
        points,
        parent,
        tip,
        kind.trunk * high,
        (0.009 if leafless else 0.03 + 0.006 * high) * ask.of(1.0, 1.8, 3.2, 4.5),
        leafless,
        ask.detail,
    )
    pieces = [Piece.of("wood", kind.bark, *wood, crease=120.0, receives=not leafless)]
    if not leafless:
        leaves = _foliage(kind, ask, points, parent, tip, heart)
        # What would hang into the ground lies on it.
        leaves = [(np.column_stack([p[:, :2], np.maximum(p[:, 2], 0.01)]), t) for p, t in leaves]
        pieces.append(Piece.of("leaves", foliage_colour(kind, season, chance), *leaves, crease=WHOLE, receives=False))
    return merged(pieces)
