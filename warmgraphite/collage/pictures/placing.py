"""Where a picture from elsewhere lies on the drawing: over the whole frame, or by two of its points."""

from __future__ import annotations

import hashlib
from typing import Annotated, Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from warmgraphite.collage.pictures.specification import Corner, Digest
from warmgraphite.forms import setting
from warmgraphite.geometry.tolerances import NEAR
from warmgraphite.specification import Specification
from warmgraphite.view.specification import ViewSpecification

__all__ = ["Placed", "framing_of", "moved_points"]

Millimetres = Annotated[float, Field(allow_inf_nan=False, ge=-1e5, le=1e5)]
Place = tuple[Millimetres, Millimetres]


def framing_of(view: ViewSpecification) -> str:
    """Names the camera and the paper of a view: another one of these, and what was made for it lies elsewhere."""
    frame = view.frame
    said = view.projection.model_dump_json() + repr((frame.width, frame.height, frame.scale, frame.shift))
    return hashlib.sha256(said.encode()).hexdigest()[:16]


class Placed(Specification):
    """A picture of the stock and where it lies.
    ``shown`` are two places of it in shares of its width and height, ``onto`` where these are on the paper, in
    millimetres from the middle of the drawing; ``made_for`` names the camera and paper that it was made for.
    """

    picture: Digest = Field(default="", title="Picture", json_schema_extra={"hidden": True})
    fit: Literal["fills the frame", "by two points"] = setting("fills the frame", "Lies")
    shown: tuple[Corner, Corner] = Field(default=((0.25, 0.5), (0.75, 0.5)), json_schema_extra={"hidden": True})
    onto: tuple[Place, Place] = Field(default=((-100, 0), (100, 0)), json_schema_extra={"hidden": True})
    made_for: str = Field(default="", max_length=32, pattern="^[0-9a-f]*$", json_schema_extra={"hidden": True})

    @model_validator(mode="after")
    def _apart(self) -> Placed:
        if np.allclose(self.shown[0], self.shown[1], atol=NEAR) or np.allclose(self.onto[0], self.onto[1], atol=NEAR):
            raise ValueError("the two points by which a picture lies must be apart; move one of them")
        return self

    def lies(self, frame: tuple[float, float], middle: tuple[float, float], aspect: float) -> NDArray[np.float64]:
        """(3, 3) from shares of the picture's width and height to frame millimetres.
        ``aspect`` is its height over its width.
        """
        if self.fit == "fills the frame":
            return np.array([[frame[0], 0, 0], [0, frame[1], 0], [0, 0, 1.0]])
        (a, b), (p, q) = (np.array(self.shown, float) * [1, aspect]), np.array(self.onto, float) + middle
        # A turn and a scale, as one complex number.
        turn = complex(*(q - p)) / complex(*(b - a))
        move = complex(*p) - turn * complex(*a)
        c, s = turn.real, turn.imag
        return np.array([[c, -s * aspect, move.real], [s, c * aspect, move.imag], [0, 0, 1.0]])

    def stale(self, view: ViewSpecification) -> tuple[str, ...]:
        """What is said where camera or paper are not those that it was made for."""
        if self.made_for and self.made_for != framing_of(view):
            return (
                "The camera or the paper is another one than this picture was made for; make it anew, or fit it by two "
                "points.",
            )
        return ()


def moved_points(points: NDArray[Any], matrix: NDArray[np.float64]) -> NDArray[np.float64]:
    """(n, 2) points through a matrix (3, 3)."""
    found = points @ matrix[:2, :2].T + matrix[:2, 2]
    return np.asarray(found, np.float64)
