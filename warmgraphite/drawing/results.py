"""The results of a drawing by their names, each as what it is."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from warmgraphite.errors import ViewError
from warmgraphite.memory import derived
from warmgraphite.needs import Need
from warmgraphite.passes.casters import Casters, Rays
from warmgraphite.passes.cut import CutRegion, Mass
from warmgraphite.passes.light import Light
from warmgraphite.passes.line_set import LineSet
from warmgraphite.passes.occluders import Occluders
from warmgraphite.passes.shadow import LightEdges
from warmgraphite.passes.surface import Surface
from warmgraphite.passes.wire import Wire
from warmgraphite.progress import Progress, silent
from warmgraphite.regions.map import RegionMap
from warmgraphite.view.projection import Projection
from warmgraphite.view.scene import Scene
from warmgraphite.view.specification import ViewSpecification

__all__ = ["Results"]


class Results:
    """What can be asked of a drawing.
    Each raises :class:`ViewError` where the view shows nothing, or has more pixels than can be held.
    """

    view: ViewSpecification

    def result(self, wanted: Need | str, progress: Progress = silent) -> Any:
        """The result of a pass."""
        raise NotImplementedError

    @property
    def paper(self) -> Projection:
        """Where the model lies on the paper."""
        found = self.result("frame")
        if found.projection is None:
            raise ViewError(found.problem)
        return found.projection  # type: ignore[no-any-return]

    @property
    def scene(self) -> Scene:
        """What the view shows of the model, in its frame."""
        self.paper  # noqa: B018 - which says why where there is none
        return self.result("scene")  # type: ignore[no-any-return]

    @property
    def settled(self) -> list[CutRegion]:
        """The cut regions as they are seen: overlaps settled, voids left out."""
        return self.result("settled")  # type: ignore[no-any-return]

    @property
    def masses(self) -> list[Mass]:
        """The cut regions merged to one mass per material."""
        return self.result("masses")  # type: ignore[no-any-return]

    @property
    def hiders(self) -> Occluders:
        """All that can hide."""
        return self.result("hiders")  # type: ignore[no-any-return]

    @property
    def casters(self) -> Casters:
        """What stands in the sun."""
        return self.result("casters")  # type: ignore[no-any-return]

    @property
    def solid(self) -> Rays:
        """Rays against all that one cannot see through."""
        return self.result("solid")  # type: ignore[no-any-return]

    def regions(self) -> list[CutRegion]:
        """The cut regions, part by part."""
        return self.result("cut")  # type: ignore[no-any-return]

    def cap_faces(self) -> tuple[NDArray[np.float64], NDArray[np.int32]]:
        """The triangles (C, 3, 3), in metres, that close the cuts, and the part of each."""
        found = self.result("caps")
        return found.corners, found.part

    def bounds(self) -> LineSet:
        """The lines, and with them the seams, which bound parts but are not drawn."""
        return self.result("lines")  # type: ignore[no-any-return]

    def lines(self) -> LineSet:
        """Visible and hidden lines of the drawing."""
        return self.bounds().drawn

    def wire(self) -> Wire:
        """Every edge of the mesh that bends, before and behind."""
        return self.result("wire")  # type: ignore[no-any-return]

    def surface(self) -> Surface:
        """What each pixel sees."""
        return self.result("surface")  # type: ignore[no-any-return]

    @derived
    def nearest(self) -> float:
        """Metres from the viewer to the nearest thing seen, from which depth is told."""
        distance = self.surface().distance
        seen = distance[np.isfinite(distance)]
        return float(seen.min()) if len(seen) else 0.0

    def light(self) -> Light:
        """Shadow and shade under the view's sun."""
        return self.result("light")  # type: ignore[no-any-return]

    def colour(self) -> NDArray[np.uint8]:
        """(h, w, 4) the colour of materials, premultiplied."""
        return self.result("colour")  # type: ignore[no-any-return]

    def occlusion(self) -> NDArray[np.uint8]:
        """(h, w) how dark corners are."""
        return self.result("occlusion")  # type: ignore[no-any-return]

    def light_edges(self) -> LightEdges:
        """The visible edges of shadow, of the turn to shade, and of its steps."""
        return self.result("shadow")  # type: ignore[no-any-return]

    def region_map(self) -> RegionMap:
        """The planar map of the drawing."""
        return self.result("regions")  # type: ignore[no-any-return]
