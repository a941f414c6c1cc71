"""Keys of passes: whatever is changed of view, sun, ink, traces and model, one field at a time.

Where the result of a pass changes, its key changes; where the key changes for nothing, it is on a short list, with a
reason.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from functools import cache
from typing import Any

import numpy as np
import pytest
import trimesh
from pydantic import BaseModel, TypeAdapter

from tests.conftest import DEEP, box, model_of
from tests.core.models import PLAIN
from warmgraphite.collage.specification import default_traces
from warmgraphite.collage.stack import Layer
from warmgraphite.drawing import PASSES, Drawing, Need
from warmgraphite.figures.choosing import Marked
from warmgraphite.ink.hand import Hand
from warmgraphite.ink.rules import WeightStep
from warmgraphite.model import Model
from warmgraphite.model.edits import ModelEdit
from warmgraphite.model.model import Contours
from warmgraphite.regions.query import Match
from warmgraphite.view.specification import Cut, Frame, Parallel, Sun, ViewSpecification

EDIT: TypeAdapter[Any] = TypeAdapter(ModelEdit)
SIZE = (90, 63)
#: Passes whose key may change for nothing, and why.
FOR_NOTHING = {
    "frame": "it holds the sentence that says why nothing is seen, with the view's name",
    "extent": "three numbers of all that is seen: most changes leave them as they are",
    "sides": "with a line of the ground, which runs on to the frame, the frame is read, and the building ends where it "
    "did",
    "marks": "all that may stand before a mark is read as one, and most of it stands beside it",
    "remarks": "there are none on this scene, whatever is cut",
}
#: Changes after which any pass may be found as it was, and why.
LOOSE = {
    "model: role": "role, material and fill of the shown parts are read as one, as they settle cut, ranks and glass "
                   "together",
    "model: void": "as role", "model: earth": "as role", "model: cut as": "as role", "model: clear": "as role",
    "model: order": "as role",
    "model: merged": "as role", "model: opacity": "as role",
    "model: whole": "which parts are sawn is read as one with their shapes",
    "model: dropped": "as whole; the part that goes is seen by few passes", "view: uncut": "as whole",
    "view: roles": "as whole",
    "view: hidden": "as dropped", "view: set": "as dropped", "view: limit": "a plane is read whole, role and all",
    "view: mirrored": "what is looked at is the same, from the other hand",
    "ink: poche where": "which parts are filled alike is read, and not how their shapes come out",
    "ink: poche off": "as poche where", "ink: built off": "as poche where",
    "ink: ground deeper": "what touches earth is outside, and all of it is read as one",
    "model: material name": "what is in layers is called after them, and only where all are too thin after its "
    "material", "ink: fill": "the colours of all rules are read, also of one that fills nothing here",
    "view: softness": "edges of light, and the map that stands on them, read sun and shade whole",
    "view: strength": "as softness",
    "view: ambient": "as softness", "view: glass casts": "as softness", "view: shade steps": "as softness",
    "view: sky": "as softness",
    "view: bounce": "as softness",
    "view: smooth": "which edges are drawn is read, and there are none of that sort here",
    "view: seams": "as smooth", "view: crease": "as smooth", "model: contours": "as smooth",
    "ink: grain": "the hand is read whole, and grain is laid on with the picture",
    "ink: fades": "how pens fade is read also where all lines that are asked for lie near", "ink: thinner": "as fades",
    "ink: hand": "it is read also where the parts asked for have no marks", "ink: seed": "as hand",
    "ink: earth hatched": "as fill",
    "ink: away": "lines within the subject do not end",
    "ink: times": "a rule that takes hold of nothing here is read all the same",
    "ink: paler": "as times", "ink: pen where": "as times", "ink: pen off": "as times", "ink: fill opacity": "as fill",
    "ink: left void": "as poche where",
}  # fmt: skip


@cache
def scene() -> tuple[Model, ViewSpecification]:
    ground = trimesh.Trimesh([[-4, -3, 0], [9, -3, 0.4], [9, 9, 0.9], [-4, 9, 0.2]], [[0, 1, 2], [0, 2, 3]])
    pane = trimesh.Trimesh([[1, 0.9, 0.6], [2, 0.9, 0.6], [2, 0.9, 1.8], [1, 0.9, 1.8]], [[0, 1, 2], [0, 2, 3]])
    bodies = [
        ("Wall", box((0, 1, 0), (4, 1.4, 2.4)), 0), ("Block", box((2.4, 0.1, 0), (3.4, 2.4, 1.5)), 0),
        ("Shelf", box((0.2, 1.4, 1), (1.4, 2, 1.1)), 2), ("Soil", box((-3, -1, -1), (8, 8, 0.05)), 2),
    ]  # fmt: skip
    model = model_of(*bodies, ("Pane", pane, 1), ("Slope", ground, 2))
    roles = {"Soil": "ground", "Pane": "glass", "Slope": "ground", "Shelf": "furniture"}
    parts = tuple(replace(p, role=roles.get(p.name, "structure")) for p in model.parts)
    model = replace(model, parts=parts, sets={"Walls": (0, 1)}, contours=Contours(0.2, 3))
    view = ViewSpecification(
        projection=Parallel(direction=(0.35, 1, -0.4), centre=(2, 1, 1)),
        cuts=(Cut(point=(0, 0.6, 0), normal=(0, -1, 0)),),
        sun=Sun(azimuth=150, altitude=35),
        frame=Frame(width=120, height=84, scale=75, resolution=20),
    )
    return model, view


VIEWS: dict[str, dict[str, Any]] = {
    "direction": {"projection": {"direction": (0.2, 1, -0.5)}}, "mirrored": {"projection": {"mirrored": True}},
    "centre": {"projection": {"centre": (2.2, 1, 1)}},
    "cut moved": {"cuts": ({"point": (0, 0.7, 0), "normal": (0, -1, 0)},)},
    "no cut": {"cuts": ()}, "limit": {"cuts": ({"point": (0, 0.6, 0), "normal": (0, -1, 0), "role": "limit"},)},
    "hidden": {"parts": {"hidden": ("Block",)}}, "uncut": {"parts": {"uncut": ("Block",)}},
    "set": {"parts": {"set": "Walls"}},
    "roles": {"parts": {"roles": {"structure": "whole"}}}, "azimuth": {"sun": {"azimuth": 190}},
    "altitude": {"sun": {"altitude": 50}},
    "softness": {"sun": {"softness": 4}}, "strength": {"sun": {"strength": 0.5}}, "ambient": {"sun": {"ambient": 0.4}},
    "cast off": {"sun": {"cast_off": True}}, "glass casts": {"sun": {"glass": 0.7}},
    "not casting": {"sun": {"not_casting": {"parts": ("Block",)}}},
    "not receiving": {"sun": {"not_receiving": {"roles": ("structure",)}}}, "shade steps": {"shade": {"steps": 3}},
    "sky": {"shade": {"sky": 0.6}}, "bounce": {"shade": {"ground": 0.6}}, "radius": {"occlusion": {"radius": 0.4}},
    "corners": {"occlusion": {"strength": 0.4}}, "samples": {"occlusion": {"samples": 12}},
    "bands": {"depth": {"bands": 3}},
    "width": {"frame": {"width": 130}}, "height": {"frame": {"height": 90}}, "scale": {"frame": {"scale": 60}},
    "shift": {"frame": {"shift": (4, 3)}}, "resolution": {"frame": {"resolution": 25}},
    "crease": {"lines": {"crease_angle": 95}},
    "outline depth": {"lines": {"outline_depth": 4.0}}, "smooth": {"lines": {"smooth": True}},
    "seams": {"lines": {"seams": True}},
    "facets": {"lines": {"facets": True}}, "name": {"name": "Other"},
}  # fmt: skip
MODELS: dict[str, dict[str, Any]] = {
    "renamed": {"do": "rename", "part": 0, "name": "Other"}, "layer": {"do": "move", "parts": [0], "layer": "Hall"},
    "role": {"do": "role", "parts": [1], "role": "context"},
    "drawn": {"do": "behave", "parts": [0], "field": "drawn", "value": "strong"},
    "void": {"do": "behave", "parts": [1], "field": "poche", "value": "void"},
    "earth": {"do": "behave", "parts": [1], "field": "poche", "value": "earth"},
    "cut as": {"do": "behave", "parts": [1], "field": "cut_as", "value": "Wood"},
    "clear": {"do": "behave", "parts": [4], "field": "clear", "value": False},
    "whole": {"do": "behave", "parts": [1], "field": "cut", "value": False},
    "colour": {"do": "edit_material", "material": 0, "colour": "#aa3311"},
    "opacity": {"do": "edit_material", "material": 2, "opacity": 0.3},
    "material name": {"do": "edit_material", "material": 0, "name": "Brick"},
    "white card": {"do": "white_card", "on": True}, "order": {"do": "cut_order", "materials": [2, 0, 1]},
    "dropped": {"do": "drop", "parts": [2]},
    "contours": {"do": "contours", "interval": 0.35}, "a set": {"do": "keep_set", "name": "More", "parts": [2]},
    "merged": {"do": "merge", "materials": [0, 2], "into": 0},
}  # fmt: skip


#: Ink in which every kind of hatch, and a hand, is at work.
INK = Marked.model_validate({
    "hand": {"waver": 0.1, "overrun": 0.4, "pressure": 0.5},
    "surfaces": [
        {"id": "stone", "where": {"kind": "match", "materials": ["Stone"]},
            "fills": [{"kind": "hatch", "pattern": "bond", "lies": "face"}]},
        {"id": "dark", "over": True, "where": {"kind": "match", "light": ["shadow"]},
            "fills": [{"kind": "hatch", "spacing": 0.8, "angle": 40}]},
        {"id": "corners", "over": True, "fills": [{"kind": "hatch", "pattern": "stipple", "by": "corners"}]},
    ],
    "build_ups": [{"id": "wall", "name": "Wall", "layers": [
        {"id": "boards", "name": "Boards", "thickness": 0.12},
        {"id": "core", "name": "Core", "thickness": None, "fills": [{"kind": "hatch", "lies": "cut"}]},
    ]}],
    "construction": [{"id": "block", "where": {"kind": "match", "parts": ["Block"]}, "build_up": "wall"}],
    "marks": [
        {"kind": "circle", "id": "mark", "points": [[1, 1.2, 2.4], [1.1, 1.2, 2.4]],
            "plane": {"lies": "face", "part": "Wall", "normal": [0, 0, 1]}},
        {"kind": "ground", "id": "ground", "points": [[0, 0, 0.3]], "depth": 0.5},
    ],
})  # fmt: skip


def inked(room: str, identity: str, **fields: Any) -> dict[str, Any]:
    """Ink of which one rule is otherwise."""
    rules = getattr(INK, room)
    return {room: tuple(type(r).model_validate(r.model_dump() | fields) if r.id == identity else r for r in rules)}


def thicker(thickness: float) -> Any:
    """The build-up with thicker boards."""
    boards, core = INK.build_ups[0].layers
    return INK.build_ups[0].model_copy(update={"layers": (boards.model_copy(update={"thickness": thickness}), core)})


def marked(identity: str, **fields: Any) -> dict[str, Any]:
    """Ink of which one mark is otherwise."""
    return {
        "marks": tuple(type(m).model_validate(m.model_dump() | fields) if m.id == identity else m for m in INK.marks)
    }


INKS: dict[str, dict[str, Any]] = {
    "weight": inked("pens", "cut", pen={"weight": 0.9}),
    "pen colour": inked("pens", "edge", pen={"weight": 0.18, "colour": "#884422"}),
    "dash": inked("pens", "edge", pen={"weight": 0.18, "dash": (2, 1)}),
    "pen opacity": inked("pens", "outline", pen={"weight": 0.3, "opacity": 0.4}),
    "pen off": inked("pens", "surface", on=False), "hidden on": inked("pens", "hidden", on=True),
    "pen where": inked("pens", "edge",
        where={"kind": "match", "ranks": ("edge",), "sets": ("Walls",), "hidden": False}),
    "times": inked("pens", "glazed", times=0.3), "paler": inked("pens", "glazed", paler=0.8),
    "thinner": inked("pens", "fading", fading={"thinner": 0.9}),
    "fades": inked("pens", "fading", fading={"paler": 0.9}),
    "called": inked("pens", "cut", name="Heavy"),
    "fill": inked("poche", "ground", fills=({"kind": "flat", "colour": "#112233"},)),
    "left void": inked("poche", "all", fills=()),
    "fill opacity": inked("poche", "all", fills=({"kind": "flat", "opacity": 0.5},)),
    "hand": {"hand": Hand(waver=0.2, overrun=0.4, pressure=0.5)},
    "seed": {"hand": INK.hand.model_copy(update={"seed": 9})},
    "grain": {"hand": INK.hand.model_copy(update={"grain": 0.5})}, "all weights": {"weight": 1.5},
    "stepped": {"steps": (WeightStep(scale=50, times=0.7),)}, "darkest": {"darkest": 0.2},
    "light": inked("pens", "edge", light=0.8),
    "away": inked("pens", "edge", away={"of": {"kind": "match", "sets": ["Walls"]}, "reach": 6}),
    "least": inked("pens", "cut", least=20.0),
    "along": inked("pens", "profile", on=True, along="cut", where={"kind": "match"}),
    "cap": inked("pens", "edge", pen={"weight": 0.18, "cap": "square"}),
    "pen's hand": inked("pens", "edge", hand={"waver": 0.0}),
    "hatch": inked("surfaces", "dark", fills=({"kind": "hatch", "spacing": 1.1, "angle": 40},)),
    "hatch off": inked("surfaces", "stone", on=False),
    "hatch where": inked("surfaces", "stone", where={"kind": "match", "sets": ["Walls"]}),
    "not over": inked("surfaces", "dark", over=False),
    "earth hatched": inked("poche", "ground", fills=({"kind": "hatch", "pattern": "gravel"},)),
    "thickness": {"build_ups": (thicker(0.2),)}, "outer side": inked("construction", "block", outer="up"),
    "built off": inked("construction", "block", on=False),
    "mark moved": marked("mark", points=((1.4, 1.2, 2.4), (1.5, 1.2, 2.4))),
    "mark off": marked("mark", on=False), "ground deeper": marked("ground", depth=0.8),
    "mark named": marked("mark", id="other"),
    "poche off": inked("poche", "ground", on=False),
    "poche where": inked("poche", "ground", where={"kind": "match", "roles": ("structure",)}),
}  # fmt: skip

WHERES = (Match(sets=("Walls",)), Match(materials=("Stone",), light=("lit",)))


def needs() -> list[Need]:
    confined = [Need(name, where) for where in WHERES for name in ("mask", "room")]
    return [
        *map(Need, PLAIN),
        *confined,
        Need("strokes", WHERES[0]),
        Need("poche", Match(parts=("Soil",))),
        Need("built", WHERES[0]),
        Need("outline", WHERES[0]),
    ]


def arrays_of(value: Any) -> Iterator[np.ndarray]:
    """All that a result holds, as arrays."""
    if isinstance(value, dict):
        for key in sorted(value):
            yield from arrays_of(value[key])
    elif isinstance(value, list | tuple):
        yield np.array(len(value))
        for row in value:
            yield from arrays_of(row)
    elif isinstance(value, BaseModel):
        yield np.array(value.model_dump_json())
    elif hasattr(value, "__dataclass_fields__"):
        yield from arrays_of({n: getattr(value, n) for n in value.__dataclass_fields__})
    else:
        yield np.asarray(value)


def shown(drawing: Drawing, wanted: Need) -> list[np.ndarray]:
    record, found = PASSES[wanted.name], drawing.result(wanted)
    return list(arrays_of(record.pack(found) if record.stored else found))


pytestmark = pytest.mark.usefixtures("coarse")


@cache
def base() -> Drawing:
    drawing = Drawing(*scene(), SIZE, ink=INK)
    for wanted in needs():
        drawing.result(wanted)
    return drawing


@cache
def shown_before(wanted: Need) -> list[np.ndarray]:
    return shown(base(), wanted)


def same(one: list[np.ndarray], two: list[np.ndarray]) -> bool:
    return len(one) == len(two) and all(
        a.shape == b.shape and a.tobytes() == b.tobytes() for a, b in zip(one, two, strict=True)
    )


#: Changes after which the short run looks also for keys that change for nothing; after the others only for results that
#: change behind their keys.
WHOLE = {
    "view: azimuth",
    "view: hidden",
    "view: resolution",
    "model: renamed",
    "model: colour",
    "model: a set",
    "ink: darkest",
    "ink: pen off",
}
CHANGES = {f"view: {n}": n for n in VIEWS} | {f"model: {n}": n for n in MODELS} | {f"ink: {n}": n for n in INKS}


@pytest.mark.parametrize("change", CHANGES)
def test_a_key_changes_with_all_that_its_pass_shows_and_with_nothing_else(change: str) -> None:
    model, view = scene()
    room, name = change.split(": ")
    ink = INK
    if room == "view":
        data = view.model_dump()
        for field, value in VIEWS[name].items():
            data[field] = {**data[field], **value} if isinstance(value, dict) else value
        view = ViewSpecification.model_validate(data)
    elif room == "model":
        model = EDIT.validate_python(MODELS[name]).apply(model)
    else:
        ink = INK.model_copy(update=INKS[name])
    drawing = Drawing(model, view, SIZE if name not in ("width", "height", "resolution") else None, ink=ink)
    before = base()
    moved, all_of_it = [], DEEP or change in WHOLE
    for wanted in needs():
        kept = drawing.key(wanted) == before.key(wanted)
        if not (kept or all_of_it):
            continue
        equal = same(shown(drawing, wanted), shown_before(wanted))
        assert equal or not kept, f"{change} changes {wanted.words} behind its key"
        moved += [wanted.name] if equal and not kept else []
    for trace in default_traces():
        kept = Layer(drawing.plate(), trace, 5).key == Layer(before.plate(), trace, 5).key
        assert not kept or all(drawing.key(n) == before.key(n) for n in trace.needs())
    assert change in LOOSE or set(moved) <= set(FOR_NOTHING), sorted(set(moved))
