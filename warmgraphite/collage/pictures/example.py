"""Making a picture of a piece of material endless, so that no tile is seen in it.

What has no order (plaster, gravel, grass) is *strewn*: E. Heitz and F. Neyret, "High-performance by-example noise using
a histogram-preserving blending operator", 2018. At each place three pieces of the example are blended as Gaussian
noise, which keeps their variance, and put back into the example's own colours. What has one (brick, boards) is laid in
*patches*: tiles whose edges go together in any order (M. Cohen, J. Shade, S. Hiller, O. Deussen, "Wang tiles for image
and texture generation", 2003), each put together of four pieces along the best cuts between them (A. Efros and W.
Freeman, "Image quilting", 2001).
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from scipy import ndimage, special

from warmgraphite.collage.pictures.specification import Corner, ExampleSpec
from warmgraphite.geometry.tolerances import FINEST, NO_LENGTH

__all__ = ["Example", "made_of", "rebuilt"]

Floats = NDArray[np.float32]

#: Pixels of the longest side of an example, and of a patch; levels of an example, each half as large as the one before.
SIDE, PATCH, LEVELS = 1024, 256, 8
#: Ways to choose pieces that are looked at.
TRIES = 300
#: Places of the table that leads from a Gaussian value back to a colour.
TABLE = 512


@dataclass(frozen=True)
class Example:
    """An example, ready to be painted endlessly.

    ``texels`` (M, 4) float32 in 0–1, of all levels one after the other: level k of tile t begins at ``start[t, k]`` and
    has ``shape[k]`` rows and columns. ``kind`` is 0 in rows, 1 strewn, 2 in patches. Strewn ones hold Gaussian values
    about 0.5, in axes of colour of their own; ``table`` (levels, 512, 3) leads back, and ``axes`` (4, 3) from there to
    colours: three rows, and the middle. ``mean`` (4,) is the colour of all of it, ``aspect`` its height by its width.
    """

    texels: Floats
    start: NDArray[np.int64]
    shape: NDArray[np.int64]
    kind: int
    table: Floats
    axes: Floats
    mean: Floats
    aspect: float
    #: The width of a patch as a share of the example's; 1 for all others.
    span: float = 1.0


def made_of(pixels: NDArray[np.uint8], spec: ExampleSpec) -> Example:
    """The example of a picture (h, w, 4), straight."""
    flat = _straightened(pixels, spec.corners)
    if spec.evened:
        flat = _evened(flat, spec.evened)
    aspect = flat.shape[0] / flat.shape[1]
    mean = flat.reshape(-1, 4).mean(0)
    if spec.endless == "strewn":
        return _strewn(flat, mean, aspect)
    if spec.endless == "patches":
        return _patches(flat, mean)
    return _packed([flat], 0, mean, aspect)


def _straightened(pixels: NDArray[np.uint8], corners: tuple[Corner, ...]) -> Floats:
    """(h, w, 4) in 0–1: what lies between four corners, as it is seen straight on."""
    height, width = pixels.shape[:2]
    places = np.array(corners) * [width, height]
    sides = np.linalg.norm(np.roll(places, -1, 0) - places, axis=1)
    across, down = max(sides[0], sides[2]), max(sides[1], sides[3])
    times = min(1.0, SIDE / max(across, down))
    size = (max(16, round(across * times)), max(16, round(down * times)))
    image = Image.fromarray(np.ascontiguousarray(pixels), "RGBA")
    if places.tolist() == [[0, 0], [width, 0], [width, height], [0, height]]:
        found = image.resize(size, Image.Resampling.LANCZOS)
    else:
        # The perspective that takes the corners of the result to those of the picture.
        rows, told = [], []
        for (x, y), (u, v) in zip([(0, 0), (size[0], 0), size, (0, size[1])], places.tolist(), strict=True):
            rows += [[x, y, 1, 0, 0, 0, -u * x, -u * y], [0, 0, 0, x, y, 1, -v * x, -v * y]]
            told += [u, v]
        answer = np.linalg.solve(np.array(rows, float), np.array(told, float))
        found = image.transform(size, Image.Transform.PERSPECTIVE, answer.tolist(), Image.Resampling.BICUBIC)
    return np.asarray(found, np.float32) / np.float32(255)


def _evened(flat: Floats, share: float) -> Floats:
    """The picture without what is lighter or darker in large, as a lamp or a lens made it."""
    # What is so soft is told as well by a small picture of it.
    small = Image.fromarray(np.round(flat[..., :3] * 255).astype(np.uint8)).resize((64, 64), Image.Resampling.BOX)
    soft_small = ndimage.gaussian_filter(np.asarray(small, np.float32), (12, 12, 0), mode="reflect") / 255
    soft = np.stack([_enlarged(soft_small[..., m], flat.shape[:2]) for m in range(3)], axis=-1)
    out = flat.copy()
    out[..., :3] = np.clip(flat[..., :3] - share * (soft - soft.reshape(-1, 3).mean(0)), 0, 1)
    return out


def _enlarged(values: Floats, shape: tuple[int, ...]) -> Floats:
    found = Image.fromarray(np.ascontiguousarray(values)).resize((shape[1], shape[0]), Image.Resampling.BICUBIC)
    return np.asarray(found, np.float32)


def _halves(flat: Floats) -> list[Floats]:
    """A picture and its halves, as many as there are levels."""
    rows = [flat]
    for _ in range(LEVELS - 1):
        last = rows[-1]
        height, width = max(last.shape[0] // 2, 1), max(last.shape[1] // 2, 1)
        tall = last[: 2 * height].reshape(height, -1, *last.shape[1:]).mean(1) if last.shape[0] > 1 else last
        rows.append(
            np.ascontiguousarray(
                tall[:, : 2 * width].reshape(height, width, -1, last.shape[2]).mean(2) if last.shape[1] > 1 else tall
            )
        )
    return rows


def _packed(
    tiles: list[Floats], kind: int, mean: Floats, aspect: float, table: Floats | None = None, axes: Floats | None = None
) -> Example:
    texels: list[Floats] = []
    start = np.zeros((len(tiles), LEVELS), np.int64)
    shape = np.zeros((LEVELS, 2), np.int64)
    at = 0
    for number, tile in enumerate(tiles):
        for level, rows in enumerate(_halves(tile)):
            start[number, level], shape[level] = at, rows.shape[:2]
            texels.append(rows.reshape(-1, 4))
            at += len(texels[-1])
    none = np.zeros((LEVELS, TABLE, 3), np.float32)
    return Example(
        np.concatenate(texels).astype(np.float32), start, shape, kind, none if table is None else table,
        np.zeros((4, 3), np.float32) if axes is None else axes, mean.astype(np.float32), float(aspect),
    )  # fmt: skip


def _strewn(flat: Floats, mean: Floats, aspect: float) -> Example:
    colours = flat[..., :3].reshape(-1, 3).astype(np.float64)
    middle = colours.mean(0)
    # Axes in which the colours have nothing to do with each other, so that each can be blended by itself.
    _, ways = np.linalg.eigh(np.cov((colours - middle).T) + NO_LENGTH * np.eye(3))
    own = (colours - middle) @ ways
    gaussian = np.empty_like(own, dtype=np.float32)
    ends = special.ndtri((np.arange(len(own)) + 0.5) / len(own))
    table = np.empty((TABLE, 3))
    # Values of the table stand for Gaussian ones from −4 to 4.
    places = special.ndtr(np.linspace(-4, 4, TABLE)) * len(own)
    for channel in range(3):
        order = np.argsort(own[:, channel], kind="stable")
        gaussian[order, channel] = ends
        table[:, channel] = np.interp(places, np.arange(len(own)) + 0.5, own[order, channel])
    laid = np.concatenate([gaussian.reshape(*flat.shape[:2], 3) / 8 + 0.5, flat[..., 3:]], axis=-1)
    levels = np.empty((LEVELS, TABLE, 3), np.float32)
    for level, rows in enumerate(_halves(laid)):
        # A level has less spread; what it has lost is averaged in the table, as far away it is averaged by the eye.
        kept = np.clip(rows[..., :3].reshape(-1, 3).std(0) * 8, 0, 1)
        lost = np.sqrt(np.maximum(1 - kept**2, 0)) * TABLE / 8
        for channel in range(3):
            levels[level, :, channel] = ndimage.gaussian_filter1d(
                table[:, channel], max(float(lost[channel]), FINEST), mode="nearest"
            )
    axes = np.concatenate([ways.T, middle[None]]).astype(np.float32)
    return _packed([laid.astype(np.float32)], 1, mean, aspect, levels, axes)


def _patches(flat: Floats, mean: Floats) -> Example:
    """Sixteen tiles, one for each way in which their four edges can be of two sorts.
    North, east, south, west, as bits 8, 4, 2, 1.
    """
    side = _fitting_side(flat, max(8, min(PATCH, min(flat.shape[:2]) // 3) // 2 * 2))
    random = np.random.default_rng(7)
    draw = lambda n: tuple(int(random.integers(low, high + 1)) for low, high in _room(flat, side, n))
    # Of many ways to choose them, that in which pieces are most alike where they meet: courses go on, boards stay
    # boards.
    tries = [tuple((draw(n)[0], draw(n)[1]) for n in range(4)) for _ in range(TRIES)]
    chosen = _settled(flat, side, min(tries, key=lambda places: _mismatch(flat, side, *places)))
    level, upright = chosen[:2], chosen[2:]
    tiles = []
    for number in range(16):
        north, east, south, west = (number >> 3) & 1, (number >> 2) & 1, (number >> 1) & 1, number & 1
        tiles.append(_tile(flat, side, level[north], upright[east], level[south], upright[west]))
    return replace(_packed(tiles, 2, mean, 1.0), span=side / flat.shape[1])


def _fitting_side(flat: Floats, most: int) -> int:
    """The side of a patch, of ``most`` pixels or somewhat less, after which the example is most like itself both ways.
    What is laid in courses then goes on in its own measure from patch to patch.
    """
    tone = flat[..., :3].mean(-1)
    across, down = tone[::3], np.ascontiguousarray(tone[:, ::3].T)
    sides = range(max(8, round(0.6 * most) // 2 * 2), most + 1, 2)
    unlike = [sum(float(((t[:, n:] - t[:, :-n]) ** 2).mean()) for t in (across, down)) for n in sides]
    return sides[int(np.argmin(unlike))]


def _mismatch(flat: Floats, side: int, *places: tuple[int, int]) -> float:
    """How unlike pieces for two level edges and two upright ones are along the diagonals where they meet.
    More where two of a sort are nearly the same, so that tiles would be too.
    """
    half = side // 2
    ways = [(half, 0), (-half, 0), (0, -half), (0, half)]  # as northern, southern, eastern and western edge
    along = np.arange(0, side, 3)
    total = 0.0
    for diagonal in (along, side - 1 - along):
        seen = [
            [
                flat[_mirrored(p[0] + down + along, flat.shape[0]), _mirrored(p[1] + over + diagonal, flat.shape[1])]
                for down, over in ways
            ]
            for p in places
        ]
        for level in seen[:2]:
            for upright in seen[2:]:
                total += sum(float(((a - b) ** 2).mean()) for a in level[:2] for b in upright[2:])
    for one, other in (places[:2], places[2:]):
        near = max(abs(one[0] - other[0]), abs(one[1] - other[1]))
        total += 0.05 * max(0.0, 1 - near / (0.4 * side))
    return total


def _room(flat: Floats, side: int, number: int) -> tuple[tuple[int, int], tuple[int, int]]:
    """The lowest and highest row and column at which the piece of an edge may lie.
    It lies so that both tiles that have it find all of theirs in the example; the first two are of level edges.
    """
    half, (height, width) = side // 2, flat.shape[:2]
    across, along = (half, max(half, height - side - half)), (0, max(0, width - side))
    if number < 2:
        return across, along
    return (0, max(0, height - side)), (half, max(half, width - side - half))


def _settled(flat: Floats, side: int, places: tuple[tuple[int, int], ...]) -> tuple[tuple[int, int], ...]:
    """The places moved a little, as long as that makes the pieces more alike where they meet."""
    best, least = list(places), _mismatch(flat, side, *places)
    for step in (12, 6, 3, 2, 1, 1):
        for number in range(len(best)):
            bounds = _room(flat, side, number)
            for way in ((step, 0), (-step, 0), (0, step), (0, -step)):
                row, column = (min(max(best[number][k] + way[k], bounds[k][0]), bounds[k][1]) for k in (0, 1))
                tried = [*best[:number], (row, column), *best[number + 1 :]]
                found = _mismatch(flat, side, *tried)
                if found < least:
                    best, least = tried, found
    return tuple(best)


def _mirrored(at: NDArray[np.integer], length: int) -> NDArray[np.integer]:
    """Places of an example, those beyond its ends mirrored back into it."""
    at = at % (2 * (length - 1) or 1)
    return np.where(at >= length, 2 * (length - 1) - at, at)


def _tile(
    flat: Floats,
    side: int,
    north: tuple[int, int],
    east: tuple[int, int],
    south: tuple[int, int],
    west: tuple[int, int],
) -> Floats:
    """A tile whose edges are taken from four places of the example.
    Each edge is a line through the middle of its piece, so that what lies on its other side goes on in the next tile.
    """
    half = side // 2

    def piece(place: tuple[int, int], down: int, across: int) -> Floats:
        rows = _mirrored(np.arange(place[0] + down, place[0] + down + side), flat.shape[0])
        columns = _mirrored(np.arange(place[1] + across, place[1] + across + side), flat.shape[1])
        return flat[np.ix_(rows, columns)]

    # The northern edge runs through the middle of its piece: the tile has the half below it.
    laid = [piece(north, half, 0), piece(east, 0, -half), piece(south, -half, 0), piece(west, 0, half)]
    y, x = np.mgrid[0:side, 0:side] + 0.5
    u, v = x / side - 0.5, y / side - 0.5
    sector = np.where(np.abs(v) >= np.abs(u), np.where(v < 0, 0, 2), np.where(u > 0, 1, 3))
    out = np.take_along_axis(np.stack(laid), sector[None, ..., None], 0)[0]
    # Along each half diagonal the border is moved to where the two pieces are most alike.
    band = side // 6
    for corner, (one, other) in {(0, 0): (3, 0), (0, 1): (0, 1), (1, 1): (1, 2), (1, 0): (2, 3)}.items():
        _cut(out, laid[one], laid[other], corner, band, sector, one, other)
    return np.ascontiguousarray(out, np.float32)


def _cut(
    out: Floats,
    one: Floats,
    other: Floats,
    corner: tuple[int, int],
    band: int,
    sector: NDArray[np.integer],
    first: int,
    second: int,
) -> None:
    """Divide a quarter of a tile between two pieces along the best cut from its corner to the middle, in place."""
    side = out.shape[0]
    half = side // 2
    rows = slice(0, half) if corner[0] == 0 else slice(side - 1, half - 1, -1)
    columns = slice(0, half) if corner[1] == 0 else slice(side - 1, half - 1, -1)
    a, b, view, which = one[rows, columns], other[rows, columns], out[rows, columns], sector[rows, columns]
    gap = ((a - b) ** 2).sum(-1)
    # The quarter is walked along its diagonal; a step may go one to either side.
    along = np.arange(half)
    offsets = np.arange(-band, band + 1)
    r, c = along[:, None] + offsets[None, :] // 2, along[:, None] - (offsets[None, :] - offsets[None, :] // 2)
    inside = (r >= 0) & (r < half) & (c >= 0) & (c < half)
    # It begins in the corner and ends in the middle, and may only leave the diagonal by as much as it is away from
    # both.
    reach = np.minimum(np.minimum(along, half - 1 - along)[:, None], band)
    inside &= np.abs(offsets)[None, :] <= np.maximum(reach, 0)
    cost = np.where(inside, gap[np.clip(r, 0, half - 1), np.clip(c, 0, half - 1)], np.inf)
    total = cost.copy()
    came = np.zeros(cost.shape, np.int64)
    for step in range(1, half):
        before = np.pad(total[step - 1], 1, constant_values=np.inf)
        choices = np.stack([before[:-2], before[1:-1], before[2:]])
        came[step] = np.argmin(choices, axis=0) - 1
        total[step] = cost[step] + choices.min(0)
    place = int(np.argmin(total[-1]))
    path = np.empty(half, np.int64)
    for step in range(half - 1, -1, -1):
        path[step] = offsets[place]
        place = int(np.clip(place + came[step, place], 0, len(offsets) - 1))
    # How far each pixel lies across the diagonal, against the cut where it is nearest.
    across = np.subtract.outer(along, along)
    nearest = np.clip(np.add.outer(along, along) // 2, 0, half - 1)
    share = np.clip((across - path[nearest]) / 3.0 + 0.5, 0, 1)[..., None]
    below = which[half - 1, 0] if which[half - 1, 0] in (first, second) else first
    low, high = (a, b) if below == first else (b, a)
    view[...] = high * (1 - share) + low * share


def rebuilt(arrays: dict[str, Any]) -> Example:
    """An example from its arrays."""
    return Example(
        **{**arrays, "kind": int(arrays["kind"]), "aspect": float(arrays["aspect"]), "span": float(arrays["span"])}
    )
