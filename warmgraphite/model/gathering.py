"""What every reader fills: parts as they come, materials told apart, pictures kept once."""

from __future__ import annotations

import hashlib
import io
from dataclasses import replace
from pathlib import Path, PurePosixPath
from typing import Any

import numpy as np
from numpy.typing import NDArray

from warmgraphite.colour import of_shares
from warmgraphite.errors import ModelFileError
from warmgraphite.model.axes import Axis, Door
from warmgraphite.model.model import Model, Room, build_model
from warmgraphite.model.palette import Material
from warmgraphite.model.parts import Part
from warmgraphite.model.roles import guess_role
from warmgraphite.specification import tidy

__all__ = ["MAX_TRIANGLES", "Gathering", "beside"]

#: Letters of a part's, a layer's or a material's name.
LONGEST_NAME = 400
#: Triangles of one model.
MAX_TRIANGLES = 4_000_000
#: Line elements of one model.
MAX_LINES = 1_000_000


def beside(model: Path, name: str) -> Path | None:
    """The file beside a model that it calls ``name``, whatever folders the name goes through.
    ``None`` where there is none.
    """
    last = PurePosixPath(name.replace("\\", "/")).name
    try:
        found = model.parent / last
        return found if last and found.is_file() else None
    except (OSError, ValueError):  # a name that no file can have
        return None


def _named(words: str, otherwise: str) -> str:
    """A name as a drawing can carry it: without control characters, and no longer than anybody reads."""
    return str(tidy(words)).strip()[:LONGEST_NAME] or otherwise


class Gathering:
    """Parts, materials, pictures, rooms, axes and doors of one file, called ``file`` in what is said of it."""

    def __init__(self, file: str) -> None:
        self.file = file
        self.rows: list[tuple[Part, NDArray[np.float64], NDArray[np.int32]]] = []
        self.uv: list[NDArray[np.float32] | None] = []
        self.rooms: list[Room] = []
        self.axes: list[Axis] = []
        self.doors: list[Door] = []
        self.lines: dict[int, NDArray[np.float64]] = {}
        self.line_count = 0
        self.textures: dict[str, bytes] = {}
        self._materials: dict[Material, int] = {}

    def material(self, material: Material) -> int:
        """The number of a material, the same for the same."""
        material = replace(material, name=_named(material.name, "Plain"))
        return self._materials.setdefault(material, len(self._materials))

    def picture(self, data: bytes) -> str:
        """Keep an encoded picture; returns its name, empty when the data are no picture."""
        from PIL import Image

        try:
            with Image.open(io.BytesIO(data)) as image:
                image.verify()
                ending = {"JPEG": "jpg", "PNG": "png"}.get(image.format or "", "")
            if not ending:
                with Image.open(io.BytesIO(data)) as image:
                    out = io.BytesIO()
                    image.convert("RGBA").save(out, "PNG")
                    data, ending = out.getvalue(), "png"
        except (OSError, ValueError, SyntaxError, Image.DecompressionBombError):
            return ""
        name = f"{hashlib.sha256(data).hexdigest()[:12]}.{ending}"
        self.textures[name] = data
        return name

    def tone(self, texture: str, factor: Any = (1.0, 1.0, 1.0)) -> str:
        """``#rrggbb`` of a kept picture as a whole, times a ``factor`` (3,) from 0 to 1.
        The colour of what it lies on.
        """
        from PIL import Image

        with Image.open(io.BytesIO(self.textures[texture])) as image:
            pixel = np.asarray(image.convert("RGB").resize((1, 1), Image.Resampling.BOX), float).ravel()
        return of_shares(pixel / 255 * np.asarray(factor[:3], float))

    def add(
        self,
        name: str,
        layer: str,
        material: Material,
        vertices: NDArray[Any],
        triangles: NDArray[Any],
        *,
        uv: NDArray[Any] | None = None,
        lines: NDArray[Any] | None = None,
        role: str | None = None,
        **more: Any,
    ) -> None:
        """One part.
        ``vertices`` (v, 3), ``triangles`` (t, 3), ``uv`` (t, 3, 2) or none, line elements ``lines`` (l, 2, 3) or none.
        Nothing is added of neither triangles nor lines.
        """
        ends = np.asarray(np.empty((0, 2, 3)) if lines is None else lines, np.float64).reshape(-1, 2, 3)
        ends = ends[(ends[:, 0] != ends[:, 1]).any(1)]
        if not len(triangles) and not len(ends):
            return
        if not np.isfinite(ends).all():
            raise ModelFileError(
                f"{self.file}: part “{name}” has a line whose end is not a number; export the model again."
            )
        self.line_count += len(ends)
        if self.line_count > MAX_LINES:
            raise ModelFileError(
                f"{self.file} has more than {MAX_LINES:,} line elements; leave out what the drawing does not need."
            )
        if len(ends):
            self.lines[len(self.rows)] = ends
        triangles = np.asarray(triangles, np.int64).reshape(-1, 3)
        if len(triangles) and (triangles.min() < 0 or triangles.max() >= len(vertices)):
            raise ModelFileError(
                f"{self.file}: part “{name}” has faces that ask for missing points; export the model again."
            )
        name, layer = _named(name, "Part"), _named(layer, "")
        part = Part(name, layer, self.material(material), role or guess_role(layer, name, material), **more)
        self.rows.append((part, np.asarray(vertices, np.float64).reshape(-1, 3), triangles.astype(np.int32)))
        self.uv.append(None if uv is None else np.asarray(uv, np.float32))

    def model(self, name: str) -> Model:
        """The model of all that was gathered. Raises :class:`ModelFileError` when that is nothing."""
        if not self.rows:
            raise ModelFileError(
                f"{self.file} holds no faces and no lines, so there is nothing to draw; export it again with its "
                f"surfaces."
            )
        materials = list(self._materials)
        used = {m.name for m in materials}
        seen: set[str] = set()
        for i, material in enumerate(materials):
            # Two materials of one name and two looks stay two, and can be told apart.
            if material.name in seen:
                number = next(n for n in range(2, len(used) + len(materials) + 2) if f"{material.name} {n}" not in used)
                materials[i] = replace(material, name=f"{material.name} {number}")
                used.add(materials[i].name)
            seen.add(materials[i].name)
        found = build_model(name, self.rows, materials, self.uv, self.textures, self.rooms, self.lines)
        return replace(found, axes=tuple(self.axes), doors=tuple(self.doors))
