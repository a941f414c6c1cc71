"""Reading a model file: the format is told by content, every fault is one sentence."""

from __future__ import annotations

import tempfile
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from warmgraphite.errors import ModelFileError
from warmgraphite.geometry.tolerances import FINEST, NO_LENGTH, ROUNDING
from warmgraphite.geometry.triangles import normals
from warmgraphite.model import archive
from warmgraphite.model.gathering import MAX_TRIANGLES
from warmgraphite.model.model import Model
from warmgraphite.model.reader import Head, Reader
from warmgraphite.model.readers import READERS
from warmgraphite.model.units import METRES_PER, UpAxis, guess_units, to_metres
from warmgraphite.progress import Stages, unwatched

__all__ = ["FORMATS", "FileModel", "read_model", "read_model_file", "sniff_format"]

#: An archive with one model in it.
ARCHIVE = "zip"
#: The formats that are read, with the name that a person knows them by.
FORMATS = {**{r.name: r.title for r in READERS.values()}, ARCHIVE: "a zip archive of one of these"}


@dataclass(frozen=True)
class FileModel:
    """A model in the file's own coordinates, with the units and up-axis it most likely has.

    ``because`` says why in words; ``notes`` are sentences about what was left out in reading.
    """

    model: Model
    format: str
    units: str
    up: UpAxis
    because: str
    notes: tuple[str, ...] = ()

    def in_metres(self, units: str | None = None, up: UpAxis | None = None) -> Model:
        """The model in metres with Z up, where the file has it, by the guess or by what the user says instead."""
        units, up = units or self.units, up or self.up
        return replace(self.model.transformed(to_metres(units, up)), units=units, up=up)


def sniff_format(path: Path) -> str:
    """A key of :data:`FORMATS`, by what the file holds and not by its ending."""
    head = Head(path)
    if not head.bytes.strip():
        raise ModelFileError(f"{path.name} is empty; export the model again and bring the new file.")
    found = next((r.name for r in READERS.values() if r.recognise(head)), None)
    if found is not None:
        return found
    if head.is_archive:
        return ARCHIVE
    if head.text[:1] == b"<":
        raise ModelFileError(
            f"{path.name} is XML, but not COLLADA; export the model as IFC, GLB or COLLADA and bring that."
        )
    if head.text[:1] == b"{":
        raise ModelFileError(f"{path.name} is JSON, but no whole glTF model; export it again and bring the new file.")
    known = ", ".join(r.title for r in READERS.values())
    raise ModelFileError(f"{path.name} is no model that can be read; export it as one of {known}, and bring that.")


def read_model_file(path: Path, watch: Stages = unwatched) -> FileModel:
    """The model of a file, in file coordinates, with a guess at units and up-axis.

    ``watch`` is told each stage. Raises :class:`ModelFileError` with one sentence for anything that is wrong with the
    file.
    """
    # What is not finite is said in a sentence, not in a warning on somebody's terminal.
    with np.errstate(all="ignore"):
        return _read(Path(path), watch)


def _read(path: Path, watch: Stages) -> FileModel:
    file_format = sniff_format(path)
    if file_format == ARCHIVE:
        with tempfile.TemporaryDirectory(prefix="model-") as folder:
            watch("Unpacking the archive", 0.02)
            inside = archive.unpack(path, Path(folder))
            if sniff_format(inside) == ARCHIVE:
                raise ModelFileError(
                    f"{path.name} holds an archive in an archive; unpack it once and bring the inner one."
                )
            found = read_model_file(inside, watch)
            return replace(found, model=replace(found.model, name=path.stem))
    reader = READERS[file_format]
    told = reader.read(path, watch)
    if told.because:
        return FileModel(told.model, file_format, "m", told.up or "z", told.because, told.notes)
    watch("Checking the triangles", 0.95)
    model, notes = _checked(told.model, path)
    units, why = _units(model, reader, told.metres)
    up = told.up
    if up is None:
        size = _main_size(model)
        up = "z" if size[2] <= size[1] or np.isclose(size[2], size[1]) else "y"
    return FileModel(_with_picture_sizes(model), file_format, units, up, why, (*told.notes, *notes))


def _checked(model: Model, path: Path) -> tuple[Model, tuple[str, ...]]:
    """The model without what cannot be drawn, and a sentence for it; raises for what cannot be used at all."""
    if len(model.triangles) > MAX_TRIANGLES:
        raise ModelFileError(
            f"{path.name} has {len(model.triangles):,} triangles, more than {MAX_TRIANGLES:,}; leave out what the "
            f"drawing does not need."
        )
    finite: NDArray[np.bool_] = np.asarray(np.isfinite(model.vertices).all(1))
    if not len(model.triangles):
        if float((model.bounds[1] - model.bounds[0]).max()) <= 0 or np.abs(model.mesh.line_ends).max() > 1e12:
            raise ModelFileError(f"{path.name} has only lines, and none that could be drawn; export the model again.")
        return model, ()
    if not finite[model.triangles].all():
        row = int(np.flatnonzero(~finite)[0])
        raise ModelFileError(
            f"{path.name} has a point (number {row + 1}) that is not a number; export the model again."
        )
    if np.abs(model.vertices[np.unique(model.triangles)]).max() > 1e12:
        raise ModelFileError(
            f"{path.name} has points farther away than the moon, so its numbers are damaged; export the model again."
        )
    if float((model.bounds[1] - model.bounds[0]).max()) <= 0:
        raise ModelFileError(f"{path.name} has all its points in one place; export the model again.")
    corners = model.vertices[model.triangles]
    doubled = normals(corners)
    longest = np.maximum.reduce([np.linalg.norm(corners[:, i] - corners[:, i - 1], axis=1) for i in range(3)])
    # A face lower than a billionth of its length has no side to be seen from.
    flat = np.linalg.norm(doubled, axis=1) <= ROUNDING * longest**2
    if not flat.any():
        return model, ()
    if flat.all():
        raise ModelFileError(f"{path.name} has only faces without area, so there is nothing to draw; export it again.")
    count = int(flat.sum())
    return model.only(~flat), (
        f"{count:,} {'face' if count == 1 else 'faces'} without area {'was' if count == 1 else 'were'} left out.",
    )


def _units(model: Model, reader: Reader, says: float | None) -> tuple[str, str]:
    """The likely unit, and why it is likely, in words.
    ``says`` are the metres of the file's unit, where it names one.
    """
    size = _main_size(model)
    longest = float(size.max())
    unit = None if says is None else next((u for u, per in METRES_PER.items() if abs(per / says - 1) < FINEST), None)
    if says is not None and unit is not None:
        because = f"{reader.title} files are in metres" if reader.metres else f"the file says so ({unit})"
        if reader.certain or 1.0 <= longest * says <= 2000.0:
            return unit, because
        other = guess_units(size)
        if other == unit:
            return unit, f"the file says so ({unit})"
        return other, (
            f"read as the file says, in {unit}, this would be {_length(longest * says)} long; "
            f"read in {other} it is {_length(longest * METRES_PER[other])}"
        )
    units = guess_units(size)
    if units == "m":
        return units, f"its longest side is {longest:,.2f} units, which is likely in metres"
    return units, (
        f"read in metres this would be {_length(longest)} long; read in {units} it is "
        f"{_length(longest * METRES_PER[units])}"
    )


def _main_size(model: Model) -> NDArray[np.float64]:
    """(3,) how large the model is without small parts that were left lying far away."""
    boxes = model.part_bounds.copy()
    boxes[model.mesh.far_parts] = [[np.inf] * 3, [-np.inf] * 3]
    boxes = boxes[np.isfinite(boxes).all((1, 2))]
    return boxes[:, 1].max(0) - boxes[:, 0].min(0)


def _length(metres: float) -> str:
    return f"{metres / 1000:,.1f} km" if metres >= 2000 else f"{metres:,.2f} m" if metres < 10 else f"{metres:,.1f} m"


def _with_picture_sizes(model: Model) -> Model:
    """The model with the size that each texture has on the faces it lies on, in file units."""
    if model.mesh.uv is None:
        return model
    materials = list(model.materials)
    which = model.parts.material[model.triangle_part]
    for index, material in enumerate(materials):
        rows = np.flatnonzero(which == index)[:20_000]
        if not material.texture or not len(rows):
            continue
        corners, uv = model.vertices[model.triangles[rows]], model.mesh.uv[rows].astype(float)
        du, dv = uv[:, 1] - uv[:, 0], uv[:, 2] - uv[:, 0]
        area = du[:, 0] * dv[:, 1] - du[:, 1] * dv[:, 0]
        good = np.abs(area) > NO_LENGTH
        if not good.any():
            continue
        e1, e2 = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
        with np.errstate(divide="ignore", invalid="ignore"):
            along = (e1 * dv[:, 1:] - e2 * du[:, 1:]) / area[:, None]  # metres for one step of u
            across = (e2 * du[:, :1] - e1 * dv[:, :1]) / area[:, None]
        size = tuple(float(f"{np.median(np.linalg.norm(v[good], axis=1)):.4g}") for v in (along, across))
        if all(0 < s < 1e9 for s in size):
            materials[index] = replace(material, size=(size[0], size[1]))
    return replace(model, materials=tuple(materials))


def read_model(path: Path, units: str | None = None, up: UpAxis | None = None) -> Model:
    """The model of a file in metres with Z up, where the file has it; ``units`` and ``up`` overrule the guess.

    A study moves it near an origin of its own (:func:`warmgraphite.model.model.localised`); a view file speaks of the
    file's own coordinates.
    """
    return read_model_file(path).in_metres(units, up)
