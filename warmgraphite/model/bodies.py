"""The bodies of a model as passes see them: where they lie, and how each behaves in a drawing.
Neither names nor colours.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from warmgraphite.geometry.tolerances import Tolerances
from warmgraphite.memory import share
from warmgraphite.model.mesh import Mesh
from warmgraphite.model.model import Model

__all__ = ["Bodies", "PutBodies", "bodies_of", "bodies_seen"]


@dataclass(frozen=True, eq=False)
class Bodies:
    """A mesh with a row (P,) for each part.

    ``extent`` in metres is what tolerances stand on, ``anchor`` (3,) the point in metres that coordinates in a plane
    count from. ``is_glass`` what one sees through, ``is_glazing`` what of that counts as panes, ``material`` and
    ``role`` of each, ``figure`` the number of the figure it belongs to, −1 for none, ``crease`` degrees of bend from
    which its edges are drawn, NaN where the view says it; of a ``plain`` one only the outline is drawn, of a ``quiet``
    one its line elements. Where it is cut it counts as the material ``cut_as``, gives way to what has a lower
    ``cut_place``, is filled as ``poche`` says, and is ``earth`` or not.

    ``base`` are those that these are with more after all of their own, of which nothing need be found again, and
    ``put`` the others, in order.
    """

    mesh: Mesh
    extent: float
    anchor: NDArray[np.float64]
    is_glass: NDArray[np.bool_]
    is_glazing: NDArray[np.bool_]
    material: NDArray[np.int32]
    role: NDArray[np.str_]
    figure: NDArray[np.int32]
    crease: NDArray[np.float64]
    plain: NDArray[np.bool_]
    quiet: NDArray[np.bool_]
    cut_as: NDArray[np.int64]
    cut_place: NDArray[np.int64]
    poche: NDArray[np.str_]
    earth: NDArray[np.bool_]
    base: Bodies | None = None
    put: tuple[PutBodies, ...] = ()

    @property
    def tolerances(self) -> Tolerances:
        """How near is the same, in this model."""
        return Tolerances.of(self.extent)

    @property
    def count(self) -> int:
        """How many parts there are."""
        return len(self.crease)

    def of_triangles(self, column: NDArray) -> NDArray:
        """A column (P, …) of parts as one of triangles (T, …)."""
        return column[self.mesh.triangle_part]


@dataclass(frozen=True)
class PutBodies:
    """Bodies that were put among others.
    As they are about their foot, turned by a matrix ``turn`` (3, 3), and moved ``by`` (3,) metres.
    """

    bodies: Bodies
    turn: NDArray[np.float64]
    by: NDArray[np.float64]


def bodies_of(model: Model) -> Bodies:
    """All bodies of a model."""
    return share("bodies", model, _found)


def _found(model: Model) -> Bodies:
    parts = model.parts
    # What is put among others has its materials there.
    place = parts.cut_rank[parts.cut_as] if parts.materials else np.zeros(len(parts), np.int64)
    return Bodies(
        model.mesh, model.extent, model.anchor, parts.is_glass, parts.is_glazing, parts.material, parts.role,
        parts.figure, parts.crease,
        parts.plain, parts.quiet, parts.cut_as, place, parts.poche, parts.earth,
        None if model.bare is None else bodies_of(model.bare),
        tuple(PutBodies(bodies_of(p.body), p.turn, p.by) for p in model.put),
    )  # fmt: skip


def bodies_seen(model: Model, shown: NDArray[np.int64], cut: NDArray[np.int64]) -> Bodies:
    """The bodies of a model with columns of some parts alone.
    Of those parts alone that are ``shown``, and of how they are cut of those that are ``cut``: no pass can go by any
    other. How edges bend is the mesh's own, and known of all.
    """
    parts = model.parts
    all_of_it = bodies_of(model)

    def only(column: NDArray, rows: NDArray[np.int64], otherwise: object) -> NDArray:
        out = np.full_like(column, otherwise)
        out[rows] = column[rows]
        return out

    place = np.zeros(len(parts), np.int64)
    place[cut] = np.unique(parts.cut_rank[parts.cut_as[cut]], return_inverse=True)[1]
    return Bodies(
        model.mesh, model.extent, model.anchor, only(parts.is_glass, shown, False),
        only(parts.is_glazing, shown, False),
        only(parts.material, shown, 0), only(parts.role, shown, ""), only(parts.figure, shown, -1), parts.crease,
        only(parts.plain, shown, False), only(parts.quiet, shown, False), only(parts.cut_as, cut, 0), place,
        only(parts.poche, cut, ""),
        only(parts.earth, cut, False), all_of_it.base, all_of_it.put,
    )  # fmt: skip
