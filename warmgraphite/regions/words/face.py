"""One face of a part, flat or curved."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.model.bodies import bodies_of
from warmgraphite.model.model import Model
from warmgraphite.passes.edges import topology_of
from warmgraphite.regions.words._word import Asked, Number, Word
from warmgraphite.specification import Specification

__all__ = ["FACE", "Face"]


class Face(Specification):
    """The face of a part, flat or curved, that is nearest to a ``point`` in metres."""

    part: str = Field(max_length=1000)
    point: tuple[Number, Number, Number]


def _number(model: Model, face: Face) -> int:
    import trimesh  # takes a third of a second, which only a face pointed at should

    rows = np.flatnonzero(model.parts.selected((face.part,))[model.triangle_part])
    if not len(rows):
        return -2
    corners = model.vertices[model.triangles[rows]]
    point = np.broadcast_to(np.array(face.point), (len(rows), 3))
    gap = np.linalg.norm(trimesh.triangles.closest_point(corners, point) - point, axis=1)
    return int(topology_of(bodies_of(model)).face[rows[int(np.argmin(gap))]])


def _is_on(said: Face, asked: Asked, model: Model) -> NDArray[np.bool_]:
    return asked.face == _number(model, said)


FACE = Word(
    "face",
    Face | None,
    _is_on,
    order=14,
    of=frozenset({"regions"}),
    unsaid=None,
    tail=lambda said: f"the face of {said.part.rpartition('/')[2]}",
)
