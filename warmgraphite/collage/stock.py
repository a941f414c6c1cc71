"""The stock that ships with the application.
Washes, textures, tones, adjusting sheets and sheets of passes, ready to be laid.
"""

from __future__ import annotations

from collections.abc import Iterable
from functools import cache
from typing import Any, Literal

from pydantic import TypeAdapter

from warmgraphite.collage.adjusting import AdjustingTrace
from warmgraphite.collage.backdrops import BACKDROPS
from warmgraphite.collage.kinds import KINDS, AnyTrace
from warmgraphite.collage.textures import TEXTURES
from warmgraphite.specification import Specification

__all__ = ["StockGroup", "StockItem", "shipped"]

StockGroup = Literal["washes", "textures", "backdrops", "tones", "adjustments", "gestures", "sheets", "pictures"]

_TRACE: TypeAdapter[Any] = TypeAdapter(AnyTrace)


class StockItem(Specification):
    """What can be taken into the hand: a trace as it is laid when it is poured.
    ``sort`` is what it is listed under within its group; ``pours`` is whether it is poured into regions, or laid over
    all.
    """

    id: str
    group: StockGroup
    sort: str
    label: str
    trace: AnyTrace
    pours: bool


#: Washes to begin with: what they are called, and what they say.
_WASHES: tuple[tuple[str, str, dict[str, Any]], ...] = (
    ("sky", "One gesture of sky",
        {"colour": "#a3bcc6", "second": "#e7d8bf", "density": 0.75, "pools": 95, "flow": 0.45, "bloom": 0.6,
            "rim": 0.15, "wet": 0.75, "graded": "away from a point", "down": 30, "reach": 205, "fade": 1.0,
            "short": 20}),
    ("water", "Water", {"colour": "#9fbab9", "second": "#c6cdbd", "density": 0.8, "pools": 85, "rim": 0.2, "bloom": 0.5,
        "back_run": 0.18, "graded": "up the drawing", "fade": 0.5, "short": 13}),
    ("ground", "Ground", {"colour": "#cfc79c", "second": "#d8c39a", "density": 0.75, "pools": 70, "flow": 0.45,
        "bloom": 0.35, "rim": 0.3, "short": 13}),
    ("materials", "All materials",
        {"colours": "of materials", "holds": "faces", "density": 0.85, "white": 0.28, "lost": 0.45, "pools": 26,
            "flow": 0.4, "second": "#e6cfa6"}),
    ("brick", "Brick red", {"colour": "#cf8f72", "second": "#d9a983", "pools": 24, "rim": 0.45}),
    ("timber", "Timber", {"colour": "#d9b684", "second": "#c79c6e", "pools": 22}),
    ("stone", "Stone grey", {"colour": "#c6c1b6", "second": "#d8cfbb", "pools": 28, "granulation": 0.5}),
    ("leaves", "Leaves", {"colour": "#b3bd8c", "second": "#cfc48c", "pools": 14, "flow": 0.6, "rim": 0.5, "bloom": 0.4,
        "lost": 0.5}),
    ("glass", "Glass", {"colour": "#bdcfd0", "second": "#e0d9c6", "density": 0.7, "holds": "faces", "pools": 30,
        "white": 0.15}),
    ("light", "Warm light", {"colour": "#f1d8a2", "second": "#f6e6c4", "density": 0.5, "rim": 0.15, "bloom": 0.4}),
    ("shadow", "Cool shadow",
        {"colour": "#8f879a", "second": "#a98d7c", "density": 0.75, "pools": 34, "rim": 0.4, "wet": 0.7,
            "granulation": 0.4}),
    ("dry", "Dry brush", {"colour": "#b79a78", "second": "#a88c74", "dry": 0.6, "rim": 0.2, "granulation": 0.5}),
    ("flat", "Flat tone",
        {"colour": "#c9b79c", "second": "#c9b79c", "flow": 0.0, "rim": 0.0, "bloom": 0.0, "granulation": 0.0,
            "wet": 0.0}),
    ("final", "Final wash",
        {"colour": "#e8cfa8", "second": "#d9c3b0", "density": 0.5, "pools": 160, "flow": 0.25, "rim": 0.0,
            "bloom": 0.3}),
)  # fmt: skip
#: What adjusting sheets are laid as, so that one sees what they do.
_ADJUSTED: dict[str, dict[str, Any]] = {
    "light-and-contrast": {"light": 1.08, "contrast": 1.15}, "tone-curve": {"darks": 0.2, "lights": 0.82},
    "hue-and-strength": {"strength": 0.6},
    "black-and-white": {"black": 0.06, "white": 0.96}, "warmth": {"warmth": 0.4},
}  # fmt: skip
#: How skies and silhouettes end.
_SKY: dict[str, Any] = {"ends": "wet", "ends_reach": 34.0, "short": 5.0}
_SILHOUETTE: dict[str, Any] = {"ends": "clean", "short": 13.0, "scale": 2.0}
_TONES = (
    "tint",
    "tone-steps",
    "shade",
    "shadow",
    "occlusion",
    "glass",
    "facing",
    "depth",
    "white-card",
    "cut-shadow",
    "sky",
)


def _item(group: StockGroup, sort: str, identity: str, label: str, **said: Any) -> StockItem:
    trace = _TRACE.validate_python({"id": "poured", "name": label, **said})
    return StockItem(
        id=f"{group}-{identity}",
        group=group,
        sort=sort,
        label=label,
        trace=trace,
        pours=type(trace).confines and type(trace).pours,
    )


def _items() -> Iterable[StockItem]:
    for identity, label, said in _WASHES:
        yield _item("washes", "", identity, label, kind="wash", **said)
    for texture in TEXTURES.values():
        yield _item("textures", texture.group, texture.name, texture.label, kind="texture", texture=texture.name)
    for backdrop in BACKDROPS.values():
        said = dict(zip(("tone", "second", "third"), backdrop.tones, strict=True)) | (
            _SKY if backdrop.above else _SILHOUETTE
        )
        sort = "skies" if backdrop.above else "on the horizon"
        yield _item(
            "backdrops",
            sort,
            backdrop.name,
            backdrop.label,
            kind="backdrop",
            scene=backdrop.name,
            blend="multiply",
            **said,
        )
    for name in _TONES:
        yield _item(
            "tones", "", name, KINDS[name].label, kind=name, **({} if name == "white-card" else {"blend": "multiply"})
        )
    adjusting = [name for name, kind in KINDS.items() if issubclass(kind, AdjustingTrace)]
    for name in adjusting:
        yield _item("adjustments", "", name, KINDS[name].label, kind=name, **_ADJUSTED.get(name, {}))
    for name, kind in KINDS.items():
        # One that shows a picture is laid from the picture.
        if name not in {*_TONES, *adjusting, "wash", "texture"} and "picture" not in kind.model_fields:
            yield _item(kind.stock_group, "", name, kind.label, kind=name)


@cache
def shipped() -> tuple[StockItem, ...]:
    """All of it, in order."""
    return tuple(_items())
