"""A model kept on disk as it is in memory: arrays in one NPZ file, names as JSON among them."""

from __future__ import annotations

import json
import os
from dataclasses import asdict
from pathlib import Path

import numpy as np

from warmgraphite.model.model import Material, Model, Part

__all__ = ["load_model", "save_model"]


def save_model(model: Model, path: Path) -> None:
    """Write the model to ``path`` whole or not at all, in double precision."""
    about = {
        "name": model.name,
        "parts": [asdict(p) for p in model.parts],
        "materials": [asdict(m) for m in model.materials],
    }
    path.parent.mkdir(parents=True, exist_ok=True)
    draft = path.with_suffix(".draft.npz")
    np.savez(
        draft,
        vertices=model.vertices,
        triangles=model.triangles,
        triangle_part=model.triangle_part,
        about=np.frombuffer(json.dumps(about).encode(), np.uint8),
    )
    os.replace(draft, path)


def load_model(path: Path) -> Model:
    """The model that :func:`save_model` wrote."""
    with np.load(path) as arrays:
        about = json.loads(arrays["about"].tobytes())
        return Model(
            name=about["name"],
            vertices=arrays["vertices"],
            triangles=arrays["triangles"],
            triangle_part=arrays["triangle_part"],
            parts=tuple(Part(**p) for p in about["parts"]),
            materials=tuple(Material(**m) for m in about["materials"]),
        )
