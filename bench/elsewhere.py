"""What reflections, backdrops and pictures from elsewhere take."""

from __future__ import annotations

import io
import statistics
from typing import Any

from bench.collage import _pond, _seconds

__all__ = ["backdrops", "contours", "panned", "reflections", "sheet"]


def _photograph() -> Any:
    """A photograph (3000, 4000, 4) of the long section's lines by the stand-in."""
    import numpy as np
    from PIL import Image, ImageOps

    from demo.kiln_house import build_kiln_house
    from demo.views import sample_views
    from warmgraphite.collage.kinds.lines import LinesTrace
    from warmgraphite.collage.pictures.phone import photographed
    from warmgraphite.drawing import Drawing, needs_of
    from warmgraphite.sheet.preview import LayerCache, compose
    from warmgraphite.sheet.specification import Sheet

    view = sample_views()[0]
    drawing, lines = (
        Drawing(build_kiln_house(planting=True), view, (1600, 1131)),
        (LinesTrace(id="lines", name="Lines"),),
    )
    drawing.compute(needs_of(lines, drawing.ink))
    plate = compose(drawing.plate(), lines, Sheet(), (2970, 2100), LayerCache()).toarray()[..., [2, 1, 0]]
    picture = ImageOps.exif_transpose(Image.open(io.BytesIO(photographed(plate).data)))
    assert picture is not None
    return np.asarray(picture.convert("RGBA"))


def reflections() -> dict:
    """Water mirrored, against the passes that it mirrors: what is seen, its light and its colour."""
    from warmgraphite.collage.mirrors import MirrorSpec
    from warmgraphite.drawing import Drawing, Need

    model, view = _pond()
    rows = []
    for _ in range(5):
        drawing = Drawing(model, view, (1600, 1131))
        drawing.compute(["frame", "surface", "light", "colour", Need("mirrors", MirrorSpec())])
        own = sum(drawing.seconds[n] for n in ("surface", "light", "colour"))
        rows.append((drawing.seconds["mirrors"], own))
    mirrors, own = (statistics.median(r[k] for r in rows[1:]) for k in (0, 1))
    return {"seconds": mirrors, "note": f"{100 * mirrors / own:.0f} % of the {own:.2f} s of what they mirror"}


def backdrops() -> dict:
    """Each backdrop laid anew: the dearest, and all of them."""
    from warmgraphite.collage.backdrops import BACKDROPS
    from warmgraphite.collage.kinds.backdrop import BackdropTrace
    from warmgraphite.drawing import Drawing

    model, view = _pond()
    drawing = Drawing(model, view, (1600, 1131))
    drawing.compute(["frame", "surface", "extent"])
    found = {}
    for name in BACKDROPS:
        trace = BackdropTrace(id="b", name="B", scene=name, scale=2.0)
        trace.pixels(drawing.plate())
        again = [trace.model_copy(update={"raised": 4.0 * k}) for k in range(1, 4)]
        found[name] = statistics.median(_seconds(lambda t=t: t.pixels(drawing.plate())) for t in again)  # type: ignore[misc]
    dearest = max(found, key=lambda n: found[n])
    return {"seconds": found[dearest], "note": ", ".join(f"{n} {v:.2f} s" for n, v in found.items())}


def sheet() -> dict:
    """Corners found, laid flat, evenly lit, lines on nothing; and the same followed as vectors."""
    from warmgraphite.collage.pictures.sheet import cleaned, found_corners
    from warmgraphite.collage.pictures.specification import SheetSpec

    pixels = _photograph()
    corners = found_corners(pixels)
    spec = SheetSpec(corners=corners)  # type: ignore[arg-type]
    cleaned(pixels, spec)
    find = statistics.median(_seconds(lambda: found_corners(pixels)) for _ in range(3))
    clean = statistics.median(_seconds(lambda: cleaned(pixels, spec)) for _ in range(3))
    lines = _seconds(lambda: cleaned(pixels, spec.model_copy(update={"lines": True})))
    return {
        "seconds": find + clean,
        "note": f"corners {find:.2f} s, clean {clean:.2f} s; followed as vectors {lines:.2f} s",
    }


def contours() -> dict:
    """Of a photograph of 12 megapixels, as lines and as areas; and traced in six colours."""
    from warmgraphite.collage.pictures.following import contours_of, traced_of
    from warmgraphite.collage.pictures.specification import ContourSpec, TracedSpec

    pixels = _photograph()
    contours_of(pixels, ContourSpec())
    lines, areas = (
        statistics.median(_seconds(lambda a=a: contours_of(pixels, ContourSpec(areas=a))) for _ in range(3))
        for a in (False, True)
    )  # type: ignore[misc]
    traced = _seconds(lambda: traced_of(pixels, TracedSpec()))
    return {
        "seconds": max(lines, areas),
        "note": f"lines {lines:.2f} s, areas {areas:.2f} s; traced in six colours {traced:.2f} s",
    }


def panned() -> dict:
    """A picture in register laid in another window of a close drawing."""
    import numpy as np

    from warmgraphite.collage.pictures.laying import laid_picture

    pixels = _photograph()
    matrix = np.array([[420 / pixels.shape[1], 0, 0], [0, 297 / pixels.shape[0], 0], [0, 0, 1.0]])

    def look(k: int) -> None:
        laid_picture(
            pixels, np.linspace(20 + 3 * k, 180 + 3 * k, 1280), np.linspace(30 + k, 150 + k, 905), (0, 0, 1, 1), matrix
        )

    first = _seconds(lambda: look(0))
    spent = [_seconds(lambda k=k: look(k)) for k in range(1, 9)]  # type: ignore[misc]
    return {"seconds": statistics.median(spent), "note": f"the first of all {first:.2f} s"}
