"""The canvas on pixels and in PDF: both are one drawing surface of the graphics library."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import contextmanager

import numpy as np
import skia
from numpy.typing import NDArray

from warmgraphite.canvas.compact import outlines, path_of, tinted
from warmgraphite.canvas.fonts import FACES, face_file
from warmgraphite.canvas.lettering import shaped
from warmgraphite.canvas.packed import without_bare_sides
from warmgraphite.canvas.protocol import Anchor, Face, Gradient, Matrix, Path, Ring, Stroke
from warmgraphite.colour import channels, straighten
from warmgraphite.geometry.tolerances import NEAR, ROUNDING
from warmgraphite.memory import remembered

__all__ = [
    "ORDER",
    "SkiaCanvas",
    "make_straight_rgba",
    "raster",
    "raster_on",
    "skia_blend",
    "skia_image",
    "wire_picture",
]

_BLENDS = {
    "normal": skia.BlendMode.kSrcOver,
    "multiply": skia.BlendMode.kMultiply,
    "screen": skia.BlendMode.kScreen,
    "overlay": skia.BlendMode.kOverlay,
    "darken": skia.BlendMode.kDarken,
    "lighten": skia.BlendMode.kLighten,
    "color-dodge": skia.BlendMode.kColorDodge,
    "color-burn": skia.BlendMode.kColorBurn,
    "hard-light": skia.BlendMode.kHardLight,
    "soft-light": skia.BlendMode.kSoftLight,
    "difference": skia.BlendMode.kDifference,
    "exclusion": skia.BlendMode.kExclusion,
    "hue": skia.BlendMode.kHue,
    "saturation": skia.BlendMode.kSaturation,
    "color": skia.BlendMode.kColor,
    "luminosity": skia.BlendMode.kLuminosity,
}


def skia_blend(name: str) -> skia.BlendMode:
    """The library's blend mode for a W3C name."""
    return _BLENDS[name]


def _begin_type() -> None:
    """Have the library look through the system's fonts, which it does with the first face.
    It takes a third of a second, and complains of their settings. Only the shipped faces are used, so that search is
    made once, while this module is imported, where it finds nothing and its words are kept to itself.
    """
    before = os.environ.get("FONTCONFIG_FILE")
    os.environ["FONTCONFIG_FILE"] = str(FACES["serif"].path.with_name("fonts.conf"))
    kept, nowhere = os.dup(2), os.open(os.devnull, os.O_WRONLY)
    os.dup2(nowhere, 2)
    try:
        skia.Typeface.MakeFromFile(str(FACES["serif"].path))
    finally:
        os.dup2(kept, 2)
        os.close(kept)
        os.close(nowhere)
        if before is None:
            del os.environ["FONTCONFIG_FILE"]
        else:
            os.environ["FONTCONFIG_FILE"] = before


_begin_type()


@remembered("typefaces")
def _typeface(face: str) -> skia.Typeface:
    return skia.Typeface.MakeFromFile(str(face_file(face).path))


def _colour(colour: str) -> int:
    return skia.Color(*channels(colour))


def _path(lines: list[Ring], closing: bool) -> skia.Path:
    path = skia.Path()
    for line in lines:
        first, *others = line.tolist()
        last = others[-1] if others else first
        closed = closing or (len(others) > 1 and max(abs(first[0] - last[0]), abs(first[1] - last[1])) < ROUNDING)
        path.moveTo(*first)
        for point in others[:-1] if closed and first == last else others:
            path.lineTo(*point)
        if closed:
            path.close()
    return path


#: How pixels of pictures lie: as the library's own raster has them, and without a colour space (all are sRGB). In any
#: other order, or with the space named, each blend takes four times as long.
_OWN = skia.ImageInfo.MakeN32Premul(1, 1).colorType()
#: From those to red, green, blue, alpha, and back.
_SWAPPED = [2, 1, 0, 3] if skia.kBGRA_8888_ColorType == _OWN else [0, 1, 2, 3]
#: Where red, green and blue stand in those.
ORDER: tuple[int, int, int] = (2, 1, 0) if _SWAPPED[0] else (0, 1, 2)


def _image(pixels: NDArray[np.uint8], order: skia.ColorType = _OWN, copy: bool = False) -> skia.Image:
    return skia.Image.fromarray(pixels, colorType=order, alphaType=skia.kPremul_AlphaType, copy=copy)


def skia_image(pixels: NDArray[np.uint8], copy: bool = True) -> skia.Image:
    """An image of (h, w, 4) premultiplied RGBA; the pixels are copied, or must stay for as long as it does."""
    return _image(np.ascontiguousarray(pixels), skia.kRGBA_8888_ColorType, copy)


_CAPS = {"butt": skia.Paint.kButt_Cap, "round": skia.Paint.kRound_Cap, "square": skia.Paint.kSquare_Cap}
_JOINS = {"round": skia.Paint.kRound_Join, "miter": skia.Paint.kMiter_Join, "bevel": skia.Paint.kBevel_Join}


def _pen(stroke: Stroke) -> skia.Paint:
    paint = skia.Paint(
        Color=_colour(stroke.colour), AntiAlias=True, Style=skia.Paint.kStroke_Style, StrokeWidth=stroke.weight,
        StrokeCap=_CAPS[stroke.ends], StrokeJoin=_JOINS[stroke.join],
    )  # fmt: skip
    if stroke.dash:
        paint.setPathEffect(skia.DashPathEffect.Make(list(stroke.dash), 0.0))
    return paint


def _curved(path: Path, rule: str) -> skia.Path:
    found = skia.Path()
    found.setFillType(skia.PathFillType.kEvenOdd if rule == "evenodd" else skia.PathFillType.kWinding)
    steps = {"M": found.moveTo, "L": found.lineTo, "C": found.cubicTo, "Z": found.close}
    for step, numbers in path.steps:
        steps[step](*numbers)
    return found


class SkiaCanvas:
    """The drawing protocol over a graphics-library canvas whose unit is the frame's millimetre."""

    def __init__(self, target: skia.Canvas, is_document: bool = False) -> None:
        self.target, self.is_document, self.of_pixels = target, is_document, not is_document
        self.surface: skia.Surface | None = None
        self._laid: skia.Paint | None = None
        #: What each glyph of a face that was written stands for.
        self.written: dict[Face, dict[int, str]] = {}

    @contextmanager
    def group(self, name: str, opacity: float = 1.0, blend: str = "normal") -> Iterator[None]:
        if opacity < 1 or blend != "normal":
            self.target.saveLayer(None, skia.Paint(Alphaf=opacity, BlendMode=skia_blend(blend)))
        else:
            self.target.save()  # laid down as it is: no layer of its own is needed
        try:
            yield
        finally:
            self.target.restore()

    @contextmanager
    def laying(self, opacity: float, blend: str) -> Iterator[None]:
        """The pictures and fills made inside are each laid down with an opacity and a W3C blend mode.
        What a group of one mark comes to, without a group, which readers of documents take very long over.
        """
        self._laid = skia.Paint(Alphaf=opacity, BlendMode=skia_blend(blend))
        try:
            yield
        finally:
            self._laid = None

    def _fill(self, colour: str) -> skia.Paint:
        paint = skia.Paint(self._laid) if self._laid else skia.Paint()
        paint.setAntiAlias(True)
        opacity = paint.getAlphaf()
        paint.setColor(_colour(colour))
        if opacity < 1:
            paint.setAlphaf(paint.getAlphaf() * opacity)
        return paint

    @contextmanager
    def window(self, x: int, y: int, width: int, height: int) -> Iterator[None]:
        """Marks made inside stay within a window of pixels."""
        self.target.save()
        matrix = self.target.getTotalMatrix()
        self.target.resetMatrix()
        self.target.clipRect(skia.Rect.MakeXYWH(x, y, width, height), doAntiAlias=False)
        self.target.setMatrix(matrix)
        try:
            yield
        finally:
            self.target.restore()

    @contextmanager
    def clip(self, x: float, y: float, width: float, height: float) -> Iterator[None]:
        self.target.save()
        # On pixels a clip ends with a pixel, so that it ends alike in every window.
        self.target.clipRect(skia.Rect.MakeXYWH(x, y, width, height), doAntiAlias=self.is_document)
        try:
            yield
        finally:
            self.target.restore()

    @contextmanager
    def clip_path(self, path: Path, rule: str = "evenodd") -> Iterator[None]:
        self.target.save()
        self.target.clipPath(_curved(path, rule), doAntiAlias=True)
        try:
            yield
        finally:
            self.target.restore()

    @contextmanager
    def mask(self, share: NDArray[np.uint8], x: float, y: float, width: float, height: float) -> Iterator[None]:
        self.target.saveLayer(None, skia.Paint())
        yield
        # What the mask leaves of the layer: kept where it lies over it, by its alpha.
        found = skia_image(np.repeat(share[..., None], 4, 2))
        self.target.saveLayer(None, skia.Paint(BlendMode=skia.BlendMode.kDstIn))
        self.target.drawImageRect(
            found, skia.Rect.MakeXYWH(x, y, width, height), skia.SamplingOptions(skia.FilterMode.kLinear)
        )
        self.target.restore()
        self.target.restore()

    @contextmanager
    def transform(self, matrix: Matrix) -> Iterator[None]:
        a, b, c, d, e, f = matrix
        self.target.save()
        self.target.concat(skia.Matrix.MakeAll(a, c, e, b, d, f, 0, 0, 1))
        try:
            yield
        finally:
            self.target.restore()

    def path(
        self, path: Path, fill: str | Gradient | None = None, stroke: Stroke | None = None, rule: str = "evenodd"
    ) -> None:
        drawn = _curved(path, rule)
        if isinstance(fill, Gradient):
            colours = [skia.Color4f(skia.Color(*channels(c), round(255 * o))).toColor() for _, c, o in fill.stops]
            shader = skia.GradientShader.MakeLinear(
                [skia.Point(*fill.start), skia.Point(*fill.end)], colours, [place for place, _, _ in fill.stops]
            )
            self.target.drawPath(drawn, skia.Paint(Shader=shader, AntiAlias=True))
        elif fill is not None:
            self.target.drawPath(drawn, self._fill(fill))
        if stroke is not None:
            self.target.drawPath(drawn, _pen(stroke))

    def fill(self, rings: list[Ring], colour: str) -> None:
        path = _path(rings, closing=True)
        path.setFillType(skia.PathFillType.kEvenOdd)
        self.target.drawPath(path, self._fill(colour))

    def stroke(self, lines: list[Ring], stroke: Stroke) -> None:
        self.target.drawPath(_path(lines, closing=False), _pen(stroke))

    def lines(self, xy: NDArray, first: NDArray[np.int64], stroke: Stroke) -> None:
        closed = np.zeros(len(first) - 1, bool)
        rows = np.flatnonzero(np.diff(first) > 2)
        closed[rows] = (np.abs(xy[first[rows]] - xy[first[rows + 1] - 1]) < NEAR).all(1)
        if closed.any():  # few are, and each gets a join where it closes
            self.stroke([np.asarray(xy[first[k] : first[k + 1]], np.float64) for k in np.flatnonzero(closed)], stroke)
            kept = np.repeat(~closed, np.diff(first))
            xy, first = xy[kept], np.append(0, np.cumsum(np.diff(first)[~closed]))
        self.target.drawPath(path_of(xy, first, False), _pen(stroke))

    def ribbons(self, xy: NDArray, width: NDArray, first: NDArray[np.int64], colour: str) -> None:
        matrix = self.target.getTotalMatrix()
        if self.is_document or matrix.getSkewX() or matrix.getSkewY():
            points, starts = outlines(xy, width, first)
            self.target.drawPath(path_of(points, starts, True), skia.Paint(Color=_colour(colour), AntiAlias=True))
            return
        # The areas of ribbons thinner than a pixel are summed here: the library takes a path of so many for one shape,
        # and twenty times as long.
        box = self.target.getDeviceClipBounds()
        size = (box.width(), box.height())
        if size[0] <= 0 or size[1] <= 0 or len(first) < 2:
            return
        shift = (matrix.getTranslateX() - box.left(), matrix.getTranslateY() - box.top())
        tints = (np.arange(256)[:, None] * np.array([*channels(colour), 255])[_SWAPPED] / 255 + 0.5).astype(np.uint8)
        scale = (matrix.getScaleX(), matrix.getScaleY())
        pixels, (left, top) = tinted(xy, width, first, scale, shift, size, tints)
        if not pixels.size:
            return  # they lie beside the picture
        self.target.save()
        self.target.resetMatrix()
        self.target.drawImage(_image(pixels), box.left() + left, box.top() + top)
        self.target.restore()

    def image(self, pixels: NDArray[np.uint8], x: float, y: float, width: float, height: float) -> None:
        if self.is_document:
            # What is bare at its sides is no part of a picture in a document: there is less to keep, and to read.
            pixels, (x, y, width, height) = without_bare_sides(pixels, (x, y, width, height))
        pixels = np.ascontiguousarray(
            pixels
        )  # and held: it is laid down, or written into the document, before this returns
        found = skia_image(pixels, copy=False)
        if self.is_document and bool((pixels[..., 3] == 255).all()):
            # A picture without transparency is kept as JPEG in documents: a tenth of the size, nothing to be seen.
            found = skia.Image.MakeFromEncoded(found.encodeToData(skia.kJPEG, 92))
        how = skia.SamplingOptions(skia.FilterMode.kLinear, skia.MipmapMode.kLinear)
        if not self.is_document and self._fits(pixels, x, y, width, height):
            how = skia.SamplingOptions()
        self.target.drawImageRect(found, skia.Rect.MakeXYWH(x, y, width, height), how, self._laid)

    def _fits(self, pixels: NDArray[np.uint8], x: float, y: float, width: float, height: float) -> bool:
        """Whether a picture has just the pixels that it is laid on.
        Nothing has then to be made smaller or moved between them.
        """
        m = self.target.getTotalMatrix()
        if m.getSkewX() or m.getSkewY():
            return False
        left, top = m.getScaleX() * x + m.getTranslateX(), m.getScaleY() * y + m.getTranslateY()
        across, down = m.getScaleX() * width - pixels.shape[1], m.getScaleY() * height - pixels.shape[0]
        return max(abs(left - round(left)), abs(top - round(top)), abs(across), abs(down)) < 0.01

    def text(
        self, x: float, y: float, words: str, face: Face, size: float, colour: str, anchor: Anchor = "start"
    ) -> None:
        font = skia.Font(_typeface(face), size)
        font.setSubpixel(True)
        font.setLinearMetrics(True)  # a millimetre is the unit here: advances must not be rounded to it
        font.setHinting(skia.FontHinting.kNone)
        font.setEdging(skia.Font.Edging.kAntiAlias)
        line = shaped(words, face)
        left = x - {"start": 0.0, "middle": line.width / 2, "end": line.width}[anchor] * size
        places = [skia.Point(left + dx * size, y - dy * size) for dx, dy in zip(line.x, line.y, strict=True)]
        if self.is_document:
            said = self.written.setdefault(face, {})
            for glyph, letters in zip(line.glyphs, line.letters, strict=True):
                if letters:
                    said[glyph] = letters
        if places:
            blob = skia.TextBlobBuilder()
            blob.allocRunPos(font, list(line.glyphs), places)
            self.target.drawTextBlob(blob.make(), 0, 0, skia.Paint(Color=_colour(colour), AntiAlias=True))


def raster(width_px: int, height_px: int, width_mm: float, height_mm: float) -> tuple[skia.Surface, SkiaCanvas]:
    """A transparent picture of so many pixels, and the canvas in millimetres that draws on it."""
    surface = skia.Surface.MakeRaster(skia.ImageInfo.MakeN32Premul(width_px, height_px))
    target = surface.getCanvas()
    target.clear(0)
    target.scale(width_px / width_mm, height_px / height_mm)
    return surface, SkiaCanvas(target)


def raster_on(size: tuple[int, int], frame: tuple[float, float]) -> tuple[NDArray[np.uint8], SkiaCanvas]:
    """The pixels (h, w, 4) of a picture, and the canvas in millimetres that draws on them.
    They are premultiplied and in the library's order, of ``size`` = (width, height); the canvas is of a ``frame``.
    """
    pixels = np.zeros((size[1], size[0], 4), np.uint8)
    surface = skia.Surface.MakeRasterDirect(skia.ImageInfo.MakeN32Premul(*size), pixels, size[0] * 4)
    target = surface.getCanvas()
    target.scale(size[0] / frame[0], size[1] / frame[1])
    canvas = SkiaCanvas(target)
    canvas.surface = surface  # which lives as long as what draws on it
    return pixels, canvas


def make_straight_rgba(pixels: NDArray[np.uint8]) -> None:
    """Put pixels (h, w, 4) of :func:`raster_on` as red, green, blue, alpha, divided by their alpha, in place."""
    straighten(pixels, ORDER)


def wire_picture(
    start: NDArray[np.float64],
    end: NDArray[np.float64],
    strong: NDArray[np.bool_],
    size: tuple[int, int],
    frame: tuple[float, float],
) -> NDArray[np.uint8]:
    """(h, w, 4) segments (N, 2) in millimetres of a ``frame`` as hairlines, straight.
    Dark where ``strong``, else pale.
    """
    surface, canvas = raster(*size, *frame)
    for rows, colour in ((~strong, 0x5A2E2A27), (strong, 0xFF2E2A27)):
        points = np.stack([start[rows], end[rows]], 1).reshape(-1, 2)
        paint = skia.Paint(Color=colour, AntiAlias=True, StrokeWidth=0.13, StrokeCap=skia.Paint.kRound_Cap)
        paint.setStyle(skia.Paint.kStroke_Style)
        canvas.target.drawPoints(
            skia.Canvas.PointMode.kLines_PointMode, [skia.Point(x, y) for x, y in points.tolist()], paint
        )
    return surface.makeImageSnapshot().toarray(colorType=skia.kRGBA_8888_ColorType)
