"""The one walk over the traces of a plate, for the picture on the desk and for every export.

A layer's content is drawn at full strength. Opacity and blend mode are applied when it is laid down, so that whoever
keeps drawn layers can lay them together anew. An adjusting sheet draws nothing: it changes the sheet beneath it as that
is drawn, or all that lies beneath, which whoever lays layers together does.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator, Sequence
from contextlib import nullcontext
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from warmgraphite.canvas.protocol import Canvas, Path
from warmgraphite.canvas.recoloured import Recoloured
from warmgraphite.collage.adjusting import AdjustingTrace, adjust
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import PixelTrace, Trace
from warmgraphite.colour import shares, written
from warmgraphite.ink.softly import draw_softly, soft_pixels
from warmgraphite.needs import Need
from warmgraphite.regions.soft import Reach

__all__ = ["CHANGED", "Layer", "acting", "draw_layers", "inside", "layers"]

#: Pixels in a millimetre of the masks through which areas are drawn softly where they stay vectors.
MASK_PER_MM = 6.0
#: The blend of a layer that changes what lies beneath it, where rows of layers are told by their blend modes.
CHANGED = "changed"


@dataclass(frozen=True)
class Layer:
    """What one trace shows, or lays ``over`` all others; ``margin`` millimetres of bare paper stay around it.
    ``changes`` are the adjusting sheets that act on it alone, from the lowest up.
    """

    plate: Plate
    trace: Trace
    margin: float
    over: bool = False
    changes: tuple[AdjustingTrace, ...] = ()

    @property
    def name(self) -> str:
        return f"{self.trace.name} over all" if self.over else self.trace.name

    @property
    def adjusts(self) -> bool:
        """Whether it changes all that lies beneath, and draws nothing."""
        return isinstance(self.trace, AdjustingTrace)

    @property
    def blend(self) -> str:
        return CHANGED if self.adjusts else "multiply" if self.over else self.trace.blend

    @cached_property
    def key(self) -> str:
        """Names what it shows at full strength."""
        plate = self.plate
        said = [
            [t.shows(), t.opacity if t is not self.trace else None, [plate.key(n) for n in t.all_needs()]]
            for t in (self.trace, *self.changes)
        ]
        return json.dumps([said, plate.frame, self.margin, self.over])

    @property
    def has_pixels(self) -> bool:
        """Whether it is made of pixels, so that each window has its own."""
        return isinstance(self.trace, PixelTrace)

    def on(self, plate: Plate) -> Layer:
        """The same of another window."""
        return replace(self, plate=plate)

    @property
    def needs(self) -> tuple[Need, ...]:
        """The passes that it is made of, and no others."""
        traces = (self.trace, *self.changes)
        return tuple(dict.fromkeys(n for t in traces for n in (*t.all_needs(), *t.plain.needs_on(self.plate))))

    def draw(self, canvas: Canvas) -> None:
        """Draw it at full strength; an adjusting sheet as a white one, as opaque as it acts."""
        more = () if canvas.of_pixels else self.trace.plain.vector_needs()
        self.on(self.plate.with_results((*self.needs, *more)))._draw(canvas)

    def _draw(self, canvas: Canvas) -> None:
        if self.over:
            self.trace.draw_over(canvas, self.plate)
            return
        if self.trace.soft:
            plain, plate = replace(self, trace=self.trace.plain), self.plate
            raster = plate.raster
            size = (raster.width, raster.height) if canvas.of_pixels else sized(*plate.place[2:], MASK_PER_MM)
            draw_softly(canvas, self.reach(plate), size, plate.place, plain._draw)
            return
        with nullcontext() if self.trace.ground else canvas.clip(*inside(self.plate, self.margin)):
            if not self.changes:
                self.trace.draw(canvas, self.plate)
            elif isinstance(self.trace, PixelTrace):
                canvas.image(self.plate.painted(self._changed), *self.plate.place)
            else:
                self._draw_recoloured(canvas, len(self.changes))

    def reach(self, plate: Plate) -> Reach:
        """What discs and masks leave of it."""
        return plate.of("reach", self.trace.soft)  # type: ignore[no-any-return]

    def _changed(self, plate: Plate) -> NDArray[np.uint8]:
        assert isinstance(self.trace, PixelTrace)
        pixels = self.trace.finished(plate)
        for sheet in self.changes:
            adjust(pixels, acting(sheet, plate) if sheet.where else None, sheet, sheet.opacity)
        return pixels

    def _draw_recoloured(self, canvas: Canvas, count: int) -> None:
        """Draw lines and fills in the colours that the first so many sheets make of theirs.
        Where one is confined, apart within its region and beside it.
        """
        if count == 0:
            self.trace.draw(canvas, self.plate)
            return
        sheet = self.changes[count - 1]
        changed = Recoloured(canvas, recolouring(sheet))
        hard = sheet.plain.where
        if sheet.soft:
            share = acting(sheet, self.plate)
            for target, part in ((canvas, 255 - share), (changed, share)):
                with canvas.mask(part, *self.plate.place):
                    self._draw_recoloured(target, count - 1)
            return
        room = None if hard is None else self.plate.of("room", hard)
        if room is None:
            self._draw_recoloured(changed, count - 1)
            return
        import shapely

        rings = lambda shape: [shapely.get_coordinates(r) for r in shapely.get_rings(shapely.get_parts(shape))]
        with canvas.clip_path(Path.of(rings(room.shape))):
            self._draw_recoloured(changed, count - 1)
        # By even-odd, what a frame holds beside a region is the frame's outline and the region's.
        width, height = self.plate.frame
        frame = np.array([[0, 0], [width, 0], [width, height], [0, height], [0, 0]], float)
        with canvas.clip_path(Path.of([frame, *rings(room.shape)])):
            self._draw_recoloured(canvas, count - 1)


def acting(sheet: AdjustingTrace, plate: Plate) -> NDArray[np.uint8]:
    """(h, w) 255 times the share of each pixel that an adjusting sheet acts on."""
    share = sheet.plain.finished(plate)[..., 3]
    if not sheet.soft:
        return share
    reach: Reach = plate.of("reach", sheet.soft)
    return soft_pixels(share[..., None], reach.pixels(share.shape[1], share.shape[0], *plate.place))[..., 0]


def sized(across: float, down: float, per_mm: float) -> tuple[int, int]:
    """Pixels of a rectangle in millimetres."""
    return max(1, round(across * per_mm)), max(1, round(down * per_mm))


def recolouring(sheet: AdjustingTrace) -> Callable[[str], str]:
    """What an adjusting sheet makes of a colour as it is written; what follows, such as an opacity, stays."""

    def changed(colour: str) -> str:
        own = shares(colour).astype(np.float32)
        found = own + sheet.opacity * (np.clip(sheet.change(own), 0, 1) - own)
        return written(found[0] * 255) + colour[7:]

    return changed


def inside(plate: Plate, margin: float) -> tuple[float, float, float, float]:
    """Where the drawing lies on the sheet: x, y, width, height in millimetres."""
    width, height = plate.frame
    return margin, margin, max(width - 2 * margin, 1.0), max(height - 2 * margin, 1.0)


def layers(plate: Plate, traces: Sequence[Trace], margin: float, *, paper: bool = True) -> Iterator[Layer]:
    """Every trace that is on, from the lowest up, and what lies over them all. ``paper`` False leaves papers out."""
    laid: list[Layer] = []
    below: int | None = None
    for trace in traces:
        shown = trace.on and trace.opacity > 0 and (paper or not trace.ground)
        if isinstance(trace, AdjustingTrace) and trace.acts_on == "the sheet beneath":
            # It belongs to the sheet beneath it, also where that is off: then it does nothing.
            if shown and below is not None:
                laid[below] = replace(laid[below], changes=(*laid[below].changes, trace))
            continue
        below = len(laid) if shown and not isinstance(trace, AdjustingTrace) else None
        if shown:
            laid.append(Layer(plate, trace, margin))
    yield from laid
    yield from (Layer(plate, t.trace, margin, over=True) for t in laid if t.trace.lies_over())


def draw_layers(canvas: Canvas, laid: Sequence[Layer]) -> None:
    """Lay layers on a canvas, each as opaque and blended as it is said; none of them changes what lies beneath."""
    for layer in laid:
        with canvas.group(layer.name, layer.trace.opacity, layer.blend):
            layer.draw(canvas)
