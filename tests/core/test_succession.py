"""The next version of a model: each part is found again, and what was said of it stays."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import trimesh
from pydantic import TypeAdapter

from tests.conftest import box
from warmgraphite.model import Material, Model, Part, build_model
from warmgraphite.model.edits import ModelEdit
from warmgraphite.model.role_rules import RoleRule
from warmgraphite.model.succession import match_parts, succeed

EDIT: TypeAdapter = TypeAdapter(ModelEdit)
STONE, OAK, TILE = Material("Stone", "#aaa090"), Material("Oak", "#c09060"), Material("Tile", "#904030")


def made(
    *rows: tuple[str, str, trimesh.Trimesh, int], ids: bool = False, materials: tuple[Material, ...] = (STONE, OAK)
) -> Model:
    parts = [
        (Part(n, layer, m, id=f"id-{n}" if ids else ""), np.array(t.vertices), np.array(t.faces))
        for layer, n, t, m in rows
    ]
    return build_model("House", parts, materials)


def first(ids: bool = False) -> Model:
    return made(
        ("Hall", "Wall", box((0, 0, 0), (4, 1, 3)), 0), ("Hall", "Roof", box((0, 0, 3), (4, 4, 3.2)), 1),
        ("Hall", "Stool", box((1, 1, 0), (1.4, 1.4, 0.5)), 1),
        ("Hall", "Stool", box((2, 1, 0), (2.4, 1.4, 0.5)), 1), ("Yard", "Shed", box((9, 0, 0), (12, 3, 2)), 1),
        ("Yard", "Post", box((6, 0, 0), (6.2, 0.2, 2)), 1), ids=ids,
    )  # fmt: skip


def edited(model: Model, *edits: dict) -> Model:
    for edit in edits:
        model = EDIT.validate_python(edit).apply(model)
    return model


def test_moved_renamed_split_new_and_removed_parts() -> None:
    base = first()
    current = edited(
        base,
        {"do": "role", "parts": [2, 3], "role": "furniture"}, {"do": "role", "parts": [5], "role": "subject"},
        {"do": "behave", "parts": [4], "field": "cut", "value": False},
        {"do": "keep_set", "name": "Seats", "parts": [2, 3]}, {"do": "hide", "parts": [4]},
        {"do": "edit_material", "material": 1, "colour": "#112233"}, {"do": "drop", "parts": [3]},
    )  # fmt: skip
    fresh = made(
        ("Hall", "Stool", box((3, 2, 0), (3.4, 2.4, 0.5)), 1),  # moved
        ("Hall", "Stool", box((2, 1, 0), (2.4, 1.4, 0.5)), 1),  # as it was; dropped here
        ("Hall", "Wall west", box((0, 0, 0), (2, 1, 3)), 0), ("Hall", "Wall east", box((2, 0, 0), (4, 1, 3)), 0),
        # split in two
        ("Hall", "Roof", box((0, 0, 3), (4, 4, 3.4)), 2),  # thicker, and of tile
        ("Garden", "Store", box((9, 0, 0), (12, 3, 2)), 1),  # the shed by another name
        materials=(STONE, OAK, TILE),
    )  # fmt: skip
    new_base, state, report = succeed(base, current, fresh, [RoleRule(pattern="*wall*", role="envelope")])
    names = {p.name: i for i, p in enumerate(state.parts) if not p.absent}
    assert names["Roof"] == 1 and names["Stool"] == 2 and names["Store"] == 4  # they keep their numbers
    assert state.parts[0].absent and state.parts[5].absent and state.parts[3].absent  # gone, gone, dropped here
    assert state.parts[2].role == "furniture" and state.parts[4].cut is False and state.hidden == (4,)
    assert {state.parts[names[n]].role for n in ("Wall west", "Wall east")} == {"envelope"}  # new parts go by the rules
    assert (
        state.materials[state.parts[4].material].colour == "#112233"
        and state.materials[state.parts[1].material].name == "Tile"
    )
    assert state.sets["Seats"] == (2, 3) and state.in_set("Seats").nonzero()[0].tolist() == [2, 3]  # type: ignore[union-attr]
    assert np.allclose(state.part_bounds[2], [[3, 2, 0], [3.4, 2.4, 0.5]])
    assert report.counts == {
        "same": 1,
        "new": 2,
        "gone": 2,
        "moved": 1,
        "reshaped": 1,
        "renamed": 1,
        "rematerialled": 1,
        "lost": 1,
    }
    assert set(report.new) == {"Hall/Wall west", "Hall/Wall east"} and set(report.gone) == {"Hall/Wall", "Yard/Post"}
    assert report.moved == (("Hall/Stool", 2.236),) and report.reshaped == ("Hall/Roof",)
    assert report.renamed == (("Garden/Store", "Yard/Shed"),) and report.lost == (("Yard/Post", "role subject"),)
    assert new_base.parts.present.tolist() == [False, True, True, True, True, False, True, True]
    # The third version brings the post back: under its number, with what was said of it.
    third = made(*[("Yard", "Post", box((6, 0, 0), (6.2, 0.2, 2)), 1)],
        *[(p.layer, p.name, _mesh(fresh, i), p.material) for i, p in enumerate(fresh.parts)],
        materials=(STONE, OAK, TILE))  # fmt: skip
    _, again, report = succeed(new_base, state, third)
    assert again.parts[5].name == "Post" and not again.parts[5].absent and again.parts[5].role == "subject"
    assert report.new == ("Yard/Post",) and report.counts["gone"] == 0 and report.counts["lost"] == 0


def _mesh(model: Model, number: int) -> trimesh.Trimesh:
    return trimesh.Trimesh(model.vertices, model.triangles[model.triangle_part == number], process=False)


def test_a_global_id_goes_before_names_and_names_before_shapes() -> None:
    base = first(ids=True)
    swapped = replace(
        base, parts=tuple(replace(p, name=f"Renamed {i}", layer="Elsewhere") for i, p in enumerate(base.parts))
    )
    order = np.array([4, 2, 0, 5, 1, 3])
    rows = [(swapped.parts[i].layer, swapped.parts[i].name, _mesh(base, i), 0) for i in order]
    turned = replace(made(*rows), parts=tuple(replace(swapped.parts[i], material=0) for i in order))
    assert match_parts(base, turned).tolist() == order.tolist()
    plain = replace(turned, parts=tuple(replace(p, id="") for p in turned.parts))
    assert match_parts(base, plain).tolist() == order.tolist()  # nothing left to go by but shape and place
    named = made(("Hall", "Roof", box((50, 0, 0), (51, 1, 1)), 0), ("Hall", "Wall", _mesh(base, 1), 0))
    assert match_parts(base, named).tolist() == [1, 0]  # a name goes before a shape in the same place


def test_the_same_file_again_changes_nothing_and_keeps_every_pass() -> None:
    from tests.core.models import PLAIN
    from warmgraphite.drawing import Drawing
    from warmgraphite.view.specification import Parallel, ViewSpecification

    base = first()
    current = edited(
        base, {"do": "role", "parts": [1], "role": "envelope"}, {"do": "merge", "materials": [0, 1], "into": 0}
    )
    _, state, report = succeed(base, current, first())
    assert report.counts["same"] == 6 and sum(report.counts.values()) == 6
    assert state.about() == current.about() and state.mesh.geometry == current.mesh.geometry
    view = ViewSpecification(projection=Parallel(direction=(0, 1, 0)))
    for name in PLAIN:
        assert Drawing(state, view).key(name) == Drawing(current, view).key(name), name


def test_a_version_read_in_other_units_meets_the_one_before() -> None:
    base = first()
    current = edited(base, {"do": "remeasure", "units": "cm", "up": "z"})
    fresh = replace(first().transformed(np.diag([0.01, 0.01, 0.01, 1.0])), units="cm")
    _, state, report = succeed(base, current, fresh)
    assert report.counts["same"] == 6 and state.units == "cm" and state.bounds[1][0] == 0.12


def test_mends_that_the_newer_file_does_not_have_are_told() -> None:
    base = first()
    vertices = base.vertices.copy()
    vertices[0] += 0.01
    _, _, report = succeed(base, base.reshaped(vertices=vertices), first())
    assert "Mends of 1 parts" in report.notes[0]
