"""Light from one sun, as pixels: cast shadow by rays towards it, and shade by how a surface faces it.

Cast shadow lies where a surface faces the sun and something stands between. Shade is the tone of orientation: none
where the sun falls straight on, and growing to full where the surface turns away. A pane casts the share it is told to.

A sun with a disc casts penumbrae. Five rays through the disc tell where its light is divided; only there are many sent,
in a pattern that differs between neighbours, and what is left of its grain is evened out along each surface.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter

from warmgraphite.geometry.tolerances import NEAR
from warmgraphite.passes.casters import Casters, Sunlit
from warmgraphite.passes.footing import Footing, disc, fanned, turns
from warmgraphite.passes.kernels.pixel_records import Evening, Rays, Shading, Shown, Standing
from warmgraphite.passes.kernels.pixels import (
    clear_specks,
    edge_values,
    facing_rows,
    rim_pixels,
    smooth_alike,
    tones_of,
)
from warmgraphite.passes.occluders import Occluders
from warmgraphite.passes.surface import BAND, SUBSAMPLES, Surface, pixel_points, shares
from warmgraphite.progress import Progress, part_of, silent
from warmgraphite.threads import in_stretches
from warmgraphite.view.scene import Scene
from warmgraphite.view.specification import Shade, Sun
from warmgraphite.view.sun import to_sun

__all__ = ["FACES", "HALF", "Daylight", "Light", "evened", "light", "shade_of"]

#: The cosine to the sun from which a face is lit.
FACES = 1e-4
#: The tone of a face that the sun just grazes, and how much darker one is that turns its back.
HALF, BACK = 0.62, 0.30
#: Rays through the sun's disc where its light is divided.
SOFT_SAMPLES = 32


class Daylight(NamedTuple):
    """What light is told: what it is ``under``, and how surfaces turn to ``shade``."""

    under: Sunlit
    shade: Shade


@dataclass(frozen=True)
class Light:
    """(h, w) uint8, 255 full.
    ``shadow`` the share of the sun's light that is kept off, ``shade`` the tone of orientation, 255 full.
    """

    shadow: NDArray[np.uint8]
    shade: NDArray[np.uint8]


def shade_of(
    bent: NDArray[np.float32], good: NDArray[np.bool_], ray: NDArray[np.float64], sun: Sun, shade: Shade
) -> NDArray[np.float32]:
    """Tones 0–1 of surfaces with curved normals (N, 3), as the footing gives them, under a sun along ``ray``.
    0 where there is none.

    Continuous, or in steps: between those a normal that runs evenly across a triangle is not brought to length one, so
    that steps meet in straight lines.
    """
    out = np.empty(len(bent), np.float32)
    night = sun.altitude <= 0
    strengths = (float(v) for v in (sun.strength, HALF, BACK, shade.sky, shade.ground, sun.ambient))
    tones_of(bent, good, ray, Shading(night, int(shade.steps), *strengths), out)
    return out


def evened(
    value: NDArray[np.float32], wanted: NDArray[np.bool_], scene: Scene, hiders: Occluders, seen: Surface, near: float
) -> NDArray[np.float32]:
    """``wanted`` values (h, w) of pixels, averaged along the surfaces that they are of.
    ``near`` metres is how even those are.
    """
    height, width = value.shape
    out = np.empty_like(value)
    across, down = seen.raster.size
    pixel = np.array(
        [scene.projection.width / across, scene.projection.height / down, seen.raster.x, seen.raster.y], float
    )
    shown, planes = Shown(seen.triangle, seen.distance), hiders.planes
    evening = Evening(pixel, scene.projection.is_perspective, float(near))
    in_stretches(
        lambda a, b: smooth_alike(value, wanted, shown, planes, evening, a, b, out), height, max(1, BAND // width)
    )
    return out


# Long: the steps of one pass in order, over the same planes of pixels.
def light(
    scene: Scene,
    hiders: Occluders,
    seen: Surface,
    casters: Casters,
    day: Daylight,
    progress: Progress = silent,
) -> Light:
    """Shadow and shade of what ``seen`` holds."""
    under, asked = day
    sun = under.sun
    height, width = seen.triangle.shape
    count = width * height
    ray = to_sun(sun)
    toward = ray.astype(np.float32)
    opaque, panes = casters.rays, casters.pane_rays
    footing = Footing(scene, hiders, opaque.middle)
    up = sun.altitude > 0
    receives = under.receive[hiders.part] & up

    def kept_off(start: NDArray[np.float32], way: NDArray[np.float32]) -> NDArray[np.float32]:
        found = opaque.blocked(start, way).astype(np.float32)
        if sun.glass > 0:
            free = np.flatnonzero(found == 0)
            found[free] = sun.glass * panes.blocked(start[free], way[free])
        return found

    def of(points: NDArray, own: NDArray[np.int32], cast: bool = True) -> tuple[NDArray, NDArray, NDArray]:
        """The tone of points on triangles.
        With ``cast`` the rows of those that face the sun, and what is kept off these.
        """
        start, flat, bent, good = footing.at(points, own)
        if not cast:
            return shade_of(bent, good, ray, sun, asked), np.empty(0, np.int64), np.empty(0, np.float32)
        row, ray_start = np.empty(len(own), np.int64), np.empty_like(start)
        count = facing_rows(Standing(start, flat, bent), good, own, receives, toward, FACES, Rays(row, ray_start))
        ray_start = ray_start[:count]
        dark = kept_off(ray_start, np.ascontiguousarray(np.broadcast_to(toward, ray_start.shape)))
        return shade_of(bent, good, ray, sun, asked), row[:count], dark

    shadow, tone = np.zeros(count, np.float32), np.empty(count, np.uint8)
    open_sky = np.zeros(count, bool)
    triangle = seen.triangle.ravel()
    share = count / max(1, count + seen.edge_triangle.size)

    def band(first: int, last: int) -> None:
        turn, row, dark = of(pixel_points(scene, seen.raster, np.arange(first, last)), triangle[first:last])
        shadow[first + row], open_sky[first + row] = dark, True
        tone[first:last] = np.round(turn * 255)

    in_stretches(band, count, BAND // 4, part_of(progress, 0.0, share * (0.5 if sun.softness else 1.0)))
    picture, whole = np.empty((height, width), np.float32), shadow.reshape(height, width)
    sunny = open_sky.reshape(height, width)
    in_stretches(
        lambda a, b: clear_specks(whole, sunny, seen.triangle, hiders.part, a, b, picture),
        height,
        max(1, BAND // width),
    )
    if sun.softness and up:
        wide = float(np.tan(np.radians(sun.softness) / 2))
        _soften(
            picture, open_sky, scene, hiders, seen, footing, kept_off, ray, wide, part_of(progress, share / 2, share)
        )
        soft = np.empty(0, np.int64)
    else:
        # Where the shadow's own edge runs across one surface, the surface pass has no subsamples: take them now.
        rim = rim_pixels((picture * 255).astype(np.int64), seen.triangle, hiders.normal, np.inf)
        rim.ravel()[seen.edge_pixel] = False
        soft = np.flatnonzero(rim)
    amount = sun.strength * (1 - sun.ambient)
    out = np.round(picture * (amount * 255)).astype(np.uint8)
    pixels = np.concatenate([seen.edge_pixel, soft])
    samples = len(SUBSAMPLES)
    edges = len(seen.edge_pixel)
    tones = tone.reshape(height, width)

    def subsamples(first: int, last: int) -> None:
        which, sub = np.divmod(np.arange(first * samples, last * samples), samples)
        own = np.where(which < edges, -1, triangle[pixels[which]]).astype(np.int32)
        at_edge = which < edges
        own[at_edge] = seen.edge_triangle[which[at_edge], sub[at_edge]]
        turn, row, kept = of(pixel_points(scene, seen.raster, pixels[which], SUBSAMPLES[sub]), own, not sun.softness)
        shares(tones, pixels[first:last], turn.reshape(-1, samples))
        if not sun.softness:
            dark = np.zeros(len(own), np.float32)
            dark[row] = kept
            shares(out, pixels[first:last], amount * dark.reshape(-1, samples))

    in_stretches(subsamples, len(pixels), BAND // (4 * samples), part_of(progress, share, 1.0))
    if sun.softness and up:
        bare = (hiders.source < 0) | ~receives
        fine = np.empty(edges, np.float32)
        in_stretches(
            lambda a, b: edge_values(picture, seen.triangle, hiders.planes, bare, seen.edges, a, b, fine),
            edges,
            BAND // 16,
        )
        out.reshape(-1)[seen.edge_pixel] = np.round(fine * (amount * 255))
    progress(1.0)
    return Light(out, tones)


# Many arguments: the planes of a picture that one step works on in place.
def _soften(
    picture: NDArray, open_sky: NDArray, scene: Scene, hiders: Occluders, seen: Surface, footing: Footing,
    kept_off: Callable[[NDArray[np.float32], NDArray[np.float32]], NDArray[np.float32]], ray: NDArray,
    wide: float, progress: Progress,
) -> None:  # fmt: skip
    """Divide, in place, the crisp shadow ``picture`` (h, w) where the sun's disc is partly hidden."""
    height, width = picture.shape
    triangle = seen.triangle.ravel()
    facing = np.flatnonzero(open_sky)
    flat = picture.reshape(-1)

    def asked(pixels: NDArray[np.int64], spread: NDArray[np.float32]) -> NDArray[np.float32]:
        start, _, _, _ = footing.at(pixel_points(scene, seen.raster, pixels), triangle[pixels])
        axis = np.ascontiguousarray(np.broadcast_to(ray.astype(np.float32), start.shape))
        return kept_off(*fanned(start, axis, spread, turns(pixels, width), wide)).reshape(len(pixels), len(spread))

    rim = np.array([[1, 0], [0, 1], [-1, 0], [0, -1]], np.float32)
    divided = np.zeros(height * width, bool)

    def probe(first: int, last: int) -> None:
        pixels = facing[first:last]
        found = asked(pixels, rim)
        divided[pixels] = (np.abs(found - flat[pixels, None]) > NEAR).any(1)

    in_stretches(probe, len(facing), BAND // 16, part_of(progress, 0.0, 0.4))
    near = (maximum_filter(divided.reshape(height, width).view(np.uint8), 5) > 0).ravel() & open_sky
    rows = np.flatnonzero(near)

    def sampled(first: int, last: int) -> None:
        pixels = rows[first:last]
        flat[pixels] = asked(pixels, disc(SOFT_SAMPLES)).mean(1)

    in_stretches(sampled, len(rows), BAND // (4 * SOFT_SAMPLES), part_of(progress, 0.4, 0.95))
    picture[:] = evened(picture.copy(), near.reshape(height, width), scene, hiders, seen, 0.1)
