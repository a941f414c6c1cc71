"""The benchmark table: each row measured in a process of its own, so that its peak memory is its own.

These machines are noisy: a row is the median of several runs after one that warms it.
"""

from __future__ import annotations

import gzip
import itertools
import json
import os
import resource
import statistics
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable
from pathlib import Path

from bench import collage, elsewhere, figures, notes, out

ROWS: dict[str, Callable[[], dict]] = {}


def row(name: str) -> Callable[[Callable[[], dict]], Callable[[], dict]]:
    """Decorator: a row of the table."""

    def register(function: Callable[[], dict]) -> Callable[[], dict]:
        ROWS[name] = function
        return function

    return register


def median(work: Callable[[], object], runs: int = 5) -> float:
    """Seconds of the middle one of several runs, after one to warm."""
    work()
    found = []
    for _ in range(runs):
        start = time.perf_counter()
        work()
        found.append(time.perf_counter() - start)
    return statistics.median(found)


def _long_section(**frame: float):  # type: ignore[no-untyped-def]
    from demo.kiln_house import build_kiln_house
    from demo.views import sample_views

    view = sample_views()[0]
    return build_kiln_house(planting=True), view.model_copy(update={"frame": view.frame.model_copy(update=frame)})


@row("lines, long section")
def lines() -> dict:
    from warmgraphite.drawing import Drawing

    model, view = _long_section()
    seconds = median(lambda: Drawing(model, view).lines())
    drawing = Drawing(model, view)
    found = drawing.lines()
    return {
        "seconds": seconds,
        "note": f"{len(drawing.scene.corners):,} triangles, {int(found.visible.sum()):,} visible pieces",
    }


def _box_lines(boxes: int, runs: int) -> tuple[float, dict]:
    """The whole line pass from a model that was never looked at: edges, intersections, grid, hiding, ranks, chains."""
    from bench.models import box_model
    from warmgraphite.drawing import Drawing
    from warmgraphite.passes import edges
    from warmgraphite.view.specification import Parallel, ViewSpecification

    view = ViewSpecification(projection=Parallel(direction=(0.5, 1.0, -0.6)))
    model = box_model(boxes)

    def work() -> None:
        edges.forget()
        work.found = Drawing(model, view).lines()  # type: ignore[attr-defined]

    Drawing(box_model(200), view).lines()
    seconds = median(work, runs)
    visible = int(work.found.visible.sum())  # type: ignore[attr-defined]
    return seconds, {"seconds": seconds, "note": f"{len(model.triangles):,} triangles, {visible:,} visible pieces"}


@row("line pass, 96,000 triangles of boxes")
def box_lines() -> dict:
    peer = subprocess.run([sys.executable, "-m", "bench.peer", "8000"], capture_output=True, text=True, check=True)
    hiding, handing = (float(s) for s in peer.stdout.split()[-2:])
    seconds, found = _box_lines(8000, 5)
    ratio = (hiding + handing) / seconds
    return found | {"note": f"{found['note']}; the peer {hiding:.1f} + {handing:.1f} s, {ratio:.0f} times as long"}


@row("line pass, 960,000 triangles of boxes")
def many_box_lines() -> dict:
    return _box_lines(80_000, 3)[1]


@row("lines and cut, IFC house")
def ifc_lines() -> dict:
    from bench.models import write_ifc_house
    from warmgraphite.drawing import Drawing
    from warmgraphite.model.read import read_model
    from warmgraphite.passes import edges
    from warmgraphite.view.specification import Cut, Perspective, ViewSpecification

    with tempfile.TemporaryDirectory() as folder:
        write_ifc_house(Path(folder) / "house.ifc")
        model = read_model(Path(folder) / "house.ifc")
    cut = Cut(point=(0, 2.5, 0), normal=(0, -1, 0))
    view = ViewSpecification(projection=Perspective(eye=(12, -18, 6), target=(12, 3, 4), field_of_view=65), cuts=(cut,))

    def work() -> None:
        edges.forget()
        Drawing(model, view).lines()

    whole = median(work)
    again = median(lambda: Drawing(model, view).lines())
    return {
        "seconds": whole,
        "note": f"{len(model.triangles):,} triangles; {again:.2f} s when the model has been looked at before",
    }


@row("cut, long section")
def cut() -> dict:
    from warmgraphite.drawing import Drawing

    model, view = _long_section()
    return {
        "seconds": median(lambda: Drawing(model, view).masses),
        "note": f"{len(Drawing(model, view).regions())} regions",
    }


@row("surface and shadow, 1600×1000")
def shadow() -> dict:
    from warmgraphite.drawing import Drawing

    model, view = _long_section(width=400, height=250)
    parts: dict[str, list[float]] = {}

    def work() -> None:
        drawing = Drawing(model, view, (1600, 1000))
        drawing.light()
        for name in ("surface", "light"):
            parts.setdefault(name, []).append(drawing.seconds[name])

    seconds = median(work, 3)
    surface, light = statistics.median(parts["surface"]), statistics.median(parts["light"])
    return {"seconds": seconds, "note": f"surface {surface:.2f} s, shadow and shade {light:.2f} s"}


def _ifc_drawing():  # type: ignore[no-untyped-def]
    from bench.models import write_ifc_house
    from warmgraphite.drawing import Drawing
    from warmgraphite.model.read import read_model
    from warmgraphite.view.specification import Cut, Perspective, Sun, ViewSpecification

    with tempfile.TemporaryDirectory() as folder:
        write_ifc_house(Path(folder) / "house.ifc")
        model = read_model(Path(folder) / "house.ifc")
    cut = Cut(point=(0, 2.5, 0), normal=(0, -1, 0))
    projection = Perspective(eye=(12, -18, 6), target=(12, 3, 4), field_of_view=65)
    view = ViewSpecification(projection=projection, cuts=(cut,), sun=Sun(azimuth=215, altitude=38))
    return lambda: Drawing(model, view, (1600, 1131))


@row("vector shadow and region map, IFC house")
def vector_shadow() -> dict:
    fresh = _ifc_drawing()
    spent: dict[str, list[float]] = {}

    def work() -> None:
        drawing = fresh()
        drawing.bounds()
        work.cells = drawing.region_map()  # type: ignore[attr-defined]
        for name in ("shadow", "regions"):
            spent.setdefault(name, []).append(drawing.seconds[name])
        start = time.perf_counter()
        chosen = work.cells.light == 1  # type: ignore[attr-defined]
        work.cells.shape(chosen)  # type: ignore[attr-defined]
        work.cells.cover((1600, 1131))  # type: ignore[attr-defined]
        middle = time.perf_counter()
        work.cells.mask(chosen, (1600, 1131))  # type: ignore[attr-defined]
        spent.setdefault("first", []).append(middle - start)
        spent.setdefault("mask", []).append(time.perf_counter() - middle)

    median(work, 3)
    shadow, regions, first, mask = (statistics.median(spent[k][1:]) for k in ("shadow", "regions", "first", "mask"))
    note = f"shadow {shadow:.2f} s, map {regions:.2f} s, {len(work.cells):,} cells; "  # type: ignore[attr-defined]
    note += f"mask {mask * 1000:.0f} ms, the first at a size {first * 1000:.0f} ms more"  # type: ignore[attr-defined]
    return {"seconds": shadow + regions, "note": note}


def _bare(batches: list, rays) -> float:  # type: ignore[no-untyped-def]
    """Seconds for nothing but the ray engine, on all processors, with the batches that a pass sent it."""
    from warmgraphite.threads import in_threads

    return median(lambda: in_threads(lambda k: rays.blocked(*batches[k]), range(len(batches))), 3)


def _with_rays(work: Callable[[], object], keep: int) -> tuple[float, list, int]:
    """Seconds of a pass, every ``keep``-th batch of rays that it sent, and how many rays there were in all."""
    from warmgraphite.passes.casters import Rays

    seconds = median(work, 3)
    sent: list = []
    plain = Rays.blocked

    def watched(self, *batch):  # type: ignore[no-untyped-def]
        sent.append((len(batch[0]), batch if len(sent) % keep == 0 else None))
        return plain(self, *batch)

    Rays.blocked = watched  # type: ignore[method-assign]
    work()
    Rays.blocked = plain  # type: ignore[method-assign]
    return seconds, [b for _, b in sent if b is not None], sum(n for n, _ in sent)


@row("corners, 1600×1000, 32 samples")
def corners() -> dict:
    from warmgraphite.drawing import Drawing
    from warmgraphite.passes.occlusion import occlusion

    model, view = _long_section(width=400, height=250)
    drawing = Drawing(model, view, (1600, 1000))
    seen, solid = drawing.surface(), drawing.solid
    work = lambda: occlusion(drawing.scene, drawing.hiders, seen, solid, view.occlusion)
    seconds, batches, count = _with_rays(work, 4)
    bare = _bare(batches, solid) * count / sum(len(b[0]) for b in batches)
    return {
        "seconds": seconds,
        "note": f"{count / 1e6:.1f} million rays; the bare ray engine {bare:.2f} s, {seconds / bare:.2f} times",
    }


@row("pixel shadow, 1600×1000")
def pixel_shadow() -> dict:
    from warmgraphite.drawing import Drawing
    from warmgraphite.passes.light import light

    model, view = _long_section(width=400, height=250)
    view = view.model_copy(update={"sun": view.sun.model_copy(update={"softness": 1.0})})
    drawing = Drawing(model, view, (1600, 1000))
    seen, casters = drawing.surface(), drawing.casters
    work = lambda: light(drawing.scene, drawing.hiders, seen, casters, drawing.spec.sight.lit.day)
    seconds, batches, count = _with_rays(work, 1)
    bare = _bare(batches, casters.rays) * count / sum(len(b[0]) for b in batches)
    return {
        "seconds": seconds,
        "note": f"with penumbrae and shade; {count / 1e6:.1f} million rays; the bare ray engine {bare:.2f} s, "
        f"{seconds / bare:.2f} times",
    }


@row("all passes of the long section, 1280×905, warm")
def all_passes() -> dict:
    from warmgraphite.drawing import PASSES, Drawing

    model, view = _long_section()
    names = [name for name, record in PASSES.items() if not (record.of_where or record.tool)]
    found: dict[str, float] = {}

    def work() -> None:
        drawing = Drawing(model, view, (1280, 905))
        drawing.compute(names)
        found.update(drawing.seconds)

    seconds = median(work, 3)
    return {"seconds": seconds, "note": ", ".join(f"{k} {v:.2f}" for k, v in found.items())}


def _large(width: float, height: float, resolution: float) -> dict:
    from warmgraphite.drawing import PASSES, Drawing

    model, view = _long_section(width=width, height=height, resolution=resolution)
    start = time.perf_counter()
    sketch = Drawing(model, view, (420, max(1, round(420 * height / width))))
    sketch.light()
    first = time.perf_counter() - start
    drawing = Drawing(model, view).sharing(sketch)
    drawing.compute([name for name, record in PASSES.items() if not (record.of_where or record.tool)])
    seconds = time.perf_counter() - start
    w, h = drawing.size
    return {"seconds": seconds, "note": f"{w}×{h} pixels, every pass, from nothing; first coarse light {first:.1f} s"}


@row("A2 at 300 dpi, every pass")
def large() -> dict:
    return _large(594, 420, 300)


@row("a strip 12,000 pixels wide, every pass")
def strip() -> dict:
    return _large(1016, 170, 300)


Send = Callable[[str, dict], dict]


def _over_http(act: Callable[[Send, int, int], None], prepare: Callable[[Send], None] = lambda _send: None) -> dict:
    """Something done to the long section again and again, each time until its picture is there.
    ``act`` is told which time it is, and the study's revision.
    """
    from tests.interface.serve import application

    with tempfile.TemporaryDirectory() as data, application(Path(data)) as app:
        address = app.address
        base = f"{address}/api/studies/alder-weir-kiln-house"

        def get(path: str) -> bytes:
            with urllib.request.urlopen(base + path) as answer:
                return answer.read()

        def send(path: str, body: dict) -> dict:
            request = urllib.request.Request(
                base + path, json.dumps(body).encode(), {"Content-Type": "application/json"}
            )
            with urllib.request.urlopen(request) as answer:
                return json.loads(answer.read() or b"{}")

        def whole() -> None:
            send("/desk", {})
            while not get("/preview?width=1280"):
                time.sleep(0.2)  # until every pass of it is there

        prepare(send)
        whole()
        edits, pictures, both = [], [], []
        for i in range(25):
            revision = json.loads(get(""))["revision"]
            start = time.perf_counter()
            act(send, i, revision)
            middle = time.perf_counter()
            size = len(get("/preview?width=1280"))
            end = time.perf_counter()
            edits.append(middle - start)
            pictures.append(end - middle)
            both.append(end - start)
        note = f"edit {statistics.median(edits) * 1000:.0f} ms + "
        note += f"picture {statistics.median(pictures) * 1000:.0f} ms, {size / 1000:.0f} kB"
        return {"seconds": statistics.median(both[3:]), "note": note}


def _changed_over_http(trace: str, field: str) -> dict:
    """A setting of a trace changed again and again."""

    def act(send: Send, i: int, revision: int) -> None:
        command = {"do": "look", "changes": [{"path": ["traces", trace, field], "value": 0.1 + 0.03 * i}]}
        send("/edits", {"base": revision, "commands": [command], "gesture": "bench"})

    return _over_http(act)


def _window(kind: str, value: dict) -> Callable[[Send], None]:
    """Confines the shadow of the long section to a window of its own."""

    def prepare(send: Send) -> None:
        commands = [
            {"do": "view", "changes": [{"path": [kind, value["id"]], "value": value}]},
            {
                "do": "look",
                "changes": [
                    {"path": ["traces", "shadow", "where"], "value": {"kind": "through", "name": value["name"]}}
                ],
            },
        ]
        send("/edits", {"base": 1, "commands": commands})

    return prepare


@row("a disc moved, to its picture, 1280 wide, HTTP")
def disc_moved() -> dict:
    def act(send: Send, i: int, revision: int) -> None:
        middle = {"kind": "paper", "at": [4.0 * i - 50, 10]}
        command = {"do": "view", "changes": [{"path": ["discs", "d", "middle"], "value": middle}]}
        send("/edits", {"base": revision, "commands": [command], "gesture": "bench"})

    return _over_http(act, _window("discs", {"id": "d", "name": "Disc", "radius": 60, "softness": 20}))


@row("a stroke of a mask, to its picture, 1280 wide, HTTP")
def mask_painted() -> dict:
    def act(send: Send, i: int, revision: int) -> None:
        points = [[-80 + 3 * k, 5.0 * i - 60 + 8 * (k % 3)] for k in range(40)]
        send("/masks/m/strokes", {"base": revision, "stroke": {"points": points, "size": 25, "softness": 0.5}})

    return _over_http(act, _window("masks", {"id": "m", "name": "Mask", "tiles": ""}))


@row("preview after a change of opacity, 1280 wide, HTTP")
def preview() -> dict:
    return _changed_over_http("shadow", "opacity")


@row("preview after a changed wash, 1280 wide, HTTP")
def wash_preview() -> dict:
    return _changed_over_http("materials", "density")


def _ready(path: Path, written: Path) -> dict:
    """From a file to a model that the desk can draw: read apart, in metres, kept, packed for the 3D view.
    Then its health.
    """
    from studio.studies.mesh import mesh_bytes
    from warmgraphite.model.health import check
    from warmgraphite.model.model import localised
    from warmgraphite.model.read import FileModel
    from warmgraphite.model.sandboxed import read_sandboxed
    from warmgraphite.model.store import ModelStore, load_model

    spent: list[tuple[float, float, float]] = []

    def work() -> None:
        start = time.perf_counter()
        found = read_sandboxed(path, written / "as-read.npz")
        middle = time.perf_counter()
        model = FileModel(load_model(written / "as-read.npz"), "", found["units"], found["up"], "").in_metres()
        model = localised(model)
        with tempfile.TemporaryDirectory() as folder:
            ModelStore(Path(folder)).save(model)
        gzip.compress(mesh_bytes(model), 1)
        end = time.perf_counter()
        check(model)
        spent.append((middle - start, end - middle, time.perf_counter() - end))
        work.triangles, work.parts = len(model.triangles), len(model.parts)  # type: ignore[attr-defined]

    median(work, 3)
    reading, laying, health = (statistics.median(column) for column in zip(*spent[1:]))
    note = f"{work.triangles:,} triangles, {work.parts:,} parts; "  # type: ignore[attr-defined]
    note += f"read {reading:.1f} s, laid down {laying:.1f} s; health {health:.2f} s"
    return {"seconds": reading + laying, "note": note}


@row("IFC house, read and ready")
def ifc_house() -> dict:
    from bench.models import write_ifc_house

    with tempfile.TemporaryDirectory() as folder:
        write_ifc_house(Path(folder) / "house.ifc")
        return _ready(Path(folder) / "house.ifc", Path(folder))


@row("GLB town, read and ready")
def glb_town() -> dict:
    with tempfile.TemporaryDirectory() as folder:
        # Written in a process of its own, so that its memory is not counted.
        code = _WRITING + f"write_glb(block_model(), Path({str(Path(folder) / 'town.glb')!r}))"
        subprocess.run([sys.executable, "-c", code], check=True)
        return _ready(Path(folder) / "town.glb", Path(folder))


@row("orbiting the GLB town, no graphics processor")
def orbit() -> dict:
    """The interval between frames while the town is orbited in the browser, drawn by the processors alone."""
    from selenium.webdriver.common.action_chains import ActionChains

    from tests.interface.desk import Desk
    from tests.interface.serve import application, browser

    with tempfile.TemporaryDirectory() as data, application(Path(data)) as app, browser() as driver:
        address = app.address
        code = _WRITING + f"write_glb(block_model(), Path({str(Path(data) / 'town.glb')!r}))"
        subprocess.run([sys.executable, "-c", code], check=True)
        desk = Desk(driver, address)
        desk.open("/")
        desk.find("//input[@type='file']").send_keys(str(Path(data) / "town.glb"))
        desk.press("Make a study of it", 60)
        desk.find("//h1[normalize-space()='town']", 60)
        desk.bench("Model")
        desk.wait(
            lambda: driver.execute_script("return !!document.querySelector('[role=application]')?.stage"),
            "no model",
            60,
        )
        # The passes of its first drawing are under way; they are not what is measured here.
        desk.wait(lambda: not _working(address), "the passes do not end", 240)
        driver.execute_script(
            "const s = document.querySelector('[role=application]').stage; window.times = []; const p = "
            "s.paint.bind(s); "
            "s.paint = () => { p(); const gl = s.renderer.getContext(); gl.readPixels(0, 0, 1, 1, gl.RGBA, "
            "gl.UNSIGNED_BYTE, new Uint8Array(4)); window.times.push(performance.now()); }"
        )
        room = desk.find("//*[@role='application']")
        steps = ActionChains(driver, duration=30).move_to_element_with_offset(room, -250, 0).click_and_hold()
        for k in range(90):
            steps.move_to_element_with_offset(room, -250 + k * 5, k % 7)
        steps.release().perform()
        times = driver.execute_script("return window.times")
        gaps = sorted(b - a for a, b in itertools.pairwise(times))
        gaps = gaps[: int(len(gaps) * 0.97)]  # the first, whole picture and the last are not motion
        note = f"{len(gaps)} frames, nine in ten within {gaps[int(len(gaps) * 0.9)]:.0f} ms"
        return {"seconds": statistics.median(gaps) / 1000, "note": note}


#: Notes when Enter is pressed, and how long after it the desk shows another state of the study, whole.
#: A program's first lines, which writes a town's model.
_WRITING = (
    "from pathlib import Path; from bench.models import block_model; from warmgraphite.model.glb import write_glb; "
)
WATCHED = """window.took = []; let since = 0, before = null;
const sheet = () => document.querySelector('main [data-revision]');
addEventListener('keydown', (e) => { if (e.key === 'Enter') {
  since = performance.now(); before = sheet().dataset.revision; } }, true);
const look = () => { const s = sheet();
  if (since && s?.dataset.revision !== before && s?.getAttribute('aria-busy') === 'false') {
    window.took.push(performance.now() - since); since = 0; }
  requestAnimationFrame(look); };
look();"""


def _from_hand_to_desk(view: str, label: str, values: list[str], build_up: str = "") -> dict:
    """From the press of a key in the browser to the finished picture on the desk.
    For what is typed into the field with this label: of the pen that is chosen at first, or of the insulation of a
    build-up.
    """
    from tests.interface.desk import Desk
    from tests.interface.serve import application, browser

    with tempfile.TemporaryDirectory() as data, application(Path(data)) as app, browser() as driver:
        desk = Desk(driver, app.address)
        desk.open()
        desk.bench("View")
        desk.lay_out(view)
        desk.bench("Ink")
        desk.picture()
        if build_up:
            found = desk.find(f"//ul[@aria-label='Build-ups']//button[contains(., '{build_up}')]")
            driver.execute_script("arguments[0].scrollIntoView({block: 'center'}); arguments[0].click()", found)
            desk.find("//aside//button[starts-with(@aria-label, 'Insulation, ')]").click()
        driver.execute_script(WATCHED)
        for k, value in enumerate(values):
            desk.type_into(label, value)
            desk.wait(
                lambda k=k: driver.execute_script("return window.took.length") > k, "the drawing does not change", 60
            )  # type: ignore[misc]
            desk.picture()
        took = sorted(driver.execute_script("return window.took")[2:])
        return {"seconds": statistics.median(took) / 1000, "note": f"slowest of {len(took)}: {took[-1]:.0f} ms"}


for _view in ("Long section, perspective", "Plan", "From the pond"):
    row(f"a pen's weight from the key to the desk, {_view.lower()}")(
        lambda name=_view: _from_hand_to_desk(name, "Weight", [f"{0.4 + 0.01 * k:.2f}" for k in range(14)])
    )


@row("a layer's thickness from the key to the desk, cross section")
def thickness_to_desk() -> dict:
    return _from_hand_to_desk("Cross section 1:50", "Thickness", [f"{190 + k}" for k in range(14)], "Boarded wall")


@row("where a point of a mark falls, HTTP")
def snapping() -> dict:
    import numpy as np

    from tests.interface.desk import Desk
    from tests.interface.serve import application, browser

    with tempfile.TemporaryDirectory() as data, application(Path(data)) as app, browser() as driver:
        desk = Desk(driver, app.address)
        desk.open()
        desk.picture()
        places = np.random.default_rng(1).uniform([60, 80], [340, 200], (60, 2))
        took = []
        for x, y in places:
            body = json.dumps(
                {
                    "x": x,
                    "y": y,
                    "reach": 2,
                    "lies": "paper",
                    "before": [x - 20, y],
                    "plane": {"lies": "paper", "view": "view-1"},
                    "on": [0, 0, 0],
                }
            ).encode()
            request = urllib.request.Request(
                f"{app.address}/api/studies/{desk.slug}/snap", body, {"Content-Type": "application/json"}
            )
            took.append(_seconds(lambda r=request: urllib.request.urlopen(r).read()))
        return {
            "seconds": statistics.median(took[5:]),
            "note": f"slowest of {len(took) - 5}: {max(took[5:]) * 1000:.0f} ms",
        }


def _working(address: str) -> bool:
    """Whether the desk's passes or the small picture of its view are still being made."""
    with urllib.request.urlopen(f"{address}/api/studies/town/desk") as answer:
        job = json.load(answer)["job"]
    with urllib.request.urlopen(f"{address}/api/studies/town/views/view-1/picture") as answer:
        drawn = answer.status == 200
    return not drawn or (bool(job) and job["state"] in ("waiting", "working"))


@row("A2 PDF export, tones at 150 dpi")
def export() -> dict:
    from warmgraphite.collage.specification import default_traces
    from warmgraphite.drawing import Drawing, needs_of
    from warmgraphite.sheet.specification import Sheet
    from warmgraphite.sheet.write import write_drawing

    model, view = _long_section(width=594, height=420)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "a2.pdf"
        drawing, traces = Drawing(model, view), default_traces()
        passes = _seconds(lambda: drawing.compute(needs_of(traces, drawing.ink)))
        seconds = median(lambda: write_drawing(drawing.plate(), traces, Sheet(), path), 3)
        note = f"{path.stat().st_size / 1e6:.1f} MB; its passes {passes:.1f} s before"
        return {"seconds": seconds, "note": note}


def _inked(name: str, place: int) -> dict:
    """All of the ink of a sample's view with hatches and a calm hand, its SVG and its A2 PDF, beside its line pass."""
    from demo.kiln_house import build_kiln_house
    from demo.views import sample_views, with_sample_words
    from warmgraphite.drawing import Drawing, needs_of
    from warmgraphite.ink.hand import PRESETS
    from warmgraphite.sheet.specification import Sheet
    from warmgraphite.sheet.write import write_drawing
    from warmgraphite.study.kit import graphite

    look = graphite().model_copy(update={"hand": PRESETS["Calm pencil"]})
    view = sample_views()[place]
    view = view.model_copy(update={"frame": view.frame.model_copy(update={"width": 594, "height": 420})})
    model = with_sample_words(build_kiln_house(planting=True))
    drawn = ("strokes", "penned", "surfaces", "hatched", "shapes", "poche")
    rows = []
    for _ in range(4):
        drawing = Drawing(model, view, (1280, 905), ink=look)
        drawing.compute(needs_of(look.traces, look))
        rows.append((sum(drawing.seconds.get(n, 0.0) for n in drawn), drawing.seconds["lines"]))
    ink, lines = (statistics.median(r[k] for r in rows[1:]) for k in (0, 1))
    dark = next(r for r in look.surfaces if r.id == "shadow")
    other = tuple(r if r.id != "shadow" else dark.model_copy(update={"fills": ()}) for r in look.surfaces)
    changed = Drawing(model, view, (1280, 905), ink=look.model_copy(update={"surfaces": other})).sharing(drawing)
    one = _seconds(lambda: changed.compute(needs_of(look.traces, look)))
    with tempfile.TemporaryDirectory() as folder:
        out = {}
        for kind in ("svg", "pdf"):
            path = Path(folder) / f"a2.{kind}"
            plate = drawing.plate()
            out[kind] = (
                median(lambda p=path, of=plate: write_drawing(of, look.traces, Sheet(), p), 3),
                path.stat().st_size / 1e6,
            )
    return {
        "seconds": ink,
        "note": f"{ink / lines:.1f} times its line pass; one rule changed {one:.2f} s; SVG {out['svg'][1]:.1f} MB in "
        f"{out['svg'][0]:.1f} s, "
        f"A2 PDF {out['pdf'][1]:.1f} MB in {out['pdf'][0]:.1f} s; {name}",
    }


@row("all ink of the pond view, by hand")
def pond_ink() -> dict:
    return _inked("brick, boards, seams, water, shadow and shade", 5)


@row("all ink of the long section, by hand")
def section_ink() -> dict:
    return _inked("with earth", 0)


def _built(place: int) -> dict:
    """Which side is outside, and the layers of all that has a build-up.
    As in the sample's finish for construction, beside its poche.
    """
    from demo.finishes import BUILT
    from demo.kiln_house import build_kiln_house
    from demo.views import sample_views, with_sample_words
    from warmgraphite.drawing import Drawing
    from warmgraphite.study.kit import construction

    model, view, look = with_sample_words(build_kiln_house(planting=True)), sample_views()[place], construction(BUILT)
    rows = []
    for _ in range(5):
        drawing = Drawing(model, view, (1280, 905), ink=look)
        drawing.compute(["poche", "built"])
        rows.append([drawing.seconds[n] for n in ("sides", "built", "poche")])
    sides, built, poche = (statistics.median(r[k] for r in rows[1:]) for k in range(3))
    return {"seconds": sides + built, "note": f"sides {sides:.2f}, layers {built:.2f}, poche {poche:.2f} s"}


@row("build-ups of the cross section")
def cross_built() -> dict:
    return _built(1)


@row("build-ups of the long section")
def long_built() -> dict:
    return _built(0)


@row("60,000 strokes by hand")
def strokes_by_hand() -> dict:
    import numpy as np

    from warmgraphite.ink.hand import PRESETS, corner_ends, drawn_by_hand

    rng, count = np.random.default_rng(1), 60_000
    start, turn = rng.uniform(0, 400, (count, 2)), rng.uniform(0, 2 * np.pi, count)
    end = start + np.column_stack([np.cos(turn), np.sin(turn)]) * rng.uniform(2, 12, (count, 1))
    xy, first = np.stack([start, end], 1).reshape(-1, 2), 2 * np.arange(count + 1)
    words = (np.full(count, 0.13), np.arange(count, dtype=np.uint64))
    work = lambda: drawn_by_hand(
        xy, first, *words, corner_ends(xy, first), [PRESETS["Calm pencil"]], np.zeros(count, np.int32)
    )
    return {"seconds": median(work), "note": f"{len(work().xy):,} points"}


@row("region map, 10,000 boxes seen at once")
def box_map() -> dict:
    from bench.models import box_model
    from warmgraphite.drawing import Drawing
    from warmgraphite.view.specification import Parallel, ViewSpecification

    drawing = Drawing(box_model(10_000), ViewSpecification(projection=Parallel(direction=(0.5, 1.0, -0.6))))

    def work() -> float:
        drawing.bench.clear()
        drawing.bounds(), drawing.light_edges()
        return _seconds(drawing.region_map)

    work()
    return {"seconds": statistics.median(work() for _ in range(3)), "note": f"{len(drawing.region_map()):,} cells"}


@row("ink of a town of 500,000 triangles, shadow as a hatch")
def town_ink() -> dict:
    from bench.models import block_model
    from warmgraphite.drawing import Drawing, Need
    from warmgraphite.ink.hand import PRESETS
    from warmgraphite.ink.rules import Ink
    from warmgraphite.view.specification import Parallel, ViewSpecification

    dark = {"where": {"kind": "match", "light": ["shadow"]}, "fills": [{"kind": "hatch", "spacing": 0.6, "angle": 45}]}
    ink = Ink.model_validate({"surfaces": [dark], "hand": PRESETS["Calm pencil"].model_dump()})
    model, view = block_model(500_000), ViewSpecification(projection=Parallel(direction=(0.5, 1.0, -0.6)))
    rows = []
    for _ in range(3):
        drawing = Drawing(model, view, ink=ink)
        drawing.compute([Need("penned"), Need("hatched")])
        spent = drawing.seconds
        rows.append((sum(spent.get(n, 0.0) for n in ("strokes", "penned", "surfaces", "hatched")), spent["lines"]))
    ink_seconds, lines = (statistics.median(r[k] for r in rows[1:]) for k in (0, 1))
    return {"seconds": ink_seconds, "note": f"{ink_seconds / lines:.1f} times its line pass"}


def _forty() -> tuple:
    """The long section with forty traces: the usual nine, and tones and lines of every other kind over one another."""
    from warmgraphite.collage.kinds import KINDS
    from warmgraphite.collage.specification import default_traces
    from warmgraphite.drawing import Drawing, needs_of

    model, view = _long_section()
    kinds = [k for n, k in KINDS.items() if n not in ("paper", "sky", "normals")]
    more = [kinds[k % len(kinds)](id=f"t{k}", name=f"Trace {k}", opacity=0.15, blend="multiply") for k in range(31)]
    traces = [*default_traces(), *more]
    drawing = Drawing(model, view, (1600, round(1600 * view.frame.height / view.frame.width)))
    drawing.compute(needs_of(traces, drawing.ink))
    return drawing, traces


def _seconds(work) -> float:  # type: ignore[no-untyped-def]
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


@row("forty traces: one opacity, composed at 1280")
def forty() -> dict:
    from warmgraphite.sheet.preview import LayerCache, compose
    from warmgraphite.sheet.specification import Sheet
    from warmgraphite.view.frame import sized_within

    drawing, traces = _forty()
    plate, cache = drawing.plate(), LayerCache(2_000_000_000)
    size = lambda width: sized_within(drawing.view.frame, width, 12_000_000, 8000)

    def changed(place: int, **fields: float) -> None:
        traces[place] = traces[place].model_copy(update=fields)

    def look(width: int = 1280) -> None:
        compose(plate, traces, Sheet(), size(width), cache)

    first = _seconds(look)
    spent: dict[str, list[float]] = {"opacity": [], "mottle": []}
    for place in (4, 20, 37):
        for k in range(5):
            changed(place, opacity=0.2 + 0.05 * k)
            spent["opacity"].append(_seconds(look))
    for k in range(5):
        changed(4, mottle=0.1 + 0.1 * k)
        spent["mottle"].append(_seconds(look))
    wide = _seconds(lambda: look(4000))
    again = _seconds(lambda: look(4000))
    note = f"mottle {statistics.median(spent['mottle'][1:]):.3f} s; from nothing {first:.2f} s; "
    note += f"4,000 across {wide:.2f} s, a second look {again:.3f} s"
    return {"seconds": statistics.median(spent["opacity"]), "note": note}


@row("the desk's picture once its passes are fresh, 1280")
def fresh() -> dict:
    """Another sun, whose passes a worker has put away.
    They are looked up, laid down and encoded, as the web process does it.
    """
    from warmgraphite.collage.specification import default_traces
    from warmgraphite.drawing import Bench, Drawing, Looked, needs_of
    from warmgraphite.passes.store import PassStore
    from warmgraphite.sheet.preview import LayerCache, compose, encode_jpeg
    from warmgraphite.sheet.specification import Sheet
    from warmgraphite.view.frame import sized_within

    model, view = _long_section()
    traces, cache, held = default_traces(), LayerCache(), Bench("passes")
    size = sized_within(view.frame, 1280, 12_000_000, 8000)
    with tempfile.TemporaryDirectory() as folder:
        store = PassStore(Path(folder))

        def look(azimuth: float) -> float:
            turned = view.model_copy(update={"sun": view.sun.model_copy(update={"azimuth": azimuth})})
            worked = Drawing(model, turned, size, store)
            worked.compute(needs_of(traces, worked.ink))
            return _seconds(
                lambda: encode_jpeg(
                    compose(Looked(model, turned, size, store, bench=held).plate(), traces, Sheet(), size, cache)
                )
            )

        first, *others = [look(200.0 + k) for k in range(6)]
    return {"seconds": statistics.median(others), "note": f"the first of all {first:.2f} s"}


def _printed(width: float, height: float, kind: str) -> dict:
    from warmgraphite.collage.specification import default_traces
    from warmgraphite.drawing import Drawing, needs_of
    from warmgraphite.drawing.tiles import TiledDrawing
    from warmgraphite.sheet.specification import Sheet
    from warmgraphite.sheet.write import write_drawing

    model, view = _long_section(width=width, height=height, resolution=300)
    traces = default_traces()
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"a.{kind}"
        start = time.perf_counter()
        tiled = TiledDrawing(Drawing(model, view), Path(folder) / "tiles")
        tiled.compute(needs_of(traces, tiled.drawing.ink))
        passes = time.perf_counter() - start
        write_drawing(tiled.plate(), traces, Sheet(), path, resolution=300)
        seconds = time.perf_counter() - start
        w, h = tiled.drawing.size
        return {
            "seconds": seconds,
            "note": f"{w}×{h} pixels, {len(tiled.windows)} tiles; passes {passes:.1f} s; "
            f"{path.stat().st_size / 1e6:.0f} MB",
        }


row("washes of the pond view, 1280 wide")(collage.washes)
row("washes of the pond view, A2 at 300 dpi")(collage.wash_printed)
row("computed textures, 1680×1188")(collage.textures)
row("a picture of 1024² made endless")(collage.example)
row("reflections of the pond view, 1600 wide")(elsewhere.reflections)
row("backdrops of the pond view, 1600 wide")(elsewhere.backdrops)
row("a photographed sheet of 12 megapixels made clean")(elsewhere.sheet)
row("tone contours of 12 megapixels in four levels")(elsewhere.contours)
row("a picture of 12 megapixels after a pan, 1280 wide")(elsewhere.panned)
row("a person made anew")(figures.people)
row("a tree of 8 m grown anew")(figures.trees)
row("lines of the sample with people, trees and reeds")(figures.sample_lines)
row("300 figures in a town, all passes, 1600 wide")(figures.crowd)
row("a figure put, to its patch on the desk, HTTP")(figures.put)
row("sixty labels placed")(notes.labels)
row("a note moved, to its picture, HTTP")(notes.moved)
row("an A1 board of four drawings, its passes fresh")(notes.board)
row("an A1 board of four drawings, PDF at 300 dpi")(out.board_pdf)
row("the washed long section, A2 PDF")(out.long_section)
row("a set of twelve views")(out.twelve)
row("a proof of A3")(out.proof)


@row("A1 at 300 dpi, PNG")
def a1_png() -> dict:
    return _printed(841, 594, "png")


@row("A1 at 300 dpi, PDF")
def a1_pdf() -> dict:
    return _printed(841, 594, "pdf")


@row("A0 at 300 dpi, PNG")
def a0_png() -> dict:
    return _printed(1189, 841, "png")


def main() -> None:
    """Print the table, or, with a row's name, measure that row."""
    if len(sys.argv) > 1:
        found = ROWS[sys.argv[1]]()
        own = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        found["memory"] = max(own, resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss) / 1024
        print(json.dumps(found))
        return
    print(f"{os.cpu_count()} processors\n")
    print(f"{'what':<52}{'median':>10}{'peak memory':>14}   note")
    for name in ROWS:
        done = subprocess.run([sys.executable, "-m", "bench", name], capture_output=True, text=True)
        if done.returncode:
            print(f"{name:<52}{'failed':>10}\n{done.stderr[-1500:]}")
            continue
        found = json.loads(done.stdout.splitlines()[-1])
        print(f"{name:<52}{found['seconds']:>8.3f} s{found['memory']:>10.0f} MiB   {found['note']}", flush=True)


if __name__ == "__main__":
    main()
