"""Faults are found where they were put, and mends change nothing else."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh

from tests.conftest import box, model_of
from warmgraphite.errors import EditError
from warmgraphite.model import Model, Part, build_model
from warmgraphite.model.health import FINDINGS, check
from warmgraphite.model.mending import mend


def findings(model: Model, tolerance: float = 0.005) -> dict[str, tuple[int, list[str]]]:
    """Count and parts of each finding."""
    return {f.kind: (f.count, [model.parts[p.part].name for p in f.places]) for f in check(model, tolerance)}


def watertight(model: Model, name: str) -> trimesh.Trimesh:
    number = next(i for i, p in enumerate(model.parts) if p.name == name)
    mesh = trimesh.Trimesh(model.vertices, model.triangles[model.triangle_part == number], process=False)
    mesh.merge_vertices(digits_vertex=6)
    return mesh


def gaping(gap: float = 0.002, at: tuple[float, float, float] = (0, 0, 0)) -> trimesh.Trimesh:
    """A box of 8 × 6 × 3 m whose north face stands ``gap`` metres off."""
    whole = box((0, 0, 0), (8, 6, 3))
    north = np.isclose(whole.triangles[:, :, 1], 6).all(1)
    points = np.concatenate([whole.vertices, np.add(whole.triangles[north].reshape(-1, 3), (0, gap, 0))])
    faces = np.concatenate([whole.faces[~north], np.arange(6).reshape(2, 3) + len(whole.vertices)])
    return trimesh.Trimesh(points + np.array(at), faces, process=False)


def dirty(at: tuple[float, float, float] = (0, 0, 0)) -> Model:
    """One fault of each kind, each in a part that is named after it."""
    twin = box((14, 0, 0), (16, 2, 3))
    fan = trimesh.Trimesh(
        [[0, -9, 0], [0, -9, 1], [1, -9, 0], [-1, -9, 0], [0, -10, 0]], [[0, 1, 2], [0, 1, 3], [0, 1, 4]], process=False
    )
    uneven = trimesh.creation.icosphere(subdivisions=2, radius=1).apply_translation([20, 20, 1])
    uneven.faces[5:60] = uneven.faces[5:60][:, ::-1]
    shell = trimesh.util.concatenate([box((30, 0, 0), (34, 4, 4)), box((31, 1, 1), (33, 3, 3))])
    shell.faces[12:] = shell.faces[12:][:, ::-1]  # a hollow body: its inner faces rightly look inward
    rows = [
        ("Gap", gaping(), 0), ("Inside out", trimesh.Trimesh(*_turned(box((10, 0, 0), (12, 2, 3)))), 2),
        ("Uneven", uneven, 0), ("Hollow", shell, 0),
        ("Doubled face", trimesh.Trimesh(twin.vertices, np.vstack([twin.faces, twin.faces[[3]][:, ::-1]]),
            process=False), 0),
        ("First", box((40, 0, 0), (42, 2, 2)), 0),
        ("Second", trimesh.Trimesh(*_shuffled(box((40, 0, 0), (42, 2, 2)))), 0),
        ("Within", box((40.5, 0.5, 0.5), (41, 1, 1)), 0),
        ("Sail", trimesh.Trimesh([[0, 9, 0], [3, 9, 0], [3, 9, 2]], [[0, 1, 2]]), 0),
        ("Fan", fan, 0), ("Bolt", box((90_000, 0, 0), (90_000.1, 0.1, 0.1)), 0),
        ("Clean", box((50, 0, 0), (52, 2, 2)), 0),
    ]  # fmt: skip
    for _, mesh, _ in rows:
        mesh.apply_translation(at)
    return model_of(*rows)


def _turned(mesh: trimesh.Trimesh) -> tuple[np.ndarray, np.ndarray]:
    return np.array(mesh.vertices), np.array(mesh.faces)[:, ::-1]


def _shuffled(mesh: trimesh.Trimesh) -> tuple[np.ndarray, np.ndarray]:
    order = np.random.default_rng(2).permutation(len(mesh.vertices))
    back = np.argsort(order)
    return np.array(mesh.vertices)[order], np.roll(back[np.array(mesh.faces)], 1, 1)[::-1]


@pytest.mark.parametrize("at", [(0.0, 0.0, 0.0), (431_000.0, 5_800_000.0, 60.0)])
def test_each_fault_is_found_in_its_part_and_nowhere_else(at: tuple[float, float, float]) -> None:
    found = findings(dirty(at))
    assert set(found) == set(FINDINGS)
    assert found["gaps"] == (4, ["Gap"])
    assert found["doubled_faces"] == (1, ["Doubled face"]) and found["doubled_parts"] == (1, ["Second"])
    assert set(found["flipped"][1]) == {"Inside out", "Uneven"} and found["far"] == (1, ["Bolt"])
    assert set(found["open"][1]) == {"Gap", "Fan"} and found["open"][0] == 8 + 6
    assert (
        found["flat"] == (1, ["Sail"]) and found["inside"] == (1, ["Within"]) and found["non_manifold"] == (1, ["Fan"])
    )
    gap = next(f for f in check(dirty(at)) if f.kind == "gaps").places[0]
    assert (
        np.min(np.linalg.norm(np.array([(x, 6.001, z) for x in (0, 8) for z in (0, 3)]) + at - gap.point, axis=1))
        < 2e-3
    )
    assert all(about.harm.endswith(".") for about in FINDINGS.values())


def test_a_clean_model_has_no_findings() -> None:
    assert findings(model_of(("A", box((0, 0, 0), (4, 4, 3)), 0), ("B", box((4, 0, 0), (8, 4, 3)), 0))) == {}


@pytest.mark.parametrize("at", [(0.0, 0.0, 0.0), (431_000.0, 5_800_000.0, 60.0)])
def test_every_mend_takes_its_finding_away_and_says_what_it_changed(at: tuple[float, float, float]) -> None:
    model = dirty(at)
    clean = next(i for i, p in enumerate(model.parts) if p.name == "Clean")
    for kind, about in FINDINGS.items():
        if not about.mend:
            with pytest.raises(EditError, match="no safe mend"):
                mend(model, kind)
            continue
        mended, said = mend(model, kind)
        assert kind not in findings(mended) and any(c.isdigit() for c in said), kind
        assert mended.part_shape[clean] == model.part_shape[clean]  # what was whole is as it was
        assert len(mended.parts) == len(model.parts)
        with pytest.raises(EditError, match="nothing left"):
            mend(mended, kind)
        model = mended
    left = findings(model)
    assert set(left) == {"open", "flat", "inside", "non_manifold"} and "Gap" not in left["open"][1]
    for name, volume in (("Gap", 144.0), ("Inside out", 12.0), ("Hollow", 64.0 - 8.0), ("Doubled face", 12.0)):
        body = watertight(model, name)
        assert body.is_watertight and body.is_winding_consistent and body.volume == pytest.approx(volume, rel=1e-3), (
            name
        )
    ball = watertight(model, "Uneven")
    assert ball.is_winding_consistent and ball.volume > 3.9


def test_a_gap_wider_than_the_tolerance_stays_and_a_wider_tolerance_closes_it() -> None:
    model = model_of(("Gap", gaping(0.02), 0), ("Clean", box((50, 0, 0), (52, 2, 2)), 0))
    assert "gaps" not in findings(model) and findings(model, 0.03)["gaps"][0] == 4
    mended, said = mend(model, "gaps", 0.03)
    assert watertight(mended, "Gap").is_watertight and "4 places" in said and "10 mm" in said
    ring = trimesh.creation.annulus(0.0030, 0.0035, 0.004, sections=8)  # details finer than the tolerance are no gaps
    assert "gaps" not in findings(model_of(("Ring", ring, 0), ("Wall", box((1, 0, 0), (5, 1, 3)), 0)))


def test_what_is_mended_is_cut_closed() -> None:
    from warmgraphite.drawing import Drawing
    from warmgraphite.view.specification import Cut, Parallel, ViewSpecification

    view = ViewSpecification(
        projection=Parallel(direction=(0, 0, -1), up=(0, 1, 0)), cuts=(Cut(point=(0, 0, 1.5), normal=(0, 0, 1)),)
    )
    model = model_of(("Gap", gaping(0.02), 0))  # wider than a cut closes by itself
    assert sum(r.region.area for r in Drawing(model, view).regions()) == 0
    mended = mend(model, "gaps", 0.03)[0]
    assert sum(r.region.area for r in Drawing(mended, view).regions()) == pytest.approx(48, rel=4e-3)


def test_a_part_within_an_opening_or_a_hollow_is_not_inside() -> None:
    frame = trimesh.creation.annulus(1.0, 2.0, 0.5)  # stands around, not outside
    frame.apply_transform(trimesh.transformations.rotation_matrix(np.pi / 2, [1, 0, 0]))
    pane = box((-0.9 / 2**0.5, -0.02, -0.9 / 2**0.5), (0.9 / 2**0.5, 0.02, 0.9 / 2**0.5))
    assert "inside" not in findings(model_of(("Frame", frame, 0), ("Pane", pane, 1)))


def test_vertices_that_two_parts_share_are_told_apart() -> None:
    whole = box((0, 0, 0), (2, 2, 2))
    both = build_model("Shared", [(Part("A"), whole.vertices, whole.faces)], model_of(("X", whole, 0)).materials)

    owner = both.triangle_part.copy()
    owner[6:] = 1
    found = check(both.reshaped(triangle_part=owner, parts=(Part("A"), Part("B"))))
    assert {f.kind for f in found} == {"open"}
