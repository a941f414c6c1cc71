"""Axes in planes and round directions, each of length one and at right angles to the others."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

__all__ = ["about", "level_axes", "looking"]

Vector = NDArray[Any]
UP = np.array([0.0, 0.0, 1.0])


def level_axes(normal: Vector, flat: float) -> tuple[Vector, Vector]:
    """A level axis (3,) and one across it, in the plane of a unit ``normal``.
    East and north in a plane that is no steeper than ``flat`` (the sine of its slope).
    """
    level = np.array([-normal[1], normal[0], 0.0])
    long = np.linalg.norm(level)
    u = level / long if long > flat else np.array([1.0, 0.0, 0.0])
    return u, np.cross(normal, u)


def about(axis: Vector) -> tuple[Vector, Vector]:
    """Two axes (3,) at right angles to one, told by the coordinate that it runs along least."""
    out = np.cross(axis, np.eye(3)[int(np.argmin(np.abs(axis)))])
    out /= np.linalg.norm(out)
    return out, np.cross(axis, out)


def looking(forward: Vector, up: Vector = UP) -> Vector:
    """(3, 3) rows right, above and forward of one who looks ``forward`` with ``up`` above."""
    forward = forward / np.linalg.norm(forward)
    right = np.cross(forward, up)
    right /= np.linalg.norm(right)
    return np.stack([right, np.cross(right, forward), forward])
