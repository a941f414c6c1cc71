"""The canvas on pixels and in PDF: both are one drawing surface of the graphics library."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache

import numpy as np
import skia
from numpy.typing import NDArray

from warmgraphite.colours import channels
from warmgraphite.sheet.canvas import Anchor, Face, Ring, Stroke
from warmgraphite.sheet.fonts import FACES

__all__ = ["SkiaCanvas", "raster", "skia_blend", "skia_image", "wire_picture"]

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


@contextmanager
def _without_system_fonts() -> Iterator[None]:
    """While the first face is loaded, the library looks through the system's fonts and complains of their settings.

    Only the shipped faces are used, so the search is kept empty (a third of a second less) and its words are kept to itself.
    """
    before = os.environ.get("FONTCONFIG_FILE")
    os.environ["FONTCONFIG_FILE"] = str(FACES["serif"][0].with_name("fonts.conf"))
    kept, nowhere = os.dup(2), os.open(os.devnull, os.O_WRONLY)
    os.dup2(nowhere, 2)
    try:
        yield
    finally:
        os.dup2(kept, 2)
        os.close(kept)
        os.close(nowhere)
        if before is None:
            del os.environ["FONTCONFIG_FILE"]
        else:
            os.environ["FONTCONFIG_FILE"] = before


@cache
def _typefaces() -> dict[str, skia.Typeface]:
    with _without_system_fonts():
        return {face: skia.Typeface.MakeFromFile(str(path)) for face, (path, _, _) in FACES.items()}


def _typeface(face: str) -> skia.Typeface:
    return _typefaces()[face]


def _colour(colour: str) -> int:
    return skia.Color(*channels(colour))


def _path(lines: list[Ring], closing: bool) -> skia.Path:
    path = skia.Path()
    for line in lines:
        closed = closing or (len(line) > 2 and bool((np.abs(line[0] - line[-1]) < 1e-9).all()))
        points = line[:-1] if closed and bool((line[0] == line[-1]).all()) else line
        path.addPoly([skia.Point(float(x), float(y)) for x, y in points], closed)
    return path


def skia_image(pixels: NDArray[np.uint8]) -> skia.Image:
    """An image of (h, w, 4) premultiplied RGBA; the pixels are copied."""
    return skia.Image.fromarray(
        np.ascontiguousarray(pixels), colorType=skia.kRGBA_8888_ColorType, alphaType=skia.kPremul_AlphaType, copy=True
    )


class SkiaCanvas:
    """The drawing protocol over a graphics-library canvas whose unit is the frame's millimetre."""

    def __init__(self, target: skia.Canvas, is_document: bool = False) -> None:
        self.target, self.is_document = target, is_document

    @contextmanager
    def group(self, name: str, opacity: float = 1.0, blend: str = "normal") -> Iterator[None]:
        if opacity < 1 or blend != "normal":
            self.target.saveLayer(None, skia.Paint(Alphaf=opacity, BlendMode=skia_blend(blend)))
        else:
            self.target.save()  # laid down as it is: no layer of its own is needed
        yield
        self.target.restore()

    @contextmanager
    def clip(self, x: float, y: float, width: float, height: float) -> Iterator[None]:
        self.target.save()
        self.target.clipRect(skia.Rect.MakeXYWH(x, y, width, height), doAntiAlias=True)
        yield
        self.target.restore()

    def fill(self, rings: list[Ring], colour: str) -> None:
        path = _path(rings, closing=True)
        path.setFillType(skia.PathFillType.kEvenOdd)
        self.target.drawPath(path, skia.Paint(Color=_colour(colour), AntiAlias=True))

    def stroke(self, lines: list[Ring], stroke: Stroke) -> None:
        paint = skia.Paint(
            Color=_colour(stroke.colour),
            AntiAlias=True,
            Style=skia.Paint.kStroke_Style,
            StrokeWidth=stroke.weight,
            StrokeCap=skia.Paint.kRound_Cap if not stroke.dash else skia.Paint.kButt_Cap,
            StrokeJoin=skia.Paint.kRound_Join,
        )
        if stroke.dash:
            paint.setPathEffect(skia.DashPathEffect.Make(list(stroke.dash), 0.0))
        self.target.drawPath(_path(lines, closing=False), paint)

    def image(self, pixels: NDArray[np.uint8], x: float, y: float, width: float, height: float) -> None:
        found = skia_image(pixels)
        if self.is_document and bool((pixels[..., 3] == 255).all()):
            # A picture without transparency is kept as JPEG in documents: a tenth of the size, nothing to be seen.
            found = skia.Image.MakeFromEncoded(found.encodeToData(skia.kJPEG, 92))
        self.target.drawImageRect(
            found, skia.Rect.MakeXYWH(x, y, width, height), skia.SamplingOptions(skia.FilterMode.kLinear, skia.MipmapMode.kLinear)
        )

    def text(self, x: float, y: float, words: str, face: Face, size: float, colour: str, anchor: Anchor = "start") -> None:
        font = skia.Font(_typeface(face), size)
        font.setSubpixel(True)
        font.setLinearMetrics(True)  # a millimetre is the unit here: advances must not be rounded to it
        font.setHinting(skia.FontHinting.kNone)
        font.setEdging(skia.Font.Edging.kAntiAlias)
        # Widths are measured large: at a few millimetres the library rounds to hinted units.
        wide = skia.Font(_typeface(face), 1000.0).measureText(words) * size / 1000.0
        left = x - {"start": 0.0, "middle": wide / 2, "end": wide}[anchor]
        self.target.drawString(words, left, y, font, skia.Paint(Color=_colour(colour), AntiAlias=True))


def raster(width_px: int, height_px: int, width_mm: float, height_mm: float) -> tuple[skia.Surface, SkiaCanvas]:
    """A transparent picture of so many pixels, and the canvas in millimetres that draws on it."""
    surface = skia.Surface.MakeRaster(
        skia.ImageInfo.Make(width_px, height_px, skia.kRGBA_8888_ColorType, skia.kPremul_AlphaType, skia.ColorSpace.MakeSRGB())
    )
    target = surface.getCanvas()
    target.clear(0)
    target.scale(width_px / width_mm, height_px / height_mm)
    return surface, SkiaCanvas(target)


def wire_picture(
    start: NDArray[np.float64],
    end: NDArray[np.float64],
    strong: NDArray[np.bool_],
    size: tuple[int, int],
    frame: tuple[float, float],
) -> NDArray[np.uint8]:
    """(h, w, 4) segments (N, 2) in millimetres of a ``frame`` as hairlines, straight: dark where ``strong``, else pale."""
    surface, canvas = raster(*size, *frame)
    for rows, colour in ((~strong, 0x5A2E2A27), (strong, 0xFF2E2A27)):
        points = np.stack([start[rows], end[rows]], 1).reshape(-1, 2)
        paint = skia.Paint(Color=colour, AntiAlias=True, StrokeWidth=0.13, StrokeCap=skia.Paint.kRound_Cap)
        paint.setStyle(skia.Paint.kStroke_Style)
        canvas.target.drawPoints(skia.Canvas.PointMode.kLines_PointMode, [skia.Point(x, y) for x, y in points.tolist()], paint)
    return surface.makeImageSnapshot().toarray(colorType=skia.kRGBA_8888_ColorType)
