"""One view of one model with ink, and all that is computed of it."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from functools import cached_property
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from warmgraphite.collage.pictures.kept import KeptPictures
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import Trace
from warmgraphite.collage.veils import VeilSpec
from warmgraphite.drawing.graph import PASSES, Pass, in_order, is_slow, key_of
from warmgraphite.drawing.inputs import Seen, Sight
from warmgraphite.errors import ViewError
from warmgraphite.figures.drawing import inked
from warmgraphite.figures.standing import Standing, peopled
from warmgraphite.ink.along import along_needs
from warmgraphite.ink.assign import fill_rules
from warmgraphite.ink.marks.specification import Ground, Mark
from warmgraphite.ink.rules import Ink, Marked, PenRule
from warmgraphite.memory import MISSING, Store
from warmgraphite.model.model import Model
from warmgraphite.needs import Need, need
from warmgraphite.notes.lettering import Lettering
from warmgraphite.notes.note import Note
from warmgraphite.passes.casters import Casters, Rays, casters_of, without_casting
from warmgraphite.passes.cut import CutRegion, Mass, masses, settled
from warmgraphite.passes.light import Light
from warmgraphite.passes.lines import LineSet
from warmgraphite.passes.occluders import Occluders, cap_triangles, occluders
from warmgraphite.passes.shadow import LightEdges, SunFrame, sun_frame
from warmgraphite.passes.store import PassStore
from warmgraphite.passes.surface import Raster, Surface
from warmgraphite.passes.wire import Wire
from warmgraphite.progress import Progress, silent
from warmgraphite.regions.map import RegionMap
from warmgraphite.regions.painted import KeptMasks
from warmgraphite.specification import Wanted
from warmgraphite.view.frame import refuse_pixels, sized_within
from warmgraphite.view.projection import Projection
from warmgraphite.view.scene import Scene, build_scene, only_parts, shown_parts
from warmgraphite.view.specification import FigureChoice, PartChoice, Perspective, ViewSpecification
from warmgraphite.view.sun import to_sun

__all__ = ["ALWAYS", "Drawing", "Looked", "Stale", "needs_of"]

#: The passes without which there is no picture, and nothing to point at.
ALWAYS = ("frame", "remarks", "strokes", "surface", "light")

#: Pixels of the longer side of the raster that vectors are followed on, whatever the drawing has.
STEADY = 1600

#: Bytes that a drawing takes beside its model and what was made of that.
BYTES = 4000

Fresh = dict[str, bool]
Window = tuple[int, int, int, int]


class Stale(Exception):
    """A pass was asked for where none is computed, and it is not there."""


def needs_of(
    traces: Sequence[Trace], ink: Ink | None = None, notes: Sequence[Note] = (), always: Sequence[str] = ALWAYS
) -> tuple[Need, ...]:
    """The passes that a picture with these traces, this ink and these notes is made of, and those that there are ``always``."""
    found = [*(Need(name) for name in always), *(n for t in traces if t.on for n in t.all_needs())]
    confined = any(n.name == "room" for n in found) and any(n.name == "strokes" for t in traces if t.on for n in t.all_needs())
    along = [n for r in (ink.pens if ink and confined else ()) if r.on for n in along_needs(r)]
    written = [n for note in notes if note.on for n in note.needs()]
    return tuple(dict.fromkeys([*found, *along, *written]))


def _with_figures(model: Model, view: ViewSpecification, ink: Ink, kept: KeptPictures | None) -> Standing:
    """The model with the figures that a drawing has; without them where nothing of it lies on the paper, which is said elsewhere."""
    figures = ink.figures if isinstance(ink, Marked) else ()
    if not figures:
        return Standing(model)
    try:
        return peopled(model, view, figures, ink.entourage, kept=kept)
    except ViewError:
        return Standing(model)


T = TypeVar("T")


class _of_the_model(cached_property[T]):
    """What passes are computed with that knows nothing of pixels: a window has that of the drawing that it is of."""

    def __get__(self, drawing: Any, owner: Any = None) -> Any:
        if drawing is not None and drawing._of is not None:
            return getattr(drawing._of, str(self.attrname))
        return super().__get__(drawing, owner)


class Drawing:
    """A view of a model, with ``size`` = (width, height) pixels for the pixel passes (the frame's own by default), of which
    ``window`` = (x, y, width, height) is asked for (all of them by default).

    ``ink`` is what it is drawn with, the usual one by default; figures that stand in it are parts of ``model``, and none of the ``bare`` one. ``store`` keeps passes between drawings; without one they are kept for as long as
    the drawing is; ``held`` are results that it shares with others, ``pictures`` those of the stock (the store's by default). ``only`` names the part set that is seen, as if the rest of
    the ``whole`` drawing were glass: it hides nothing, and casts as it stands there. ``pinned`` is another whose frame it has. ``seconds`` holds the computing time of each
    pass that was not fresh.
    """

    def __init__(
        self,
        model: Model,
        view: ViewSpecification,
        size: tuple[int, int] | None = None,
        store: PassStore | None = None,
        whole: Drawing | None = None,
        only: str = "",
        *,
        ink: Ink | None = None,
        window: Window | None = None,
        held: Store[Any] | None = None,
        pictures: KeptPictures | None = None,
        pinned: Drawing | None = None,
    ) -> None:
        self.bare: Model = model
        self.view: ViewSpecification = view
        self._given = Ink() if ink is None else ink
        self.pictures = pictures or (store.pictures if store else None)
        stood = _with_figures(model, view, self._given, self.pictures)
        self.model: Model = stood.model
        self.ink = inked(self._given, stood)
        self.store = store
        self._whole, self.only = whole, only
        self.size = size or view.frame.pixels
        self.window = window or (0, 0, *self.size)
        self.seconds: dict[str, float] = {}
        self._held = Store[Any]("passes") if held is None else held
        self._keys: dict[Need, str] = {}
        self._veils: dict[Wanted, Drawing | None] = {}
        self._pinned = pinned
        self._of: Drawing | None = None

    # What passes read.

    @property
    def whole(self) -> Drawing:
        """The drawing that this is a part of, or itself. It is not held as itself: what it holds is to go when it does."""
        return self._whole or self

    @cached_property
    def sight(self) -> Sight:
        """What is read of model and view."""
        around = "" if self.whole is self else self.whole.key("light")
        pinned = self._pinned.key("frame") if self._pinned else ""
        return Sight(self.model, self.view, self._chosen, around, pinned)

    @cached_property
    def seen(self) -> Seen:
        """What the pixels read."""
        return self.sight.seen(self.size, self.window)

    @cached_property
    def _chosen(self) -> NDArray[np.bool_]:
        """(P,) the parts that are seen."""
        if not self.only:
            return np.ones(len(self.model.parts), bool)
        chosen = self.model.in_set(self.only)
        if chosen is None:
            raise ViewError(f"There is no part set “{self.only}” in this model; choose another.")
        return chosen

    @property
    def masks(self) -> KeptMasks | None:
        """Where masks painted by hand are kept."""
        return self.pictures.masks if self.pictures else None

    @property
    def pens(self) -> tuple[PenRule, ...]:
        """The rules of the pens."""
        return self.ink.pens

    @property
    def marks(self) -> tuple[Mark | Ground, ...]:
        """The marks that are drawn on it."""
        return self.ink.marks if isinstance(self.ink, Marked) else ()

    @cached_property
    def filled_by(self) -> NDArray[np.int64]:
        """(P,) the number of the poche rule that fills each part where it is cut, −1 for none."""
        return fill_rules(self.model, self.ink.poche)

    @cached_property
    def built_by(self) -> NDArray[np.int64]:
        """(P,) the number of the rule that says which build-up each part has, −1 for none."""
        return fill_rules(self.model, self.ink.construction)

    @property
    def middle(self) -> tuple[float, float]:
        """Where the middle of the drawing lies on the paper, in millimetres; it stays there when the paper is drawn out."""
        frame = self.view.frame
        return frame.width / 2 + frame.shift[0], frame.height / 2 + frame.shift[1]

    # What passes are computed with.

    @_of_the_model
    def scene(self) -> Scene:
        if self.whole is not self:
            return only_parts(self.whole.scene, self._chosen)
        return build_scene(self.model, self.view, self._pinned.paper if self._pinned else None)

    @_of_the_model
    def settled(self) -> list[CutRegion]:
        """The cut regions as they are seen: overlaps settled, voids left out."""
        return settled(self.model, self.regions())

    @_of_the_model
    def masses(self) -> list[Mass]:
        """The cut regions merged to one mass per material."""
        return masses(self.model, self.settled)

    @_of_the_model
    def hiders(self) -> Occluders:
        return occluders(self.scene, self.settled)

    @_of_the_model
    def casters(self) -> Casters:
        """What stands in the sun."""
        if self.whole is not self:
            return self.whole.casters
        return casters_of(self.scene, self.settled, self.view.sun)

    @_of_the_model
    def solid(self) -> Rays:
        """Rays against all that one cannot see through."""
        opaque = ~self.model.parts.is_glass
        corners, source = self.whole.scene.standing
        kept = opaque[self.model.triangle_part[source]]
        if not self.view.sun.cast_off and self.casters.casts.sum() == kept.sum() + (self.casters.source < 0).sum():
            return self.casters.rays
        cap, _ = cap_triangles(self.whole.scene, self.whole.settled)
        return Rays(np.concatenate([corners[kept], cap]))

    @_of_the_model
    def sunlight(self) -> SunFrame:
        """What the sun sees."""
        return sun_frame(self.casters, self.view.sun)

    def weighed(self) -> tuple[int, list[Any]]:
        """What it weighs in memory: its model and what was made of that; what it holds of passes is weighed there."""
        made = ("scene", "settled", "masses", "hiders", "casters", "solid", "sunlight")
        return BYTES, [self.model, self.bare, *(self.__dict__.get(n) for n in made)]

    # Other drawings of the same.

    def alone(self, name: str) -> Drawing:
        """The drawing of a part set alone, in the same frame and light, with nothing before it."""
        found = Drawing(self.bare, self.view, self.size, self.store, self, name, ink=self._given, pictures=self.pictures)
        if not (found._chosen & shown_parts(self.model, self.view)).any():
            raise ViewError(f"Part set “{name}” has no part that this view shows; choose another.")
        return found

    def veiled(self, spec: Wanted) -> Drawing | None:
        """Another part set in the same frame, in a light of its own; ``None`` where the model has none of that name, or it is empty."""
        assert isinstance(spec, VeilSpec)
        if spec not in self._veils:
            chosen = self.model.in_set(spec.set)
            if chosen is None or not (chosen & self.model.parts.present).any():
                self._veils[spec] = None
            else:
                cuts = self.view.cuts if spec.sawn else ()
                view = self.view.model_copy(
                    update={
                        "parts": PartChoice(set=spec.set, uncut=self.view.parts.uncut, roles=self.view.parts.roles),
                        "cuts": cuts,
                        "figures": FigureChoice(on=False),
                    }
                )
                # Nothing of it may move the frame: where the paper is fitted to what is shown, it stays that of this drawing.
                fitted = not isinstance(view.projection, Perspective) and (view.projection.centre is None or not view.frame.scale)
                self._veils[spec] = type(self)(
                    self.bare, view, self.size, self.store, ink=self._given, window=self.window, held=self._held, pictures=self.pictures,
                    pinned=self if fitted else None,
                )  # fmt: skip
        return self._veils[spec]

    def under(self, view: ViewSpecification) -> Drawing:
        """The drawing of a view that differs in nothing but its sun: the scene and all that is held are shared."""
        return Drawing(self.bare, view, self.size, self.store, ink=self._given, pictures=self.pictures).sharing(self)

    def windowed(self, window: Window, store: PassStore | None = None) -> Drawing:
        """The drawing of a part of the frame, with its own ``store``; the scene and all that has no pixels are shared."""
        kept = store or self.store
        found = Drawing(
            self.bare, self.view, self.size, kept, None if self.whole is self else self.whole, self.only, ink=self._given,
            window=window, pictures=self.pictures,
        )  # fmt: skip
        found.__dict__["sight"], found._of = self.sight, self
        self.result("frame")  # what every window needs first, so that none makes it anew
        found._veils = {spec: other and other.windowed(window, kept) for spec, other in self._veils.items()}
        found._held.take_over(self._held)
        return found

    def sized(self, size: tuple[int, int]) -> Drawing:
        """The same drawing with another number of pixels; the scene and all that has none are shared."""
        whole = None if self.whole is self else self.whole
        found = Drawing(self.bare, self.view, size, self.store, whole, self.only, ink=self._given, pictures=self.pictures)
        return found.sharing(self)

    def steady(self) -> Drawing:
        """The same drawing in the pixels that vectors are followed on: those that come of tones are the same at any size."""
        size = sized_within(self.view.frame, STEADY, STEADY * STEADY, STEADY)
        return self if size == self.size and self.window == (0, 0, *size) else self.sized(size)

    def looked(self) -> Looked:
        """The same drawing where nothing is computed."""
        return Looked(self.bare, self.view, self.size, self.store, ink=self._given, window=self.window, pictures=self.pictures)

    def sharing(self, before: Drawing) -> Drawing:
        """This drawing, with the scene and all that is held of one before where both see the same, at whatever size and under
        whatever sun."""
        if self.sight.framed == before.sight.framed:
            self._held.take_over(before._held)
            same = self._casting == before._casting
            for name in ("hiders", "settled", "masses", *(("casters", "solid") if same else ())):
                if name in before.__dict__:
                    self.__dict__[name] = before.__dict__[name]
            if "scene" in before.__dict__:
                # Its triangles are the same; colours, names and the sun are asked of this model and this view.
                self.__dict__["scene"] = replace(before.scene, model=self.model, view=self.view)
        return self

    @property
    def _casting(self) -> tuple[bool, bool, bytes]:
        """What of model and sun says who casts."""
        sun = self.view.sun
        return sun.cast_off, sun.glass > 0, without_casting(self.model, sun).tobytes()

    def rest(self) -> None:
        """Forget what passes are computed with, which takes room; what was computed stays."""
        for name in ("scene", "hiders", "casters", "solid", "sunlight", "settled", "masses"):
            self.__dict__.pop(name, None)

    # Passes.

    def key(self, wanted: Need | str) -> str:
        """The key of a pass."""
        one = need(wanted)
        if one not in self._keys:
            if one.of is None:
                self._keys[one] = key_of(self, one)
            else:
                other = self.veiled(one.of)
                self._keys[one] = "nothing" if other is None else other.key(one.own)
        return self._keys[one]

    def knowing(self, keys: dict[Need, str]) -> None:
        """Take keys from, and add them to, those that were made for a drawing of the same."""
        self._keys = keys

    def is_fresh(self, wanted: Need | str) -> bool:
        """Whether a pass need not be computed."""
        one = need(wanted)
        if one.of is not None:
            other = self.veiled(one.of)
            return other is None or (other.is_fresh("frame") and (bool(other.result("frame").problem) or other.is_fresh(one.own)))
        record = PASSES[one.name]
        if record.light:
            return all(self.is_fresh(n) for n in record.needs(self, one.where))
        key = self.key(one)
        return key in self._held or (self.store is not None and self.store.has(key))

    def fresh(self, wanted: Iterable[Need | str] = ALWAYS) -> Fresh:
        """Which of the passes need not be computed, by the words of each."""
        return {need(n).words: self.is_fresh(n) for n in wanted}

    def result(self, wanted: Need | str, progress: Progress = silent) -> Any:
        """The result of a pass; what it needs is computed first, or taken from the store."""
        one = need(wanted)
        if one.of is not None:
            other = self.veiled(one.of)
            # A set that is not there, or that the cuts take away, shows nothing.
            return None if other is None or other.result("frame").problem else other.result(one.own, progress)
        record, key = PASSES[one.name], self.key(one)
        return self._held.get(key, lambda: self._made(one, record, key, progress))

    def _made(self, one: Need, record: Pass, key: str, progress: Progress) -> Any:
        """A result from the store, or computed and put there."""
        if record.pixels:
            self.refuse_too_many()
        arrays = self.store.load(key) if self.store and not record.light else None
        if arrays is not None:
            return record.unpack(arrays)
        before, others = time.perf_counter(), sum(self.seconds.values())
        self.refuse_computing(one)
        found = record.compute(self, one.where, progress)
        # A pass that another one needs first is timed under its own name, not twice.
        spent = time.perf_counter() - before - (sum(self.seconds.values()) - others)
        self.seconds[one.name] = self.seconds.get(one.name, 0.0) + spent
        if self.store and not record.light:
            self.store.save(key, record.pack(found))
        return found

    def kept(self, key: str, make: Callable[[], Any]) -> Any:
        """A part of a result by its key, made where it is not held: what several drawings of the same put together anew."""
        return self._held.get(key, make)

    def is_slow(self, wanted: Need | str) -> bool:
        """Whether a first, coarse picture does without a pass."""
        return is_slow(self, need(wanted))

    def refuse_computing(self, wanted: Need) -> None:
        """Raises :class:`Stale` where passes are only looked at; here they are computed."""

    def compute(self, wanted: Iterable[Need | str] | None = None, watch: Callable[[str, float], None] | None = None) -> None:
        """Make the passes fresh (those of any picture by default). ``watch`` is told the stage at work and the whole's
        progress. Raises :class:`ViewError` where the view shows nothing."""
        tell = watch or (lambda _name, _fraction: None)
        names = ALWAYS if wanted is None else tuple(wanted)
        if any(PASSES[need(n).name].pixels for n in names):
            self.refuse_too_many()
        todo = [(n, PASSES[n.name]) for n in in_order(self, names)]
        total, done = sum(record.weight for _, record in todo), 0.0
        for one, record in todo:
            tell(record.stage, done / total)
            self.result(one, lambda f, r=record, done=done: tell(r.stage, (done + f * r.weight) / total))  # type: ignore[misc]
            done += record.weight
            if one.name == "frame" and self.result(one).problem:
                raise ViewError(self.result(one).problem)
        for name in names:
            self._keep_again(need(name))
        tell("", 1.0)

    def _keep_again(self, one: Need) -> None:
        """Save a pass that is held here, and gone from the store meanwhile: others look for it there."""
        if one.of is not None:
            other = self.veiled(one.of)
            for own in (Need("frame"), one.own) if other is not None else ():
                other._keep_again(own)  # type: ignore[union-attr]
            return
        record = PASSES[one.name]
        if record.light:
            for below in record.needs(self, one.where):
                self._keep_again(need(below))
        elif self.store is not None and not self.store.has(self.key(one)):
            held = self._held.peek(self.key(one), MISSING)
            if held is not MISSING:
                self.store.save(self.key(one), record.pack(held))

    def refuse_too_many(self) -> None:
        """Raises :class:`ViewError` where the pixel passes would have more pixels than can be held."""
        own = self.size == self.view.frame.pixels and self.window[2:] == self.size
        refuse_pixels(*self.window[2:], resolution=self.view.frame.resolution if own else None)

    @property
    def paper(self) -> Projection:
        """Where the model lies on the paper. Raises :class:`ViewError` where nothing of it does."""
        found = self.result("frame")
        if found.projection is None:
            raise ViewError(found.problem)
        return found.projection  # type: ignore[no-any-return]

    def regions(self) -> list[CutRegion]:
        """The cut regions, part by part."""
        return self.result("cut")  # type: ignore[no-any-return]

    def cap_faces(self) -> tuple[NDArray[np.float64], NDArray[np.int32]]:
        """The triangles (C, 3, 3), in metres, that close the cuts, and the part of each."""
        found = self.result("caps")
        return found.corners, found.part

    def remarks(self) -> list[dict[str, Any]]:
        """What the cut found that is not shut, in the order of the parts: the path of each ``part``, the ``place`` in metres, and
        ``what`` it is."""
        return [{"part": self.model.parts[r.part].path, "place": r.place, "what": r.what} for r in self.result("remarks")]

    def bounds(self) -> LineSet:
        """The lines, and with them the seams, which bound parts but are not drawn."""
        return self.result("lines")  # type: ignore[no-any-return]

    def lines(self) -> LineSet:
        """Visible and hidden lines of the drawing."""
        bounds = self.bounds()
        if self._lines is None or self._lines[0] is not bounds:
            self._lines = (bounds, bounds.drawn)
        return self._lines[1]

    _lines: tuple[LineSet, LineSet] | None = None

    @cached_property
    def nearest(self) -> float:
        """Metres from the viewer to the nearest thing seen, from which depth is told."""
        distance = self.surface().distance
        seen = distance[np.isfinite(distance)]
        return float(seen.min()) if len(seen) else 0.0

    def wire(self) -> Wire:
        """Every edge of the mesh that bends, before and behind."""
        return self.result("wire")  # type: ignore[no-any-return]

    def surface(self) -> Surface:
        """What each pixel sees. Raises :class:`ViewError` for more pixels than can be held."""
        return self.result("surface")  # type: ignore[no-any-return]

    def light(self) -> Light:
        """Shadow and shade under the view's sun."""
        return self.result("light")  # type: ignore[no-any-return]

    def colour(self) -> NDArray[np.uint8]:
        """(h, w, 4) the colour of materials, premultiplied."""
        return self.result("colour")  # type: ignore[no-any-return]

    def normals(self) -> NDArray[np.uint8]:
        """(h, w, 4) which way each surface faces, as colour, straight."""
        return self.result("normals")  # type: ignore[no-any-return]

    def occlusion(self) -> NDArray[np.uint8]:
        """(h, w) how dark corners are."""
        return self.result("occlusion")  # type: ignore[no-any-return]

    def light_edges(self) -> LightEdges:
        """The visible edges of shadow, of the turn to shade, and of its steps."""
        return self.result("shadow")  # type: ignore[no-any-return]

    def region_map(self) -> RegionMap:
        """The planar map of the drawing."""
        return self.result("regions")  # type: ignore[no-any-return]

    def plate(self, study_name: str = "", look: Ink | None = None) -> Plate:
        """The drawing ready to be laid together: what its traces show is taken from here as they are drawn. What is written on it, and how, says
        ``look``, its own ink by default."""
        said = self._given if look is None else look
        return Plate(
            projection=self.paper, raster=Raster.of(self.size, self.window), model=self.model, take=self.result, key=self.key,
            ink=self.ink, middle=self.middle, view=self.view, study_name=study_name or self.model.name,
            sun=to_sun(self.view.sun), notes=getattr(said, "notes", ()), lettering=getattr(said, "lettering", Lettering()),
            kept_face=lambda digest: self.pictures.face_path(digest) if self.pictures else None,
        )  # fmt: skip


class Looked(Drawing):
    """A drawing whose passes are looked at where none is computed: what is not there is :class:`Stale`."""

    def refuse_computing(self, wanted: Need) -> None:
        if not PASSES[wanted.name].light:
            raise Stale(wanted.words)

    @property
    def scene(self) -> Scene:  # type: ignore[override]
        raise Stale("scene")
