"""Whether a model that was written elsewhere is what it says.
Types, ranges, and that each thing that is named is there.
"""

from __future__ import annotations

import io
import json
from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np
from PIL import Image
from pydantic import TypeAdapter

from warmgraphite.model.axes import Axis, Door
from warmgraphite.model.behaviour import ROLES
from warmgraphite.model.joining import Joined
from warmgraphite.model.model import Contours, Model, Room
from warmgraphite.model.palette import Material
from warmgraphite.model.parts import Part
from warmgraphite.model.units import METRES_PER

__all__ = ["refuse_unsound", "refuse_unsound_words"]

_Point = tuple[float, float, float]
_Row = tuple[float, float, float, float]
#: Metres from zero beyond which no building lies; and the most names of anything.
_FAR, _MOST = 1e8, 2_000_000


@dataclass
class _Words:
    """What :meth:`Model.about` writes, with a name."""

    name: str
    parts: list[Part]
    materials: list[Material]
    rooms: list[Room] = field(default_factory=list)
    axes: list[Axis] = field(default_factory=list)
    doors: list[Door] = field(default_factory=list)
    joined: list[Joined] = field(default_factory=list)
    onto_map: tuple[_Row, _Row, _Row, _Row] | None = None
    origin: _Point = (0.0, 0.0, 0.0)
    contours: Contours | None = None
    units: str = "m"
    up: Literal["z", "y"] = "z"
    hidden: list[int] = field(default_factory=list)
    sets: dict[str, list[int]] = field(default_factory=dict)
    white_card: bool = False
    cut_order: list[str] = field(default_factory=list)


_WORDS: TypeAdapter[_Words] = TypeAdapter(_Words)


def _refuse(wrong: object) -> None:
    if wrong:
        raise ValueError("not what a model has")


def refuse_unsound_words(about: dict[str, Any]) -> None:
    """Raises :class:`ValueError` for what is said of a model (as JSON) and cannot be.
    It cannot be where a value is of another kind than it must be, or names what is not there.
    """
    words = _WORDS.validate_json(json.dumps(about, allow_nan=False), strict=True)
    parts, materials = len(words.parts), len(words.materials)
    _refuse(max(parts, materials, len(words.rooms), len(words.axes), len(words.doors)) > _MOST)
    _refuse(any(not 0 <= p.material < materials or p.role not in ROLES for p in words.parts))
    _refuse(any(not _is_colour(m.colour) or not 0 <= m.opacity <= 1 or min(m.size) <= 0 for m in words.materials))
    _refuse(words.units not in METRES_PER or max(map(abs, words.origin)) > _FAR)
    _refuse(any(not 0 <= n < parts for n in (*words.hidden, *(n for rows in words.sets.values() for n in rows))))
    _refuse(words.contours and not (words.contours.interval > 0 and words.contours.index >= 1))
    _refuse(any(abs(v) > _FAR for r in words.rooms for v in (*r.place, r.area)))


def _is_colour(text: str) -> bool:
    return len(text) == 7 and text[0] == "#" and all(c in "0123456789abcdefABCDEF" for c in text[1:])


def refuse_unsound(model: Model) -> None:
    """Raises :class:`ValueError` for a model that is none.
    It is one whose triangles are not of its own vertices and parts, or lie nowhere, and for pictures that are none.
    """
    corners, faces, parts = model.vertices, model.triangles, len(model.parts)
    _refuse(
        corners.dtype.kind != "f" or corners.ndim != 2 or corners.shape[1:] != (3,) or not np.isfinite(corners).all()
    )
    _refuse(len(corners) and np.abs(corners).max() > _FAR)
    _refuse(faces.dtype.kind not in "iu" or faces.ndim != 2 or faces.shape[1:] != (3,))
    _refuse(model.triangle_part.dtype.kind not in "iu" or model.triangle_part.shape != (len(faces),))
    _refuse(len(faces) and (faces.min() < 0 or faces.max() >= len(corners)))
    _refuse(len(faces) and (model.triangle_part.min() < 0 or model.triangle_part.max() >= parts))
    uv = model.mesh.uv
    _refuse(uv is not None and (uv.dtype.kind != "f" or uv.shape != (len(faces), 3, 2) or not np.isfinite(uv).all()))
    lines, of = model.mesh.line_ends, model.mesh.line_part
    _refuse(
        lines.dtype.kind != "f" or lines.shape[1:] != (2, 3) or of.dtype.kind not in "iu" or of.shape != (len(lines),)
    )
    _refuse(len(lines) and (not np.isfinite(lines).all() or of.min() < 0 or of.max() >= parts))
    for data in model.textures.values():
        with Image.open(io.BytesIO(data), formats=("PNG", "JPEG")) as picture:
            picture.load()
