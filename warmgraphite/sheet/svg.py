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

from warmgraphite.sheet.canvas import Anchor, Face, Ring, Stroke
from warmgraphite.sheet.fonts import FACES
from warmgraphite.specification import tidy

__all__ = ["SvgCanvas"]


def escape(words: str) -> str:
    """Words as text of an element: what XML cannot hold becomes a space."""
    return _escape(str(tidy(words)))


def quoteattr(words: str) -> str:
    """Words as the value of an attribute, quoted."""
    return _quoteattr(str(tidy(words)))


def _number(value: float) -> str:
    return f"{value:.4f}".rstrip("0").rstrip(".") or "0"


def _data(lines: list[Ring], closing: bool) -> str:
    out = []
    for line in lines:
        closed = closing or (len(line) > 2 and bool((np.abs(line[0] - line[-1]) < 1e-9).all()))
        points = line[:-1] if closed and bool((line[0] == line[-1]).all()) else line
        text = " ".join(f"{_number(x)} {_number(y)}" for x, y in points.tolist())
        out.append(f"M{text}{'Z' if closed else ''}")
    return "".join(out)


class SvgCanvas:
    """Collects elements; :meth:`document` returns the whole file."""

    def __init__(self, width: float, height: float, title: str) -> None:
        self.width, self.height, self.title = width, height, title
        self.rows: list[str] = []
        self.faces: set[str] = set()
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
        box = f'x="{_number(x)}" y="{_number(y)}" width="{_number(width)}" height="{_number(height)}"'
        self.rows.append(f'<clipPath id="clip-{self.clips}"><rect {box}/></clipPath><g clip-path="url(#clip-{self.clips})">')
        yield
        self.rows.append("</g>")

    def fill(self, rings: list[Ring], colour: str) -> None:
        self.rows.append(f'<path fill="{colour}" fill-rule="evenodd" d="{_data(rings, True)}"/>')

    def stroke(self, lines: list[Ring], stroke: Stroke) -> None:
        dash = f' stroke-dasharray="{" ".join(_number(d) for d in stroke.dash)}"' if stroke.dash else ""
        cap = "butt" if stroke.dash else "round"
        self.rows.append(
            f'<path fill="none" stroke="{stroke.colour}" stroke-width="{_number(stroke.weight)}" stroke-linecap="{cap}" '
            f'stroke-linejoin="round"{dash} d="{_data(lines, False)}"/>'
        )

    def image(self, pixels: NDArray[np.uint8], x: float, y: float, width: float, height: float) -> None:
        alpha = pixels[..., 3:].astype(np.uint16)
        straight = np.where(alpha > 0, (pixels[..., :3].astype(np.uint16) * 255 + alpha // 2) // np.maximum(alpha, 1), 0)
        stream = io.BytesIO()
        if (alpha == 255).all():
            kind = "jpeg"
            Image.fromarray(straight.astype(np.uint8)).save(stream, "JPEG", quality=92, subsampling=0)
        else:
            kind = "png"
            picture = np.concatenate([np.minimum(straight, 255), alpha], -1).astype(np.uint8)
            Image.fromarray(picture, "RGBA").save(stream, "PNG", compress_level=4)
        data = base64.b64encode(stream.getvalue()).decode()
        self.rows.append(
            f'<image x="{_number(x)}" y="{_number(y)}" width="{_number(width)}" height="{_number(height)}" '
            f'preserveAspectRatio="none" xlink:href="data:image/{kind};base64,{data}"/>'
        )

    def text(self, x: float, y: float, words: str, face: Face, size: float, colour: str, anchor: Anchor = "start") -> None:
        self.faces.add(face)
        _, family, weight = FACES[face]
        self.rows.append(
            f'<text x="{_number(x)}" y="{_number(y)}" font-family={quoteattr(family)} font-weight="{weight}" '
            f'font-size="{_number(size)}" fill="{colour}" text-anchor="{anchor}">{escape(words)}</text>'
        )

    def document(self) -> str:
        """The file: true size in millimetres, fonts within."""
        fonts = []
        for face in sorted(self.faces):
            path, family, weight = FACES[face]
            data = base64.b64encode(path.read_bytes()).decode()
            fonts.append(f"@font-face{{font-family:'{family}';font-weight:{weight};src:url(data:font/ttf;base64,{data})}}")
        style = f"<style>{''.join(fonts)}</style>" if fonts else ""
        width, height = _number(self.width), _number(self.height)
        return (
            '<?xml version="1.0" encoding="UTF-8"?>\n'
            '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" version="1.1" '
            f'width="{width}mm" height="{height}mm" viewBox="0 0 {width} {height}">\n'
            f"<title>{escape(self.title)}</title>\n{style}\n" + "\n".join(self.rows) + "\n</svg>\n"
        )
