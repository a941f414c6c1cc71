"""Files that are joined to the model."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from warmgraphite.model.edits._edit import Edit, Metres
from warmgraphite.model.joining import place_joined, taken_out
from warmgraphite.model.mending import dropped
from warmgraphite.model.model import Model


class PlaceJoined(Edit):
    """Move a joined file, and turn it about its middle.
    It moves ``by`` (x, y, z) metres from where its coordinates, or the map, have it, and turns by ``turn`` degrees.
    """

    do: Literal["place_joined"] = "place_joined"
    source: str = Field(min_length=1, max_length=40)
    by: tuple[Metres, Metres, Metres]
    turn: float = Field(default=0.0, ge=-360, le=360)

    def apply(self, model: Model) -> Model:
        return place_joined(model, self.source, self.by, self.turn)

    def called(self, _what: str) -> str:
        return "Place of a joined file"


class TakeOutJoined(Edit):
    """Take a joined file out of the study."""

    do: Literal["take_out_joined"] = "take_out_joined"
    source: str = Field(min_length=1, max_length=40)

    def apply(self, model: Model) -> Model:
        left, parts = taken_out(model, self.source)
        return dropped(left, parts) if parts else left

    def called(self, _what: str) -> str:
        return "Take a joined file out"
