"""How points of notes go along with the parts that they lie on."""

from __future__ import annotations

import numpy as np

from warmgraphite.geometry.tolerances import ROUNDING
from warmgraphite.model.model import Model
from warmgraphite.notes.note import Point

__all__ = ["in_newer"]


def in_newer(point: Point, path: str, old: Model, new: Model) -> Point:
    """A point on a part of a model, in a newer one: where it lies in the part's bounds stays as it is.
    Where either has no such part, it stays where it was.
    """
    boxes = []
    for model in (old, new):
        rows = [k for k, p in enumerate(model.parts) if p.path == path and not p.absent]
        box = model.part_bounds[rows]
        if not len(rows) or not np.isfinite(box).all():
            return point
        boxes.append(np.stack([box[:, 0].min(0), box[:, 1].max(0)]) + np.array(model.origin))
    before, after = boxes
    at = np.array(point) + np.array(old.origin)
    size = before[1] - before[0]
    share = np.divide(at - before[0], size, out=np.full(3, 0.5), where=size > ROUNDING)
    # Beside the part it keeps its distance; within it its share.
    within = np.clip(share, 0.0, 1.0)
    found = after[0] + within * (after[1] - after[0]) + (share - within) * size
    moved = np.where(size > ROUNDING, found, at + after[0] - before[0]) - np.array(new.origin)
    x, y, z = np.round(moved, 6).tolist()
    return x, y, z
