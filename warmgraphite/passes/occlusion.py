"""Ambient occlusion: how much of the sky over each point of a surface is taken by what stands close to it.

Rays are as dense as the cosine, so their blocked share is the occlusion. Each pixel of a square of four by four asks in
other directions; evening that pattern out along each surface leaves no grain. Nothing is darkened by what lies outside
of the frame differently from what lies inside, since rays know nothing of the frame; a cut face stays clear. A quarter
of the rays is sent first; where nothing is met by any of a pixel's neighbours either, it is enough.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter, minimum_filter

from warmgraphite.passes.casters import Rays
from warmgraphite.passes.edges import WHOLE
from warmgraphite.passes.footing import Footing, disc, fanned, turns
from warmgraphite.passes.kernels.pixels import edge_values
from warmgraphite.passes.light import evened
from warmgraphite.passes.occluders import Occluders
from warmgraphite.passes.surface import BAND, Surface, pixel_points
from warmgraphite.progress import Progress, part_of, silent
from warmgraphite.threads import in_stretches
from warmgraphite.view.scene import Scene
from warmgraphite.view.specification import Occlusion

__all__ = ["occlusion"]

#: One in so many rays is sent first, to see where there is anything to be found.
FEW = 4


def occlusion(
    scene: Scene,
    hiders: Occluders,
    seen: Surface,
    rays: Rays,
    asked: Occlusion,
    progress: Progress = silent,
) -> NDArray[np.uint8]:
    """(h, w) 255 times the share of light that corners lose; ``rays`` run against what takes it."""
    height, width = seen.triangle.shape
    count = width * height
    footing = Footing(scene, hiders, rays.middle)
    spread = disc(asked.samples)
    triangle = seen.triangle.ravel()
    bare = hiders.source < 0
    value = np.zeros(count, np.float32)

    wanted = (triangle >= 0) & ~bare[triangle]

    def asked_of(pixels: NDArray[np.int64], ways: NDArray[np.float32]) -> NDArray[np.float32]:
        """(N,) the share of rays that are stopped, over the hemisphere of each pixel."""
        start, flat, _, _ = footing.at(pixel_points(scene, seen.raster, pixels), triangle[pixels])
        start, way = fanned(start, flat, ways, turns(pixels, width), 0.0)
        blocked = rays.blocked(start, way, np.full(len(start), asked.radius, np.float32))
        return blocked.reshape(len(pixels), len(ways)).mean(1, dtype=np.float32)

    few, rest = spread[::FEW], np.delete(spread, np.s_[::FEW], 0)

    def first_look(first: int, last: int) -> None:
        pixels = np.flatnonzero(wanted[first:last]) + first
        value[pixels] = asked_of(pixels, few)

    step = max(1, 2 * BAND // asked.samples)
    in_stretches(first_look, count, FEW * step, part_of(progress, 0.0, 0.25))
    # Where all about is open, or all is shut, the rest of the rays would say the same.
    picture, seen_here = value.reshape(height, width), wanted.reshape(height, width)
    open_ = maximum_filter(np.where(seen_here, picture, 0), 5) == 0
    shut = minimum_filter(np.where(seen_here, picture, 1), 5) == 1
    # Among leaves there are corners everywhere, and nobody sees how dark each is.
    leafy = (scene.bodies.crease >= WHOLE)[hiders.part[triangle]] & wanted
    rows = np.flatnonzero(wanted & ~(open_ | shut).ravel() & ~leafy)

    def closer_look(first: int, last: int) -> None:
        pixels = rows[first:last]
        value[pixels] = (value[pixels] * len(few) + asked_of(pixels, rest) * len(rest)) / len(spread)

    in_stretches(closer_look, len(rows), step, part_of(progress, 0.25, 0.95))
    picture = evened(picture, seen_here, scene, hiders, seen, 0.05 * asked.radius)
    out = np.round(picture * (asked.strength * 255)).astype(np.uint8)
    fine = np.empty(len(seen.edge_pixel), np.float32)
    in_stretches(
        lambda a, b: edge_values(picture, seen.triangle, hiders.planes, bare, seen.edges, a, b, fine),
        len(fine),
        BAND // 16,
    )
    out.reshape(-1)[seen.edge_pixel] = np.round(fine * (asked.strength * 255))
    progress(1.0)
    return out
