"""Labels beside a drawing: every leader at one angle, none across another, no text over anything that matters."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from warmgraphite.notes.labels import LabelRequest, LabelSpace, Placed, place_labels
from warmgraphite.notes.written import block

WIDE, HIGH = 420.0, 297.0


def random_set(seed: int) -> tuple[list[LabelRequest], LabelSpace]:
    """A building on a sheet, with what is cut of it, texts that stand already, and labels on points of it."""
    rng = np.random.default_rng(seed)
    x0, x1 = sorted(rng.uniform([90, 230], [170, 330]))
    y0, y1 = sorted(rng.uniform([40, 150], [120, 260]))
    walls = [shapely.box(x, y0, x + rng.uniform(2, 8), y1) for x in rng.uniform(x0, x1, 4)]
    keep = shapely.union_all([*walls, shapely.box(x0, y1 - 6, x1, y1)])
    taken = [(float(x), float(y), float(x) + 20, float(y) + 6) for x, y in rng.uniform([14, 30], [60, 250], (3, 2))]
    count = int(rng.integers(2, 31))
    said = [
        "oak",
        "lime plaster, 15 mm",
        "insulation of wood fibre,\n200 mm",
        "a very long line about the eaves and the gutter",
    ]
    asked = []
    for k in range(count):
        words = said[int(rng.integers(0, len(said)))]
        anchor = (float(rng.uniform(x0, x1)), float(rng.uniform(y0, y1)))
        asked.append(LabelRequest(f"note-{k}", block(words, "sans", 1.8), anchor, "#2e2a27", "dot"))
    return asked, LabelSpace(
        (14.0, 14.0, WIDE - 14, HIGH - 21), (x0, y0, x1, y1), taken, keep, float(rng.choice([45, 55, 60]))
    )


def angles_of(placed: list[Placed]) -> set[float]:
    found = set()
    for one in placed:
        step = np.abs(np.diff(one.leader, axis=0))
        for across, down in step:
            if down > 1e-6:
                found.add(round(float(np.degrees(np.arctan2(down, across))), 3))
    return found


@pytest.mark.parametrize("first", range(0, 200, 20))
def test_labels_of_any_set_cross_nothing_and_cover_nothing(first: int) -> None:
    for seed in range(first, first + 20):
        asked, room = random_set(seed)
        placed = place_labels(asked, room)
        assert [p.asked.id for p in placed] == [a.id for a in asked] and not any(p.crowded for p in placed), seed
        # One angle and its mirror image, and level otherwise.
        assert len(angles_of(placed)) <= 1, (seed, angles_of(placed))
        lines = [shapely.LineString(p.leader) for p in placed]
        boxes = [shapely.box(*p.box) for p in placed]
        for i in range(len(placed)):
            assert np.allclose(placed[i].leader[-1], asked[i].anchor)
            for j in range(i):
                assert not lines[i].intersects(lines[j]), (seed, i, j, "leaders cross")
                assert not boxes[i].intersects(boxes[j]), (seed, i, j, "texts overlap")
            assert not any(b.intersects(lines[i]) for b in boxes), (seed, i, "a leader runs over a text")
            assert not boxes[i].intersects(room.keep), (seed, i, "a text covers what is cut")
            assert not any(boxes[i].intersects(shapely.box(*t)) for t in room.taken), (seed, i, "a text covers another")
            assert shapely.box(*room.inside).buffer(0.01).contains(boxes[i]), (seed, i, "a text leaves the sheet")
        # Texts of one side share an edge.
        for side in (-1, 1):
            edges = {round(p.box[2 if side < 0 else 0], 6) for p in placed if p.side == side}
            assert len(edges) <= 1, seed


def test_what_was_put_by_hand_stays_and_others_go_round_it() -> None:
    asked, room = random_set(5)
    free = place_labels(asked, room)
    spot = (free[0].x, free[0].y)
    moved = [
        LabelRequest(asked[1].id, asked[1].block, asked[1].anchor, "#2e2a27", "dot", 0, spot),
        *(a for k, a in enumerate(asked) if k != 1),
    ]
    placed = place_labels(moved, room)
    assert (placed[0].x, placed[0].y) == spot and len(angles_of(placed)) == 1
    hand = shapely.box(*placed[0].box)
    assert not any(shapely.box(*p.box).intersects(hand) for p in placed[1:])
    # Straight above, below and on what it means, its leader is still at that angle, or there is none.
    for put, bends in (
        ((asked[1].anchor[0] - 5, 20.0), True),
        ((asked[1].anchor[0] - 5, 270.0), True),
        ((asked[1].anchor[0] - 2, asked[1].anchor[1] - 1), False),
    ):
        alone = place_labels([LabelRequest("a", asked[1].block, asked[1].anchor, "#000000", "dot", 0, put)], room)[0]
        assert angles_of([alone]) == ({room.angle} if bends else set())


def test_too_many_for_the_sheet_all_stand_and_are_said_to_be_crowded() -> None:
    asked, room = random_set(3)
    many = [
        LabelRequest(f"m-{k}", asked[0].block, (200.0 + k % 7, 80.0 + k % 11), "#000000", "dot") for k in range(240)
    ]
    placed = place_labels(many, room)
    assert len(placed) == 240 and all(p.crowded for p in placed)
