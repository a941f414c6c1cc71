"""Cut-outs: pictures of one's own with their ground taken away, as cards that stand in the model."""

from __future__ import annotations

import io
from itertools import pairwise
from typing import Literal, Protocol

import contourpy
import mapbox_earcut
import numpy as np
import shapely
from numpy.typing import NDArray
from PIL import Image
from scipy import ndimage

from warmgraphite.colour import channels, luminance
from warmgraphite.geometry.ragged import firsts_of
from warmgraphite.memory import remembered
from warmgraphite.model.model import Model
from warmgraphite.vectors import Vectors

__all__ = ["Card", "Ground", "PictureSource", "as_file", "card_from", "card_of", "cleared", "texture_of", "tinted"]

#: The share of a picture below which a patch is a speck, and no part of a figure.
SPECK = 2e-5

#: What lies round what is shown: nothing, for pictures that have it taken away already; white; or an even colour, the
#: picture's own rim.
Ground = Literal["kept", "white", "even"]
#: Levels by which a ground may be uneven, and the share of the strongest contrast nearby from which a pixel is all of
#: the figure.
EVEN, WHOLE = 6.0, 0.92
#: The share of a picture that is clear, from which on it has no ground to take away.
CLEAR = 0.02
#: Pixels of the longer side of a card's picture, and of what its outline is followed on.
SHOWN, FOLLOWED = 1400, 560

Pixels = NDArray[np.uint8]


class PictureSource(Protocol):
    """Where pictures are kept."""

    def has(self, digest: str) -> bool: ...

    def pixels(self, digest: str) -> Pixels | None: ...

    def lines(self, digest: str) -> Vectors | None: ...

    def body(self, digest: str) -> Model | None: ...

    def __hash__(self) -> int: ...


def cleared(pixels: Pixels, ground: Ground = "white") -> Pixels:
    """A picture (h, w, 4), straight, without its ground.
    What is soft at its edge, hair and leaves, becomes clear by how much of the ground shows through it, and loses the
    ground's colour. Gaps that show nothing but the ground are open, too.
    """
    # What is clear round about has no ground any more, whatever is said of it: white within it is the figure's own.
    if ground == "kept" or not pixels.size or (pixels[..., 3] < 8).mean() > CLEAR:
        return pixels
    share = pixels[..., 3:].astype(np.float32) / 255
    colour = pixels[..., :3].astype(np.float32) * share + 255 * (1 - share)
    rim = np.concatenate(
        [
            colour[:2].reshape(-1, 3),
            colour[-2:].reshape(-1, 3),
            colour[:, :2].reshape(-1, 3),
            colour[:, -2:].reshape(-1, 3),
        ]
    )
    back = (
        np.array([255.0, 255.0, 255.0], np.float32) if ground == "white" else np.median(rim, axis=0).astype(np.float32)
    )
    away = np.abs(colour - back).max(-1)
    uneven = EVEN if ground == "white" else EVEN + 2.5 * float(np.median(np.abs(rim - back).max(-1)))
    bare = away <= uneven
    reach = max(4, round(0.007 * max(pixels.shape[:2])))
    # A speck of the ground's own colour is a light where it is well within, and a gap between strands near the rim.
    labels, count = ndimage.label(bare)
    if count:
        size = np.bincount(labels.ravel(), minlength=count + 1)
        least = max(12, int(SPECK * bare.size))
        edge = np.zeros(count + 1, bool)
        edge[np.unique(np.concatenate([labels[0], labels[-1], labels[:, 0], labels[:, -1]]))] = True
        wide = bare & ((size >= least)[labels] | edge[labels])
        near = ndimage.distance_transform_edt(~wide) <= 3 * reach if wide.any() else wide
        bare = wide | (bare & near)
    if not bare.any():
        return np.dstack([colour, np.full(bare.shape, 255)]).astype(np.uint8)
    into = ndimage.distance_transform_edt(~bare)
    # Fine strands are as strong as what they hang from, and paler only because the ground shows through.
    strongest = ndimage.maximum_filter(away, size=12 * reach + 1)
    # A soft rim may be wide: it ends where the picture no longer changes, or is as strong as anything near it.
    flat = (ndimage.gaussian_gradient_magnitude(away, 1.0) < 0.025 * strongest) & (away > 0.5 * strongest)
    solid = ~bare & ((into > 3 * reach) | ((into > reach) & flat) | (away >= WHOLE * strongest))
    if not solid.any():
        return np.dstack([colour, np.zeros(bare.shape)]).astype(np.uint8)
    # What a soft pixel is made of: the nearest of the figure, and the ground.
    row, column = ndimage.distance_transform_edt(~solid, return_distances=False, return_indices=True)
    own = colour[row, column]
    way = own - back
    alpha = ((colour - back) * way).sum(-1) / np.maximum((way**2).sum(-1), 1.0)
    alpha = np.where(solid & (into > reach), 1.0, np.clip(alpha, 0, 1))
    alpha[bare] = 0.0
    shown = np.where((alpha < 1)[..., None], own, colour)
    return np.dstack([np.round(shown), np.round(alpha * 255)]).astype(np.uint8)


class Card:
    """A cut-out as a flat body: ``points`` (N, 2), across from its middle and up from its foot, in heights of it.
    ``triangles`` (T, 3) and where their corners lie in the picture ``uv`` (T, 3, 2), from its lower left corner;
    ``colour`` is what it is in one.
    """

    def __init__(
        self, points: NDArray[np.float64], triangles: NDArray[np.int32], uv: NDArray[np.float32], colour: str
    ) -> None:
        self.points, self.triangles, self.uv, self.colour = points, triangles, uv, colour


@remembered("pictures of cut-outs")
def tinted(picture: bytes, hue: str) -> bytes:
    """A picture as a file in one hue, as light as it is."""
    with Image.open(io.BytesIO(picture)) as image:
        found = np.asarray(image.convert("RGBA"), np.float32)
    light = luminance(found[..., :3])[..., None] / 255
    own = np.array(list(channels(hue)), np.float32)
    return as_file(np.dstack([own * (1 - light) + 255 * light, found[..., 3]]).round().astype(np.uint8))


def as_file(pixels: Pixels) -> bytes:
    """A picture (h, w, 4) as PNG."""
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG", compress_level=3)
    return out.getvalue()


@remembered("pictures of cut-outs")
def _cleared(kept: PictureSource, digest: str, ground: Ground) -> Pixels | None:
    found = kept.pixels(digest)
    if found is None:
        return None
    longer = max(found.shape[:2])
    if longer > SHOWN:
        size = (max(1, round(found.shape[1] * SHOWN / longer)), max(1, round(found.shape[0] * SHOWN / longer)))
        found = np.asarray(
            Image.fromarray(found).resize(
                size, Image.Resampling.BOX if longer > 3 * SHOWN else Image.Resampling.LANCZOS
            )
        )
    return cleared(found, ground)


@remembered("pictures of cut-outs")
def texture_of(kept: PictureSource, digest: str, ground: Ground) -> bytes:
    """The picture of a card as a file; nothing for one that is not kept."""
    found = _cleared(kept, digest, ground)
    return b"" if found is None else as_file(found)


@remembered("cut-outs")
def card_of(kept: PictureSource, digest: str, ground: Ground) -> Card | None:
    """A cut-out as a card a metre high; ``None`` where the picture is not kept, or nothing of it is left."""
    found = _cleared(kept, digest, ground)
    return None if found is None else card_from(found)


def card_from(found: Pixels, shown: Pixels | None = None, bounds: NDArray[np.float64] | None = None) -> Card | None:
    """The card of a picture (h, w, 4) without ground.
    Its colour is that of what is ``shown`` on it, all of it where nothing is said. ``bounds`` (2, 2) say where its
    figure begins and ends, in pixels, where that is known better.
    """
    alpha = found[..., 3]
    step = max(1, int(np.ceil(max(alpha.shape) / FOLLOWED)))
    coarse = np.pad(np.asarray(Image.fromarray(alpha).reduce(step), float), 1)
    lines = contourpy.contour_generator(z=coarse, fill_type="OuterOffset").filled(127.5, 1e9)
    shapes = []
    for ring, offset in zip(*lines, strict=True):
        rings = [(ring[a:b] - 0.5) * step for a, b in pairwise(offset)]
        shapes.append(shapely.make_valid(shapely.Polygon(rings[0], rings[1:])))
    shape = shapely.simplify(shapely.union_all(shapes), 0.45 * step) if shapes else shapely.Polygon()
    polygons = [p for p in shapely.get_parts(shape) if shapely.get_type_id(p) == 3 and p.area > 10 * step * step]
    if not polygons:
        return None
    left, top, right, bottom = (
        shapely.total_bounds(np.array(polygons, dtype=object)) if bounds is None else bounds.ravel()
    )
    tall, middle = max(bottom - top, 1.0), (left + right) / 2
    points, triangles = [], []
    count = 0
    for polygon in polygons:
        rings = [np.asarray(r.coords)[:-1] for r in (polygon.exterior, *polygon.interiors)]
        flat = np.ascontiguousarray(np.concatenate(rings))
        triangles.append(
            mapbox_earcut.triangulate_float64(flat, firsts_of(rings)[1:].astype(np.uint32)).reshape(-1, 3) + count
        )
        points.append(flat)
        count += len(flat)
    xy, faces = np.concatenate(points), np.concatenate(triangles).astype(np.int32)
    uv = np.column_stack([xy[:, 0] / alpha.shape[1], 1 - xy[:, 1] / alpha.shape[0]]).astype(np.float32)
    seen = found if shown is None else shown
    weight = seen[..., 3].astype(float) / max(float(seen[..., 3].sum()), 1.0)
    r, g, b = (int(np.clip((seen[..., k] * weight).sum(), 0, 255)) if weight.any() else 255 for k in range(3))
    return Card(
        np.column_stack([(xy[:, 0] - middle) / tall, (bottom - xy[:, 1]) / tall]),
        faces,
        uv[faces],
        f"#{r:02x}{g:02x}{b:02x}",
    )
