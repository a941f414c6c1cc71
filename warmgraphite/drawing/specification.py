"""What is drawn: one view of one model with ink, at a size and a level; and which other drawings hang on it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from warmgraphite.collage.pictures.kept import KeptPictures
from warmgraphite.collage.veils import VeilSpec
from warmgraphite.drawing.graph import Level
from warmgraphite.drawing.inputs import Raster, Sight
from warmgraphite.errors import NothingShown, ViewError
from warmgraphite.figures.choosing import Marked
from warmgraphite.figures.drawing import inked
from warmgraphite.figures.standing import Standing, peopled
from warmgraphite.ink.assign import fill_rules
from warmgraphite.ink.marks.specification import Ground, Mark
from warmgraphite.ink.rules import Ink, PenRule
from warmgraphite.memory import beside, derived
from warmgraphite.model.model import Model
from warmgraphite.needs import Need
from warmgraphite.regions.painted import KeptMasks
from warmgraphite.specification import Wanted
from warmgraphite.view.frame import sized_within
from warmgraphite.view.projection import Projection
from warmgraphite.view.specification import FigureChoice, PartChoice, Perspective, ViewSpecification

__all__ = ["PINNED", "STEADY", "WHOLE", "DrawingSpec", "Window"]

#: Pixels of the longer side of the raster that vectors are followed on, whatever the drawing has.
STEADY_PIXELS = 1600

Window = tuple[int, int, int, int]


class _Whole(Wanted):
    """The drawing that this is a part of; itself where it is none."""


class _Pinned(Wanted):
    """The drawing whose frame this one has."""


class _Steady(Wanted):
    """The same in the pixels that vectors are followed on: those that come of tones are the same at any size."""


WHOLE, PINNED, STEADY = _Whole(), _Pinned(), _Steady()


@dataclass(frozen=True, eq=False)
class DrawingSpec:
    """A view of a model, with ``size`` = (width, height) pixels for what has pixels, of which ``window`` is asked for.

    ``bare`` is the model without the figures that ``given``, the ink it is drawn with, says stand in it; ``pictures``
    are those of the stock. ``only`` names the part set that is seen, as if the rest of the ``whole`` drawing were
    glass: it hides nothing, and casts as it stands there. ``pinned`` is another whose frame it has, or that frame.
    """

    bare: Model
    view: ViewSpecification
    given: Ink
    size: tuple[int, int]
    window: Window
    pictures: KeptPictures | None = None
    only: str = ""
    whole: DrawingSpec | None = None
    pinned: DrawingSpec | Projection | None = None
    level: Level = "paper"

    # What is drawn.

    @derived
    def _stood(self) -> Standing:
        """The model with its figures; without them where nothing of it lies on the paper, which is said elsewhere."""
        figures = self.given.figures if isinstance(self.given, Marked) else ()
        if not figures:
            return Standing(self.bare)
        try:
            return peopled(self.bare, self.view, figures, self.given.entourage, kept=self.pictures)  # type: ignore[union-attr]
        except NothingShown:
            return Standing(self.bare)

    @property
    def model(self) -> Model:
        """The model, with all figures."""
        return self._stood.model

    @derived
    def ink(self) -> Ink:
        """What it is drawn with, figures that are drawn in a way of their own included."""
        return inked(self.given, self._stood)

    @derived
    def chosen(self) -> NDArray[np.bool_]:
        """(P,) the parts that are seen. Raises :class:`ViewError` where the model has no such part set."""
        if not self.only:
            return np.ones(len(self.model.parts), bool)
        chosen = self.model.in_set(self.only)
        if chosen is None:
            raise ViewError(f"There is no part set “{self.only}” in this model; choose another.")
        return chosen

    @derived
    def sight(self) -> Sight:
        """What is read of model and view."""
        return Sight(self.model, self.view, self.chosen)

    @property
    def raster(self) -> Raster:
        """Its pixels."""
        return Raster(self.size, self.window)

    @property
    def pens(self) -> tuple[PenRule, ...]:
        """The rules of the pens."""
        return self.ink.pens

    @property
    def marks(self) -> tuple[Mark | Ground, ...]:
        """The marks that are drawn on it."""
        return self.ink.marks if isinstance(self.ink, Marked) else ()

    @property
    def masks(self) -> KeptMasks | None:
        """Where masks painted by hand are kept."""
        return self.pictures.masks if self.pictures else None

    @derived
    def filled_by(self) -> NDArray[np.int64]:
        """(P,) the number of the poche rule that fills each part where it is cut, −1 for none."""
        return fill_rules(self.model, self.ink.poche)

    @derived
    def built_by(self) -> NDArray[np.int64]:
        """(P,) the number of the rule that says which build-up each part has, −1 for none."""
        return fill_rules(self.model, self.ink.construction)

    @property
    def middle(self) -> tuple[float, float]:
        """Where the middle of the drawing lies on the paper, in millimetres.
        It stays there when the paper is drawn out.
        """
        frame = self.view.frame
        return frame.width / 2 + frame.shift[0], frame.height / 2 + frame.shift[1]

    @property
    def paper(self) -> tuple[float, float]:
        """Width and height of the paper in millimetres."""
        return self.view.frame.width, self.view.frame.height

    # Other drawings that hang on it.

    def of_whole(self, *names: str) -> Sequence[Need]:
        """Needs of the drawing that this is a part of."""
        return [Need(name, None, WHOLE if self.whole else None) for name in names]

    def under(self, view: ViewSpecification) -> DrawingSpec:
        """The same of another view."""
        return replace(self, view=view)

    def sized(self, size: tuple[int, int]) -> DrawingSpec:
        """The same with another number of pixels."""
        return self._in_pixels(size, (0, 0, *size))

    def windowed(self, window: Window) -> DrawingSpec:
        """A part of its pixels."""
        return self._in_pixels(self.size, window)

    def _in_pixels(self, size: tuple[int, int], window: Window) -> DrawingSpec:
        whole = self.whole and self.whole._in_pixels(size, window)
        found = replace(self, size=size, window=window, whole=whole)
        beside(found).update(beside(self))  # nothing that is worked out of it hangs on a pixel
        return found

    def other(self, of: Wanted) -> DrawingSpec | None:
        """Another drawing by what it is to this one; ``None`` where there is none."""
        if of == WHOLE:
            return self.whole or self
        if of == PINNED:
            return self.pinned if isinstance(self.pinned, DrawingSpec) else None
        if of == STEADY:
            return self.sized(
                sized_within(self.view.frame, STEADY_PIXELS, STEADY_PIXELS * STEADY_PIXELS, STEADY_PIXELS)
            )
        assert isinstance(of, VeilSpec)
        return self._veiled(of)

    def _veiled(self, spec: VeilSpec) -> DrawingSpec | None:
        """Another part set in the same frame, in a light of its own.
        ``None`` where the model has none of that name, or it is empty.
        """
        chosen = self.model.in_set(spec.set)
        if chosen is None or not (chosen & self.model.parts.present).any():
            return None
        view = self.view.model_copy(
            update={
                "parts": PartChoice(set=spec.set, uncut=self.view.parts.uncut, roles=self.view.parts.roles),
                "cuts": self.view.cuts if spec.sawn else (),
                "figures": FigureChoice(on=False),
            }
        )
        # Nothing of it may move the frame: where the paper is fitted to what is shown, it stays that of this drawing.
        fitted = not isinstance(view.projection, Perspective) and (
            view.projection.centre is None or not view.frame.scale
        )
        return replace(self, view=view, only="", whole=None, pinned=self if fitted else None)
