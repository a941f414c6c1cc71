"""Putting figures where they belong: on what they stand on, in rows, strewn over areas, on seats, in place of parts."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.errors import ViewError
from warmgraphite.figures.figure import Figure
from warmgraphite.figures.floors import Floors, floors_of
from warmgraphite.figures.kinds import KINDS
from warmgraphite.figures.planting.habits import HABITS
from warmgraphite.geometry.tolerances import NEAR, ROUNDING
from warmgraphite.model.model import Model

__all__ = ["MOST", "along_line", "dressed_parts", "fitted", "gathered", "on_seats", "over_area", "stood_at", "varied"]

Array = NDArray[np.float64]
#: Figures that are put at once.
MOST = 1000


def varied(figure: Figure, number: int, chance: np.random.Generator, *, turned: float = 0.0) -> Figure:
    """One of many alike: another seed, turned by up to so many degrees, and of another size where it is a plant."""
    said: dict[str, Any] = {"id": "", "name": "", "turn": figure.turn + float(chance.uniform(-turned, turned))}
    return figure.model_copy(update={**said, **figure.another(number, chance)})


def _placed(figure: Figure, at: Sequence[float], **more: Any) -> Figure:
    return figure.model_copy(update={"at": tuple(round(float(v), 4) for v in at), **more})


def stood_at(model: Model, figure: Figure, point: Sequence[float], eye: Sequence[float] | None = None) -> Figure:
    """A figure with its foot on what bears at or below a ``point`` in metres, fitted to what it touches there.
    A point on something upright, as seen from ``eye``, means the ground before it. Raises :class:`ViewError` where
    nothing bears.
    """
    floors, at = floors_of(model), np.array(point, float)
    if eye is not None:
        way = np.array(eye, float) - at
        size = float(np.linalg.norm(way[:2]))
        at = at + (np.array([*(way[:2] / size * 0.05), 0.0]) if size > NEAR else 0.0)
    height, _ = floors.below(np.add(at, (0, 0, 0.04))[None])
    if not np.isfinite(height[0]):
        height, _ = floors.below(np.add(at, (0, 0, 2.5))[None])
    if not np.isfinite(height[0]):
        raise ViewError("Nothing is there to stand on; point at a floor, at the ground or at a seat.")
    return fitted(model, _placed(figure, (at[0], at[1], height[0])))


def fitted(model: Model, figure: Figure) -> Figure:
    """A figure put to what it touches where it stands."""
    return figure.put_to(floors_of(model))


def _standing(
    model: Model, figure: Figure, spots: Array, chance: np.random.Generator, turned: float, turns: Array | None = None
) -> list[Figure]:
    """Figures on what bears below spots (N, 3); none where nothing does, or where it is water and they do not float."""
    floors: Floors = floors_of(model)
    z, source = floors.below(spots)
    wet = (floors.roles(source) == "water") & (figure.on_water != "on")
    if figure.on_water == "under":
        bed, _ = floors.below(np.column_stack([spots[:, :2], np.where(wet, z - 0.01, spots[:, 2])]))
        z, wet = np.where(wet & np.isfinite(bed), bed, z), np.zeros(len(z), bool)
    out: list[Figure] = []
    for k in np.flatnonzero(np.isfinite(z) & ~wet):
        one = varied(figure, len(out), chance, turned=turned)
        more = {} if turns is None else {"turn": float(turns[k]) + one.turn}
        out.append(_placed(one, (spots[k, 0], spots[k, 1], z[k]), **more))
    return out


def along_line(
    model: Model,
    figure: Figure,
    line: Sequence[Sequence[float]],
    apart: float,
    seed: int = 0,
    *,
    loose: float = 0.15,
    follow: bool = True,
) -> list[Figure]:
    """A row along a line of points in metres.
    They stand ``apart`` metres from one another and out of line by ``loose`` shares of that; they are turned as the
    line runs where they ``follow`` it. All keep their size: a row keeps its relative heights.
    """
    points, chance = np.array(line, float), np.random.default_rng([seed, 17])
    steps = np.linalg.norm(np.diff(points[:, :2], axis=0), axis=1)
    total = float(steps.sum())
    count = int(np.floor(total / apart + ROUNDING)) + 1
    if count > MOST:
        raise ViewError(f"That would be {count:,} figures, and {MOST:,} are put at once; set them farther apart.")
    where = (np.arange(count) + 0.5 * (total / apart - count + 1)) * apart
    where = np.clip(where + chance.uniform(-0.5, 0.5, count) * loose * apart * 0.9, 0, total)
    run = np.append(0, np.cumsum(steps))
    spots = np.column_stack([np.interp(where, run, points[:, k]) for k in range(3)])
    leg = np.clip(np.searchsorted(run, where, side="right") - 1, 0, len(steps) - 1)
    way = (points[leg + 1] - points[leg])[:, :2]
    turns = np.degrees(np.arctan2(-way[:, 0], way[:, 1])) if follow else None
    aside = np.column_stack([-way[:, 1], way[:, 0]]) / np.maximum(np.linalg.norm(way, axis=1, keepdims=True), ROUNDING)
    spots[:, :2] += aside * chance.uniform(-0.5, 0.5, (count, 1)) * loose * apart * 0.5
    spots[:, 2] += 1.5
    return _standing(model, figure, spots, chance, 180.0 if figure.any_way else 0.0, turns)


def over_area(
    model: Model, figure: Figure, outline: Sequence[Sequence[float]], density: float, least: float = 0.0, seed: int = 0,
    *, turned: float = 180.0
) -> list[Figure]:  # fmt: skip
    """Figures strewn over an area with corners in metres.
    ``density`` to the square metre, none nearer to another than ``least`` metres. The same seed strews the same. Raises
    :class:`ViewError` where there would be too many.
    """
    corners = np.array(outline, float)
    shape = shapely.make_valid(shapely.Polygon(corners[:, :2]))
    if shape.area <= 0:
        raise ViewError("An area has three corners at least, not all in a line; draw it larger.")
    count = round(shape.area * density)
    if count > MOST:
        raise ViewError(
            f"That would be {count:,} figures, and {MOST:,} are put at once; take a smaller area or a lower density."
        )
    chance = np.random.default_rng([seed, 19])
    low, high = np.array(shape.bounds[:2]), np.array(shape.bounds[2:])
    shapely.prepare(shape)
    taken: list[Array] = []
    cell = max(least, NEAR)
    grid: dict[tuple[int, int], list[int]] = {}
    for _ in range(30):
        for xy in low + chance.uniform(0, 1, (max(count, 8), 2)) * (high - low):
            if len(taken) >= count:
                break
            if not shapely.intersects_xy(shape, *xy):
                continue
            i, j = int(xy[0] // cell), int(xy[1] // cell)
            if least > 0 and any(
                np.hypot(*(taken[n] - xy)) < least
                for a in (-1, 0, 1)
                for b in (-1, 0, 1)
                for n in grid.get((i + a, j + b), ())
            ):
                continue
            grid.setdefault((i, j), []).append(len(taken))
            taken.append(xy)
        if len(taken) >= count:
            break
    if not taken:
        return []
    flat = np.array(taken)
    # The area hangs between its corners; what bears is looked for from a man's height above it.
    centre = corners.mean(0)
    slope = np.linalg.lstsq(
        np.column_stack([corners[:, :2] - centre[:2], np.ones(len(corners))]), corners[:, 2], rcond=None
    )[0]
    z = (flat - centre[:2]) @ slope[:2] + slope[2]
    spots = np.column_stack([flat, np.maximum(z, corners[:, 2].min()) + 1.8])
    return _standing(model, figure, spots, chance, turned)


def gathered(model: Model, figure: Figure, at: Sequence[float], count: int, seed: int = 0) -> list[Figure]:
    """A group in talk round a point in metres: people who face one another, no two alike."""
    chance = np.random.default_rng([seed, 23])
    wide = 0.34 + 0.155 * count
    angles = 2 * np.pi * (np.arange(count) + chance.uniform(-0.16, 0.16, count)) / count + chance.uniform(0, 6.28)
    out = chance.uniform(0.88, 1.12, count) * wide
    spots = np.column_stack([at[0] + out * np.cos(angles), at[1] + out * np.sin(angles), np.full(count, at[2] + 0.6)])
    # Facing the middle.
    turns = np.degrees(np.arctan2(np.cos(angles), -np.sin(angles)))
    doing = ["talking", "listening", "standing", "arms folded", "hands in pockets", "hands behind"]
    people = _standing(model, figure.model_copy(update={"turn": 0.0}), spots, chance, 12.0, turns)
    return [p.model_copy(update={"pose": doing[k % len(doing)]}) for k, p in enumerate(people)]


def on_seats(model: Model, figure: Figure, share: float = 1.0, seed: int = 0) -> list[Figure]:
    """People on the chairs and benches found in the model, or on a ``share`` of them."""
    chance = np.random.default_rng([seed, 29])
    seats = floors_of(model).seats()
    if not seats:
        raise ViewError(
            "No chair and no bench was found in the model: furniture with a level top about 45 cm above the floor."
        )
    chosen = [s for s in seats if chance.random() < share][:MOST]
    doing = ("sitting on a bench", "reading")
    return [
        _placed(
            varied(figure, k, chance),
            s.at,
            turn=s.turn,
            fits=s.height,
            pose=doing[0] if chance.random() < 0.75 else doing[1],
        )
        for k, s in enumerate(chosen)
    ]


def _habit_of(words: str) -> str | None:
    """The habit that a name speaks of."""
    said = words.lower()
    known = {
        **{h: h for h in HABITS},
        "tree": "broad-leaved",
        "lime": "broad-leaved",
        "maple": "broad-leaved",
        "bush": "shrub",
        "grass": "grasses",
        "ivy": "climber",
        "fir": "spruce",
        "apple": "fruit tree",
    }
    return next((habit for word, habit in known.items() if word in said), None)


def dressed_parts(model: Model, parts: Sequence[int], like: Figure | None = None, seed: int = 0) -> list[Figure]:
    """Grown figures in place of modelled ones, at the same foot and of the same height.
    Parts on one layer of their own, a trunk and its crown, are one. Without one that they are to be ``like``, planting
    is what its name says, and people are people.
    """
    chance = np.random.default_rng([seed, 31])
    floors = floors_of(model)
    groups: dict[tuple[str, str], list[int]] = {}
    for number in sorted(set(parts)):
        if not 0 <= number < len(model.parts) or model.parts[number].absent:
            continue
        part = model.parts[number]
        # A layer that holds nothing but a few pieces of one plant is that plant; else each part stands for itself.
        mates = [n for n, p in enumerate(model.parts) if p.layer == part.layer and p.role == part.role and not p.absent]
        one = part.layer if len(mates) <= 8 and _together(model, mates) else part.path
        groups.setdefault((one, part.role), []).append(number)
    found: list[Figure] = []
    for (name, role), numbers in groups.items():
        boxes = model.part_bounds[numbers]
        low, high = boxes[:, 0].min(0), boxes[:, 1].max(0)
        if not np.isfinite(low).all():
            continue
        rows = np.isin(model.triangle_part, numbers)
        points = model.vertices[np.unique(model.triangles[rows])]
        foot = points[points[:, 2] < low[2] + 0.12 * (high[2] - low[2]) + NEAR]
        middle = (foot[:, :2].min(0) + foot[:, :2].max(0)) / 2
        z, _ = floors.below(np.array([[*middle, low[2] + 0.45 * (high[2] - low[2])]]))
        base = float(z[0]) if np.isfinite(z[0]) and abs(z[0] - low[2]) < 0.35 * (high[2] - low[2]) else float(low[2])
        tall, wide = float(high[2] - base), float(max(high[:2] - low[:2]))
        words = f"{name} {' '.join(model.parts[n].name for n in numbers)}"
        said: dict[str, Any] = {
            "at": (round(float(middle[0]), 4), round(float(middle[1]), 4), round(base, 4)),
            "replaces": tuple(model.parts[n].path for n in numbers),
        }
        if like is not None:
            figure = varied(like, len(found), chance, turned=180.0 if like.any_way else 0.0)
        elif role == "people":
            figure = KINDS["person"](
                pose=str(chance.choice(["standing", "walking", "talking", "hands behind"])),
                seed=int(chance.integers(100_000)),
            )  # type: ignore[call-arg]
        else:
            habit = _habit_of(words) or ("shrub" if tall < 2.2 else "broad-leaved")
            figure = KINDS["plant"](
                habit=habit, seed=int(chance.integers(100_000)), turn=float(chance.uniform(-180, 180))
            )  # type: ignore[call-arg]
        said.update(figure.in_place_of(tall, wide))
        found.append(figure.model_copy(update=said))
    if not found:
        raise ViewError("Choose parts to be replaced first: modelled trees, shrubs or people.")
    return found


def _together(model: Model, numbers: Sequence[int]) -> bool:
    """Whether parts stand over one another, as a trunk and its crown do."""
    boxes = model.part_bounds[list(numbers)]
    boxes = boxes[np.isfinite(boxes).all((1, 2))]
    if len(boxes) < 2:
        return True
    middle = boxes.mean(1)[:, :2]
    size = (boxes[:, 1] - boxes[:, 0])[:, :2].max()
    return bool(np.linalg.norm(middle - middle.mean(0), axis=1).max() < 0.75 * size)
