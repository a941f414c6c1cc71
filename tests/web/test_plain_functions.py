"""What the browser computes for itself agrees with the core: the frame, the parts, the document, the choice."""

from __future__ import annotations

import json
import subprocess
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter

from studio.settings import ROOT
from tests.core.test_finishes import documents
from tests.conftest import box, examples, model_of
from warmgraphite.model import Material, Part, build_model
from warmgraphite.model.behaviour import BEHAVIOUR, ROLES

from warmgraphite.regions.query import Query
from warmgraphite.regions.soft import Round, window_names
from warmgraphite.study import Command, StudyDocument, apply_commands, changes_between, fresh_document
from warmgraphite.view.projection import projection_of
from warmgraphite.model.edits.parts import SetRole
from warmgraphite.view.scene import build_scene, shown_parts, uncut_parts
from warmgraphite.view.specification import ViewSpecification
from warmgraphite.view.windows import Disc

Call = Callable[..., Any]
MODEL = model_of(("A", box((0, 0, 0), (4, 3, 2)), 0), ("B", box((5, 0, 0), (6, 3, 2)), 1))


@pytest.fixture(scope="session")
def web(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Call]:
    """Calls a function of the front end by its name."""
    bundle = tmp_path_factory.mktemp("web") / "plain.mjs"
    packer = ROOT / "web" / "node_modules" / ".bin" / "rolldown"
    entry = Path(__file__).with_name("entry.ts")
    done = subprocess.run([packer, entry, "-o", bundle, "-f", "esm", "--platform", "node"], cwd=ROOT / "web",
        capture_output=True, text=True)
    assert done.returncode == 0, done.stderr
    process = subprocess.Popen(["node", bundle], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)
    assert process.stdin and process.stdout

    def call(name: str, *args: Any) -> Any:
        process.stdin.write(json.dumps({"name": name, "args": args}) + "\n")  # type: ignore[union-attr]
        process.stdin.flush()  # type: ignore[union-attr]
        found = json.loads(process.stdout.readline())  # type: ignore[union-attr]
        assert "error" not in found, found["error"]
        return found["value"]

    yield call
    process.stdin.close()
    process.wait(10)


numbers = st.floats(-40, 40).map(lambda v: round(v, 3))
points = st.tuples(numbers, numbers, numbers)
ways = points.filter(lambda d: np.hypot(d[0], d[1]) > 1)
papers = st.fixed_dictionaries({"width": st.integers(50, 900), "height": st.integers(50, 900),
    "scale": st.sampled_from([20, 50, 100, 200])})
projections = st.one_of(
    st.builds(
        lambda eye, way, angle,
        upright: {"kind": "perspective", "eye": eye, "target": [a + b for a, b in zip(eye, way)],
            "field_of_view": angle, "upright": upright, "up": [0, 0, 1]},
        points, ways, st.integers(10, 120), st.booleans(),
    ),
    st.builds(lambda way, centre: {"kind": "parallel", "direction": way, "centre": centre, "up": [0, 0, 1]}, ways,
        points),
    st.builds(
        lambda way, centre, angle,
        ratio: {"kind": "oblique", "direction": way, "centre": centre, "up": [0, 0, 1], "receding_angle": angle,
            "receding_ratio": ratio},
        ways, points, st.integers(0, 180), st.floats(0, 2),
    ),
)  # fmt: skip


@settings(max_examples=examples(120, 40), deadline=None)
@given(projection=projections, frame=papers)
def test_a_view_being_moved_has_the_frame_that_it_will_be_drawn_in(web: Call, projection: dict, frame: dict) -> None:
    view = ViewSpecification.model_validate({"projection": projection, "frame": frame})
    wanted = projection_of(view.projection, view.frame, MODEL.vertices).matrix
    found = np.array(web("frameMatrix", view.model_dump(mode="json"), 100, [0, 0, 0]))
    # The third row only orders depth, and may count it in another way for parallel kinds.
    rows = [0, 1, 3]
    size = np.abs(wanted[rows]).max(1, keepdims=True) + 1
    assert np.allclose(found[rows] / size, wanted[rows] / size, atol=1e-9)


@settings(max_examples=examples(60, 20), deadline=None)
@given(projection=projections, around=st.floats(-3, 3), over=st.floats(-1, 1))
def test_an_orbit_keeps_its_distance_and_its_turning_point(web: Call, projection: dict, around: float,
    over: float) -> None:
    after = web("orbited", projection, around, over, [0, 0, 0])
    ViewSpecification.model_validate({"projection": after})  # it can be drawn
    if projection["kind"] == "perspective":
        assert after["target"] == pytest.approx(projection["target"])
        before, now = (np.linalg.norm(np.subtract(p["eye"], p["target"])) for p in (projection, after))
        assert now == pytest.approx(before)
    else:
        assert after["centre"] == pytest.approx(projection["centre"])
    if abs(over) < 1e-9:
        assert web("bearing", after) is not None


@settings(max_examples=examples(60, 20), deadline=None)
@given(normal=ways, point=points, offset=numbers)
def test_planes_are_moved_flipped_and_turned(web: Call, normal: tuple, point: tuple, offset: float) -> None:
    cut = {"point": point, "normal": normal, "role": "cut"}
    moved = web("atOffset", cut, offset)
    assert web("offsetOf", moved) == pytest.approx(offset, abs=1e-9) and moved["normal"] == pytest.approx(normal)
    assert web("flipped", web("flipped", cut))["normal"] == pytest.approx(normal)
    turned = cut
    for _ in range(4):
        turned = web("quarterTurned", turned)
    if abs(normal[2]) / np.linalg.norm(normal) < 0.99:
        assert turned["normal"] == pytest.approx(normal)
        assert np.dot(web("quarterTurned", cut)["normal"][:2], normal[:2]) == pytest.approx(0, abs=1e-9)


def parts_of(rows: list[tuple[str, str, int, str, float]], **more: Any) -> dict:
    """Parts as the API gives them, from (layer, name, material, role, length)."""
    layers = sorted({r[0] for r in rows})
    return {
        "name": [r[1] for r in rows], "layer": [layers.index(r[0]) for r in rows], "material": [r[2] for r in rows],
        "role": [ROLES.index(r[3]) for r in rows],
        "triangles": [12 * (i + 1) for i in range(len(rows))], "shape": [i % 3 for i in range(len(rows))],
        "size": [v for r in rows for v in (r[4], 0.1, 0.1)],
        "middle": [0.0] * (3 * len(rows)), "absent": [], "dropped": [], "hidden": [], "overruled": {}, "whole": [],
        "clear": [], "earth": [], "layers": layers, "roles": list(ROLES), "sets": {}, "rooms": [],
        "materials": [{"name": n, "colour": "#aaaaaa", "shown": "#aaaaaa", "opacity": o, "clear": o < 0.6} for n,
            o in (("Stone", 1.0), ("Glass", 0.2), ("Oak", 1.0))],
        "behaviour": {r: vars(b) for r, b in BEHAVIOUR.items()}, "white_card": False, "contour_interval": None,
        "contour_index": 5, **more,
    }  # fmt: skip


rows_of_parts = st.lists(
    st.tuples(st.sampled_from(["", "House", "House/Roof", "Yard"]),
        st.sampled_from(["Wall", "Chair 2", "Chair 10", "Pane", "Tree"]), st.integers(0, 2), st.sampled_from(ROLES),
        st.sampled_from([0.5, 2.0, 9.0])),
    min_size=1, max_size=20,
)  # fmt: skip


@settings(max_examples=examples(80, 27), deadline=None)
@given(rows=rows_of_parts, data=st.data())
def test_the_filter_finds_what_it_says(web: Call, rows: list, data: st.DataObject) -> None:
    absent = data.draw(st.lists(st.integers(0, len(rows) - 1), max_size=3, unique=True))
    role, material = data.draw(st.sampled_from(["", *ROLES])), data.draw(st.integers(-1, 2))
    least, most = data.draw(st.sampled_from([(0, 0), (1, 0), (0, 3), (1, 3)]))
    words, troubled = data.draw(st.sampled_from(["", "chair", "house wall", "OAK",
        "roof  2"])), data.draw(st.sampled_from([None, [0, 2]]))
    wish = {"words": words, "role": role, "material": material, "least": least, "most": most,
        "problem": "gaps" if troubled is not None else ""}
    parts = parts_of(rows, absent=absent)
    found = web("filtered", parts, wish, {"set": troubled or []})
    names = ["Stone", "Glass", "Oak"]
    wanted = [
        n
        for n, (layer, name, m, r, length) in enumerate(rows)
        if n not in absent
        and (not role or r == role)
        and (material < 0 or m == material)
        and (not least or length >= least)
        and (not most or length <= most)
        and (troubled is None or n in troubled)
        and all(w in f"{layer}/{name} {names[m]} {r}".lower() for w in words.lower().split())
    ]
    assert found == wanted
    # The tree shows each of them once, under its own layer; counts add up.
    tree = web("treeRows", parts, wanted, {"set": ["House", "House/Roof", "Yard", "No layer"]})
    assert sorted(r["part"] for r in tree if r["kind"] == "part") == wanted
    assert sum(len(r["parts"]) for r in tree if r["kind"] == "layer" and r["depth"] == 0) == len(wanted)
    closed = web("treeRows", parts, wanted, {"set": []})
    assert all(r["kind"] == "layer" and r["depth"] == 0 for r in closed)
    # The schedule has the same rows in any order of it, and the other way round.
    for column, key in (("triangles", lambda n: parts["triangles"][n]), ("size", lambda n: rows[n][4])):
        rising = web("sorted", parts, wanted, column, False)
        assert [key(n) for n in rising] == sorted(key(n) for n in wanted) and web("sorted", parts, wanted, column,
            True) == rising[::-1]
    by_name = web("sorted", parts, wanted, "name", False)
    if "Chair 2" in (chairs := [rows[n][1] for n in by_name]) and "Chair 10" in chairs:
        assert chairs.index("Chair 2") < chairs.index("Chair 10")  # numbers count as numbers


BODY = box((0, 0, 0), (1, 1, 1))
what_is_said = st.fixed_dictionaries({"cut": st.sampled_from([None, True, False]),
    "clear": st.sampled_from([None, True, False]),
    "poche": st.sampled_from([None, "solid", "earth", "void"])})  # fmt: skip


@settings(max_examples=examples(60, 20), deadline=None)
@given(rows=rows_of_parts, data=st.data())
def test_the_look_of_parts_is_what_the_core_says_of_them(web: Call, rows: list, data: st.DataObject) -> None:
    """Of a model with these parts, whatever is said of them alone, and a view that takes some otherwise."""
    said = [data.draw(what_is_said) for _ in rows]
    materials = [Material("Stone"), Material("Glass", "#aaccdd", 0.2), Material("Oak")]
    bodies = [
        (Part(name, layer, m, role, **more), np.array(BODY.vertices) + [2 * i, 0, 0], np.array(BODY.faces))
        for i, ((layer, name, m, role, _), more) in enumerate(zip(rows, said))
    ]
    model = build_model("House", bodies, materials)
    roles = data.draw(st.dictionaries(st.sampled_from(ROLES), st.sampled_from(["cut", "whole"]), max_size=3))
    choice = {"hidden": data.draw(st.sampled_from([(), ("*Chair*",)])),
        "uncut": data.draw(st.sampled_from([(), ("Wall",)])), "roles": roles}
    view = ViewSpecification.model_validate({"projection": {"kind": "parallel", "direction": [0, 1, 0]},
        "parts": choice})
    hidden, uncut = ~shown_parts(model, view), uncut_parts(model, view)
    listed = {"clear": np.flatnonzero(model.parts.is_glass).tolist(),
        "earth": np.flatnonzero(model.parts.earth).tolist(),
        "whole": np.flatnonzero(~model.parts.is_cut).tolist()}  # fmt: skip
    parts = parts_of(rows, **listed)
    chosen = data.draw(st.lists(st.integers(0, len(rows) - 1), max_size=4, unique=True))
    colouring = data.draw(st.sampled_from(["material", "layer", "role", "problem"]))
    taken = {"hidden": np.flatnonzero(hidden).tolist(), "uncut": np.flatnonzero(uncut).tolist()}
    look = web("lookOf", parts, colouring, {"set": chosen}, {"set": [0]}, taken)
    for n in range(len(rows)):
        state, alpha = look["state"][n], look["tone"][4 * n + 3]
        assert [bool(state & bit) for bit in (1, 2, 4, 8)] == [hidden[n], n in chosen, uncut[n],
            bool(model.parts.earth[n])]
        assert (alpha < 153) == bool(model.parts.is_glass[n])
    by = data.draw(st.sampled_from(["layer", "material", "shape", "role"]))
    if chosen:
        wanted = {parts[by][n] for n in chosen}
        assert web("grown", parts, {"set": chosen}, by) == [n for n in range(len(rows)) if parts[by][n] in wanted]


steps = st.lists(st.tuples(st.integers(-4, 4), st.sampled_from([-1.5, 0.7, 2.0])), max_size=2, unique_by=lambda j: j[0])
cuts = st.lists(
    st.builds(
        lambda point, normal, jogs,
        role: {"point": point, "normal": normal, "role": role, "jogs": [{"at": a, "by": b} for a, b in jogs]},
        st.tuples(*[st.sampled_from([0.37, 1.3, 4.6, -2.2])] * 3),
        st.sampled_from([(0, -1, 0), (0, 0, 1), (1, 1, 0), (-1, 0, 0.3)]), steps,
        st.sampled_from(["cut", "cut", "limit"]),
    ), min_size=1, max_size=2,
)  # fmt: skip


@settings(max_examples=examples(60, 20), deadline=None)
@given(cuts=cuts, data=st.data())
def test_furniture_that_lies_wholly_in_the_removed_part_goes_in_3d_as_in_the_drawing(web: Call, cuts: list,
    data: st.DataObject) -> None:
    places = data.draw(st.lists(st.tuples(*[st.integers(-5, 5)] * 3), min_size=1, max_size=6))
    rows = [("Hill", box((-90, -90, -90), (90, 90, 90)), 0),
        *((f"Stool {k}", box(p, np.add(p, 1)), 2) for k, p in enumerate(places))]
    model = SetRole(parts=tuple(range(1, len(rows))), role="furniture").apply(model_of(*rows))
    view = ViewSpecification.model_validate({"projection": {"kind": "parallel", "direction": [0.3, 1, -0.4]},
        "cuts": [c for c in cuts if c["role"] == "cut"]})
    scene = build_scene(model, view)
    gone = sorted(set(range(1, len(rows))) - set(scene.part.tolist()))
    used = model.triangles.ravel()
    found = web("whollyGone", model.vertices[used].ravel().tolist(), np.repeat(model.triangle_part, 3).tolist(),
        {"set": list(range(1, len(rows)))}, cuts, [0, 0, 0])
    assert found == gone


@settings(max_examples=examples(60, 20), deadline=None)
@given(st.lists(st.tuples(st.lists(st.integers(0, 9), max_size=4, unique=True),
    st.sampled_from(["only", "add", "remove"])), max_size=8))
def test_choosing_adds_takes_away_and_lays_down(web: Call, steps: list) -> None:
    chosen: set[int] = set()
    for numbers, how in steps:
        if how == "only":
            chosen = set() if len(numbers) == 1 and chosen == set(numbers) else set(numbers)
        else:
            chosen = chosen | set(numbers) if how == "add" else chosen - set(numbers)
    assert web("chosenAfter", steps)["chosen"] == sorted(chosen)


@settings(max_examples=examples(60, 20), deadline=None)
@given(documents, documents)
def test_the_browser_makes_changes_as_the_core_does(web: Call, before: dict, after: dict) -> None:
    assert web("withChanges", before, [c.model_dump(mode="json") for c in changes_between(before, after)]) == after


@pytest.mark.parametrize(
    "command",
    [
        {"do": "look", "everywhere": True,
            "changes": [{"path": ["pens", "cut", "pen", "weight"], "do": "set", "value": 0.8}]},
        {"do": "look", "changes": [{"path": ["traces"], "do": "order", "value": ["lines", "sky", "paper"]}]},
        {"do": "look", "changes": [{"path": ["traces", "shadow"], "do": "drop"}]},
        {"do": "view", "changes": [{"path": ["parts", "set"], "do": "set", "value": "Shell"}]},
        {"do": "view", "changes": [{"path": ["cuts"], "do": "set",
            "value": [{"point": [0, 0, 1], "normal": [0, 0, 1], "role": "limit", "jogs": [], "name": ""}]}]},
        {"do": "sheet", "changes": [{"path": ["title"], "do": "set", "value": "House"}]},
        {"do": "role_rules", "rules": [{"pattern": "*", "role": "context"}]},
    ],
)  # fmt: skip
def test_an_edit_is_shown_at_once_as_the_server_makes_it(web: Call, command: dict) -> None:
    def study(document: StudyDocument) -> dict:
        return {"document": document.model_dump(mode="json"), "look": document.look.model_dump(mode="json")}

    before = fresh_document("House")
    after = study(apply_commands(before, [TypeAdapter(Command).validate_python(command)]))
    shown = web("shownAfter", study(before), command)
    # How a look is split between finish and view is the server's to say.
    for found in (shown, after):
        found["document"].pop("finishes")
        [v.pop("changes") for v in found["document"]["views"]]
    assert shown == after != study(before)


names_of_parts = st.text(st.sampled_from("ab[]*?!-/ 2"), min_size=1, max_size=6)


@settings(max_examples=examples(80, 27), deadline=None)
@given(names=st.lists(names_of_parts, min_size=1, max_size=6, unique=True), data=st.data())
def test_a_part_left_out_by_its_name_is_left_out_alone(web: Call, names: list[str], data: st.DataObject) -> None:
    """Whatever a machine calls its parts.
    The browser's pattern for one of them finds that one in the core, and its namesakes.
    """
    chosen = data.draw(st.integers(0, len(names) - 1))
    pattern = web("patternOf", parts_of([("", n, 0, "structure", 1.0) for n in names]), chosen)
    model = model_of(*((n, box((i, 0, 0), (i + 0.5, 1, 1)), 0) for i, n in enumerate(names)))
    assert np.flatnonzero(model.parts.selected([pattern])).tolist() == [chosen]
    assert model.parts.selected([names[chosen]])[chosen]


leaves = st.one_of(
    st.sampled_from(["Disc 1", "Disc 2", "Mask 1"]).map(lambda name: {"kind": "through", "name": name}),
    st.sampled_from(["A", "B"]).map(lambda name: {"kind": "match", "parts": [name]}),
)
queries = st.recursive(
    leaves,
    lambda inner: st.one_of(
        st.builds(lambda kind, of: {"kind": kind, "of": of}, st.sampled_from(["all", "any"]),
            st.lists(inner, min_size=1, max_size=3)),
        st.builds(lambda of: {"kind": "not", "of": of}, inner),
    ),
    max_leaves=8,
)


@settings(max_examples=examples(80, 27), deadline=None)
@given(query=queries, name=st.sampled_from(["Disc 1", "Mask 1", "Nothing"]))
def test_a_window_is_found_in_a_query_and_taken_out_of_it(web: Call, query: dict, name: str) -> None:
    read = lambda q: TypeAdapter(Query).validate_python(q)
    assert set(web("windowNames", query)) == window_names(read(query))
    left = web("withoutWindow", query, name)
    rest = set() if left is None else window_names(read(left))
    assert rest == window_names(read(query)) - {name}
    if name not in window_names(read(query)):
        assert left is not None
    if query["kind"] == "through":
        assert (left is None) == (query["name"] == name)


@settings(max_examples=examples(60, 20), deadline=None)
@given(projection=projections, frame=papers, point=points, shift=st.tuples(numbers, numbers))
def test_a_disc_lies_on_the_screen_where_it_is_drawn(web: Call, projection: dict, frame: dict, point: tuple,
    shift: tuple) -> None:
    view = ViewSpecification.model_validate({"projection": projection, "frame": frame | {"shift": shift}})
    seen = projection_of(view.projection, view.frame, MODEL.vertices)
    middle = (frame["width"] / 2 + shift[0], frame["height"] / 2 + shift[1])
    for place in ({"kind": "model", "at": point}, {"kind": "paper", "at": point[:2]}):
        disc = Disc.model_validate({"id": "d", "name": "D", "middle": place})
        wanted = Round.of(disc, seen, middle)
        found = web("placeOf", disc.model_dump(mode="json"), view.model_dump(mode="json"), seen.matrix.tolist())
        assert (found is None) == (wanted is None)
        if wanted is not None and np.abs(wanted.middle).max() < 1e6:
            assert found == pytest.approx(wanted.middle, abs=1e-6)
