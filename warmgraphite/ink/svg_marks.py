"""The outlines of an SVG as polylines: with all that groups above them do to their place."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable
from xml.etree import ElementTree

from fontTools.misc.transform import Identity, Transform
from fontTools.pens.basePen import BasePen
from fontTools.pens.transformPen import TransformPen
from fontTools.svgLib.path.parser import parse_path
from fontTools.svgLib.path.shapes import PathBuilder

__all__ = ["svg_lines"]

#: What holds shapes that are not drawn where they stand.
_ASIDE = frozenset({"defs", "symbol", "clipPath", "mask", "marker", "pattern", "metadata"})
#: Straight pieces of a curve.
_FINE = 8
#: Elements that are looked at, each as often as it is used.
_MOST = 20_000
_HREF = "{http://www.w3.org/1999/xlink}href"
_NUMBER = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")


Line = list[tuple[float, float]]


class _Lines(BasePen):  # type: ignore[misc]
    """A pen that keeps polylines, curves in straight pieces."""

    def __init__(self) -> None:
        super().__init__()
        self.lines: list[Line] = []

    def _moveTo(self, pt: tuple[float, float]) -> None:
        self.lines.append([pt])

    def _lineTo(self, pt: tuple[float, float]) -> None:
        self.lines[-1].append(pt)

    def _curveToOne(self, pt1: tuple[float, float], pt2: tuple[float, float], pt3: tuple[float, float]) -> None:
        ends = [self._getCurrentPoint(), pt1, pt2, pt3]
        for k in range(1, _FINE + 1):
            t = k / _FINE
            shares = ((1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t * t * (1 - t), t**3)
            x, y = (sum(s * e[axis] for s, e in zip(shares, ends, strict=True)) for axis in (0, 1))
            self.lines[-1].append((x, y))

    def _closePath(self) -> None:
        if self.lines[-1][0] != self.lines[-1][-1]:
            self.lines[-1].append(self.lines[-1][0])


def svg_lines(root: ElementTree.Element) -> list[Line]:
    """The polylines, in the units of the SVG's ``root``, of all shapes that it shows.
    Raises :class:`ValueError` for what goes round in circles or is too much.
    """
    named = {e.get("id"): e for e in root.iter() if e.get("id")}
    pen = _Lines()
    waiting, met = [(root, Identity)], 0
    while waiting:
        element, matrix = waiting.pop()
        met += 1
        if met > _MOST:
            raise ValueError(f"more than {_MOST} elements, or one that uses itself")
        kind = _kind(element)
        if (
            kind in _ASIDE
            or element.get("display") == "none"
            or re.search(r"display\s*:\s*none", element.get("style", ""))
        ):
            continue
        matrix = matrix.transform(transform_of(element.get("transform", "")))
        inner: Iterable[ElementTree.Element] = element
        if kind == "use":
            found = named.get((element.get("href") or element.get(_HREF) or "").removeprefix("#"))
            matrix = matrix.translate(*(float(element.get(n, "0").removesuffix("px")) for n in ("x", "y")))
            inner = () if found is None else found if _kind(found) == "symbol" else (found,)
        else:
            built = PathBuilder()
            built.add_path_from_element(
                ElementTree.Element(kind, {k: v for k, v in element.attrib.items() if k != "transform"})
            )
            for path in built.paths:
                parse_path(path, TransformPen(pen, matrix))
        waiting += reversed([(e, matrix) for e in inner])
    return pen.lines


def _kind(element: ElementTree.Element) -> str:
    """What an element is, without its namespace."""
    return str(element.tag).rpartition("}")[2]


def transform_of(text: str) -> Transform:
    """What an SVG's transform attribute does, the functions of SVG 1.1 in their order.
    Raises :class:`ValueError` for others.
    """
    found = Identity
    for name, inner in re.findall(r"(\w+)\s*\(([^)]*)\)", text):
        numbers = [float(n) for n in _NUMBER.findall(inner)]
        match name, numbers:
            case "matrix", [_, _, _, _, _, _]:
                found = found.transform(numbers)
            case "translate", [x, *y]:
                found = found.translate(x, *y[:1])
            case "scale", [x, *y]:
                found = found.scale(x, y[0] if y else x)
            case "rotate", [angle, *place]:
                about = place if len(place) == 2 else (0.0, 0.0)
                found = found.translate(*about).rotate(math.radians(angle)).translate(-about[0], -about[1])
            case "skewX", [angle]:
                found = found.skew(math.radians(angle), 0)
            case "skewY", [angle]:
                found = found.skew(0, math.radians(angle))
            case _:
                raise ValueError(f"there is no transform {name}({inner})")
    return found
