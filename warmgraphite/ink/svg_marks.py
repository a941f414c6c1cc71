"""The outlines of an SVG as a pen draws them: with all that groups above them do to their place."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable
from typing import Any
from xml.etree import ElementTree

from fontTools.misc.transform import Identity, Transform
from fontTools.pens.recordingPen import DecomposingRecordingPen
from fontTools.pens.transformPen import TransformPen
from fontTools.svgLib.path.parser import parse_path
from fontTools.svgLib.path.shapes import PathBuilder

__all__ = ["svg_steps"]

#: What holds shapes that are not drawn where they stand.
_ASIDE = frozenset({"defs", "symbol", "clipPath", "mask", "marker", "pattern", "metadata"})
#: Elements that are looked at, each as often as it is used.
_MOST = 20_000
_HREF = "{http://www.w3.org/1999/xlink}href"
_NUMBER = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")


def svg_steps(root: ElementTree.Element) -> list[tuple[str, tuple[Any, ...]]]:
    """The steps of a pen, in the units of the SVG's ``root``, that draw all shapes which it shows. Raises :class:`ValueError`
    for what goes round in circles or is too much."""
    named = {e.get("id"): e for e in root.iter() if e.get("id")}
    pen = DecomposingRecordingPen({})
    waiting, met = [(root, Identity)], 0
    while waiting:
        element, matrix = waiting.pop()
        met += 1
        if met > _MOST:
            raise ValueError(f"more than {_MOST} elements, or one that uses itself")
        kind = _kind(element)
        if kind in _ASIDE or element.get("display") == "none" or re.search(r"display\s*:\s*none", element.get("style", "")):
            continue
        matrix = matrix.transform(transform_of(element.get("transform", "")))
        inner: Iterable[ElementTree.Element] = element
        if kind == "use":
            found = named.get((element.get("href") or element.get(_HREF) or "").removeprefix("#"))
            matrix = matrix.translate(*(float(element.get(n, "0").removesuffix("px")) for n in ("x", "y")))
            inner = () if found is None else found if _kind(found) == "symbol" else (found,)
        else:
            built = PathBuilder()
            built.add_path_from_element(ElementTree.Element(kind, {k: v for k, v in element.attrib.items() if k != "transform"}))
            for path in built.paths:
                parse_path(path, TransformPen(pen, matrix))
        waiting += reversed([(e, matrix) for e in inner])
    return pen.value  # type: ignore[no-any-return]


def _kind(element: ElementTree.Element) -> str:
    """What an element is, without its namespace."""
    return str(element.tag).rpartition("}")[2]


def transform_of(text: str) -> Transform:
    """What an SVG's transform attribute does, the functions of SVG 1.1 in their order. Raises :class:`ValueError` for others."""
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
