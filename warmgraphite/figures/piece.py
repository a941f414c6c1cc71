"""What a figure is made of: pieces, each a mesh with a name, a colour and what it is like to a drawing."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from warmgraphite.model.solids import Mesh, joined

__all__ = ["SHARP", "SOFT", "WHOLE", "Piece", "merged", "moved_pieces", "triangles_of"]

#: Degrees of bend from which an edge of a piece is drawn: of plain bodies, of cloth and skin, and of what is one mass
#: however it bends.
SHARP, SOFT, WHOLE = 24.0, 72.0, 180.0


@dataclass(frozen=True)
class Piece:
    """A mesh in metres, feet on z = 0, facing +y.
    ``crease`` is how far its edges bend, in degrees, before they are drawn; one of foliage takes no cast shadow, which
    would only spot it, unless it is told to.
    """

    name: str
    colour: str
    points: NDArray[np.float64]
    triangles: NDArray[np.int32]
    crease: float = SOFT
    #: Whether shadow falls on it, and how it is seen through.
    receives: bool = True
    opacity: float = 1.0
    #: A picture that it shows, by its name, where (T, 3, 2) in it the corners lie, and its file.
    picture: str = ""
    uv: NDArray[np.float32] | None = None
    file: bytes = b""
    #: Line elements (L, 2, 3), how heavy they are in millimetres of paper, 0 where the finish says so; whether nothing
    #: else of it is drawn.
    lines: NDArray[np.float64] | None = None
    weight: float = 0.0
    quiet: bool = False

    @staticmethod
    def of(
        name: str, colour: str, *meshes: Mesh, crease: float = SOFT, receives: bool = True, opacity: float = 1.0
    ) -> Piece:
        """A piece of meshes side by side."""
        points, triangles = joined(*meshes) if meshes else (np.zeros((0, 3)), np.zeros((0, 3), np.int32))
        return Piece(name, colour, points, triangles, crease, receives, opacity)


def triangles_of(pieces: tuple[Piece, ...]) -> int:
    """How many triangles pieces have together."""
    return sum(len(p.triangles) for p in pieces)


def moved_pieces(
    pieces: tuple[Piece, ...], turn: NDArray[np.float64], scale: float, by: NDArray[np.float64]
) -> tuple[Piece, ...]:
    """Pieces enlarged, turned by a matrix (3, 3), and moved."""
    moved = lambda points: points @ (turn.T * scale) + by
    return tuple(replace(p, points=moved(p.points), lines=None if p.lines is None else moved(p.lines)) for p in pieces)


def merged(pieces: list[Piece]) -> tuple[Piece, ...]:
    """Pieces of one name, colour and kind as one, in the order in which they first came."""
    groups: dict[tuple[object, ...], list[Piece]] = {}
    for p in pieces:
        if len(p.triangles):
            groups.setdefault((p.name, p.colour, p.crease, p.receives, p.opacity, p.picture), []).append(p)
    out = []
    for rows in groups.values():
        points, triangles = joined(*((p.points, p.triangles) for p in rows))
        uv = np.concatenate([p.uv for p in rows if p.uv is not None]) if all(p.uv is not None for p in rows) else None
        out.append(replace(rows[0], points=points, triangles=triangles, uv=uv))
    return tuple(out)
