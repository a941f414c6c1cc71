"""The picture on the desk: the same content as every export, with drawn layers kept between changes.

Opacity, blend mode, order and whether a trace is on are applied when kept layers are laid together, so changing one of
these costs a few blends of finished pictures and nothing else.
"""

from __future__ import annotations

import io
import json
import threading
from collections.abc import Callable, Collection, Sequence
from dataclasses import replace
from typing import Any, NamedTuple

import numpy as np
import skia
from numpy.typing import NDArray
from PIL import Image

from warmgraphite.canvas.blending import LINEAR, LayerMap
from warmgraphite.canvas.pixels import ORDER, SkiaCanvas, raster, skia_blend, skia_image
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.stack import CHANGED, Layer, layers
from warmgraphite.collage.trace import Trace
from warmgraphite.colour import channels
from warmgraphite.ink.softly import soft_pixels
from warmgraphite.memory import Store
from warmgraphite.sheet.flat import change_beneath
from warmgraphite.sheet.notes import draw_notes, inks_for, said_of
from warmgraphite.sheet.specification import Sheet
from warmgraphite.threads import in_threads

__all__ = ["LayerCache", "compose", "draw_ahead", "encode_jpeg", "trace_picture"]

#: The tone of tracing paper.
TRACING = "#fbf8f1"
#: Pixels across from which a drawn layer is good enough to be made smaller.
LARGE = 400


#: What a layer shows, its opacity and its blend mode.
Row = tuple[str, float, str]
#: Draws a layer by its number: alone, or, where it changes what lies beneath, on that.
Picture = Callable[[int, skia.Image | None], skia.Image]


class Part(NamedTuple):
    """A window, x, y, width and height, of a picture of ``size`` pixels."""

    size: tuple[int, int]
    window: tuple[int, int, int, int]

    def canvas(self, frame: tuple[float, float]) -> tuple[skia.Surface, SkiaCanvas]:
        """A picture of the window, and the canvas in millimetres of the frame that draws on it."""
        x, y, width, height = self.window
        surface, canvas = raster(width, height, width, height)
        canvas.target.translate(-x, -y)
        canvas.target.scale(self.size[0] / frame[0], self.size[1] / frame[1])
        return surface, canvas


class LayerCache:
    """Drawn layers by what they show, and those that lie flat of the picture that is looked at. Safe for threads."""

    def __init__(self) -> None:
        self._layers: Store[skia.Image] = Store("layers")
        #: Of each layer, by what it shows, the last that was drawn whole.
        self._whole: Store[str] = Store("layers", most=2000)
        #: What lies flat of the picture that is looked at.
        self.flat = FlatStack()
        #: The same of the part of it that is looked at closely.
        self.flat_part = FlatStack()

    def whole(self, content: str) -> skia.Image | None:
        """A layer by what it shows, as it was drawn last, at whatever size; ``None`` where it is not held."""
        return self._layers.peek(self._whole.peek(content, ""))

    def get(self, key: str, draw: Callable[[], skia.Image], content: str = "") -> skia.Image:
        """A layer by its key, drawn where it is not held; ``content`` names what it shows where it is whole."""
        found = self._layers.get(key, draw)
        if content:
            self._whole.put(content, key)
        return found


class FlatStack:
    """The layers of the picture laid together last, flat below and above those that were changed since.

    While one sheet is changed again and again only that one is blended anew. Safe for threads.
    """

    def __init__(self) -> None:
        self._last: tuple[Row, ...] = ()
        self._span: tuple[int, int] = (0, 0)
        #: Rows with what they are together: ``below``, ``above`` and ``whole``.
        self._kept: Store[tuple[tuple[Row, ...], Any]] = Store("layers laid flat")
        self._lock = threading.Lock()

    def _flat(self, which: str) -> tuple[tuple[Row, ...], Any]:
        return self._kept.peek(which, ((), None))  # type: ignore[no-any-return]

    def holds(self, rows: tuple[Row, ...], number: int, size: tuple[int, int]) -> bool:
        """Whether a layer is among those that are flat already, so that it need not be drawn."""
        with self._lock:
            below, image = self._flat("below")
            above, laid = self._flat("above")
            if self._whole_of(rows, size):
                return True
            flat = (
                image is not None
                and (image.width(), image.height()) == size
                and number < len(below)
                and rows[: len(below)] == below
            )
            after = len(rows) - len(above)
            return flat or (
                laid is not None
                and laid.scale.shape[:2] == size[::-1]
                and number >= after > 0
                and rows[after:] == above
            )

    def laid(self, rows: tuple[Row, ...], size: tuple[int, int], picture: Picture) -> skia.Image:
        """Layers laid over white from the lowest up.
        ``rows`` names each with its opacity and blend mode, ``picture`` draws it on what lies beneath, or alone.
        """
        with self._lock:
            found = self._whole_of(rows, size) or self._laid(rows, size, picture)
            self._kept.put("whole", (rows, found))
            return found

    def _whole_of(self, rows: tuple[Row, ...], size: tuple[int, int]) -> skia.Image | None:
        """The picture that was laid together last, where these are its layers."""
        held, image = self._flat("whole")
        return image if image is not None and held == rows and (image.width(), image.height()) == size else None

    def _laid(self, rows: tuple[Row, ...], size: tuple[int, int], picture: Picture) -> skia.Image:
        first, last = _changed(self._last, rows)
        again = (first, last) == self._span
        below, above = rows[:first], rows[last:]
        self._last, self._span = rows, (first, last)
        kept, image = self._flat("below")
        if image is None or (image.width(), image.height()) != size or kept != below[: len(kept)]:
            kept, image = (), None
        image = _blended(image, rows[len(kept) : first], size, lambda k, below: picture(k + len(kept), below))
        self._kept.put("below", (below, image))
        image = _blended(image, rows[first:last], size, lambda k, below: picture(k + first, below))
        held, laid = self._flat("above")
        if held != above or laid is None or laid.scale.shape[:2] != size[::-1]:
            if not again or len(above) < 2 or any(row[2] not in LINEAR for row in above):
                return _blended(image, above, size, lambda k, below: picture(k + last, below))
            laid = LayerMap(size[1], size[0])
            for number, (_, opacity, blend) in enumerate(above):
                laid.then(_array(picture(last + number, None)), opacity, blend)
            self._kept.put("above", (above, laid))
        return skia_image(laid.over(_array(image)))


def _changed(before: tuple[Row, ...], after: tuple[Row, ...]) -> tuple[int, int]:
    """From which row of those after on, and up to which, there is a change."""
    if len(before) != len(after):
        return len(after), len(after)
    rows = [k for k, (a, b) in enumerate(zip(before, after, strict=True)) if a != b]
    return (rows[0], rows[-1] + 1) if rows else (len(after), len(after))


def _blended(image: skia.Image | None, rows: tuple[Row, ...], size: tuple[int, int], picture: Picture) -> skia.Image:
    """An image, or white, with layers laid over it."""
    if image is not None and not rows:
        return image
    surface, _ = raster(*size, *size)
    target = surface.getCanvas()
    target.clear(skia.ColorWHITE)
    if image is not None:
        target.drawImage(image, 0, 0)
    for number, (_, opacity, blend) in enumerate(rows):
        if blend == CHANGED:
            changed = picture(number, surface.makeImageSnapshot())
            target.drawImage(changed, 0, 0, skia.SamplingOptions(), skia.Paint(BlendMode=skia.BlendMode.kSrc))
            continue
        target.drawImage(
            picture(number, None), 0, 0, skia.SamplingOptions(), skia.Paint(Alphaf=opacity, BlendMode=skia_blend(blend))
        )
    return surface.makeImageSnapshot()


def _array(image: skia.Image) -> NDArray[np.uint8]:
    info = skia.ImageInfo.Make(image.width(), image.height(), skia.kRGBA_8888_ColorType, skia.kPremul_AlphaType)
    out = np.empty((image.height(), image.width(), 4), np.uint8)
    image.readPixels(info, out, image.width() * 4, 0, 0)
    return out


def _drawn(layer: Layer, part: Part, cache: LayerCache) -> skia.Image:
    """A part of a layer at full strength."""

    def draw() -> skia.Image:
        if layer.trace.soft and layer.has_pixels and not layer.over:
            # A window that is moved over it changes none of its pixels, but only what is left of them.
            plain = _array(_drawn(replace(layer, trace=layer.trace.plain), part, cache))
            return skia_image(
                soft_pixels(plain, layer.reach(layer.plate).pixels(*part.window[2:], *_place(part, layer.plate.frame)))
            )
        surface, canvas = part.canvas(layer.plate.frame)
        layer.draw(canvas)
        return surface.makeImageSnapshot()

    whole = part.window == (0, 0, *part.size) and part.size[0] >= LARGE
    return cache.get(json.dumps([layer.key, layer.plate.raster, part]), draw, _content(layer) if whole else "")


def _place(part: Part, frame: tuple[float, float]) -> tuple[float, float, float, float]:
    """Where a window lies in the frame: x, y, width, height in millimetres."""
    across, down = frame[0] / part.size[0], frame[1] / part.size[1]
    x, y, width, height = part.window
    return x * across, y * down, width * across, height * down


def _content(layer: Layer) -> str:
    return json.dumps([layer.key, layer.plate.raster])


def _changed_beneath(below: skia.Image, acts: skia.Image, layer: Layer, part: Part) -> skia.Image:
    """What lies beneath an adjusting layer as it changes it; ``acts`` is as opaque as it does so."""
    pixels = np.ascontiguousarray(_array(below)[..., [*ORDER, 3]])
    share = np.ascontiguousarray(_array(acts)[..., 3])
    change_beneath(pixels, share, layer, part.size, part.window[:2])
    return skia_image(np.ascontiguousarray(pixels[..., [*ORDER, 3]]))


def compose(
    plate: Plate,
    traces: Sequence[Trace],
    sheet: Sheet,
    size: tuple[int, int],
    cache: LayerCache,
    *,
    without: Collection[str] = (),
    alone: Collection[str] = (),
    window: tuple[int, int, int, int] | None = None,
) -> skia.Image:
    """The finished picture at ``size`` = (width, height) pixels, or a ``window`` = (x, y, width, height) of it.
    ``without`` leaves traces with these ids out; ``alone`` leaves all others out but for the paper.
    """
    part = Part(size, window or (0, 0, *size))
    own = part.window[2:]
    surface, _ = raster(*own, *own)
    target = surface.getCanvas()
    shown = [t for t in traces if t.id not in without and (not alone or t.id in alone or t.ground)]
    laid = list(layers(plate, shown, sheet.margin))
    rows = tuple((f"{layer.key} {plate.raster} {part}", layer.trace.opacity, layer.blend) for layer in laid)
    flat = cache.flat if window is None else cache.flat_part
    in_threads(lambda k: _drawn(laid[k], part, cache), [k for k in range(len(laid)) if not flat.holds(rows, k, own)])

    def picture(number: int, below: skia.Image | None) -> skia.Image:
        found = _drawn(laid[number], part, cache)
        return found if below is None else _changed_beneath(below, found, laid[number], part)

    target.drawImage(flat.laid(rows, own, picture), 0, 0)
    inks = inks_for(traces)
    key = json.dumps(
        [
            sheet.model_dump(),
            plate.projection.matrix.tolist(),
            plate.frame,
            plate.study_name,
            part,
            vars(inks),
            said_of(plate),
        ]
    )

    def notes() -> skia.Image:
        page, canvas = part.canvas(plate.frame)
        draw_notes(canvas, plate, sheet, inks)
        return page.makeImageSnapshot()

    target.drawImage(cache.get(key, notes), 0, 0)
    return surface.makeImageSnapshot()


def draw_ahead(plate: Plate, traces: Sequence[Trace], sheet: Sheet, size: tuple[int, int], cache: LayerCache) -> None:
    """Draw the layers of traces before the picture that they are part of is asked for.
    What lies flat stays as it is.
    """
    part = Part(size, (0, 0, *size))
    laid = list(layers(plate, traces, sheet.margin))
    in_threads(lambda k: _drawn(laid[k], part, cache), range(len(laid)))


def trace_picture(
    plate: Plate, trace: Trace, sheet: Sheet, size: tuple[int, int], cache: LayerCache, paper: str = TRACING
) -> skia.Image:
    """One trace alone on tracing paper, or on a ``paper`` of that tone, for its thumbnail."""
    surface, _ = raster(*size, *plate.frame)
    target = surface.getCanvas()
    target.resetMatrix()
    target.clear(skia.Color(*channels(paper)))
    layer = Layer(plate, trace, sheet.margin)
    large = cache.whole(_content(layer))
    if large is None:
        target.drawImage(_drawn(layer, Part(size, (0, 0, *size)), cache), 0, 0)
    else:  # it lies in the picture on the desk: made smaller it costs nothing
        smooth = skia.SamplingOptions(skia.FilterMode.kLinear, skia.MipmapMode.kLinear)
        target.drawImageRect(large, skia.Rect.MakeWH(*size), smooth)
    return surface.makeImageSnapshot()


def encode_jpeg(image: skia.Image, quality: int = 92) -> bytes:
    """The picture as JPEG bytes, its colours as fine as its tones: an illustrator's lines are coloured."""
    out = io.BytesIO()
    size = (image.width(), image.height())
    Image.frombuffer("RGB", size, _array(image), "raw", "RGBX", 0, 1).save(out, "JPEG", quality=quality, subsampling=0)
    return out.getvalue()
