"""Bodies and models that several tests stand on. Each is made here, none is read from the product's own data."""

from __future__ import annotations

import os
from pathlib import Path

import hypothesis
import numpy as np
import pytest
import trimesh

from warmgraphite.model import Material, Model, Part, build_model

# The same examples in each run, so that a red run is about the change; HYPOTHESIS_PROFILE=explore draws new ones.
hypothesis.settings.register_profile("same", derandomize=True)
hypothesis.settings.register_profile("explore", derandomize=False)
hypothesis.settings.load_profile(os.environ.get("HYPOTHESIS_PROFILE", "same"))

STONE, GLASS, WOOD = Material("Stone", "#aaa090"), Material("Glass", "#b0d0d0", 0.2), Material("Wood", "#c09060")


def model_of(*rows: tuple[str, trimesh.Trimesh, int], name: str = "Test") -> Model:
    """A model of (name, mesh, material number) rows; material 1 is glass."""
    parts = [(Part(n, "", m, "glass" if m == 1 else "structure"), np.array(t.vertices), np.array(t.faces)) for n, t, m in rows]
    return build_model(name, parts, [STONE, GLASS, WOOD])


def box(low: tuple[float, float, float], high: tuple[float, float, float]) -> trimesh.Trimesh:
    return trimesh.creation.box(bounds=[low, high])


@pytest.fixture(scope="session")
def yard() -> Model:
    """Blocks that touch, overlap and run through each other, a pipe, a sphere, an open sheet: no clean model at all."""
    sphere = trimesh.creation.icosphere(subdivisions=3, radius=1.1)
    sphere.apply_translation([5.2, 1.5, 1.9])
    pipe = trimesh.creation.annulus(0.6, 1.0, 4.0, sections=48)
    pipe.apply_transform(trimesh.transformations.rotation_matrix(0.9, [0.3, 1, 0.2]))
    pipe.apply_translation([2.0, -2.0, 2.2])
    beam = box((-1, 0.8, 2.2), (8, 1.2, 2.6))
    beam.apply_transform(trimesh.transformations.rotation_matrix(0.25, [0, 1, 0.1], [3, 1, 2]))
    sheet = trimesh.Trimesh([[-2, -3, 0.2], [3, -3.5, 0.2], [3, -3.2, 2.4], [-2, -2.9, 1.8]], [[0, 1, 2], [0, 2, 3]])
    return model_of(
        ("Base", box((-3, -4, -0.5), (9, 5, 0)), 0),
        ("Block", box((0, 0, 0), (3, 3, 3)), 0),
        ("Tower", box((2, 1, 0), (4, 4, 5.5)), 2),
        ("Lean-to", box((3, -2, 0), (6, 0, 1.4)), 2),
        ("Ball", sphere, 0),
        ("Pipe", pipe, 2),
        ("Beam", beam, 2),
        ("Sheet", sheet, 0),
        name="Yard",
    )


@pytest.fixture(scope="session")
def kiln_house() -> Model:
    from demo.kiln_house import build_kiln_house

    return build_kiln_house(planting=True)


@pytest.fixture()
def scratch(tmp_path: Path) -> Path:
    return tmp_path
