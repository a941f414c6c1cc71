"""Reading a model file: the format is told by content, every fault is one sentence."""

from __future__ import annotations

import json
import struct
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from warmgraphite.errors import ModelFileError
from warmgraphite.model import glb, obj
from warmgraphite.model.model import Model
from warmgraphite.model.units import METRES_PER, UpAxis, guess_units, to_metres

__all__ = ["MAX_TRIANGLES", "FileModel", "read_model", "read_model_file", "sniff_format"]

MAX_TRIANGLES = 4_000_000


@dataclass(frozen=True)
class FileModel:
    """A model in the file's own coordinates, with the units and up-axis it most likely has."""

    model: Model
    format: str
    units: str
    up: UpAxis
    because: str

    def in_metres(self, units: str | None = None, up: UpAxis | None = None) -> Model:
        """The model in metres with Z up, by the guess or by what the user says instead."""
        return self.model.transformed(to_metres(units or self.units, up or self.up))


def sniff_format(path: Path) -> str:
    """``glb`` or ``obj``, by what the file holds and not by its ending."""
    try:
        head = path.read_bytes()[:4096]
    except OSError as error:
        raise ModelFileError(f"{path.name} cannot be opened ({error.strerror or error}); check that it is there.") from error
    if not head.strip():
        raise ModelFileError(f"{path.name} is empty; export the model again and bring the new file.")
    if head[:4] == b"glTF":
        return "glb"
    if b"\x00" not in head and any(
        line.split(None, 1)[:1] in ([b"v"], [b"o"], [b"g"], [b"f"], [b"mtllib"], [b"vn"], [b"vt"]) for line in head.splitlines()
    ):
        return "obj"
    if head.lstrip()[:1] == b"{":
        try:
            if "asset" in json.loads(path.read_bytes()):
                raise ModelFileError(
                    f"{path.name} is a glTF text file whose geometry lies in other files; export it as one .glb file instead."
                )
        except (ValueError, struct.error):
            pass
    raise ModelFileError(f"{path.name} is neither a GLB nor an OBJ model; export the model as .glb or .obj and bring that.")


def read_model_file(path: Path) -> FileModel:
    """The model of a GLB or OBJ file, in file coordinates, with a guess at units and up-axis.

    Raises :class:`ModelFileError` with one sentence for anything that is wrong with the file.
    """
    path = Path(path)
    file_format = sniff_format(path)
    model = glb.read_glb(path) if file_format == "glb" else obj.read_obj(path)
    if not len(model.triangles):
        raise ModelFileError(f"{path.name} holds no faces, so there is nothing to draw; export it again with its surfaces.")
    if len(model.triangles) > MAX_TRIANGLES:
        raise ModelFileError(
            f"{path.name} has {len(model.triangles):,} triangles, more than {MAX_TRIANGLES:,}; leave out what the drawing does not need."
        )
    if not np.isfinite(model.vertices).all():
        row = int(np.argwhere(~np.isfinite(model.vertices))[0][0])
        raise ModelFileError(f"{path.name} has a point (number {row + 1}) that is not a number; export the model again.")
    size = model.bounds[1] - model.bounds[0]
    longest = float(size.max())
    if longest <= 0:
        raise ModelFileError(f"{path.name} has all its points in one place; export the model again.")
    if file_format == "glb":
        fits = 1.0 <= longest <= 2000.0
        units = "m" if fits else guess_units(size)
        up: UpAxis = "y"
        because = "GLB files are in metres with Y up" if fits else f"read as metres it would be {longest:,.0f} m long"
    else:
        units = guess_units(size)
        up = "z" if size[2] <= size[1] or np.isclose(size[2], size[1]) else "y"
        because = f"its longest side is {longest:,.2f} units; in {units} that is {longest * METRES_PER[units]:,.1f} m"
    return FileModel(model, file_format, units, up, because)


def read_model(path: Path, units: str | None = None, up: UpAxis | None = None) -> Model:
    """The model of a file in metres with Z up; ``units`` and ``up`` overrule the guess."""
    return read_model_file(path).in_metres(units, up)
