"""An umbrella, held up in the right hand."""

from __future__ import annotations

import numpy as np

from warmgraphite.figures.people.clothes import Garment, Wear
from warmgraphite.figures.people.posture import Skeleton
from warmgraphite.figures.piece import Piece
from warmgraphite.model.solids import limb, loft


def _make(body: Skeleton, wear: Wear) -> list[Piece]:
    unit = body.build.unit
    grip = body.wrists[1] + (body.wrists[1] - body.elbows[1]) * 0.16
    top = np.array([body.head[0] * 0.5 + grip[0] * 0.5, body.head[1] * 0.5 + grip[1] * 0.5, body.head[2] + 0.42 * unit])
    way = (top - grip) / np.linalg.norm(top - grip)
    stick = np.array([grip - way * 0.1 * unit, grip, top + way * 0.05 * unit])
    # Eight ribs: cloth hangs in between.
    angle = 2 * np.pi * np.arange(16) / 16
    rings = []
    for r, z in (
        (0.02, 0.0),
        (0.22, -0.035),
        (0.40, -0.11),
        (0.53, -0.215),
        (0.515, -0.222),
        (0.39, -0.13),
        (0.21, -0.06),
        (0.02, -0.03),
    ):
        wave = np.where(np.arange(16) % 2 == 0, 1.0, 1 - 0.055 * r / 0.53)
        rings.append(
            np.column_stack([r * wave * np.cos(angle), r * wave * np.sin(angle), z + 0.03 * (1 - wave)]) * unit
        )
    side = np.cross(way, [0, 1.0, 0])
    side /= np.linalg.norm(side)
    turn = np.column_stack([side, np.cross(way, side), way])
    cloth = loft(np.array(rings) @ turn.T + top)
    thin = np.full(3, 0.008)
    return [
        Piece.of("umbrella", wear.colour, cloth, crease=40.0),
        Piece.of("stick", "#5c5248", limb(stick, thin, thin, side, 6)),
    ]


GARMENT = Garment("umbrella", "Umbrella", _make, frozenset(), 9)
