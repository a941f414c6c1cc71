"""The picture on the desk: the same content as every export, with drawn layers kept between changes.

Opacity, blend mode, order and whether a trace is on are applied when kept layers are laid together, so changing one of
these costs a few blends of finished pictures and nothing else.
"""

from __future__ import annotations

import json
import threading
from collections import OrderedDict
from collections.abc import Callable, Sequence

import skia

from warmgraphite.collage.plate import Plate, content_key, inside
from warmgraphite.collage.trace import Trace
from warmgraphite.sheet.notes import draw_notes
from warmgraphite.sheet.skia_canvas import raster, skia_blend
from warmgraphite.sheet.specification import Sheet
from warmgraphite.threads import in_threads

__all__ = ["LayerCache", "compose", "encode_jpeg", "trace_picture"]


class LayerCache:
    """Drawn layers by what they show; the longest unused goes when ``limit`` bytes are passed. Safe for threads."""

    def __init__(self, limit: int = 600_000_000) -> None:
        self.limit = limit
        self._layers: OrderedDict[str, skia.Image] = OrderedDict()
        self._bytes = 0
        self._lock = threading.Lock()

    def get(self, key: str, draw: Callable[[], skia.Image]) -> skia.Image:
        with self._lock:
            if key in self._layers:
                self._layers.move_to_end(key)
                return self._layers[key]
        found = draw()
        with self._lock:
            if key not in self._layers:
                self._layers[key] = found
                self._bytes += found.width() * found.height() * 4
                while self._bytes > self.limit and len(self._layers) > 1:
                    _, gone = self._layers.popitem(last=False)
                    self._bytes -= gone.width() * gone.height() * 4
        return found


def _layer(plate: Plate, trace: Trace, sheet: Sheet, size: tuple[int, int], cache: LayerCache, over: bool = False) -> skia.Image:
    """What a trace shows, or what it lays ``over`` all others."""
    own = plate.sets[trace.part_set].key if trace.part_set in plate.sets else ""
    # A plate may have been made without the passes of a trace that was off then.
    bare = plate.lacks(trace.needs())
    key = json.dumps([content_key(trace, plate.keys, own, plate.frame, sheet.margin), plate.tones.size, size, bare, over])

    def draw() -> skia.Image:
        surface, canvas = raster(*size, *plate.frame)
        if over:
            trace.draw_over(canvas, plate)
        elif trace.ground:
            trace.draw(canvas, plate)
        else:
            with canvas.clip(*inside(plate, sheet)):
                trace.draw(canvas, plate)
        return surface.makeImageSnapshot()

    return cache.get(key, draw)


def compose(
    plate: Plate, traces: Sequence[Trace], sheet: Sheet, size: tuple[int, int], cache: LayerCache, *, without: str = ""
) -> skia.Image:
    """The finished picture at ``size`` = (width, height) pixels. ``without`` leaves the trace with this id out."""
    surface, _ = raster(*size, *plate.frame)
    target = surface.getCanvas()
    target.resetMatrix()
    target.clear(skia.ColorWHITE)
    laid = [t for t in traces if t.on and t.opacity > 0 and t.id != without]
    layers = in_threads(lambda k: _layer(plate, laid[k], sheet, size, cache), range(len(laid)))
    for trace, layer in zip(laid, layers, strict=True):
        paint = skia.Paint(Alphaf=trace.opacity, BlendMode=skia_blend(trace.blend))
        target.drawImage(layer, 0, 0, skia.SamplingOptions(), paint)
    for trace in laid:
        if trace.lies_over():
            paint = skia.Paint(Alphaf=trace.opacity, BlendMode=skia_blend("multiply"))
            target.drawImage(_layer(plate, trace, sheet, size, cache, over=True), 0, 0, skia.SamplingOptions(), paint)
    key = json.dumps([sheet.model_dump(), plate.projection.matrix.tolist(), plate.frame, plate.view_name, plate.study_name, size])

    def notes() -> skia.Image:
        page, canvas = raster(*size, *plate.frame)
        draw_notes(canvas, sheet, plate.projection, plate.view_name, plate.study_name)
        return page.makeImageSnapshot()

    target.drawImage(cache.get(key, notes), 0, 0)
    return surface.makeImageSnapshot()


def trace_picture(plate: Plate, trace: Trace, sheet: Sheet, size: tuple[int, int], cache: LayerCache) -> skia.Image:
    """One trace alone on tracing paper, for its thumbnail."""
    surface, _ = raster(*size, *plate.frame)
    target = surface.getCanvas()
    target.resetMatrix()
    target.clear(skia.Color(0xFB, 0xF8, 0xF1))
    target.drawImage(_layer(plate, trace, sheet, size, cache), 0, 0)
    return surface.makeImageSnapshot()


def encode_jpeg(image: skia.Image, quality: int = 92) -> bytes:
    """The picture as JPEG bytes."""
    return bytes(image.encodeToData(skia.kJPEG, quality))
