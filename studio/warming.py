"""Every compiled kernel run once, so that no user waits for a compiler.

Kernels are compiled for the form of the arrays they are given. The scene here is small and has one of each thing that has a kernel
of its own: a doubled body, an open one, glass, a material with a picture, steps of shade, a view with a vanishing point.
"""

from __future__ import annotations

import atexit
import gc
import io
import shutil
import tempfile
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

__all__ = ["keep_for_good", "warm_up"]

_CUBE = np.array([[x, y, z] for z in (0, 1) for y in (0, 1) for x in (0, 1)], float)
_FACES = np.array(
    [(0, 2, 3), (0, 3, 1), (4, 5, 7), (4, 7, 6), (0, 1, 5), (0, 5, 4), (2, 6, 7), (2, 7, 3), (0, 4, 6), (0, 6, 2), (1, 3, 7), (1, 7, 5)],
    np.int32,
)  # fmt: skip


def _scenes() -> list[tuple[Any, Any]]:
    """Models and views that go through every kernel in each form that it is called in."""
    from warmgraphite.model.model import Contours, Material, Part, build_model
    from warmgraphite.view.specification import Cut, Frame, Lines, Parallel, Perspective, Shade, Sun, ViewSpecification
    from warmgraphite.view.windows import Disc

    rows = [
        (Part("One", "", 0), _CUBE, _FACES),
        (Part("Two", "", 0), _CUBE * 0.7 + 0.5, _FACES),
        (Part("Doubled", "", 0), _CUBE - [0, 3, 0], np.concatenate([_FACES, _FACES])),
        (Part("Pane", "", 1, "glass"), _CUBE * [1, 0, 1] + [0, -1, 0], _FACES[4:6]),
        (Part("Pane behind", "", 1, "glass"), _CUBE * [1, 0, 1] + [0, -0.9, 0], _FACES[4:6]),
        (Part("Ground", "", 0, "ground"), _CUBE * [9, 9, 1] - [4, 4, 1.2], _FACES),
    ]
    materials = [Material("Stone"), Material("Glass", "#aabbcc", 0.2)]
    plain = replace(build_model("Warm-up", rows, materials), contours=Contours(0.2, 3))
    picture = io.BytesIO()
    Image.new("RGB", (8, 8), "#b07040").save(picture, "PNG")
    pictured = [Material("Brick", texture="brick", size=(1.0, 1.0)), materials[1]]
    textures = {"brick": picture.getvalue()}
    laid = build_model("Warm-up, brick", rows, pictured, textures=textures)
    corners = [np.zeros((len(faces), 3, 2), np.float32) for _, _, faces in rows]
    wrapped = build_model("Warm-up, brick as the file has it", rows, pictured, corners, textures)

    cuts, frame = (Cut(point=(0.3, 0, 0), normal=(-1, 0, 0)),), Frame(width=60, height=40, resolution=60)
    sun, lines = Sun(softness=2, glass=0.5), Lines(smooth=True, seams=True, facets=True)
    parallel, eye = Parallel(direction=(0.3, 1, -0.5)), Perspective(eye=(2, -6, 1.5), target=(0.5, 0.5, 0.5))
    bare = ViewSpecification(projection=parallel, cuts=cuts, frame=frame)
    all_of_it = ViewSpecification(projection=eye, cuts=cuts, frame=frame, sun=sun, lines=lines, shade=Shade(steps=3))
    outline = ((-9.0, -6.0), (9.0, -5.0), (6.0, 8.0))
    discs = tuple(Disc(id=f"d{k}", name="Soft", radius=9, outline=o) for k, o in enumerate(((), outline)))
    return [(plain, bare.model_copy(update={"discs": discs})), (plain, all_of_it), (laid, bare), (wrapped, bare)]


def _ink() -> Any:
    """Ink with a hand, dashes, and a hatch of each sort."""
    from warmgraphite.ink.rules import Ink

    hatch = lambda pattern, **said: {"kind": "hatch", "pattern": pattern, **said}
    stone = {"kind": "match", "materials": ["Stone"]}
    return Ink.model_validate({
        "hand": {"waver": 0.1, "overrun": 0.5, "pressure": 0.5, "breaks": 0.2, "doubled": 0.3, "mismatch": 0.1},
        "pens": [
            {"pen": {"weight": 0.2, "colour": "#2e2a27"}, "light": 0.5, "away": {"of": stone, "reach": 4}},
            {"where": {"kind": "match", "hidden": True}, "pen": {"weight": 0.1, "dash": [1.5, 0.8]}},
        ],
        "poche": [{"fills": [hatch("insulation"), hatch("dots"), hatch("earth")]}],
        "surfaces": [
            {"where": stone, "fills": [hatch("bond", lies="face", suggested=0.4, disorder=0.3), hatch("gravel"), hatch("stones")]},
            {"over": True, "fills": [hatch("parallel", angle=40), hatch("parallel", by="corners"), hatch("broken", by="shade")]},
        ],
    })  # fmt: skip


class _Noise:
    """A stock whose every picture is the same small one."""

    def has(self, _digest: str) -> bool:
        return True

    def pixels(self, _digest: str) -> np.ndarray:
        return np.random.default_rng(1).integers(0, 255, (64, 64, 4), np.uint8)

    def lines(self, _digest: str) -> None:
        return None

    def body(self, _digest: str) -> None:
        return None

    @property
    def masks(self) -> Any:
        from warmgraphite.regions.painted import KeptMasks

        kept = KeptMasks(Path(tempfile.mkdtemp(prefix="warm-")))
        atexit.register(shutil.rmtree, kept.folder, ignore_errors=True)
        return kept


def warm_up(scenes: int | None = None) -> None:
    """Compute every pass, and lay every kind of trace over the others, on small scenes: all of them, or so many.

    What was compiled once is kept on disk; the first scene is enough to have the usual kernels in memory.
    """
    import shapely

    from warmgraphite.collage.kinds import KINDS
    from warmgraphite.drawing import Drawing, Need, needs_of
    from warmgraphite.ink.rules import Ink
    from warmgraphite.regions import planar
    from warmgraphite.regions.painted import BrushStroke
    from warmgraphite.regions.query import Match, Through
    from warmgraphite.sheet.preview import LayerCache, compose
    from warmgraphite.sheet.specification import Sheet

    traces = [kind(id=name, name=name) for name, kind in KINDS.items()]
    stone = Match(materials=("Stone", "Brick"))
    washed = {
        "where": stone,
        "edge": "torn",
        "holds": "faces",
        "lost": 0.5,
        "white": 0.3,
        "dry": 0.2,
        "back_run": 0.2,
        "short": 3.0,
    }
    pictured = {"where": stone, "picture": "00", "endless": "strewn"}
    confined = [
        traces[-1].model_copy(update={"where": Match(materials=("Glass",)), "id": "confined"}),
        KINDS["wash"](id="washed", name="washed", **washed), KINDS["picture"](id="pictured", name="pictured", **pictured),
        KINDS["reflection"](id="panes", name="panes", of="glass"), KINDS["sketch"](id="sketched", name="sketched", picture="00", as_="lines"),
        KINDS["backdrop"](id="torn", name="torn", ends="torn"),
        *(KINDS[k](id=f"soft-{k}", name=k, where=Through(name="Soft")) for k in ("lines", "tint")),
    ]  # fmt: skip
    # What is painted by hand is read as it lies on the paper, and along lines.
    masks = _Noise().masks
    mask = masks.painted(masks.stroke("", BrushStroke(points=((0.0, 0.0), (8.0, 3.0)), size=6)))
    mask.grid(np.linspace(-9, 9, 20), np.linspace(-9, 9, 12))
    mask.at(np.zeros((2, 2)))
    # A map of more segments than these scenes have is made by loops of its own.
    ends = np.random.default_rng(1).uniform(1, 59, (planar.FEW + 100, 2, 2))
    planar.cells_of(ends, shapely.box(0, 0, 60, 60))
    inks = (_ink(), Ink(), Ink(), Ink())
    for (model, view), ink in list(zip(_scenes(), inks, strict=True))[:scenes]:
        drawing = Drawing(model, view, ink=ink, pictures=_Noise())  # type: ignore[arg-type]
        drawing.compute([*needs_of([*traces, *confined], ink), Need("regions")])
        cache = LayerCache()
        for opacity in (1.0, 0.5, 0.4):  # from the second change on, what lies over the trace that is changed is kept flat
            laid = [traces[0].model_copy(update={"opacity": opacity}), *traces[1:], *confined]
            compose(drawing.plate(), laid, Sheet(), drawing.size, cache)


def keep_for_good() -> None:
    """Say that all that is in memory stays there, so that nobody looks through it again for what is used no more: with the compiled
    kernels and the models that takes an eighth of a second, in the middle of somebody's edit."""
    gc.collect()
    gc.freeze()
