"""Bodies of one's own: models of one thing, kept as GLB, that stand as figures."""

from __future__ import annotations

import hashlib
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from warmgraphite.errors import GraphiteError, ModelFileError, PictureError
from warmgraphite.figures.cutouts import PictureSource
from warmgraphite.figures.piece import Piece
from warmgraphite.geometry.tolerances import ROUNDING
from warmgraphite.memory import remembered
from warmgraphite.model.model import Model
from warmgraphite.model.read import read_model_file
from warmgraphite.progress import Stages, unwatched

__all__ = ["MOST", "body_taken", "digest_of", "height_of", "pieces_of", "read_body"]

#: Triangles of a body that stands as a figure, and the metres above which one was drawn in millimetres.
MOST, TALLEST = 60_000, 60.0
#: Metres below which it is too small to be seen.
LEAST = 0.005


def body_taken(path: Path, name: str, watch: Stages = unwatched) -> tuple[Model, tuple[str, ...]]:
    """The body in a model file with its foot in the zero, Z up, in metres, and what is worth a word.
    Raises :class:`PictureError`.
    """
    try:
        found = read_model_file(path, watch)
    except ModelFileError as error:
        raise PictureError(str(error).replace(path.name, f"“{name}”")) from None
    model, notes = found.in_metres(), list(found.notes)
    if len(model.triangles) > MOST:
        raise PictureError(
            f"“{name}” has {len(model.triangles):,} triangles; a figure has at most {MOST:,}: make it coarser."
        )
    tall = float(model.bounds[1, 2] - model.bounds[0, 2])
    if tall > TALLEST:
        model = model.transformed(np.diag([0.001, 0.001, 0.001, 1.0]))
        notes.append(f"It says that it is {tall:,.0f} m tall, which was taken for millimetres.")
        tall /= 1000
    if not LEAST <= tall <= TALLEST:
        raise PictureError(
            f"“{name}” is {tall:.3g} m tall, which is no figure; export it in metres, between 5 mm and 60 m."
        )
    low, high = model.bounds
    to_foot = np.eye(4)
    to_foot[:3, 3] = [-(low[0] + high[0]) / 2, -(low[1] + high[1]) / 2, -low[2]]
    parts = tuple(replace(p, role="context", layer="", id="") for p in model.parts)
    return model.transformed(to_foot).said(parts=parts, origin=(0.0, 0.0, 0.0), rooms=()), tuple(notes)


def digest_of(model: Model) -> str:
    """What a body is known by.
    Its faces to a hundredth of a millimetre, its colours and its pictures, whatever packs them.
    """
    found = hashlib.sha256(np.round(model.vertices[model.triangles], 5).astype(np.float32).tobytes())
    for material in np.unique(model.parts.material):
        look = model.materials[material]
        found.update(
            f"{look.colour} {look.opacity} {hashlib.sha256(model.textures.get(look.texture, b'')).hexdigest()}".encode()
        )
    return found.hexdigest()[:32]


@remembered("bodies of one's own")
def read_body(path: Path) -> Model | None:
    """A body as it is kept; ``None`` for a file that is damaged."""
    try:
        return read_model_file(path).in_metres("m", "y")
    except GraphiteError:
        return None


def height_of(model: Model) -> float:
    """Metres from the foot of a body to its top."""
    return float(model.bounds[1, 2] - model.bounds[0, 2])


@remembered("bodies of one's own")
def pieces_of(kept: PictureSource, digest: str, height: float, crease: float) -> tuple[Piece, ...]:
    """A body as pieces by material, ``height`` metres tall.
    The front of a glTF asset looks along +Z of the file (glTF 2.0, 3.4), which is south here, and figures face north:
    it is turned round. Empty for one that is not kept.
    """
    model = kept.body(digest)
    if model is None:
        return ()
    times = height / max(height_of(model), ROUNDING)
    low, high = model.bounds
    foot = np.array([(low[0] + high[0]) / 2, (low[1] + high[1]) / 2, low[2]])
    points: NDArray[np.float64] = (model.vertices - foot) * (-times, -times, times)
    material, found = model.parts.material[model.triangle_part], []
    for number in np.unique(material):
        rows, look = material == number, model.materials[number]
        used, local = np.unique(model.triangles[rows], return_inverse=True)
        shown: dict[str, Any] = {}
        if look.texture in model.textures and model.mesh.uv is not None:
            shown = {
                "picture": f"{digest}-{look.texture}",
                "uv": model.mesh.uv[rows],
                "file": model.textures[look.texture],
            }
        found.append(
            Piece(
                look.name,
                look.colour,
                points[used],
                local.reshape(-1, 3).astype(np.int32),
                crease,
                opacity=look.opacity,
                **shown,
            )
        )
    return tuple(found)
