"""Cut areas against independent sections, and the region a person expects from bodies that are not clean."""

from __future__ import annotations

import manifold3d
import numpy as np
import pytest
import shapely
import trimesh

from tests.conftest import box, model_of
from warmgraphite.drawing import Drawing
from warmgraphite.ink.poche import poche_shapes
from warmgraphite.model import Model
from warmgraphite.view.specification import Cut, Frame, Parallel, PartChoice, ViewSpecification


def section(model: Model, point: tuple, normal: tuple, **more) -> Drawing:  # type: ignore[no-untyped-def]
    sight = tuple(-n for n in normal)
    up = (0, 1, 0) if abs(normal[2]) > 0.9 else (0, 0, 1)
    return Drawing(
        model, ViewSpecification(projection=Parallel(direction=sight, up=up), cuts=(Cut(point=point, normal=normal),), **more)
    )


def test_areas_agree_with_an_independent_section_of_every_closed_body(yard: Model) -> None:
    for height in (0.4, 1.37, 2.3, 2.77):
        drawing = section(yard, (0, 0, height), (0, 0, 1))
        found = {yard.parts[r.part].name: r.region.area for r in drawing.regions()}
        for i, part in enumerate(yard.parts):
            mesh = trimesh.Trimesh(yard.vertices, yard.triangles[yard.triangle_part == i], process=True)
            if not mesh.is_watertight:
                continue
            solid = manifold3d.Manifold(manifold3d.Mesh(mesh.vertices.astype(np.float32), mesh.faces.astype(np.uint32)))
            assert found.get(part.name, 0.0) == pytest.approx(solid.slice(height).area(), rel=1e-3, abs=1e-4), (part.name, height)


def test_a_slanting_cut_through_a_box_has_the_area_of_geometry() -> None:
    drawing = section(model_of(("Box", box((0, 0, 0), (2, 2, 2)), 0)), (1, 1, 1), (1, 0, 1))
    assert drawing.regions()[0].region.area == pytest.approx(2 * 2 * np.sqrt(2))


def test_overlapping_parts_of_one_material_are_one_mass_without_inner_lines() -> None:
    walls = model_of(
        ("A", box((0, 0, 0), (5, 0.3, 3)), 0), ("B", box((2, -2, 0), (2.3, 2, 3)), 0), ("C", box((4.9, 0, 0), (8, 0.3, 3)), 0)
    )
    drawing = section(walls, (0, 0, 1), (0, 0, 1))
    assert len(drawing.masses) == 1
    region = drawing.masses[0].region
    assert len(region.geoms) == 1 and region.area == pytest.approx(8 * 0.3 + 4 * 0.3 - 0.3 * 0.3)
    lines = drawing.lines()
    cut = lines.visible & (lines.rank == 0)
    assert np.linalg.norm(lines.end - lines.start, axis=1)[cut].sum() == pytest.approx(region.length, rel=1e-6)


def test_inside_out_doubled_and_self_crossing_bodies_fill_as_a_person_expects() -> None:
    plain = box((0, 0, 0), (2, 2, 2))
    inside_out = plain.copy()
    inside_out.invert()
    doubled = trimesh.util.concatenate([plain, plain])
    mixed = plain.copy()
    mixed.faces[::3] = mixed.faces[::3, ::-1]
    crossing = trimesh.util.concatenate([plain, box((1, 1, 0), (3, 3, 2))])
    for body, area in ((plain, 4), (inside_out, 4), (doubled, 4), (mixed, 4), (crossing, 7)):
        drawing = section(model_of(("Body", body, 0)), (0, 0, 1.1), (0, 0, 1))
        assert drawing.regions()[0].region.area == pytest.approx(area)


def test_a_void_in_the_ground_stays_void_and_structure_goes_before_earth() -> None:
    from dataclasses import replace

    room = trimesh.boolean.difference([box((-5, -5, -6), (5, 5, 0)), box((-1, -1, -3), (1, 1, 1))], engine="manifold")
    model = model_of(("Ground", room, 2), ("Wall", box((0.8, -1, -3), (1.4, 1, 0)), 0))
    model = replace(model, parts=(replace(model.parts[0], role="ground"), model.parts[1]))
    drawing = section(model, (0, 0, -1.5), (0, 0, 1))
    areas = {model.materials[m.material].name: m.region.area for m in drawing.masses}
    assert areas["Stone"] == pytest.approx(0.6 * 2) and areas["Wood"] == pytest.approx(100 - 4 - 0.4 * 2)


def test_a_single_face_gives_a_stroke_and_an_exempt_part_is_drawn_whole() -> None:
    rail = trimesh.Trimesh([[0, 0, 0], [3, 0, 0], [3, 0, 1], [0, 0, 1]], [[0, 1, 2], [0, 2, 3]])
    model = model_of(("Rail", rail, 0), ("Chair", box((1, 1, 0), (2, 2, 2)), 2))
    drawing = section(model, (0, 0, 0.5), (0, 0, 1), parts=PartChoice(uncut=("Chair",)))
    (row,) = drawing.regions()
    assert row.region.is_empty and row.strokes.length == pytest.approx(3)
    assert drawing.scene.corners[:, :, 2].max() == pytest.approx(2)  # the chair stands up through the plane
    lines = drawing.lines()
    assert (lines.kind[lines.part == 0] == 0).any() and not (lines.kind[lines.part == 1] == 0).any()


def test_poche_lies_on_the_paper_where_the_cut_is_less_what_stands_before_it() -> None:
    model = model_of(("Wall", box((0, 0, 0), (4, 1, 3)), 0), ("Chair", box((1, -0.5, 0.5), (2, 0.8, 1.5)), 2))
    view = ViewSpecification(
        projection=Parallel(direction=(0, 1, 0)),
        cuts=(Cut(point=(0, 0.5, 0), normal=(0, -1, 0)),),
        parts=PartChoice(uncut=("Chair",)),
        frame=Frame(scale=50),
    )
    drawing = Drawing(model, view)
    (shape,) = poche_shapes(drawing.scene, drawing.masses)
    area = shapely.Polygon(shape.rings[0], shape.rings[1:]).area
    assert area == pytest.approx((4 * 3 - 1) * 20 * 20, rel=1e-6)


def test_a_second_plane_limits_the_cut_of_the_first() -> None:
    model = model_of(("Bar", box((0, 0, 0), (10, 1, 1)), 0))
    cuts = (Cut(point=(0, 0, 0.5), normal=(0, 0, 1)), Cut(point=(7, 0, 0), normal=(1, 0, 0), role="limit"))
    drawing = Drawing(model, ViewSpecification(projection=Parallel(direction=(0, 0, -1), up=(0, 1, 0)), cuts=cuts))
    (row,) = drawing.regions()
    assert row.region.area == pytest.approx(7)


def test_a_plane_that_meets_nothing_cuts_nothing() -> None:
    drawing = section(model_of(("Box", box((0, 0, 0), (2, 2, 2)), 0)), (0, 0, 5), (0, 0, 1))
    assert drawing.regions() == [] and drawing.masses == [] and drawing.poche() == [] and len(drawing.lines())
