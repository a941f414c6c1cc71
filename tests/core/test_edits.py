"""What is said of a model, and what that does to a drawing."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import trimesh
from pydantic import TypeAdapter

from tests.conftest import box, model_of
from tests.core.models import PLAIN
from warmgraphite.collage.specification import default_traces
from warmgraphite.drawing import Drawing, Need
from warmgraphite.errors import EditError, ViewError
from warmgraphite.ink.rules import Ink, default_pens
from warmgraphite.model import Model
from warmgraphite.model.edits import ModelEdit, label_of
from warmgraphite.model.model import Contours
from warmgraphite.model.role_rules import RoleRule, apply_rules
from warmgraphite.model.shapes import forms_of
from warmgraphite.model.store import ModelStore
from warmgraphite.passes.line_set import KINDS, RANKS
from warmgraphite.passes.store import PassStore
from warmgraphite.regions.query import Match
from warmgraphite.study import Change, follow_edit, fresh_document, reshape_view
from warmgraphite.study.looks import change_look
from warmgraphite.study.views import save_view
from warmgraphite.view.specification import Cut, Frame, Jog, Parallel, PartChoice, Perspective, ViewSpecification

EDIT: TypeAdapter = TypeAdapter(ModelEdit)
SECTION = ViewSpecification(
    projection=Parallel(direction=(0, 1, 0)), cuts=(Cut(point=(0, 1, 0), normal=(0, -1, 0)),),
    frame=Frame(width=120, height=80, resolution=60)
)  # fmt: skip


def yard() -> Model:
    made = model_of(
        ("Wall", box((0, 0, 0), (4, 2, 3)), 0), ("Pane", box((5, 0, 0), (6, 2, 2)), 1),
        ("Chair A", box((7, 0, 0), (8, 2, 1)), 2),
        ("Chair B", box((9, 0, 0), (10, 2, 1)), 2), ("Soil", box((-2, -1, -1), (12, 4, 0)), 2),
    )  # fmt: skip
    roles = ("structure", "glass", "structure", "structure", "structure")
    return replace(made, parts=tuple(replace(p, layer="House", role=r) for p, r in zip(made.parts, roles)))


def edited(model: Model, **edit: object) -> Model:
    made = EDIT.validate_python(edit)
    assert label_of(made, model)
    return made.apply(model)


def test_roles_decide_and_single_parts_are_overruled() -> None:
    model = yard()
    cut = lambda m: {m.parts[r.part].name for r in Drawing(m, SECTION).regions()}
    assert cut(model) == {"Wall", "Pane", "Chair A", "Chair B", "Soil"}
    seated = edited(model, do="role", parts=[2, 3], role="furniture")
    assert cut(seated) == {"Wall", "Pane", "Soil"}
    sawn = edited(seated, do="behave", parts=[3], field="cut", value=True)
    assert cut(sawn) == {"Wall", "Pane", "Soil", "Chair B"}
    assert cut(edited(sawn, do="behave", parts=[3], field="cut", value=None)) == {"Wall", "Pane", "Soil"}
    assert not edited(model, do="behave", parts=[1], field="clear", value=False).parts.is_glass[1]
    with pytest.raises(EditError, match="strong"):
        edited(model, do="behave", parts=[1], field="cut", value="strong")


def test_context_is_drawn_softly_and_the_subject_strongly() -> None:
    weights = {}
    for role in ("structure", "context", "subject"):
        model = edited(yard(), do="role", parts=[0], role=role)
        view = ViewSpecification(projection=Parallel(direction=(0.4, 1, -0.5)), frame=SECTION.frame)
        plate = Drawing(model, view, ink=Ink(pens=tuple(r for r in default_pens() if r.id != "fading"))).plate()
        weights[role] = {s.style.weight for s in plate.strokes() if s.style.group == "outline"}
    assert (
        max(weights["structure"]) == 0.3
        and min(weights["context"]) < 0.2
        and max(weights["subject"]) == pytest.approx(0.42)
    )


def test_ground_takes_earth_hatch_that_stays_within_its_shape() -> None:
    model = edited(yard(), do="role", parts=[4], role="ground")
    hatched = [f for f in Drawing(model, SECTION).result("poche") if f.work.rows]
    assert len(hatched) == 1 and hatched[0].shape.part == 4 and sum(len(r.first) for r in hatched[0].work) > 20
    low, high = np.concatenate(hatched[0].shape.rings).min(0), np.concatenate(hatched[0].shape.rings).max(0)
    points = np.concatenate([r.xy for r in hatched[0].work])
    assert (points >= low - 0.05).all() and (points <= high + 0.05).all()


def test_rules_name_roles_and_the_last_that_matches_counts() -> None:
    rules = [
        RoleRule(pattern="*chair*", role="furniture"),
        RoleRule(pattern="House/Chair B", role="subject"),
        RoleRule(pattern="soil", role="ground"),
    ]
    found = [p.role for p in apply_rules(yard(), rules).parts]
    assert found == ["structure", "glass", "furniture", "subject", "ground"]
    assert [p.role for p in apply_rules(yard(), rules, [3]).parts][2:] == ["structure", "subject", "structure"]


def test_hide_isolate_drop_rename_and_move() -> None:
    model = yard()
    assert edited(edited(model, do="isolate", parts=[0, 1]), do="show", parts=[4]).hidden == (2, 3)
    assert edited(edited(model, do="hide", parts=[2]), do="show").hidden == ()
    dropped = edited(model, do="drop", parts=[2, 4])
    assert dropped.parts.present.tolist() == [True, True, False, True, False] and len(dropped.triangles) == 36
    assert dropped.part_shape[3] == model.part_shape[3] and dropped.bounds[0][2] == 0
    with pytest.raises(EditError, match="at least one"):
        edited(dropped, do="drop", parts=[0, 1, 3])
    with pytest.raises(EditError, match="does not have"):
        edited(model, do="hide", parts=[99])
    moved = edited(edited(model, do="move", parts=[0], layer=" Hall / Walls/ "), do="rename", part=0, name="North wall")
    assert moved.parts[0].path == "Hall/Walls/North wall"


def test_what_a_view_leaves_out_stays_left_out_under_any_name() -> None:
    model = edited(edited(yard(), do="rename", part=2, name="Chair B"), do="rename", part=0, name="Wall [2]*")
    choice = PartChoice(hidden=("House/Chair B", "House/Wall [[]2][*]", "House/P*"), uncut=("House/Soil",))
    document = fresh_document("Yard")
    document = save_view(reshape_view(document, lambda view: view.model_copy(update={"parts": choice})))
    before = model.parts.selected(choice.hidden)
    assert before.tolist() == [True, True, True, True, False]  # two chairs are called the same
    for edit in (
        {"do": "rename", "part": 3, "name": "Stool [?]"},
        {"do": "move", "parts": [0, 1, 2], "layer": "Hall *"},
        {"do": "rename", "part": 4, "name": "Earth"},
    ):
        made = EDIT.validate_python(edit)
        after = made.apply(model)
        document, model = follow_edit(document, made, model, after), after
        for view in (document.desk.view, document.views[0].view):
            kept = model.parts.selected(view.parts.hidden)
            assert kept[[0, 2, 3, 4]].tolist() == before[[0, 2, 3, 4]].tolist()
            assert "House/P*" in view.parts.hidden  # a pattern stays one, and the pane left its layer
            assert model.parts.selected(view.parts.uncut).tolist() == [False] * 4 + [True]
    assert not model.parts.selected(document.desk.view.parts.hidden)[1]


def test_materials_are_changed_merged_and_shown_as_white_card() -> None:
    model = yard()
    merged = edited(model, do="merge", materials=[0, 2], into=2)
    assert [m.name for m in merged.materials] == ["Glass", "Wood"] and merged.materials[1].was == ("Wood", "Stone")
    assert [merged.materials[p.material].name for p in merged.parts] == ["Wood", "Glass", "Wood", "Wood", "Wood"]
    white = edited(model, do="white_card", on=True)
    seen = Drawing(white, SECTION).colour()
    solid = (seen[..., 3] == 255) & (Drawing(white, SECTION).surface().part == 0)
    assert (seen[solid][:, :3] == [0xF4, 0xF1, 0xEA]).all() and solid.any()
    assert white.materials == model.materials and edited(white, do="white_card", on=False).looks == model.materials
    named = edited(model, do="edit_material", material=0, name="Brick", opacity=0.4)
    assert named.materials[0].was == ("Stone",) and named.parts.is_glass[0]
    with pytest.raises(EditError, match="already"):
        edited(model, do="edit_material", material=0, name="Wood")


def test_a_view_shows_its_part_set_and_a_trace_is_confined_to_one() -> None:
    model = edited(yard(), do="keep_set", name="Seats", parts=[2, 3])
    view = SECTION.model_copy(update={"parts": PartChoice(set="Seats"), "cuts": ()})
    assert set(np.unique(Drawing(model, view).surface().part)) == {-1, 2, 3}
    with pytest.raises(ViewError, match="Gone"):
        Drawing(model, view.model_copy(update={"parts": PartChoice(set="Gone")})).lines()
    seats = Match(sets=("Seats",))
    traces = tuple(t.model_copy(update={"where": seats}) for t in default_traces())
    whole = Drawing(model, SECTION.model_copy(update={"cuts": ()}))
    assert ((whole.result(Need("mask", seats)) > 127) == np.isin(whole.surface().part, [2, 3])).mean() > 0.99
    assert set(whole.result(Need("strokes", seats)).part) == {2, 3} and whole.result(Need("poche", seats)) == []
    # When a set goes, what went by it shows all again.
    document = fresh_document("Yard", [view])
    everywhere = [Change(path=("traces", t.id, "where"), value=seats.model_dump(mode="json")) for t in traces[:4]]
    here = [Change(path=("traces", t.id), value=t.model_dump(mode="json")) for t in traces[4:]]
    document = change_look(change_look(document, everywhere, everywhere=True), here)
    assert {t.where for t in document.look.traces} == {seats} and len(document.on_desk.changes) == len(traces) - 4
    gone = EDIT.validate_python({"do": "remove_set", "name": "Seats"})
    after = follow_edit(document, gone, model, gone.apply(model))
    assert after.desk.view.parts.set == "" and {t.where for t in after.look.traces} == {None}


def test_other_units_scale_the_model_and_take_its_views_along() -> None:
    model = replace(yard(), units="m", up="z")
    views = [
        SECTION.model_copy(update={"frame": Frame(width=120, height=80, scale=100)}),
        ViewSpecification(projection=Perspective(eye=(2, -9, 2), target=(2, 0, 1)), frame=SECTION.frame),
        ViewSpecification(
            projection=Perspective(eye=(2, -9, 2), target=(2, 0, 1), scale_distance=8),
            cuts=(Cut(point=(0, 0.5, 0), normal=(0, -1, 0), jogs=(Jog(at=1, by=0.5),)),),
            frame=Frame(width=120, height=80, scale=100),
        ),
    ]
    document = fresh_document("Yard", views)
    edit = EDIT.validate_python({"do": "remeasure", "units": "ft", "up": "y"})
    small = edit.apply(model)
    assert small.bounds[1][0] == pytest.approx(12 * 0.3048) and small.bounds[1][2] == pytest.approx(4 * 0.3048)
    after = follow_edit(document, edit, model, small)
    for old, new in zip(document.views, after.views):
        seen, again = (Drawing(m, v.view).scene.projection.project(m.vertices) for m, v in ((model, old), (small, new)))
        assert np.allclose(
            again[:, :2] - again[0, :2],
            (seen[:, :2] - seen[0, :2]) * (0.3048 if old.view.frame.scale else 1),
            atol=1e-6,
        )
    whole, less = (
        sum(mass.region.area for mass in Drawing(m, d.views[2].view).masses)
        for m, d in ((model, document), (small, after))
    )
    assert less == pytest.approx(whole * 0.3048**2) and whole > 1
    back = EDIT.validate_python({"do": "remeasure", "units": "m", "up": "z"})
    assert np.allclose(back.apply(small).vertices, model.vertices, atol=1e-9)


def hill() -> trimesh.Trimesh:
    """A cone of 10 m on a square of ground, so that contours are circles of known size."""
    angle = np.linspace(0, 2 * np.pi, 181)[:-1]
    rim = np.column_stack([40 * np.cos(angle), 40 * np.sin(angle), np.zeros(180)])
    faces = [(180, i, (i + 1) % 180) for i in range(180)]
    return trimesh.Trimesh(np.vstack([rim, [[0, 0, 10]]]), faces, process=False)


def test_contours_lie_on_the_ground_at_their_levels_and_index_ones_are_stronger() -> None:
    model = model_of(("Hill", hill(), 2), ("Hut", box((2, 2, 0), (6, 6, 14)), 0))
    model = replace(
        model,
        parts=(replace(model.parts[0], role="ground"), model.parts[1]),
        contours=Contours(2.0, 2),
        origin=(0.0, 0.0, 101.0),
    )
    view = ViewSpecification(
        projection=Parallel(direction=(0, 0, -1), up=(0, 1, 0)), frame=Frame(width=200, height=200)
    )
    lines = Drawing(model, view).lines()
    rows = np.flatnonzero(lines.kind == KINDS.index("terrain"))
    levels = {round(z, 6) for z in lines.start[rows][:, 2]}
    assert levels == {1.0, 3.0, 5.0, 7.0, 9.0}  # 102, 104 … 110 m above the sea
    for level in levels:
        own = rows[np.isclose(lines.start[rows][:, 2], level)]
        length = np.linalg.norm(lines.end[own] - lines.start[own], axis=1).sum()
        radius = (10 - level) * 4
        assert length == pytest.approx(2 * np.pi * radius, rel=2e-3)
        away = np.hypot(*((lines.start[own] + lines.end[own]) / 2)[:, :2].T)
        assert np.allclose(away, radius, rtol=1e-3)
        index = round(level + 101) % 4 == 0
        assert {RANKS[r] for r in lines.rank[own]} == {"edge" if index else "surface"}
    under = [r for r in rows if not lines.visible[r]]
    assert under and all((2 <= lines.start[r][0] <= 6.01) for r in under)  # the hut hides what it stands on
    assert not (Drawing(replace(model, contours=None), view).lines().kind == KINDS.index("terrain")).any()


#: Passes that have nothing to show in an ink that says nothing of hatches, build-ups and marks.
NOTHING = {"surfaces", "hatched", "sides", "built", "ground", "marks", "looks", "rooms", "beams"}


def test_only_what_depends_on_a_change_becomes_stale(tmp_path: Path) -> None:
    store = PassStore(tmp_path)
    model = edited(yard(), do="role", parts=[2], role="furniture")
    Drawing(model, SECTION, store=store).compute(PLAIN)
    stale = lambda m, v=SECTION: {n for n, fresh in Drawing(m, v, store=store).fresh(PLAIN).items() if not fresh}
    assert stale(edited(model, do="rename", part=0, name="Other")) == set()
    assert (
        stale(edited(model, do="hide", parts=[0])) == set()
        and stale(edited(model, do="keep_set", name="x", parts=[0])) == set()
    )
    assert stale(edited(model, do="behave", parts=[0], field="drawn", value="strong")) == {"strokes", "penned"}
    assert stale(edited(model, do="edit_material", material=0, colour="#123456")) == {"colour"}
    assert stale(edited(model, do="contours", interval=0.25)) == {"lines", "regions", "cover", "strokes", "penned"}

    # What is said of light leaves alone what does not stand in it.
    def other(**words: object) -> ViewSpecification:
        return ViewSpecification.model_validate(SECTION.model_dump() | words)

    sun = SECTION.sun.model_dump()
    assert stale(model, other(sun=sun | {"azimuth": 77})) == {"light", "shadow", "regions", "cover"}
    moment = {"latitude": 50, "longitude": 8, "date": "2026-06-21", "hour": 12}
    assert stale(model, other(sun=sun | {"moment": moment})) == set()
    assert stale(model, other(occlusion={"strength": 0.4}, depth={"bands": 9})) == set()
    assert stale(model, other(occlusion={"radius": 0.7})) == {"corners", "occlusion"}

    # A part that stands where the plane does not reach has nothing to do with the cut.
    def with_chair(change: Callable[[np.ndarray], np.ndarray]) -> Model:
        vertices = model.vertices.copy()
        rows = np.unique(model.triangles[model.triangle_part == 3])
        vertices[rows, 1] = change(vertices[rows, 1])
        return model.reshaped(vertices=vertices)

    behind = with_chair(lambda y: y + 1.5)
    Drawing(behind, SECTION, store=store).compute(PLAIN)
    assert stale(with_chair(lambda y: y + 1.6)) == set(PLAIN) - {"cut", "caps", "remarks", *NOTHING}
    # And one that is wholly taken away has nothing to do with anything.
    Drawing(with_chair(lambda y: y * 0.4), SECTION, store=store).compute(PLAIN)
    assert stale(with_chair(lambda y: y * 0.2)) == set()


def test_states_of_a_model_share_what_takes_the_room(tmp_path: Path) -> None:
    store = ModelStore(tmp_path)
    model = yard()
    versions = [store.save(model)]
    for i in range(5):
        model = edited(model, do="rename", part=0, name=f"Wall {i}")
        versions.append(store.save(model))
    assert len(set(versions)) == 6 and len(list(tmp_path.glob("*.npz"))) == 1
    again = ModelStore(tmp_path)
    first, last = again.load(versions[0]), again.load(versions[5])
    assert (first.parts[0].name, last.parts[0].name) == ("Wall", "Wall 4") and first.vertices is last.vertices
    assert last.version == versions[5] and replace(last).version == versions[5] and last.about() == model.about()
    # A part that is gone from a newer file stays as a row: the same triangles, and one part more of which things are
    # known.
    forms_of(last), last.part_shape
    more = replace(model, parts=(*model.parts, replace(model.parts[0], name="Gone", absent=True)))
    assert more.body == model.body
    found = again.load(store.save(more))
    assert found.mesh is last.mesh
    assert len(found.part_bounds) == len(found.part_shape) == len(forms_of(found).signature) == len(model.parts) + 1
