"""Cut areas against independent sections, and the region a person expects from bodies that are not clean."""

from __future__ import annotations

from dataclasses import replace

import manifold3d
import numpy as np
import pytest
import shapely
import trimesh

from tests.conftest import box, model_of
from tests.core import models
from tests.core.test_health import gaping
from warmgraphite.drawing import Drawing
from warmgraphite.model import Model
from warmgraphite.model.edits.materials import CutOrder
from warmgraphite.model.edits.parts import Behave, SetRole
from warmgraphite.view.specification import Cut, Frame, Jog, Parallel, PartChoice, ViewSpecification


def section(model: Model, point: tuple, normal: tuple, **more) -> Drawing:  # type: ignore[no-untyped-def]
    sight = tuple(-n for n in normal)
    up = (0, 1, 0) if abs(normal[2]) > 0.9 else (0, 0, 1)
    return Drawing(
        model,
        ViewSpecification(projection=Parallel(direction=sight, up=up), cuts=(Cut(point=point, normal=normal),), **more),
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
            assert found.get(part.name, 0.0) == pytest.approx(solid.slice(height).area(), rel=1e-3, abs=1e-4), (
                part.name,
                height,
            )


def test_a_slanting_cut_through_a_box_has_the_area_of_geometry() -> None:
    drawing = section(model_of(("Box", box((0, 0, 0), (2, 2, 2)), 0)), (1, 1, 1), (1, 0, 1))
    assert drawing.regions()[0].region.area == pytest.approx(2 * 2 * np.sqrt(2))


def test_overlapping_parts_of_one_material_are_one_mass_without_inner_lines() -> None:
    walls = model_of(
        ("A", box((0, 0, 0), (5, 0.3, 3)), 0),
        ("B", box((2, -2, 0), (2.3, 2, 3)), 0),
        ("C", box((4.9, 0, 0), (8, 0.3, 3)), 0),
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
    (shape,) = drawing.result("shapes")
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
    assert drawing.regions() == [] and drawing.masses == [] and drawing.result("shapes") == [] and len(drawing.lines())


def solid_of(mesh: trimesh.Trimesh) -> manifold3d.Manifold:
    return manifold3d.Manifold(manifold3d.Mesh(mesh.vertices.astype(np.float32), mesh.faces.astype(np.uint32)))


def test_a_merged_mass_has_the_area_of_the_bodies_added_together() -> None:
    town = models.town(120)
    drawing = section(town, (0, 0, 1.37), (0, 0, 1))
    for material in (0, 2):
        bodies = [
            solid_of(trimesh.Trimesh(town.vertices, town.triangles[town.triangle_part == i], process=True))
            for i, p in enumerate(town.parts)
            if p.material == material
        ]
        whole = manifold3d.Manifold.batch_boolean(bodies, manifold3d.OpType.Add).slice(1.37).area()
        if material == 2:  # what stone has taken is not wood's any more
            stone = [r.region for r in drawing.regions() if town.parts[r.part].material == 0]
            wood = [r.region for r in drawing.regions() if town.parts[r.part].material == 2]
            whole -= shapely.intersection(shapely.union_all(stone), shapely.union_all(wood)).area
        assert sum(m.region.area for m in drawing.masses if m.material == material) == pytest.approx(whole, rel=1e-3)


@pytest.mark.parametrize("height", [0.3, 1.11, 2.05])
def test_a_cut_has_the_area_of_the_mirrored_cut(yard: Model, height: float) -> None:
    upper = section(yard, (0, 0, height), (0, 0, 1))
    turned = yard.reshaped(vertices=yard.vertices * [1, 1, -1], triangles=yard.triangles[:, ::-1])
    lower = section(turned, (0, 0, -height), (0, 0, -1))
    areas = [{r.part: r.region.area for r in d.regions()} for d in (upper, lower)]
    assert areas[0].keys() == areas[1].keys()
    assert list(areas[0].values()) == pytest.approx(list(areas[1].values()), rel=1e-5)


def test_a_small_gap_is_closed_and_a_wider_one_is_drawn_as_strokes_and_reported_at_its_place() -> None:
    (closed,) = section(model_of(("Hall", gaping(0.002), 0)), (0, 0, 1.5), (0, 0, 1)).regions()
    assert closed.region.area == pytest.approx(48, rel=1e-3) and closed.strokes.is_empty and closed.gaps.is_empty
    drawing = section(model_of(("Hall", gaping(0.2), 0)), (0, 0, 1.5), (0, 0, 1))
    (wide,) = drawing.regions()
    assert wide.region.is_empty and wide.strokes.length == pytest.approx(28, rel=1e-3)
    corners = np.array([(0, 0.1), (0, 3), (4, 3), (4, 0), (0, 0)], float)  # four walls with a slit in one corner
    floor, head = np.column_stack([corners, np.zeros(5)]), np.column_stack([corners, np.full(5, 2.0)])
    walls = [[i, i + 1, 5 + i] for i in range(4)] + [[i + 1, 6 + i, 5 + i] for i in range(4)]
    drawing = section(
        model_of(("Slit", trimesh.Trimesh(np.concatenate([floor, head]), walls, process=False), 0)),
        (0, 0, 1),
        (0, 0, 1),
    )
    (row,) = drawing.regions()
    place = drawing.scene.surfaces[0].slabs[0].frame.lifted(np.array(row.gaps.geoms[0].coords))
    assert row.region.is_empty and place == pytest.approx(np.array([[0, 0.05, 1]]), abs=1e-6)
    (remark,) = drawing.remarks()
    assert (
        remark["part"] == "Slit"
        and remark["place"] == pytest.approx([0, 0.05, 1], abs=1e-6)
        and "gap here" in remark["what"]
    )


def test_a_stepped_section_is_the_plain_sections_side_by_side_and_steps_show_in_an_oblique_view() -> None:
    """A long bar with a hole that only the second step meets.
    The return between the steps is cut too, when one sees it.
    """
    bar = trimesh.boolean.difference([box((0, 0, 0), (10, 4, 3)), box((7, 2.5, 1), (8, 3.5, 2))], engine="manifold")
    model = model_of(("Bar", bar, 0))
    cut = Cut(point=(0, 1, 0), normal=(0, -1, 0), jogs=(Jog(at=5, by=-2),))
    straight = Drawing(
        model, ViewSpecification(projection=Parallel(direction=(0, 1, 0)), cuts=(cut,), frame=Frame(scale=50))
    )
    (row,) = [r for r in straight.regions() if straight.scene.surfaces[r.plane].role == "cut"]
    assert row.region.area == pytest.approx(30 - 1) and len(row.region.geoms) == 1  # one mass over the step
    assert straight.scene.corners[:, :, 1].min() == pytest.approx(1)
    east = straight.scene.corners[straight.scene.corners[:, :, 0].min(1) > 5.01]
    assert east[:, :, 1].min() == pytest.approx(3)
    lines = straight.lines()
    cut_lines = lines.visible & (lines.rank == 0)
    assert not (cut_lines & (np.abs(lines.start[:, 0] - 5) < 1e-6) & (np.abs(lines.end[:, 0] - 5) < 1e-6)).any(), (
        "no line at the step"
    )
    (shape,) = straight.result("shapes")
    assert shapely.Polygon(shape.rings[0], shape.rings[1:]).area == pytest.approx(29 * 400, rel=1e-6)

    slant = Drawing(
        model, ViewSpecification(projection=Parallel(direction=(-0.6, 1, -0.5)), cuts=(cut,), frame=Frame(scale=50))
    )
    (wall,) = [r for r in slant.regions() if slant.scene.surfaces[r.plane].role == "return"]
    assert wall.region.area == pytest.approx(2 * 3)
    assert sum(m.region.area for m in slant.masses) == pytest.approx(29 + 6)
    seen = slant.surface()
    middle = slant.scene.projection.project(np.array([[5.0, 2.0, 1.5]]))[0, :2] / 420 * seen.part.shape[1]
    assert seen.cap[int(middle[1]), int(middle[0])] == 255, "the return is closed"


def test_a_cutting_box_leaves_what_is_in_it_with_six_closed_sides() -> None:
    sides = [(axis, end) for axis in range(3) for end in (0, 1)]
    cuts = tuple(
        Cut(
            point=tuple(np.eye(3)[axis] * (4 if end else 1)),
            normal=tuple(np.eye(3)[axis] * (1 if end else -1)),
            name="Box",
        )
        for axis, end in sides
    )
    model = model_of(("Block", box((0, 0, 0), (9, 9, 3)), 0))
    drawing = Drawing(model, ViewSpecification(projection=Parallel(direction=(0.5, 1, -0.6)), cuts=cuts))
    assert sorted(r.region.area for r in drawing.regions()) == pytest.approx([6, 6, 6, 6, 9])
    lines = drawing.lines()
    length = np.linalg.norm(lines.end - lines.start, axis=1)
    assert length[lines.visible].sum() == pytest.approx(24, rel=1e-4)
    assert length[~lines.visible].sum() == pytest.approx(8, rel=1e-4)


def test_roles_are_cut_or_left_whole_as_the_view_says() -> None:
    model = SetRole(parts=(1,), role="furniture").apply(
        model_of(("Wall", box((0, 0, 0), (4, 1, 3)), 0), ("Desk", box((5, 0, 0), (7, 1, 2)), 2))
    )

    def cut_parts(**roles: str) -> set[str]:
        drawing = section(model, (0, 0, 1), (0, 0, 1), parts=PartChoice(roles=roles))  # type: ignore[arg-type]
        return {model.parts[r.part].name for r in drawing.regions()}

    assert (
        cut_parts() == {"Wall"}
        and cut_parts(furniture="cut") == {"Wall", "Desk"}
        and cut_parts(structure="whole") == set()
    )


def test_the_order_of_materials_says_which_prevails_and_a_part_may_be_void_or_of_another_material() -> None:
    model = model_of(("Pier", box((0, 0, 0), (2, 2, 3)), 0), ("Beam", box((1, 0, 0), (4, 2, 3)), 2))

    def areas(found: Model) -> dict[str, float]:
        drawing = section(found, (0, 0, 1), (0, 0, 1))
        return {found.materials[m.material].name: m.region.area for m in drawing.masses}

    assert areas(model) == pytest.approx({"Stone": 4, "Wood": 4})
    assert areas(CutOrder(materials=(2, 0)).apply(model)) == pytest.approx({"Stone": 2, "Wood": 6})
    assert areas(Behave(parts=(0,), field="poche", value="void").apply(model)) == pytest.approx({"Wood": 6})
    alike = Behave(parts=(1,), field="cut_as", value="Stone").apply(model)
    assert areas(alike) == pytest.approx({"Stone": 8})
    lines = section(alike, (0, 0, 1), (0, 0, 1)).lines()
    length = np.linalg.norm(lines.end - lines.start, axis=1)
    assert length[lines.visible & (lines.rank == 0)].sum() == pytest.approx(12), "one closed outline round both"


def test_a_room_below_ground_is_void_though_the_ground_is_one_block() -> None:
    walls = trimesh.boolean.difference(
        [box((-2, -2, -4), (2, 2, 0.5)), box((-1.7, -1.7, -3.7), (1.7, 1.7, 0.2))], engine="manifold"
    )
    model = SetRole(parts=(0,), role="ground").apply(
        model_of(("Ground", box((-9, -9, -8), (9, 9, 0)), 2), ("Cellar", walls, 0))
    )

    def earth(found: Model) -> float:
        drawing = section(found, (0, 0, 0), (0, -1, 0))
        return sum(m.region.area for m in drawing.masses if m.material == 2)

    assert earth(model) == pytest.approx(18 * 8 - 4 * 4)
    assert earth(Behave(parts=(0,), field="poche", value="earth").apply(model)) == pytest.approx(
        18 * 8 - 4 * 4 + 3.4 * 3.7
    )
