"""An apron with a bib, tied round the waist."""

from __future__ import annotations

import numpy as np

from warmgraphite.figures.people.clothes import Garment, Wear
from warmgraphite.figures.people.clothes._flowing import hanging_rings
from warmgraphite.figures.people.flesh import torso_rings
from warmgraphite.figures.people.posture import Skeleton
from warmgraphite.figures.piece import Piece
from warmgraphite.model.solids import Mesh, loft


def _front(inner: np.ndarray, outer: np.ndarray, first: int, last: int) -> Mesh:
    """The front of rings as a cloth that has a thickness."""
    rows = np.concatenate([outer[:, first : last + 1], inner[:, first : last + 1][:, ::-1]], axis=1)
    return loft(rows)


def _make(body: Skeleton, wear: Wear) -> list[Piece]:
    around = body.build.around(24, 4)
    skirted = bool(wear.worn & {"skirt", "dress"})
    seed = int(wear.chance.integers(1 << 30))
    rows = []
    for ease in (0.004, 0.020):
        chance = np.random.default_rng(seed)
        upper = torso_rings(body, 0.20, 0.86, 0.014 + ease, around)[::-1]
        long = 0.44 * (0.8 if body.posture.seat is not None else 1.0)
        lower = hanging_rings(body, long, 0.02 + ease + (0.02 if skirted else 0.0), 0.035, 0.02, chance, around, 0.08)
        rows.append((upper, lower))
    (in_up, in_low), (out_up, out_low) = rows
    quarter = around // 4
    bib = _front(in_up, out_up, quarter - around // 8, quarter + around // 8)
    lap = _front(
        np.concatenate([in_up[-3:], in_low]),
        np.concatenate([out_up[-3:], out_low]),
        quarter - around // 5,
        quarter + around // 5,
    )
    return [Piece.of("apron", wear.colour, bib, lap)]


GARMENT = Garment("apron", "Apron", _make, frozenset(), 5)
