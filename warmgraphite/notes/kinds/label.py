"""Labels with leaders: on a point, a part, or a layer of a build-up."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, ClassVar, Literal

import numpy as np
import shapely
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.forms import setting
from warmgraphite.model.model import Model
from warmgraphite.needs import Need
from warmgraphite.notes.following import in_newer
from warmgraphite.notes.labels import LabelRequest
from warmgraphite.notes.lettering import End
from warmgraphite.notes.note import Drawn, Handle, Keyed, Lies, Note, Offset, Point, Spot, by_matrix
from warmgraphite.notes.setting import Setting, filled_area

__all__ = ["Label"]

_HIDDEN: dict[str, Any] = {"hidden": True}


class Label(Note):
    """A text beside the drawing with a leader to what it means.
    ``at`` a point, which goes along with a ``part``, or lies in a ``layer`` of what that is built of. Its text stands
    where it was ``put``, in millimetres from the middle of the drawing, or in a column; a ``numbered`` one has a number
    there and its text in the key.
    """

    label: ClassVar[str] = "Label"
    sign: ClassVar[str] = "M3 13L9 4H18M3 13m-1.2 0a1.2 1.2 0 1 0 2.4 0a1.2 1.2 0 1 0 -2.4 0"
    group: ClassVar[str] = "Written"
    hint: ClassVar[str] = "Click what it means."
    takes: ClassVar[tuple[int, int]] = (1, 1)

    kind: Literal["label"] = "label"
    text: str = Field(default="", max_length=600, json_schema_extra=_HIDDEN)
    at: Point = Field(default=(0.0, 0.0, 0.0), json_schema_extra=_HIDDEN)
    lies: Lies = Field(default="model", json_schema_extra=_HIDDEN)
    part: str = Field(default="", max_length=1000, json_schema_extra=_HIDDEN)
    layer: str = Field(default="", max_length=100, json_schema_extra=_HIDDEN)
    side: Literal["auto", "left", "right"] = setting("auto", "Stands")
    end: Literal["of all", "dot", "arrow", "tick", "none"] = setting("of all", "Leader ends in a")
    numbered: bool = setting(False, "Number, and text in the key")
    wide: float = Field(
        default=0.0,
        ge=0,
        le=500,
        title="Broken at",
        description="0 leaves lines as they are.",
        json_schema_extra={"unit": "mm", "most": 80},
    )
    put: Offset | None = Field(default=None, json_schema_extra=_HIDDEN)

    @property
    def called(self) -> str:
        return self.name or self.text.split("\n")[0][:60] or self.label

    def needs(self) -> tuple[Need, ...]:
        return (Need("shapes"), *((Need("built"),) if self.layer else ()))

    def anchor(self, there: Setting) -> NDArray[np.float64]:
        """(2,) what it means, on the paper."""
        found: NDArray[np.float64] = there.at([self.at], self.lies)[0]
        if not self.layer:
            return found
        # The place in the layer that is nearest: it stays in it whatever its thickness is.
        rows = (r for r in there.plate.results[Need("built")] if r.group.removeprefix("poche ") == self.layer)
        shapes = [p for row in rows for p in shapely.get_parts(filled_area(row.shape.rings))]
        if not shapes or not np.isfinite(found).all():
            return found
        spot = shapely.Point(found)
        nearest = min(shapes, key=lambda s: shapely.distance(s, spot))
        if shapely.contains(nearest, spot):
            return found
        inner = nearest.buffer(-0.25)
        on = shapely.shortest_line(inner if not inner.is_empty else nearest, spot)
        return np.array(shapely.get_coordinates(on)[0])

    def draw(self, there: Setting) -> Drawn:
        anchor = self.anchor(there)
        out = Drawn()
        width, height = there.frame
        if not np.isfinite(anchor).all() or not (0 <= anchor[0] <= width and 0 <= anchor[1] <= height):
            out.told = "What it means lies outside of this drawing."
            return out
        out.handles.append(Handle(0, (float(anchor[0]), float(anchor[1]))))
        colour = there.colour(self.theme)
        words = self.text
        if self.numbered:
            sign = str(there.number(self.id))
            out.keyed.append(Keyed(sign, self.text.replace("\n", " "), colour, self.theme))
            words = sign
        middle = there.plate.middle
        put = None if self.put is None else (self.put[0] + middle[0], self.put[1] + middle[1])
        end: End = there.lettering.end if self.end == "of all" else self.end  # type: ignore[assignment]
        block = there.block(words or "…", self.size, self.wide or None)
        side = {"auto": 0, "left": -1, "right": 1}[self.side]
        out.asked.append(
            LabelRequest(f"{self.id} label", block, (float(anchor[0]), float(anchor[1])), colour, end, side, put)
        )
        return out

    @classmethod
    def placed(cls, spots: Sequence[Spot]) -> Note:
        spot = spots[0]
        words = spot.layer and f"{spot.layer[:1].lower()}{spot.layer[1:]}" + (
            f", {spot.thickness * 1000:.0f} mm" if spot.thickness else ""
        )
        text = words or spot.part.rpartition("/")[2][:200]
        if spot.point is None:
            return cls(text=text, at=spot.on_paper, lies="paper")
        return cls(text=text, at=spot.point, part=spot.part, layer=spot.layer)

    def taken_to(self, index: int, spot: Spot, there: Setting) -> Note:
        if index < 0:
            return self.model_copy(update={"put": spot.flat})
        if spot.point is None:
            return self.model_copy(update={"at": spot.on_paper, "lies": "paper", "part": "", "layer": ""})
        return self.model_copy(update={"at": spot.point, "lies": "model", "part": spot.part, "layer": spot.layer})

    def moved(self, matrix: NDArray[np.float64]) -> Note:
        return self if self.lies == "paper" else self.model_copy(update={"at": by_matrix(self.at, matrix)})

    def renamed(self, followed: Callable[[str], str]) -> Note:
        return self.model_copy(update={"part": followed(self.part)}) if self.part else self

    def following(self, old: Model, new: Model) -> Note:
        if not self.part or self.lies == "paper":
            return self
        return self.model_copy(update={"at": in_newer(self.at, self.part, old, new)})
