"""The canvas as SVG 1.1 with CSS blend modes: named groups, millimetres throughout."""

from __future__ import annotations

import base64
import io
from collections.abc import Iterator
from contextlib import contextmanager
from xml.sax.saxutils import escape as _escape
from xml.sax.saxutils import quoteattr as _quoteattr

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from warmgraphite import MADE_BY
from warmgraphite.canvas.compact import outlines, svg_data
from warmgraphite.canvas.fonts import face_file
from warmgraphite.canvas.lettering import subset_font
from warmgraphite.canvas.protocol import Anchor, Face, Gradient, Matrix, Path, Ring, Stroke
from warmgraphite.geometry.tolerances import ROUNDING
from warmgraphite.specification import tidy

__all__ = ["SvgCanvas"]


def escape(words: str) -> str:
    """Words as text of an element: what XML cannot hold becomes a space."""
    return _escape(str(tidy(words)))


def quoteattr(words: str) -> str:
    """Words as the value of an attribute, quoted."""
    return _quoteattr(str(tidy(words)))


def _number(value: float, digits: int = 4) -> str:
    return f"{value:.{digits}f}".rstrip("0").rstrip(".") or "0"


def _box(x: float, y: float, width: float, height: float) -> str:
    return f'x="{_number(x)}" y="{_number(y)}" width="{_number(width)}" height="{_number(height)}"'


def _pen(stroke: Stroke) -> str:
    """The attributes of a stroke."""
    dash = f' stroke-dasharray="{" ".join(_number(d) for d in stroke.dash)}"' if stroke.dash else ""
    ends = f'stroke-linecap="{stroke.ends}" stroke-linejoin="{stroke.join}"'
    return f' stroke="{stroke.colour}" stroke-width="{_number(stroke.weight)}" {ends}{dash}'


def _curved(path: Path) -> str:
    return "".join(step + " ".join(_number(n) for n in numbers) for step, numbers in path.steps)


def _data(lines: list[Ring], closing: bool) -> str:
    out = []
    for line in lines:
        closed = closing or (len(line) > 2 and bool((np.abs(line[0] - line[-1]) < ROUNDING).all()))
        points = line[:-1] if closed and bool((line[0] == line[-1]).all()) else line
        text = " ".join(f"{_number(x)} {_number(y)}" for x, y in points.tolist())
        out.append(f"M{text}{'Z' if closed else ''}")
    return "".join(out)


class SvgCanvas:
    """Collects elements; :meth:`document` returns the whole file."""

    of_pixels = False

    def __init__(self, width: float, height: float, title: str) -> None:
        self.width, self.height, self.title = width, height, title
        self.rows: list[str] = []
        self.written: dict[str, set[str]] = {}
        self.names: dict[str, int] = {}
        self.clips = 0

    @contextmanager
    def group(self, name: str, opacity: float = 1.0, blend: str = "normal") -> Iterator[None]:
        # A name may come again (one group per pen); ids must not.
        count = self.names[name] = self.names.get(name, 0) + 1
        identity = name.replace(" ", "-").replace("/", ".") + (f"-{count}" if count > 1 else "")
        style = f";mix-blend-mode:{blend}" if blend != "normal" else ""
        style = f' style="isolation:auto{style}"' if style else ""
        fade = f' opacity="{_number(opacity)}"' if opacity < 1 else ""
        self.rows.append(f"<g id={quoteattr(identity)} data-name={quoteattr(name)}{fade}{style}>")
        yield
        self.rows.append("</g>")

    @contextmanager
    def clip(self, x: float, y: float, width: float, height: float) -> Iterator[None]:
        self.clips += 1
        self.rows.append(
            f'<clipPath id="clip-{self.clips}"><rect {_box(x, y, width, height)}/></clipPath><g '
            f'clip-path="url(#clip-{self.clips})">'
        )
        yield
        self.rows.append("</g>")

    @contextmanager
    def clip_path(self, path: Path, rule: str = "evenodd") -> Iterator[None]:
        self.clips += 1
        name = f"clip-{self.clips}"
        self.rows.append(
            f'<clipPath id="{name}"><path clip-rule="{rule}" d="{_curved(path)}"/></clipPath><g '
            f'clip-path="url(#{name})">'
        )
        yield
        self.rows.append("</g>")

    @contextmanager
    def mask(self, share: NDArray[np.uint8], x: float, y: float, width: float, height: float) -> Iterator[None]:
        self.clips += 1
        name, grey = f"mask-{self.clips}", np.repeat(share[..., None], 4, 2)
        grey[..., 3] = 255
        self.rows.append(
            f'<mask id="{name}" maskUnits="userSpaceOnUse" {_box(x, y, width, height)} style="mask-type:luminance">'
        )
        self.image(grey, x, y, width, height, exact=True)
        self.rows.append(f'</mask><g mask="url(#{name})">')
        yield
        self.rows.append("</g>")

    @contextmanager
    def transform(self, matrix: Matrix) -> Iterator[None]:
        self.rows.append(f'<g transform="matrix({" ".join(_number(n, 6) for n in matrix)})">')
        yield
        self.rows.append("</g>")

    def path(
        self, path: Path, fill: str | Gradient | None = None, stroke: Stroke | None = None, rule: str = "evenodd"
    ) -> None:
        colour = "none" if fill is None else fill
        if isinstance(fill, Gradient):
            self.clips += 1
            (x1, y1), (x2, y2) = fill.start, fill.end
            stops = "".join(
                f'<stop offset="{_number(p)}" stop-color="{c}" stop-opacity="{_number(o)}"/>' for p, c, o in fill.stops
            )
            ends = " ".join(f'{n}="{_number(v)}"' for n, v in (("x1", x1), ("y1", y1), ("x2", x2), ("y2", y2)))
            self.rows.append(
                f'<linearGradient id="tone-{self.clips}" gradientUnits="userSpaceOnUse" {ends}>{stops}</linearGradient>'
            )
            colour = f"url(#tone-{self.clips})"
        self.rows.append(
            f'<path fill="{colour}" fill-rule="{rule}"{_pen(stroke) if stroke else ""} d="{_curved(path)}"/>'
        )

    def fill(self, rings: list[Ring], colour: str) -> None:
        self.rows.append(f'<path fill="{colour}" fill-rule="evenodd" d="{_data(rings, True)}"/>')

    def stroke(self, lines: list[Ring], stroke: Stroke) -> None:
        self.rows.append(f'<path fill="none"{_pen(stroke)} d="{_data(lines, False)}"/>')

    def lines(self, xy: NDArray, first: NDArray[np.int64], stroke: Stroke) -> None:
        if len(first) > 1:
            self.rows.append(f'<path fill="none"{_pen(stroke)} d="{svg_data(xy, first, False, 4, False)}"/>')

    def ribbons(self, xy: NDArray, width: NDArray, first: NDArray[np.int64], colour: str) -> None:
        if len(first) > 1:
            points, starts = outlines(xy, width, first)
            self.rows.append(f'<path fill="{colour}" d="{svg_data(points, starts, True, 2, True)}"/>')

    def image(
        self, pixels: NDArray[np.uint8], x: float, y: float, width: float, height: float, exact: bool = False
    ) -> None:
        alpha = pixels[..., 3:].astype(np.uint16)
        straight = np.where(
            alpha > 0, (pixels[..., :3].astype(np.uint16) * 255 + alpha // 2) // np.maximum(alpha, 1), 0
        )
        stream = io.BytesIO()
        if (alpha == 255).all() and not exact:
            kind = "jpeg"
            Image.fromarray(straight.astype(np.uint8)).save(stream, "JPEG", quality=92, subsampling=0)
        else:
            kind = "png"
            picture = np.concatenate([np.minimum(straight, 255), alpha], -1).astype(np.uint8)
            Image.fromarray(picture, "RGBA").save(stream, "PNG", compress_level=4)
        data = base64.b64encode(stream.getvalue()).decode()
        self.rows.append(
            f'<image {_box(x, y, width, height)} preserveAspectRatio="none" xlink:href="data:image/{kind};base64,'
            f'{data}"/>'
        )

    def text(
        self, x: float, y: float, words: str, face: Face, size: float, colour: str, anchor: Anchor = "start"
    ) -> None:
        self.written.setdefault(face, set()).update(str(tidy(words)))
        known = face_file(face)
        slant = f'font-style="{known.style}" ' if known.style != "normal" else ""
        self.rows.append(
            f'<text x="{_number(x)}" y="{_number(y)}" font-family={quoteattr(known.family)} '
            f'font-weight="{known.weight}" {slant}'
            f'font-size="{_number(size)}" fill="{colour}" text-anchor="{anchor}">{escape(words)}</text>'
        )

    def document(self) -> str:
        """The file: true size in millimetres, and within it what of the fonts was written."""
        fonts = []
        for face, letters in sorted(self.written.items()):
            _, family, weight, style = face_file(face)
            data = base64.b64encode(subset_font(face, "".join(sorted(letters)))).decode()
            fonts.append(
                f"@font-face{{font-family:'{family}';font-weight:{weight};font-style:{style};src:url(data:font/ttf;base64,{data})}}"
            )
        style = f"<style>{''.join(fonts)}</style>" if fonts else ""
        width, height = _number(self.width), _number(self.height)
        return (
            '<?xml version="1.0" encoding="UTF-8"?>\n'
            '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" version="1.1" '
            f'width="{width}mm" height="{height}mm" viewBox="0 0 {width} {height}">\n'
            f"<title>{escape(self.title)}</title>\n<metadata>{MADE_BY}</metadata>\n{style}\n"
            + "\n".join(self.rows)
            + "\n</svg>\n"
        )
