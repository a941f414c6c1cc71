"""What differs between two views, in words."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, NamedTuple

import numpy as np

from warmgraphite.view.kinds import kind_of, other_cuts
from warmgraphite.view.scales import scale_label
from warmgraphite.view.specification import Cut, ViewSpecification

__all__ = ["Difference", "differences"]


class Difference(NamedTuple):
    """One respect in which two views differ, as it is in the first and in the second."""

    what: str
    first: str
    second: str


_UNITS = {
    "bearing": "°", "top": "°", "down": "°", "angle": "°", "corner": "°", "eye_height": " m", "distance": " m",
    "aside": " m",
    "place": " m", "height": " m", "storey": " m",
}  # fmt: skip


def _number(value: Any) -> str:
    return f"{value:.2f}".rstrip("0").rstrip(".") if isinstance(value, float) else str(value)


def _cut(cut: Cut) -> str:
    n = np.array(cut.normal, float) / np.linalg.norm(cut.normal)
    axis = next((k for k in range(3) if abs(n[k]) > 0.99999), None)
    steps = len(cut.jogs)
    stepped = f", {steps} step{'s' * (steps > 1)}" if steps else ""
    if axis is None:
        return f"{cut.role} at an angle, {_number(float(n @ np.array(cut.point)))} m along its normal{stepped}"
    gone = (("west", "east"), ("south", "north"), ("below", "above"))[axis][int(n[axis] > 0)]
    return f"{cut.role} at {'xyz'[axis]} = {_number(float(cut.point[axis]))} m, less what is {gone}{stepped}"


def _listed(names: Sequence[str]) -> str:
    return ", ".join(names) or "none"


def differences(first: ViewSpecification, second: ViewSpecification, box: np.ndarray) -> list[Difference]:
    """What is not the same in two views; empty when they draw the same. ``box`` (2, 3) bounds the model, in metres."""
    found: list[Difference] = []

    def say(what: str, a: str, b: str) -> None:
        if a != b:
            found.append(Difference(what, a, b))

    one, two = kind_of(first, box), kind_of(second, box)
    say("kind", one.kind, two.kind)
    ours, theirs = one.model_dump(), two.model_dump()
    for name in ours:
        if name != "kind" and name in theirs:
            unit = _UNITS.get(name, "")
            say(name.replace("_", " "), f"{_number(ours[name])}{unit}", f"{_number(theirs[name])}{unit}")
    for name, a, b in (("direction of sight", first, second), ("point looked at", first, second)):
        fields = ("direction", "eye") if name == "direction of sight" else ("centre", "target")
        values = [
            next((getattr(v.projection, f) for f in fields if getattr(v.projection, f, None)), None) for v in (a, b)
        ]
        if (
            type(first.projection) is type(second.projection)
            and values[0] != values[1]
            and not (name.startswith("dir") and found)
        ):
            say(name, *("the middle" if v is None else " ".join(_number(float(c)) for c in v) for v in values))
    mine, other = ([_cut(c) for c in other_cuts(v, box)] for v in (first, second))
    say("cuts", _listed(mine), _listed(other))
    say("part set", first.parts.set or "all parts", second.parts.set or "all parts")
    say("left out", _listed(first.parts.hidden), _listed(second.parts.hidden))
    say("left whole", _listed(first.parts.uncut), _listed(second.parts.uncut))
    roles = [_listed([f"{r} {how}" for r, how in sorted(v.parts.roles.items())]) for v in (first, second)]
    say("roles", roles[0], roles[1])
    suns = [f"{_number(float(v.sun.azimuth))}°, {_number(float(v.sun.altitude))}° high" for v in (first, second)]
    say("sun", suns[0], suns[1])
    papers = [f"{_number(float(v.frame.width))} × {_number(float(v.frame.height))} mm" for v in (first, second)]
    say("paper", papers[0], papers[1])
    scales = [scale_label(v.frame.scale) if v.frame.scale else "to fit" for v in (first, second)]
    say("scale", scales[0], scales[1])
    say("resolution", f"{first.frame.resolution:g} dpi", f"{second.frame.resolution:g} dpi")
    for name, label in (
        ("crease_angle", "crease angle"),
        ("outline_depth", "outline depth"),
        ("smooth", "smooth edges"),
        ("seams", "seams"),
        ("facets", "facets"),
    ):
        a, b = getattr(first.lines, name), getattr(second.lines, name)
        say(label, *(("on" if v else "off") if isinstance(v, bool) else _number(float(v)) for v in (a, b)))
    return found
