"""Veil: another part set through this frame, laid faintly over what carries it, or shown through a disc."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from warmgraphite.canvas.protocol import Canvas, Path
from warmgraphite.collage.kinds.lines import LinesTrace
from warmgraphite.collage.kinds.poche import PocheTrace
from warmgraphite.collage.kinds.shadow import Shadow
from warmgraphite.collage.kinds.tint import Tint
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import PixelTrace, Trace, draw_strokes, rgb, tone
from warmgraphite.collage.veils import VeilSpec
from warmgraphite.forms import number, setting, share
from warmgraphite.ink.along import ringed
from warmgraphite.ink.assign import Style
from warmgraphite.ink.strokes import Strokes, runs
from warmgraphite.needs import Need
from warmgraphite.specification import Colour, Words
from warmgraphite.view.specification import ViewSpecification


class _Toned(PixelTrace):
    """One tone wherever something is seen."""

    kind: Literal["toned"] = "toned"
    passes: ClassVar[tuple[str, ...]] = ("surface",)
    colour: Colour = "#ffffff"

    def pixels(self, plate: Plate) -> np.ndarray:
        return tone(rgb(self.colour), plate.surface.cover.astype(np.float32) / 255)


class VeilTrace(Trace):
    label: ClassVar[str] = "Veil"
    about: ClassVar[str] = (
        "Another part set through this frame: an upper storey faint over what carries it, or seen through a disc."
    )
    pours: ClassVar[bool] = False

    kind: Literal["veil"] = "veil"
    set: Words = Field(default="", max_length=200, title="Part set", json_schema_extra={"sort": "set"})
    sawn: bool = Field(default=True, title="Cut", description="Whether the view's planes cut it, too.")
    fill: Literal["nothing", "one tone", "of materials"] = setting("one tone", "Filled with")
    colour: Colour = setting("#f4efe4", "Tone", when={"fill": ["one tone"]})
    strength: float = share(0.6, "Strength", "How opaque it is filled.", unless={"fill": ["nothing"]})
    shadow: float = share(0.0, "Its own shadow", "How strong the shadow is that falls on it.")
    poche: bool = Field(default=False, title="Poche", description="Whether what is cut of it is filled by the finish.")
    pens: Literal["none", "one pen", "of the finish"] = setting("one pen", "Lines")
    weight: float = number(0.18, "Weight", low=0.02, high=5, unit="mm", most=0.9, when={"pens": ["one pen"]})
    ink: Colour = setting("#6a6058", "Ink", when={"pens": ["one pen"]})
    hidden: bool = Field(default=False, title="What it hides of itself", description="Its hidden edges, thinner.")

    def remarks(self, view: ViewSpecification, kept: Callable[[str], bool]) -> tuple[str, ...]:
        more = () if self.set else ("Choose which part set it shows; sets are made at the Model bench.",)
        return (*super().remarks(view, kept), *more)

    @property
    def spec(self) -> VeilSpec:
        return VeilSpec(set=self.set, sawn=self.sawn)

    @property
    def _sheets(self) -> tuple[Trace, ...]:
        """The sheets that it is laid together of."""
        laid: list[Trace] = []
        if self.fill == "one tone":
            laid.append(_Toned(id="tone", name="Tone", colour=self.colour, opacity=self.strength))
        elif self.fill == "of materials":
            laid.append(Tint(id="tint", name="Tint", opacity=self.strength))
        if self.shadow:
            laid.append(Shadow(id="shadow", name="Shadow", opacity=self.shadow, blend="multiply"))
        if self.poche:
            laid.append(PocheTrace(id="poche", name="Poche"))
        if self.pens == "of the finish":
            laid.append(LinesTrace(id="lines", name="Lines"))
        return tuple(laid)

    def needs(self) -> tuple[Need, ...]:
        own = [n for t in self._sheets for n in t.own_needs()]
        own += [Need("lines")] if self.pens == "one pen" or self.hidden else []
        room = (Need("room", self.where),) if self.where is not None else ()
        return (*dict.fromkeys(Need(n.name, n.where, self.spec) for n in [Need("frame"), *own]), *room)

    def needs_on(self, plate: Plate) -> tuple[Need, ...]:
        return tuple(Need(n.name, n.where, self.spec) for t in self._sheets for n in t.needs_on(plate))

    def shows(self) -> dict[str, object]:
        return {**super().shows(), "where": self.where and self.where.model_dump(mode="json")}

    def draw(self, canvas: Canvas, plate: Plate) -> None:
        spec = self.spec
        if plate.results[Need("frame", None, spec)] is None:
            return  # there is no such set here
        own = under(plate, spec)
        if self.where is None:
            return self._draw(canvas, own)
        with canvas.clip_path(Path.of(ringed(plate.of("room", self.where).shape))):
            self._draw(canvas, own)

    def _draw(self, canvas: Canvas, own: Plate) -> None:
        for sheet in self._sheets:
            with canvas.group(f"veil {sheet.name.lower()}", sheet.opacity, sheet.blend):
                sheet.draw(canvas, own)
        draw_strokes(canvas, list(self._lines(own)))

    def _lines(self, own: Plate) -> Sequence[Strokes]:
        if self.pens != "one pen" and not self.hidden:
            return ()
        found = own.lines
        out = []
        if self.hidden:
            out.append(
                Strokes(
                    Style("hidden", 0.6 * self.weight, self.ink, (1.4, 0.9)),
                    runs(found, np.flatnonzero(~found.visible)),
                )
            )
        if self.pens == "one pen":
            out.append(Strokes(Style("veil", self.weight, self.ink, ()), runs(found, np.flatnonzero(found.visible))))
        return out


def under(plate: Plate, spec: VeilSpec) -> Plate:
    """The plate of another drawing in the same frame."""
    of = lambda n: Need(n.name, n.where, spec)
    tiles = plate.tiles
    found = replace(plate, results=plate.results.of(of), tiles=None)
    return found if tiles is None else found.in_tiles(lambda: ((w, under(p, spec)) for w, p in tiles()))
