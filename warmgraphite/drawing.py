"""A drawing: one view of one model with its passes, each computed at most once for the same inputs.

Here the stages meet. A pass is asked for by name; what it needs is computed first, or taken from the store.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from dataclasses import asdict, fields, replace
from functools import cached_property
from typing import Any, NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.collage.plate import Filled, Plate, SetContent, Tones, content_key
from warmgraphite.collage.trace import Trace
from warmgraphite.errors import ViewError
from warmgraphite.ink.hatch import earth_hatch
from warmgraphite.ink.line_work import line_work, profile_work
from warmgraphite.ink.poche import PocheShape, colour_of, poche_shapes
from warmgraphite.ink.specification import PenSet, Poche
from warmgraphite.model.model import Model
from warmgraphite.passes.casters import Casters, Rays, casters_of, exempt_parts
from warmgraphite.passes.colour import colour
from warmgraphite.passes.cut import CutRegion, Mass, cut_regions, lifted, masses, settled
from warmgraphite.passes.kernels.grid import look_at
from warmgraphite.passes.light import Light, light
from warmgraphite.passes.lines import LineSet, lines
from warmgraphite.passes.occluders import Occluders, cap_triangles, occluders
from warmgraphite.passes.occlusion import occlusion
from warmgraphite.passes.packing import as_arrays, digest, from_wkb, to_wkb
from warmgraphite.passes.pictures import normals
from warmgraphite.passes.shadow import LightEdges, SunFrame, light_edges, sun_frame
from warmgraphite.passes.store import Arrays, PassStore, pass_key
from warmgraphite.passes.surface import Surface, shares, surface
from warmgraphite.passes.wire import Wire, wire
from warmgraphite.progress import Progress, part_of, silent
from warmgraphite.regions.map import RegionMap, region_map
from warmgraphite.regions.outline import outline_of
from warmgraphite.view.frame import refuse_pixels
from warmgraphite.view.scene import Scene, build_scene, only_parts, shown_parts, uncut_parts
from warmgraphite.view.specification import ViewSpecification

__all__ = ["ALWAYS", "DRAWN_PASSES", "Drawing", "Fresh", "Remark", "passes_for"]

#: The passes that a finished picture may be made of, in the order in which they are computed, with their share of the time.
DRAWN_PASSES: tuple[tuple[str, float], ...] = (
    ("cut", 0.05), ("caps", 0.02), ("lines", 0.2), ("wire", 0.2), ("poche", 0.05), ("surface", 0.3), ("colour", 0.1), ("normals", 0.1),
    ("light", 0.3), ("occlusion", 0.8), ("shadow", 0.1), ("regions", 0.5),
)  # fmt: skip
#: The passes without which there is no picture.
ALWAYS = ("cut", "lines", "poche", "surface", "light")

Fresh = dict[str, bool]


def passes_for(traces: Sequence[Trace]) -> tuple[str, ...]:
    """The passes that a picture with these traces is made of."""
    wanted = {*ALWAYS, *(name for t in traces if t.on for name in t.needs())}
    return tuple(name for name, _ in DRAWN_PASSES if name in wanted)


class Remark(NamedTuple):
    """What is not as a person expects: the part's path, the place in metres, and what it is."""

    part: str
    place: list[float]
    what: str


class Drawing:
    """A view of a model, with ``size`` = (width, height) pixels for the pixel passes (the frame's own by default).

    ``store`` keeps passes between drawings; without one they are kept for as long as the drawing is. ``only`` names the part
    set that is seen, as if the rest of the ``whole`` drawing were glass: it hides nothing, and casts as it stands there.
    ``seconds`` holds the computing time of each pass that was not fresh.
    """

    def __init__(
        self,
        model: Model,
        view: ViewSpecification,
        size: tuple[int, int] | None = None,
        store: PassStore | None = None,
        whole: Drawing | None = None,
        only: str = "",
    ) -> None:
        self.model, self.view, self.store = model, view, store
        self.whole, self.only = whole or self, only
        self.size = size or view.frame.pixels
        self.seconds: dict[str, float] = {}
        self._held: dict[str, Arrays] = {}
        self._map: tuple[str, RegionMap] | None = None

    @cached_property
    def scene(self) -> Scene:
        if self.whole is not self:
            return only_parts(self.whole.scene, self._chosen)
        return build_scene(self.model, self.view)

    @cached_property
    def _chosen(self) -> NDArray[np.bool_]:
        """(P,) the parts that are seen."""
        if not self.only:
            return np.ones(len(self.model.parts), bool)
        chosen = self.model.in_set(self.only)
        if chosen is None:
            raise ViewError(f"There is no part set “{self.only}” in this model; choose another.")
        return chosen

    def alone(self, name: str) -> Drawing:
        """The drawing of a part set alone, in the same frame and light, with nothing before it."""
        found = Drawing(self.model, self.view, self.size, self.store, self, name)
        if not (found._chosen & shown_parts(self.model, self.view)).any():
            raise ViewError(f"Part set “{name}” has no part that this view shows; choose another.")
        return found

    @cached_property
    def hiders(self) -> Occluders:
        return occluders(self.scene, self.settled)

    @cached_property
    def casters(self) -> Casters:
        """What stands in the sun."""
        if self.whole is not self:
            return self.whole.casters
        return casters_of(self.scene, self.settled, self.view.sun)

    @cached_property
    def solid(self) -> Rays:
        """Rays against all that one cannot see through."""
        opaque = ~self.model.part_is_glass
        corners, source = self.whole.scene.standing
        kept = opaque[self.model.triangle_part[source]]
        if not self.view.sun.cast_off and self.casters.casts.sum() == kept.sum() + (self.casters.source < 0).sum():
            return self.casters.rays
        cap, _ = cap_triangles(self.whole.scene, self.whole.settled)
        return Rays(np.concatenate([corners[kept], cap]))

    @cached_property
    def sunlight(self) -> SunFrame:
        """What the sun sees."""
        return sun_frame(self.casters, self.view.sun)

    @cached_property
    def keys(self) -> dict[str, str]:
        """The key of each pass: what it reads of model and view is written down here and nowhere else.

        Of the model only the parts count that are shown and not wholly taken away by a plane, and of those only what the
        pass looks at: a part renamed or hidden, a colour changed, a role that behaves alike leave what does not show them
        fresh.
        """
        model, spec = self.model, self.view.model_dump(mode="json")
        try:
            shown = np.flatnonzero(shown_parts(model, self.view) & self._chosen)
        except ViewError:  # said when the scene is asked for; until then there is nothing to name
            shown = np.empty(0, np.int64)
        beyond, crossed = _against_planes(model, self.view, shown)
        shown, crossed = shown[~beyond], crossed[~beyond]
        uncut = uncut_parts(model, self.view)[shown]
        # Tolerances and the coordinates in a cutting plane stand on these two.
        placed = [model.anchor.tolist(), model.extent]
        sawn = shown[crossed & ~uncut]
        bodies = [placed, digest(shown, model.part_shape[shown], uncut), spec["cuts"]]
        looks = [(m.colour, m.texture, m.size) for m in model.looks]
        kinds = digest(
            model.part_is_glass[shown], model.part_material[shown], model.part_role[shown], model.part_cut_as[sawn],
            np.unique(model.cut_rank[model.part_cut_as[sawn]], return_inverse=True)[1], model.part_poche[sawn],
        )  # fmt: skip
        fillings = digest(
            model.part_cut_as[sawn],
            np.unique(model.cut_rank[model.part_cut_as[sawn]], return_inverse=True)[1],
            model.part_poche[sawn],
        )
        paper = {k: spec["frame"][k] for k in ("width", "height", "scale", "shift")}
        framed = [*bodies, spec["projection"], paper, kinds]
        contours = asdict(model.contours) if model.contours else None
        sun = {k: v for k, v in spec["sun"].items() if k not in ("moment", "not_casting", "not_receiving")}
        exempt = [exempt_parts(model, e)[shown] for e in (self.view.sun.not_casting, self.view.sun.not_receiving)]
        lit = [*framed, sun, digest(*exempt), spec["shade"]]
        around = [] if self.whole is self else [self.whole.keys["light"]]
        lit += around
        pictures = model.body if any(m.texture for m in model.looks) else ""
        surface = pass_key("surface", *framed, list(self.size))
        shadow = pass_key("shadow", *lit, spec["lines"]["crease_angle"])
        drawn = pass_key("lines", *framed, contours, spec["lines"])
        return {
            # What is cut of the model does not depend on how it is looked at.
            "cut": pass_key("cut", placed, digest(sawn, model.part_shape[sawn]), spec["cuts"]),
            "caps": pass_key("caps", placed, digest(sawn, model.part_shape[sawn]), spec["cuts"], fillings),
            "lines": drawn,
            "poche": pass_key("poche", *framed, [m.name for m in model.materials]),
            "surface": surface,
            "colour": pass_key("colour", surface, looks, pictures),
            "normals": pass_key("normals", surface),
            "light": pass_key("light", *lit, list(self.size)),
            "occlusion": pass_key("occlusion", surface, {k: v for k, v in spec["occlusion"].items() if k != "strength"}, around),
            "shadow": shadow,
            "wire": pass_key("wire", *framed),
            "regions": pass_key("regions", drawn, shadow),
        }

    def under(self, view: ViewSpecification) -> Drawing:
        """The drawing of a view that differs in nothing but its sun: the scene and all that is held are shared."""
        return Drawing(self.model, view, self.size, self.store).sharing(self)

    def sharing(self, before: Drawing) -> Drawing:
        """This drawing, with the scene and all that is held of one before where both see the same, at whatever size and under
        whatever sun."""
        if all(self.keys[name] == before.keys[name] for name in ("cut", "lines", "poche")):
            self._held = dict(before._held)
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
        return sun.cast_off, sun.glass > 0, exempt_parts(self.model, sun.not_casting).tobytes()

    def fresh(self, names: Sequence[str] = ALWAYS) -> Fresh:
        """Which of the named passes need not be computed."""
        keys = {name: self.keys[name] for name in names}
        return {name: key in self._held or (self.store is not None and self.store.has(key)) for name, key in keys.items()}

    def _arrays(self, name: str, compute: Callable[[], Arrays]) -> Arrays:
        key = self.keys[name]
        if key in self._held:
            return self._held[key]
        found = self.store.load(key) if self.store else None
        if found is None:
            before, others = time.perf_counter(), sum(self.seconds.values())
            found = compute()
            # A pass that another one needs first is timed under its own name, not twice.
            self.seconds[name] = time.perf_counter() - before - (sum(self.seconds.values()) - others)
            if self.store:
                self.store.save(key, found)
        self._held[key] = found
        return found

    def compute(self, names: Sequence[str] | None = None, watch: Callable[[str, float], None] | None = None) -> None:
        """Make the named passes fresh (those of any picture by default). ``watch`` is told the pass at work and the whole's
        progress."""
        tell = watch or (lambda _name, _fraction: None)
        if names is None or not {"cut", "caps", "lines", "poche", "wire", "shadow", "regions"}.issuperset(names):
            self.refuse_too_many()
        fresh = self.fresh(ALWAYS if names is None else names)
        todo = [(n, share) for n, share in DRAWN_PASSES if not fresh.get(n, True)]
        total, done = sum(share for _, share in todo), 0.0
        work: dict[str, Callable[[Progress], Any]] = {
            "cut": self.regions,
            "caps": lambda _p: self.cap_faces(),
            "lines": self.lines,
            "poche": lambda _p: self.poche(),
            "surface": self.surface,
            "colour": self.colour,
            "normals": self.normals,
            "wire": self.wire,
            "light": self.light,
            "occlusion": self.occlusion,
            "shadow": self.light_edges,
            "regions": self.region_map,
        }
        for name, share in todo:
            tell(name, done / total)
            work[name](lambda f, name=name, share=share, done=done: tell(name, (done + f * share) / total))  # type: ignore[misc]
            done += share
        tell("", 1.0)

    def regions(self, progress: Progress = silent) -> list[CutRegion]:
        """The cut regions, part by part."""

        def compute() -> Arrays:
            rows = cut_regions(self.scene, progress)
            return {
                "plane": np.array([r.plane for r in rows], np.int32),
                "part": np.array([r.part for r in rows], np.int32),
                "region": to_wkb([r.region for r in rows]),
                "strokes": to_wkb([r.strokes for r in rows]),
                "gaps": to_wkb([r.gaps for r in rows]),
            }

        a = self._arrays("cut", compute)
        shapes = (from_wkb(a[name]) for name in ("region", "strokes", "gaps"))
        return [CutRegion(int(plane), int(part), *row) for plane, part, *row in zip(a["plane"], a["part"], *shapes, strict=True)]

    @cached_property
    def settled(self) -> list[CutRegion]:
        """The cut regions as they are seen: overlaps settled, voids left out."""
        return settled(self.model, self.regions())

    @cached_property
    def masses(self) -> list[Mass]:
        """The cut regions merged to one mass per material."""
        return masses(self.model, self.settled)

    def cap_faces(self) -> tuple[NDArray[np.float64], NDArray[np.int32]]:
        """The triangles (C, 3, 3), in metres, that close the cuts, and the part of each."""

        def compute() -> Arrays:
            corners, part = cap_triangles(self.scene, self.settled)
            return {"corners": corners, "part": part}

        a = self._arrays("caps", compute)
        return a["corners"], a["part"]

    def remarks(self) -> list[Remark]:
        """What the cut found that is not shut, in the order of the parts."""
        found: list[Remark] = []
        for row in self.regions() if self.view.cuts else []:
            if self.model.part_is_glass[row.part]:
                continue
            surface, part = self.scene.surfaces[row.plane], self.model.parts[row.part].path
            for shape, frame in lifted(surface, row.gaps):
                what = "its cut outline has a gap here that is too wide to close: drawn as strokes"
                found += [Remark(part, place, what) for place in frame.lifted(shapely.get_coordinates(shape)).tolist()]
            if not row.strokes.is_empty and row.gaps.is_empty:
                shape, frame = lifted(surface, row.strokes)[0]
                place = frame.lifted(np.array(shape.centroid.coords[0])).tolist()
                found.append(Remark(part, place, "cut through an open surface: drawn as strokes"))
        return found

    def lines(self, progress: Progress = silent) -> LineSet:
        """Visible and hidden lines of the drawing."""
        return self.bounds(progress).drawn

    def bounds(self, progress: Progress = silent) -> LineSet:
        """The lines, and with them the seams, which bound parts but are not drawn."""

        def compute() -> Arrays:
            found = lines(self.scene, self.regions(), self.settled, self.masses, progress, self.hiders)
            return {f.name: getattr(found, f.name) for f in fields(found)}

        return LineSet(**self._arrays("lines", compute))

    def poche(self) -> list[PocheShape]:
        """The cut masses as shapes on the paper."""

        def compute() -> Arrays:
            shapes = poche_shapes(self.scene, self.masses, self.cap_faces()[0])
            rings = [ring for shape in shapes for ring in shape.rings]
            return {
                "material": np.array([s.material for s in shapes], dtype=np.str_),
                "earth": np.array([s.earth for s in shapes], dtype=bool),
                "rings": np.array([len(s.rings) for s in shapes], np.int64),
                "points": np.array([len(r) for r in rings], np.int64),
                "xy": np.concatenate([np.empty((0, 2)), *rings]),
            }

        a = self._arrays("poche", compute)
        rings = np.split(a["xy"], np.cumsum(a["points"])[:-1]) if len(a["points"]) else []
        ends = np.cumsum(a["rings"])
        return [
            PocheShape(str(material), rings[end - count : end], bool(earth))
            for material, earth, count, end in zip(a["material"], a["earth"], a["rings"], ends, strict=True)
        ]

    def surface(self, progress: Progress = silent) -> Surface:
        """What each pixel sees. Raises :class:`ViewError` for more pixels than can be held."""

        def compute() -> Arrays:
            return as_arrays(surface(self.scene, self.hiders, self.size, progress))

        self.refuse_too_many()
        return Surface(**self._arrays("surface", compute))

    def refuse_too_many(self) -> None:
        """Raises :class:`ViewError` where the pixel passes would have more pixels than can be held."""
        own = self.size == self.view.frame.pixels
        refuse_pixels(*self.size, resolution=self.view.frame.resolution if own else None)

    def light(self, progress: Progress = silent) -> Light:
        """Shadow and shade under the view's sun."""

        def compute() -> Arrays:
            seen = self.surface()
            return as_arrays(light(self.scene, self.hiders, seen, self.casters, self.view.sun, self.view.shade, progress))

        return Light(**self._arrays("light", compute))

    def colour(self, progress: Progress = silent) -> NDArray[np.uint8]:
        """(h, w, 4) the colour of materials, premultiplied."""
        return self._arrays("colour", lambda: {"colour": colour(self.scene, self.hiders, self.surface(), progress)})["colour"]

    def normals(self, progress: Progress = silent) -> NDArray[np.uint8]:
        """(h, w, 4) which way each surface faces, as colour, straight."""
        return self._arrays("normals", lambda: {"normals": normals(self.scene, self.hiders, self.surface())})["normals"]

    def occlusion(self, progress: Progress = silent) -> NDArray[np.uint8]:
        """(h, w) how dark corners are."""

        def compute() -> Arrays:
            # How strong it is does not make it stale: it is computed at full strength.
            asked = self.view.occlusion.model_copy(update={"strength": 1.0})
            return {"occlusion": occlusion(self.scene, self.hiders, self.surface(), self.solid, asked, progress)}

        found = self._arrays("occlusion", compute)["occlusion"]
        strength = self.view.occlusion.strength
        return found if strength == 1.0 else np.round(found * np.float32(strength)).astype(np.uint8)

    def light_edges(self, progress: Progress = silent) -> LightEdges:
        """The visible edges of shadow, of the turn to shade, and of its steps."""

        def compute() -> Arrays:
            whole = self.whole
            cut = (whole.regions(), whole.settled, whole.masses)
            return as_arrays(light_edges(self.scene, self.hiders, self.sunlight, self.casters, whole.scene, cut, progress))

        return LightEdges(**self._arrays("shadow", compute))

    def region_map(self, progress: Progress = silent) -> RegionMap:
        """The planar map of the drawing."""

        def compute() -> Arrays:
            edges, bounds = self.light_edges(part_of(progress, 0.0, 0.3)), self.bounds()
            cut = (self.settled, self.masses)
            found = region_map(self.scene, self.hiders, bounds, edges, self.sunlight, cut, part_of(progress, 0.3, 1.0))
            return {**as_arrays(found), "shapes": to_wkb(list(found.shapes)), "frame": np.array(found.frame)}

        a = self._arrays("regions", compute)
        key = self.keys["regions"]
        if self._map is None or self._map[0] != key:
            shapes = np.array(from_wkb(a["shapes"]), dtype=object)
            columns: dict[str, Any] = {**a, "shapes": shapes, "frame": tuple(a["frame"].tolist())}
            self._map = (key, RegionMap(**columns))
        return self._map[1]

    def point_at(self, x: float, y: float) -> tuple[float, float, float] | None:
        """The point of the model, in metres, that is seen at frame millimetres; ``None`` where nothing is."""
        o = self.hiders
        hit, depth, _ = look_at(np.array([[x, y]]), o.forms, o.pane, o.pane, o.near, *o.grid)
        if hit[0] < 0:
            return None
        found = self.scene.projection.unproject(np.array([[x, y, depth[0]]]))[0]
        return float(found[0]), float(found[1]), float(found[2])

    def wire(self, progress: Progress = silent) -> Wire:
        """Every edge of the mesh that bends, before and behind."""
        return Wire(**self._arrays("wire", lambda: as_arrays(wire(self.scene, self.hiders, progress))))

    def set_share(self, name: str) -> NDArray[np.uint8]:
        """(h, w) 255 times the share of each pixel that shows a part of a set, with the rest before it."""
        chosen = self.model.in_set(name)
        if chosen is None:
            raise ViewError(f"There is no part set “{name}” in this model; choose another.")
        seen = self.surface()
        mask = np.where(seen.part < 0, False, chosen[seen.part]).astype(np.uint8) * np.uint8(255)
        shares(mask, seen.edge_pixel, np.where(seen.edge_part < 0, False, chosen[seen.edge_part]))
        return mask

    def ink_key(self, pens: PenSet, traces: Sequence[Trace] = ()) -> str:
        """Names all that pens and part sets add to the passes: the same for the same strokes."""
        names = {t.part_set for t in traces if t.part_set} | ({pens.profile_of} if pens.profile.on else set())
        sets = {name: self.model.sets.get(name) for name in sorted(names)}
        return pass_key("ink", self.keys["lines"], pens.model_dump(mode="json"), digest(self.model.part_drawn), sets)

    def content_keys(self, pens: PenSet, poche: dict[str, Poche]) -> dict[str, str]:
        """Names what is drawn of each pass with these pens and this poche."""
        return {
            **self.keys,
            "occlusion": pass_key("dark", self.keys["occlusion"], self.view.occlusion.strength),
            "lines": self.ink_key(pens),
            "poche": pass_key("fill", self.keys["poche"], {n: p.model_dump(mode="json") for n, p in poche.items()}),
        }

    def set_key(self, name: str) -> str:
        """Names the parts of a part set."""
        chosen = self.model.in_set(name)
        return pass_key("set", digest(chosen) if chosen is not None else "")

    def trace_key(self, trace: Trace, pens: PenSet, poche: dict[str, Poche], margin: float) -> str:
        """Names what a trace shows, at full strength: the same for the same sheet of tracing paper."""
        frame = (self.view.frame.width, self.view.frame.height)
        own = self.set_key(trace.part_set) if trace.part_set else ""
        return content_key(trace, self.content_keys(pens, poche), own, frame, margin)

    def _part_set(self, name: str, pens: PenSet, poche: dict[str, Poche]) -> SetContent:
        """What of the drawing belongs to a part set: its share of each pixel, its strokes, its poche."""
        chosen = self.model.in_set(name)
        if chosen is None:
            chosen = np.zeros(len(self.model.parts), bool)
        found = self.lines()
        mask = self.set_share(name) if self.model.in_set(name) is not None else np.zeros_like(self.surface().cover)
        rows = [r for r in self.settled if chosen[r.part]]
        return SetContent(
            key=self.set_key(name), chosen=chosen, mask=mask, strokes=line_work(found.only(chosen[found.part]), self.model, pens),
            poche=_filled(poche_shapes(self.scene, masses(self.model, rows), self.cap_faces()[0]) if rows else [], poche),
        )  # fmt: skip

    def outline(self, name: str) -> shapely.MultiPolygon:
        """The closed outline of what is seen of a part set, in frame millimetres; nothing where there is no such set."""
        chosen = self.model.in_set(name)
        frame = self.scene.projection
        if chosen is None:
            return shapely.MultiPolygon()
        return outline_of(self.bounds(), self.hiders, chosen, frame.width, frame.height)

    def tones(self, traces: Sequence[Trace] = ()) -> Tones:
        """The pixel passes that a collage of these traces reads."""
        seen, lit, wanted = self.surface(), self.light(), passes_for(traces)
        return Tones(
            seen.cover, seen.cap, seen.glass, lit.shadow, lit.shade, seen.distance, self.colour() if "colour" in wanted else None,
            self.occlusion() if "occlusion" in wanted else None, self.normals() if "normals" in wanted else None,
        )  # fmt: skip

    def plate(self, pens: PenSet, poche: dict[str, Poche], study_name: str = "", traces: Sequence[Trace] = ()) -> Plate:
        """The drawing with its pens and poche chosen, ready to be laid together; ``traces`` say which part sets are wanted."""
        return Plate(
            projection=self.scene.projection,
            tones=self.tones(traces),
            poche=_filled(self.poche(), poche),
            strokes=[
                *line_work(self.lines(), self.model, pens),
                *(profile_work(self.outline(pens.profile_of), pens) if pens.profile.on and pens.profile_of else ()),
            ],
            sets={name: self._part_set(name, pens, poche) for name in sorted({t.part_set for t in traces if t.part_set})},
            lines=self.lines(),
            wire=self.wire() if "wire" in passes_for(traces) else None,
            view_name=self.view.name,
            study_name=study_name or self.model.name,
            keys=self.content_keys(pens, poche),
        )


def _filled(shapes: Sequence[PocheShape], poche: dict[str, Poche]) -> list[Filled]:
    """Shapes with the colour and the hatch that fill them; what has no fill is left out."""
    found = [(shape, colour_of(poche, shape.material)) for shape in shapes]
    return [Filled(s, colour, earth_hatch(s.rings) if s.earth else []) for s, colour in found if colour]


def _against_planes(
    model: Model, view: ViewSpecification, parts: NDArray[np.int64]
) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """(N,) which of the parts lie wholly on the removed side of a plane, and (N,) which reach a plane that cuts."""
    boxes = model.part_bounds[parts]
    beyond, crossed = np.zeros(len(parts), bool), np.zeros(len(parts), bool)
    for cut in view.cuts:
        normal = np.array(cut.normal, float)
        normal /= np.linalg.norm(normal)
        depths = [0.0, *(jog.by for jog in cut.jogs)]
        low = np.where(normal > 0, boxes[:, 0], boxes[:, 1])
        high = np.where(normal > 0, boxes[:, 1], boxes[:, 0])
        slack = 1e-6 * model.extent
        with np.errstate(invalid="ignore"):
            beyond |= (low - cut.point) @ normal > max(depths) + slack
            if cut.role == "cut":
                reaches = (low - cut.point) @ normal <= max(depths) + slack
                crossed |= reaches & ((high - cut.point) @ normal >= min(depths) - slack)
    return beyond, crossed
