"""SVG files from elsewhere: without scripts, without what they fetch, without entities of their own."""

from __future__ import annotations

import re
from typing import Any, NamedTuple

from warmgraphite.errors import PictureError

__all__ = ["CleanSvg", "clean_svg", "plain"]


class CleanSvg(NamedTuple):
    """A file that only draws, how large it is in pixels of 96 to the inch, and what was left out."""

    data: bytes
    width: float
    height: float
    notes: tuple[str, ...]


def plain(error: BaseException) -> str:
    """What a library says, in one short line."""
    return re.sub(r"\s+", " ", str(error)).strip()[:80] or "it ends too early"


#: Pixels of a unit of length, and what is said in one.
_PIXELS = {"px": 1.0, "mm": 96 / 25.4, "cm": 96 / 2.54, "in": 96.0, "pt": 96 / 72, "pc": 16.0}
_LENGTH = re.compile(r"\s*([-+]?(?:\d+\.?\d*|\.\d+)(?:e[-+]?\d+)?)(px|mm|cm|in|pt|pc)\s*")
#: What may not stand in a drawing from elsewhere: it is left out.
_LEFT_OUT = {
    "script",
    "foreignobject",
    "iframe",
    "audio",
    "video",
    "use-external",
    "animate",
    "set",
    "animatetransform",
    "animatemotion",
}


def clean_svg(data: bytes, name: str) -> CleanSvg:
    """An SVG without what is not drawn of it. Raises :class:`PictureError` with one sentence."""
    from lxml import etree

    if re.search(rb"<!(ENTITY|DOCTYPE[^>]*\[)", data, re.I):
        raise PictureError(f"“{name}” defines entities of its own, which are not read; save it as plain SVG.")
    parser = etree.XMLParser(
        resolve_entities=False, no_network=True, load_dtd=False, dtd_validation=False, huge_tree=False, recover=False
    )
    try:
        root = etree.fromstring(data, parser)
    except etree.XMLSyntaxError as error:
        raise PictureError(f"“{name}” is no whole SVG ({plain(error)}); save it again.") from None
    notes, dropped = [], 0
    for element in list(root.iter()):
        if not isinstance(element.tag, str):
            continue
        word = etree.QName(element).localname.lower()
        parent = element.getparent()
        if word in _LEFT_OUT and parent is not None:
            parent.remove(element)
            dropped += 1
            continue
        for key, value in list(element.attrib.items()):
            bare = etree.QName(key).localname.lower()
            outside = bare == "href" and not value.strip().startswith(("#", "data:image/"))
            if bare.startswith("on") or outside or re.search(r"url\(\s*['\"]?\s*(?!#)", value, re.I):
                del element.attrib[key]
                dropped += 1
        if word == "style" and element.text and re.search(r"@import|url\(\s*['\"]?\s*(?!#)", element.text, re.I):
            element.text = ""
            dropped += 1
    if dropped:
        notes.append("Scripts and what it fetches from elsewhere were left out.")
    if any(
        isinstance(e.tag, str) and etree.QName(e).localname == "text" and "".join(e.itertext()).strip()
        for e in root.iter()
    ):
        notes.append("Its type is not drawn; save it with the type as outlines to have it.")
    width, height = _svg_size(root)
    if not (width > 0 and height > 0 and max(width, height) / min(width, height) < 100):
        raise PictureError(f"“{name}” does not say how large it is; save it with a width and a height.")
    # A pixel is a 96th of an inch (CSS Values and Units, Level 3); the library that draws has another one, and is
    # spared the question.
    for element in root.iter():
        for key, value in element.attrib.items():
            length = _LENGTH.fullmatch(value)
            if length:
                element.attrib[key] = f"{float(length[1]) * _PIXELS[length[2]]:.6g}"
    root.set("width", f"{width:.6g}")
    root.set("height", f"{height:.6g}")
    return CleanSvg(etree.tostring(root), width, height, tuple(notes))


def _svg_size(root: Any) -> tuple[float, float]:
    box = re.split(r"[\s,]+", (root.get("viewBox") or "").strip())
    said = [
        re.fullmatch(r"\s*([\d.]+(?:e-?\d+)?)\s*(px|mm|cm|in|pt|pc)?\s*", root.get(side) or "")
        for side in ("width", "height")
    ]
    try:
        if all(said):
            sides = [float(m[1]) * _PIXELS.get(m[2] or "px", 1.0) for m in said if m]
            return sides[0], sides[1]
        return (float(box[2]), float(box[3])) if len(box) == 4 else (0.0, 0.0)
    except ValueError:
        return 0.0, 0.0
