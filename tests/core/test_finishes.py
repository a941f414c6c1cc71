"""Finishes, what views change of them for themselves, and changes at places of a document."""

from __future__ import annotations

import copy
import json
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.conftest import examples
from warmgraphite.errors import ViewError
from warmgraphite.study import (
    Change,
    Look,
    StudyDocument,
    changes_between,
    compare_looks,
    describe_changes,
    fresh_document,
    make_changes,
    read_drawing,
    write_drawing_file,
    write_finish,
)
from warmgraphite.study.document import read_document
from warmgraphite.study.finish import read_finish
from warmgraphite.study.looks import (
    change_look,
    drop_changes,
    give_back,
    keep_finish,
    lay_finish,
    paste_drawing,
    remove_finish,
    take_finish,
)
from warmgraphite.view.specification import Parallel, ViewSpecification

VIEWS = [ViewSpecification(name=n, projection=Parallel(direction=(0, 1, 0))) for n in ("One", "Two", "Three")]


def document() -> StudyDocument:
    return fresh_document("House", VIEWS)


def setting(*path: str, to: Any) -> list[Change]:
    return [Change(path=path, value=to)]


def opacity(study: StudyDocument, view: int = 0, trace: str = "shadow") -> float:
    return next(t.opacity for t in study.look_of(study.views[view]).traces if t.id == trace)


def cut_weight(look: Look) -> float | None:
    return next(r.pen.weight for r in look.pens if r.id == "cut")


SHADOW = ("traces", "shadow", "opacity")
ids = st.sampled_from("abcdef")
values = st.one_of(
    st.integers(0, 3), st.booleans(), st.none(), st.lists(st.integers(0, 2), max_size=3), st.text("xy", max_size=2)
)
rows = st.lists(ids, unique=True, max_size=5).flatmap(
    lambda names: st.tuples(*(st.fixed_dictionaries({"id": st.just(n), "tone": values}) for n in names)).map(list)
)
documents = st.fixed_dictionaries(
    {"name": values, "rows": rows, "words": st.dictionaries(ids, st.dictionaries(ids, values, max_size=3), max_size=3)}
)


@settings(max_examples=examples(200, 67), deadline=None)
@given(documents, documents)
def test_changes_between_two_documents_make_one_of_the_other(before: dict, after: dict) -> None:
    changes = changes_between(before, after)
    assert (changes == []) == (before == after)
    assert make_changes(copy.deepcopy(before), changes) == after


def test_a_view_changes_its_finish_for_itself_gives_it_back_or_drops_it() -> None:
    study = change_look(document(), setting(*SHADOW, to=0.9))
    study = change_look(study, setting("pens", "cut", "pen", "weight", to=0.7))
    assert (opacity(study), opacity(study, 1)) == (0.9, 0.48)
    assert cut_weight(study.look) == 0.7 and cut_weight(study.look_of(study.views[1])) == 0.5
    said = describe_changes(study.finish_of(study.on_desk), study.look, study.on_desk.changes)
    assert [(r.what, r.finish, r.view) for r in said] == [
        ("Cut lines: weight", "0.50 mm", "0.70 mm"),
        ("Shadow: opacity", "48 %", "90 %"),
    ]
    given = give_back(study, SHADOW)
    assert (opacity(given), opacity(given, 1)) == (0.9, 0.9) and [c.path for c in given.on_desk.changes] == [
        ("pens", "cut", "pen", "weight")
    ]
    dropped = drop_changes(study, SHADOW)
    assert opacity(dropped) == 0.48 and cut_weight(dropped.look) == 0.7
    assert drop_changes(study).look == document().look and give_back(study).views[0].changes == ()
    with pytest.raises(ViewError, match="no change of its own"):
        give_back(document())
    # What is put back by hand is no change any more.
    assert (
        change_look(
            study, [*setting(*SHADOW, to=0.48), *setting("pens", "cut", "pen", "weight", to=0.5)]
        ).on_desk.changes
        == ()
    )


def test_a_finish_that_changes_changes_all_who_wear_it_but_for_what_they_changed_themselves() -> None:
    study = change_look(document(), setting(*SHADOW, to=0.9))
    study = study.model_validate(
        study.model_copy(update={"desk": study.desk.model_copy(update={"view_id": "view-2"})}).model_dump()
    )
    study = change_look(
        study, [Change(path=SHADOW, value=0.2), Change(path=("traces", "shadow", "mottle"), value=0.1)], everywhere=True
    )
    assert [opacity(study, k) for k in range(3)] == [0.9, 0.2, 0.2]
    mottle = [next(t.mottle for t in study.look_of(v).traces if t.id == "shadow") for v in study.views]
    assert mottle == [0.1, 0.1, 0.1] and study.on_desk.changes == ()
    # A trace that the finish no longer has takes with it what was changed of it, and nothing else; it comes back with
    # it.
    gone = change_look(study, [Change(path=("traces", "shadow"), do="drop")], everywhere=True)
    assert all("shadow" not in {t.id for t in gone.look_of(v).traces} for v in gone.views)
    trace = next(t for t in study.look.traces if t.id == "shadow")
    again = change_look(gone, setting("traces", "shadow", to=trace.model_dump(mode="json")), everywhere=True)
    assert opacity(again, 0) == 0.9 and again.look.traces[-1].id == "shadow"
    order = [t.id for t in again.look.traces][::-1]
    turned = change_look(again, [Change(path=("traces",), do="order", value=order)], everywhere=True)
    assert [t.id for t in turned.look_of(turned.views[0]).traces] == order and opacity(turned, 0) == 0.9


def test_finishes_are_laid_over_kept_compared_written_and_taken_in() -> None:
    plain = document()
    study = keep_finish(change_look(plain, setting(*SHADOW, to=0.9)), "Evening")
    assert (study.on_desk.finish, study.on_desk.changes, opacity(study), opacity(study, 1)) == (
        "finish-2",
        (),
        0.9,
        0.48,
    )
    first, second = study.finishes
    assert [tuple(d) for d in compare_looks(first, second)] == [
        ("Shadow: opacity", "48 %", "90 %")
    ] and not compare_looks(first, first)
    assert (
        opacity(lay_finish(study, "finish-2", "view-3"), 2) == 0.9 and lay_finish(study, "finish-1").look == plain.look
    )
    with pytest.raises(ViewError, match="already"):
        keep_finish(study, "Evening")
    with pytest.raises(ViewError, match="wears the finish"):
        remove_finish(study, "finish-2")
    assert len(remove_finish(lay_finish(study, "finish-1"), "finish-2").finishes) == 1

    # Another study takes it in.
    other = fresh_document("Other")
    taken = take_finish(take_finish(other, write_finish(second)), write_finish(second))
    assert [f.name for f in taken.finishes] == [
        "Graphite and wash",
        "Evening",
        "Evening 2",
    ] and taken.on_desk.finish == "finish-3"
    assert opacity(taken) == 0.9
    newer = json.loads(write_finish(second)) | {"format": 99}
    for text, said in (
        (write_finish(second)[:80], "cut off"),
        ("[1]", "no finish"),
        (json.dumps(newer), "format 99"),
        ('{"format": 1, "shine": 3}', "shine"),
    ):
        with pytest.raises(ViewError, match=said):
            take_finish(other, text)


def test_a_look_that_does_not_fit_is_refused_and_one_that_stopped_fitting_has_no_effect() -> None:
    for path, value in (
        (("traces", "shadow", "opacity"), 3),
        (("name",), "x"),
        (("traces", "shadow", "id"), "sky"),
        (("pens",), 1),
    ):
        with pytest.raises(ViewError):
            change_look(document(), setting(*path, to=value))
    study = document()
    odd = study.views[0].model_copy(
        update={"changes": (*setting(*SHADOW, to="thick"), *setting("pens", "fading", "fading", "paler", to=0.1))}
    )
    look = study.look_of(odd)
    assert (
        next(r for r in look.pens if r.id == "fading").fading.paler == 0.1
        and next(t.opacity for t in look.traces if t.id == "shadow") == 0.48
    )


def test_a_drawing_file_holds_one_drawing_and_refuses_what_it_cannot_draw() -> None:
    """What is copied is what is pasted, here or elsewhere.
    What has no effect yet is refused by its name, never passed over.
    """
    study = change_look(document(), setting(*SHADOW, to=0.9))
    text = write_drawing_file(study.views[1].view, study.look, study.on_desk.sheet)
    pasted = paste_drawing(document(), text)
    assert (pasted.on_desk.view.name, pasted.look, pasted.on_desk.changes) == ("Two 2", study.look, ())
    assert [f.name for f in pasted.finishes] == ["Graphite and wash", "Of “Two”"]
    again = paste_drawing(pasted, text)
    assert len(again.finishes) == 2 and again.on_desk.finish == pasted.on_desk.finish  # it is there already
    # A drawing need say next to nothing, and neither ids nor names.
    pens = [{"where": {"kind": "match", "ranks": ["cut"]}, "pen": {"weight": 0.7}}, {"pen": {"colour": "#112233"}}]
    short = read_drawing(
        json.dumps({"format": 1, "view": {}, "finish": {"pens": pens, "traces": [{"kind": "lines"}]}, "notes": []})
    )
    assert [r.id for r in short.finish.pens] == ["rule-1", "rule-2"] and short.finish.traces[0].id == "lines-1"
    assert read_drawing('{"format": 2}') == type(short)()
    rule = {"where": {"kind": "match"}, "fills": [{"kind": "hatch", "pattern": "tartan"}]}
    line = {"kind": "match", "ranks": ["cut"]}
    for said, drawing in {
        "no pattern “tartan”": {"finish": {"poche": [rule]}},
        "which a region has not": {"finish": {"surfaces": [{"where": line}]}},
        "there is no pose “flying”": {"figures": [{"kind": "person", "pose": "flying"}]},
        "“notes.0”: there is no kind of note “chant”": {"notes": [{"kind": "chant"}]},
        "“marks.0.line”: a mark of the kind “line” has 2 points": {"marks": [{"kind": "line", "points": [[0, 0, 0]]}]},
        "no kind of trace “glitter”": {"finish": {"traces": [{"kind": "glitter"}]}},
        "there is no texture “fur”": {"finish": {"traces": [{"kind": "texture", "texture": "fur"}]}},
        "“shine” is not a field": {"shine": 1},
        "has not; take it out": {"finish": {"pens": [{"where": {"kind": "match", "light": ["lit"]}}]}},
        "format 8": {"format": 8}, "format 0": {"format": 0},
    }.items():  # fmt: skip
        with pytest.raises(ViewError, match=said):
            read_drawing(json.dumps({"format": 1} | drawing))
    for broken in ("{", "[]", "{}", "null"):
        with pytest.raises(ViewError):
            read_drawing(broken)


def test_a_study_of_before_there_were_hatches_keeps_its_look_and_what_views_say_of_their_pens() -> None:
    """Format 2: pens went ``round`` their subject, and no sheet of hatches lay among the traces."""
    now = document().model_dump(mode="json")
    pen = {"id": "profile", "where": {"kind": "match", "roles": ["subject"]}, "round": True, "pen": {"weight": 0.7}}
    plain = {"id": "cut", "where": {"kind": "match", "roles": ["structure"]}, "round": False, "pen": {"weight": 0.5}}
    traces = [{"kind": k, "id": k, "name": k} for k in ("paper", "poche", "lines")]
    own = [
        {"path": ["pens", "cut", "round"], "do": "set", "value": True},
        {"path": ["pens", "more"], "do": "set", "value": {**pen, "id": "more"}},
    ]
    old = {
        **now,
        "format": 2,
        "finishes": [
            {"id": f["id"], "name": f["name"], "pens": [pen, plain], "poche": [], "traces": traces}
            for f in now["finishes"]
        ],
    }
    old["views"] = [{**v, "changes": own} for v in now["views"]]
    before = json.dumps(old)
    read = read_document(old)
    assert json.dumps(old) == before
    finish = read.finishes[0]
    assert [(r.along, r.id) for r in finish.pens] == [
        ("subject", "profile"),
        ("lines", "cut"),
        ("lines", "figure"),
        ("lines", "detail"),
    ] and [t.kind for t in finish.traces] == [
        "paper",
        "hatches",
        "poche",
        "lines",
    ]
    assert finish.surfaces == () and finish.hand.is_still and finish.weight == 1
    of_figures = {"figure": "lines", "detail": "lines"}
    assert {r.id: r.along for r in read.look.pens} == {
        "profile": "subject",
        "cut": "subject",
        "more": "subject",
        **of_figures,
    }


def test_traces_of_before_they_were_called_by_our_names_are_read() -> None:
    old = {
        "traces": [
            {"kind": "wash", "id": "w", "name": "W", "turbulence": 0.6, "blotch": 21.0},
            {"kind": "hue", "id": "h", "name": "H", "saturation": 0.4, "turn": 9.0},
            {"kind": "brightness", "id": "b", "name": "B", "brightness": 1.2, "contrast": 0.9},
            {"kind": "levels", "id": "l", "name": "L", "black": 0.1},
            {"kind": "curve", "id": "c", "name": "C", "darks": 0.2},
            {"kind": "traced", "id": "t", "name": "T", "picture": "0" * 32},
            {"kind": "picture-contours", "id": "p", "name": "P", "picture": "0" * 32, "levels": 3},
        ]
    }
    _, look = read_finish(json.dumps({"format": 8, "name": "Old", **old}))
    found = {t.id: t.model_dump() for t in look.traces}
    assert [t.kind for t in look.traces] == [
        "wash", "hue-and-strength", "light-and-contrast", "black-and-white", "tone-curve", "few-papers", "level-lines",
    ]  # fmt: skip
    assert (
        found["w"]["flow"],
        found["w"]["pools"],
        found["h"]["strength"],
        found["b"]["light"],
        found["t"]["colours"],
    ) == (
        0.6,
        21,
        0.4,
        1.2,
        6,
    )
    # In a study also what a view changes of them, and what it has beside them; a drawing's sun stands where it stood.
    document = fresh_document("S").model_dump(mode="json")
    document["format"], view = 9, document["views"][0]
    document["finishes"][0]["traces"] = old["traces"][:3]
    view["finish"] = document["finishes"][0]["id"]
    view["changes"] = [
        {"path": ["traces", "w", "turbulence"], "value": 0.1}, {"path": ["traces", "h", "saturation"], "value": 0.2},
        {"path": ["traces", "l"], "value": old["traces"][3]}, {"path": ["traces", "b", "brightness"], "value": 0.8},
    ]  # fmt: skip
    read = read_document(document)
    worn = {t.id: t for t in read.drawn_look(read.views[0]).traces}
    assert (worn["w"].flow, worn["h"].strength, worn["b"].light, worn["l"].kind) == (0.1, 0.2, 0.8, "black-and-white")
    assert (
        read_drawing('{"format": 1}').view.sun.altitude == 40 and read_drawing('{"format": 2}').view.sun.altitude == 38
    )
