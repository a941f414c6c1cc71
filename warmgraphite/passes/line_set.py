"""The lines of a drawing, and the words for what they are."""

from __future__ import annotations

from dataclasses import dataclass, fields
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

__all__ = [
    "BORDER",
    "CREASE",
    "KINDS",
    "LINE",
    "MATERIAL",
    "NO_RIM",
    "RANKS",
    "SEAM_RANK",
    "SILHOUETTE",
    "SMOOTH",
    "TERRAIN",
    "LineSet",
]

KINDS = ("cut", "silhouette", "border", "crease", "intersection", "material", "smooth", "terrain", "line")


#: What is drawn of figures has ranks of its own: their outline, and what lies within it.
RANKS = ("cut", "outline", "edge", "surface", "figure", "detail")


#: Rank of seams, which are kept because they bound parts, but are no lines of the drawing.
SEAM_RANK = len(RANKS)


#: Stands for the angle of what is no rim of a leaf.
NO_RIM = 9.0


SILHOUETTE, BORDER, CREASE = (KINDS.index(k) for k in ("silhouette", "border", "crease"))


MATERIAL, SMOOTH, TERRAIN, LINE = (KINDS.index(k) for k in ("material", "smooth", "terrain", "line"))


@dataclass(frozen=True)
class LineSet:
    """Pieces (N) of lines, each of one kind, rank and visibility, chain after chain.

    ``start``, ``end`` (N, 3) metres; ``from_mm``, ``to_mm`` (N, 2) frame millimetres; ``kind``, ``rank`` indices into
    :data:`KINDS` and :data:`RANKS`; ``through`` panes of glass in front; ``part``; ``distance`` metres from the viewer,
    along the direction of sight, and ``behind`` metres to what lies behind it (infinite: nothing); ``left``, ``right``
    the parts seen on either side of the way from start to end, −1 for none (both of visible pieces only); ``chain``
    numbers the strokes: within one, each piece starts where the one before it ends; ``rim`` is, of lines within
    foliage, the angle on the paper in which the rim of the leaf looks that it is, in radians, :data:`NO_RIM` of all
    others. ``span`` (2,) is from how near to how far what is seen of the model itself lies, in metres.
    """

    start: NDArray[np.float64]
    end: NDArray[np.float64]
    from_mm: NDArray[np.float64]
    to_mm: NDArray[np.float64]
    kind: NDArray[np.uint8]
    rank: NDArray[np.uint8]
    visible: NDArray[np.bool_]
    through: NDArray[np.uint8]
    part: NDArray[np.int32]
    distance: NDArray[np.float64]
    behind: NDArray[np.float64]
    left: NDArray[np.int32]
    right: NDArray[np.int32]
    chain: NDArray[np.int32]
    rim: NDArray[np.float32]
    span: NDArray[np.float64]

    def __len__(self) -> int:
        return len(self.kind)

    def only(self, rows: NDArray) -> LineSet:
        """The chosen rows."""
        return LineSet(
            **{f.name: getattr(self, f.name)[rows] for f in fields(self) if f.name != "span"}, span=self.span
        )

    @cached_property
    def drawn(self) -> LineSet:
        """The lines of the drawing: all but the seams."""
        return self.only(self.rank < SEAM_RANK)
