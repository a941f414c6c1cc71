"""What washes, textures and pictures take."""

from __future__ import annotations

import resource
import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

__all__ = ["example", "textures", "wash_printed", "washes"]


def _seconds(work: Callable[[], object]) -> float:
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def _pond(**frame: float) -> tuple[Any, Any]:
    from demo.kiln_house import build_kiln_house
    from demo.views import sample_views

    view = sample_views()[5]
    return build_kiln_house(planting=True), view.model_copy(update={"frame": view.frame.model_copy(update=frame)})


def _washes() -> tuple[Any, ...]:
    """Sky, water, all materials, shadow: as the sample's own finish has them."""
    from warmgraphite.study.kit import warm_wash

    return tuple(t for t in warm_wash().traces if t.id in ("paper", "sky", "water", "materials", "shadow"))


def washes() -> dict:
    """From the region map to the finished picture: what washes follow is measured, they are laid and put together."""
    from warmgraphite.drawing import Drawing, needs_of
    from warmgraphite.sheet.preview import LayerCache, compose
    from warmgraphite.sheet.specification import Sheet

    model, view = _pond()
    size, traces = (1280, 905), _washes()
    drawing = Drawing(model, view, size)
    drawing.compute(["frame", "surface", "light", "regions"])
    needs = needs_of(traces, drawing.ink)
    spent: list[float] = []
    passes: list[float] = []
    for _ in range(5):
        turned = Drawing(model, view, size).sharing(drawing)
        for name in ("surface", "light", "regions", "strokes"):
            turned.result(name)
        turned.region_map().covers.clear()
        passes.append(_seconds(lambda turned=turned: turned.compute(needs)))
        spent.append(_seconds(lambda turned=turned: compose(turned.plate(), traces, Sheet(), size, LayerCache())))
    both = statistics.median(a + b for a, b in zip(passes[1:], spent[1:], strict=True))
    return {
        "seconds": both,
        "note": f"{len(traces) - 1} washes: measured {statistics.median(passes[1:]):.2f} s, laid "
        f"{statistics.median(spent[1:]):.2f} s",
    }


def wash_printed() -> dict:
    """A2 at 300 dpi: passes and picture, tile by tile, with the peak of memory."""
    from warmgraphite.drawing import Drawing, needs_of
    from warmgraphite.drawing.tiles import TiledDrawing
    from warmgraphite.sheet.specification import Sheet
    from warmgraphite.sheet.write import write_drawing

    model, view = _pond(width=594, height=420, resolution=300)
    traces = _washes()
    with tempfile.TemporaryDirectory() as folder:
        start = time.perf_counter()
        tiled = TiledDrawing(Drawing(model, view), Path(folder) / "tiles")
        tiled.compute(needs_of(traces, tiled.drawing.ink))
        passes = time.perf_counter() - start
        write_drawing(tiled.plate(), traces, Sheet(), Path(folder) / "a.png", resolution=300)
        seconds = time.perf_counter() - start
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    return {"seconds": seconds, "note": f"{len(traces) - 1} washes; passes {passes:.1f} s; {peak:.0f} MiB at most"}


def textures() -> dict:
    """Every texture over a whole picture of 2 million pixels, lying on the paper.
    Nanoseconds a pixel, the dearest and the middle one.
    """
    from warmgraphite.collage.kinds.texture import TextureTrace
    from warmgraphite.collage.textures import TEXTURES
    from warmgraphite.drawing import Drawing

    model, view = _pond()
    drawing = Drawing(model, view, (1680, 1188))
    drawing.compute(["frame", "surface", "light"])
    plate, count = drawing.plate(), 1680 * 1188
    found = {}
    for name in TEXTURES:
        trace = TextureTrace(id="a", name=name, texture=name, lies="paper", size=3.0)
        trace.pixels(plate)
        found[name] = (
            statistics.median(_seconds(lambda trace=trace: trace.pixels(plate)) for _ in range(3)) / count * 1e9
        )
    dearest = max(found, key=lambda n: found[n])
    middle = statistics.median(found.values())
    return {
        "seconds": found[dearest] * count / 1e9,
        "note": f"{middle:.0f} ns a pixel; the dearest, {dearest}, {found[dearest]:.0f} ns",
    }


def example() -> dict:
    """An example of 1024² pixels made ready: strewn, and in patches."""
    import numpy as np

    from warmgraphite.collage.pictures.example import made_of
    from warmgraphite.collage.pictures.specification import ExampleSpec

    pixels = np.random.default_rng(1).integers(0, 256, (1024, 1024, 4), np.uint8)
    pixels[..., 3] = 255
    spent = {
        k: _seconds(lambda k=k: made_of(pixels, ExampleSpec(endless=k, evened=0.5))) for k in ("strewn", "patches")
    }  # type: ignore[arg-type]
    return {"seconds": max(spent.values()), "note": ", ".join(f"{k} {v:.2f} s" for k, v in spent.items())}
