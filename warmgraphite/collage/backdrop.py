"""What backdrops are made of: places above the horizon at a scale, skies as washes, silhouettes drawn by code.

A backdrop is one module in :mod:`warmgraphite.collage.backdrops`. It is a function of place and seed alone, counted
from the middle of the drawing and from the horizon: so it is the same in every window, at every resolution, and when
the paper is drawn out.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
import skia
from numpy.typing import NDArray

from warmgraphite.canvas.compact import path_of
from warmgraphite.collage.grain import PaperGrid, value_noise
from warmgraphite.memory import Store
from warmgraphite.passes.surface import Raster
from warmgraphite.threads import in_stretches

__all__ = ["Backdrop", "Blob", "Painted", "Spot", "mixed"]

Floats = NDArray[np.float32]


class Painted(NamedTuple):
    """What a backdrop shows: ``colour`` (h, w, 3) or (3,) straight in 0–255, ``alpha`` (h, w) in 0–1."""

    colour: Floats
    alpha: Floats


@dataclass(frozen=True)
class Spot:
    """The pixels of a window as a backdrop takes them.
    ``u`` (w,) to the right of the drawing's middle and ``v`` (h,) above the horizon, in millimetres of a backdrop as
    large as it is drawn at a ``scale`` of 1; ``tones`` are its colours (3, 3) in 0–255.
    """

    ground: PaperGrid
    u: Floats
    v: Floats
    scale: float
    seed: int
    tones: Floats

    @property
    def shape(self) -> tuple[int, int]:
        """Rows and columns of the window."""
        return len(self.v), len(self.u)

    @property
    def pixel(self) -> float:
        """How wide a pixel is."""
        return float(self.ground.frame[0] / self.ground.raster.size[0] / self.scale)

    @property
    def bare(self) -> Painted:
        """Nothing of it."""
        return Painted(self.tones[1], np.zeros(self.shape, np.float32))

    def noise(self, cell: float, octaves: int, seed: int, stretch: float = 1.0) -> Floats:
        """(h, w) unevenness from −1 to 1 of cells so high, and ``stretch`` times as wide."""
        raster, frame, middle = self.ground
        ground = self.ground
        if stretch != 1.0:  # the same pixels over a narrower paper
            ground = PaperGrid(raster, (frame[0] / stretch, frame[1]), (middle[0] / stretch, middle[1]))
        return value_noise(ground, cell * self.scale, octaves, seed + 97 * self.seed)

    def drawn(self, rows: Rows) -> Iterator[tuple[int, Floats, Floats]]:
        """Each row of blobs that there is anything of here, from the farthest on.
        Its number, its share (h, w) of the pixels and the tone (h, w) of it, 0–1.
        """
        height, width = self.shape
        raster, frame = self.ground.raster, self.ground.frame
        step = (frame[0] / raster.size[0] / self.scale, frame[1] / raster.size[1] / self.scale)
        # Those of the whole paper, whichever window of it this is: they take longer to make than to draw.
        left = float(self.u[0]) - raster.x * step[0]
        low, high = (int(np.floor(at / SPAN)) for at in (left - SPAN, left + raster.size[0] * step[0] + 2 * SPAN))
        made = _rows.get((rows, self.seed, low, high), lambda: _with_paths(rows(self.seed, low * SPAN, high * SPAN)))
        for number, blobs in enumerate(made):
            pixels = np.zeros((height, width, 4), np.uint8)
            surface = skia.Surface.MakeRasterDirect(skia.ImageInfo.MakeN32Premul(width, height), pixels)
            target = surface.getCanvas()
            target.translate(0.5 - self.u[0] / step[0], 0.5 + self.v[0] / step[1])
            target.scale(1 / step[0], -1 / step[1])
            for blob, path in blobs:
                level = int(np.clip(255 * blob.tone, 0, 255))
                paint = skia.Paint(AntiAlias=True, Color=skia.Color(level, level, level))
                target.drawPath(path, paint)
                if blob.rim:
                    rim = int(np.clip(255 * (blob.tone + blob.rim), 0, 255))
                    paint = skia.Paint(
                        AntiAlias=True,
                        Color=skia.Color(rim, rim, rim),
                        Style=skia.Paint.kStroke_Style,
                        StrokeWidth=max(0.35, self.pixel),
                        StrokeJoin=skia.Paint.kRound_Join,
                    )
                    target.drawPath(path, paint)
            surface.flushAndSubmit()
            if not pixels[..., 3].any():
                continue
            alpha = np.asarray(pixels[..., 3], np.float32)
            yield (
                number,
                alpha / np.float32(255),
                np.asarray(pixels[..., 0] / np.maximum(alpha, np.float32(1)), np.float32),
            )


#: Rows of blobs of a seed from one place to another, from the farthest row on.
Rows = Callable[[int, float, float], Sequence[Sequence["Blob"]]]
#: Millimetres in steps of which a silhouette is made.
SPAN = 40.0


def _with_paths(rows: Sequence[Sequence[Blob]]) -> list[list[tuple[Blob, skia.Path]]]:
    return [[(b, path_of(b.outline, np.array([0, len(b.outline)]), True)) for b in row] for row in rows]


#: Rows of blobs, each blob with its path.
_rows: Store[list[list[tuple[Blob, skia.Path]]]] = Store("blobs of backdrops")


class Blob(NamedTuple):
    """A shape of a backdrop.
    It has an ``outline`` (n, 2) in u and v, its ``tone`` 0–1 from the near colour to the light, and how much darker its
    ``rim`` is.
    """

    outline: NDArray[np.float64]
    tone: float
    rim: float = 0.0


@dataclass(frozen=True)
class Backdrop:
    """One backdrop.
    ``paint`` paints a window of it; ``tones`` are the colours that it begins with, and ``called`` what they are of it;
    ``above`` is whether it reaches from the horizon up without end, as skies do.
    """

    name: str
    label: str
    tones: tuple[str, str, str]
    called: tuple[str, str, str]
    paint: Callable[[Spot], Painted]
    above: bool = False
    #: Its place among the others that are offered.
    order: int = 99
    #: Between which heights above the horizon there is anything of it.
    span: tuple[float, float] = (-60.0, 70.0)


def mixed(low: NDArray, high: NDArray, share: NDArray) -> Floats:
    """Colours (…, 3) between two, by a share (…)."""
    share = np.asarray(share, np.float32)[..., None]
    shape = np.broadcast_shapes(low.shape, high.shape, share.shape)
    out = np.empty(shape, np.float32)
    from_, to, by = (np.broadcast_to(np.asarray(v, np.float32), shape) for v in (low, high, share))

    def rows(first: int, last: int) -> None:
        part = out[first:last]
        np.subtract(to[first:last], from_[first:last], out=part)
        part *= by[first:last]
        part += from_[first:last]

    # Of a large sheet this is most of the work: a few rows at a time stay near the processor.
    in_stretches(rows, shape[0], 64) if len(shape) == 3 else rows(0, shape[0])
    return out


def window_of(ground: PaperGrid, size: tuple[int, int]) -> PaperGrid:
    """The same paper, whole, of so many pixels."""
    return PaperGrid(Raster.of(size), ground.frame, ground.middle)
