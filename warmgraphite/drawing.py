"""A drawing: one view of one model with its passes, each computed at most once for the same inputs.

Here the stages meet. A pass is asked for by name; what it needs is computed first, or taken from the store.
"""

from __future__ import annotations

import hashlib
import time
from collections.abc import Callable, Sequence
from dataclasses import asdict, fields
from functools import cached_property
from typing import Any, NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from warmgraphite.collage.plate import Filled, Plate, SetContent, Tones
from warmgraphite.collage.specification import Trace
from warmgraphite.errors import ViewError
from warmgraphite.ink.hatch import earth_hatch
from warmgraphite.ink.line_work import line_work, profile_work
from warmgraphite.ink.poche import PocheShape, colour_of, poche_shapes
from warmgraphite.ink.specification import PenSet, Poche
from warmgraphite.model.model import Model
from warmgraphite.passes.cut import CutRegion, Mass, cut_regions, lifted, masses, settled
from warmgraphite.passes.light import Light, light
from warmgraphite.passes.lines import LineSet, lines
from warmgraphite.passes.occluders import Occluders, occluders
from warmgraphite.passes.outline import outline_of
from warmgraphite.passes.store import Arrays, PassStore, pass_key
from warmgraphite.passes.surface import Surface, surface
from warmgraphite.progress import Progress, silent
from warmgraphite.view.scene import Scene, build_scene, shown_parts, uncut_parts
from warmgraphite.view.specification import ViewSpecification

__all__ = ["DRAWN_PASSES", "Drawing", "Fresh", "Remark"]

#: The passes that a finished picture is made of, in the order in which they are computed, with their share of the time.
DRAWN_PASSES: tuple[tuple[str, float], ...] = (("cut", 0.05), ("lines", 0.2), ("poche", 0.05), ("surface", 0.4), ("light", 0.3))

Fresh = dict[str, bool]


class Remark(NamedTuple):
    """What is not as a person expects: the part's path, the place in metres, and what it is."""

    part: str
    place: list[float]
    what: str


class Drawing:
    """A view of a model, with ``size`` = (width, height) pixels for the pixel passes (the frame's own by default).

    ``store`` keeps passes between drawings; without one they are kept for as long as the drawing is.
    ``seconds`` holds the computing time of each pass that was not fresh.
    """

    def __init__(
        self,
        model: Model,
        view: ViewSpecification,
        size: tuple[int, int] | None = None,
        store: PassStore | None = None,
    ) -> None:
        self.model, self.view, self.store = model, view, store
        self.size = size or view.frame.pixels
        self.seconds: dict[str, float] = {}
        self._held: dict[str, Arrays] = {}

    @cached_property
    def scene(self) -> Scene:
        return build_scene(self.model, self.view)

    @cached_property
    def hiders(self) -> Occluders:
        return occluders(self.scene, self.settled)

    @cached_property
    def keys(self) -> dict[str, str]:
        """The key of each pass: what it reads of model and view is written down here and nowhere else.

        Of the model only the parts count that are shown and not wholly taken away by a plane, and of those only what the
        pass looks at: a part renamed or hidden, a colour changed, a role that behaves alike leave what does not show them
        fresh.
        """
        model, spec = self.model, self.view.model_dump(mode="json")
        try:
            shown = np.flatnonzero(shown_parts(model, self.view))
        except ViewError:  # said when the scene is asked for; until then there is nothing to name
            shown = np.empty(0, np.int64)
        beyond, crossed = _against_planes(model, self.view, shown)
        shown, crossed = shown[~beyond], crossed[~beyond]
        uncut = uncut_parts(model, self.view)[shown]
        # Tolerances and the coordinates in a cutting plane stand on these two.
        placed = [model.anchor.tolist(), model.extent]
        sawn = shown[crossed & ~uncut]
        bodies = [placed, _digest(shown, model.part_shape[shown], uncut), spec["cuts"]]
        looks = [(m.colour, m.opacity) for m in model.looks]
        kinds = _digest(
            model.part_is_glass[shown], model.part_material[shown], model.part_role[shown], model.part_cut_as[sawn],
            np.unique(model.cut_rank[model.part_cut_as[sawn]], return_inverse=True)[1], model.part_poche[sawn],
        )  # fmt: skip
        paper = {k: spec["frame"][k] for k in ("width", "height", "scale", "shift")}
        framed = [*bodies, spec["projection"], paper, kinds]
        contours = asdict(model.contours) if model.contours else None
        return {
            # What is cut of the model does not depend on how it is looked at.
            "cut": pass_key("cut", placed, _digest(sawn, model.part_shape[sawn]), spec["cuts"]),
            "lines": pass_key("lines", *framed, contours, spec["lines"]),
            "poche": pass_key("poche", *framed, [m.name for m in model.materials]),
            "surface": pass_key("surface", *framed, looks, list(self.size)),
            "light": pass_key("light", *framed, list(self.size), spec["sun"]),
        }

    def under(self, view: ViewSpecification) -> Drawing:
        """The drawing of a view that differs in nothing but its sun: the scene and all that is held are shared."""
        return Drawing(self.model, view, self.size, self.store).sharing(self)

    def sharing(self, before: Drawing) -> Drawing:
        """This drawing, with the scene and all that is held of one before where both see the same, but for the sun."""
        if all(self.keys[name] == before.keys[name] for name in ("cut", "lines", "poche", "surface")):
            self._held = dict(before._held)
            for name in ("scene", "hiders", "settled", "masses"):
                if name in before.__dict__:
                    self.__dict__[name] = before.__dict__[name]
        return self

    def fresh(self) -> Fresh:
        """Which passes need not be computed."""
        return {name: key in self._held or (self.store is not None and self.store.has(key)) for name, key in self.keys.items()}

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
        """Make the named passes fresh (all by default). ``watch`` is told the pass at work and the whole's progress."""
        tell = watch or (lambda _name, _fraction: None)
        fresh = self.fresh()
        todo = [(n, share) for n, share in DRAWN_PASSES if (names is None or n in names) and not fresh[n]]
        total, done = sum(share for _, share in todo), 0.0
        work: dict[str, Callable[[Progress], Any]] = {
            "cut": self.regions,
            "lines": self.lines,
            "poche": lambda _p: self.poche(),
            "surface": self.surface,
            "light": self.light,
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
                "region": _wkb([r.region for r in rows]),
                "strokes": _wkb([r.strokes for r in rows]),
                "gaps": _wkb([r.gaps for r in rows]),
            }

        a = self._arrays("cut", compute)
        shapes = (_geometry(a[name]) for name in ("region", "strokes", "gaps"))
        return [CutRegion(int(plane), int(part), *row) for plane, part, *row in zip(a["plane"], a["part"], *shapes, strict=True)]

    @cached_property
    def settled(self) -> list[CutRegion]:
        """The cut regions as they are seen: overlaps settled, voids left out."""
        return settled(self.model, self.regions())

    @cached_property
    def masses(self) -> list[Mass]:
        """The cut regions merged to one mass per material."""
        return masses(self.model, self.settled)

    def remarks(self) -> list[Remark]:
        """What the cut found that is not shut, in the order of the parts."""
        found: list[Remark] = []
        for row in self.regions() if self.view.cuts else []:
            if self.model.part_is_glass[row.part]:
                continue
            surface, part = self.scene.surfaces[row.plane], self.model.parts[row.part].path
            for shape, frame in lifted(surface, row.gaps, self.model):
                what = "its cut outline has a gap here that is too wide to close: drawn as strokes"
                found += [Remark(part, place, what) for place in frame.lifted(shapely.get_coordinates(shape)).tolist()]
            if not row.strokes.is_empty and row.gaps.is_empty:
                shape, frame = lifted(surface, row.strokes, self.model)[0]
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
            shapes = poche_shapes(self.scene, self.masses)
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
        """What each pixel sees."""
        return Surface(**self._arrays("surface", lambda: _as_arrays(surface(self.scene, self.hiders, self.size, progress))))

    def light(self, progress: Progress = silent) -> Light:
        """Shadow and shade under the view's sun."""

        def compute() -> Arrays:
            return _as_arrays(light(self.scene, self.hiders, self.surface(), self.view.sun, progress))

        return Light(**self._arrays("light", compute))

    def ink_key(self, pens: PenSet, traces: Sequence[Trace] = ()) -> str:
        """Names all that pens and part sets add to the passes: the same for the same strokes."""
        names = {t.part_set for t in traces if t.part_set} | ({pens.profile_of} if pens.profile.on else set())
        sets = {name: self.model.sets.get(name) for name in sorted(names)}
        return pass_key("ink", self.keys["lines"], pens.model_dump(mode="json"), _digest(self.model.part_drawn), sets)

    def _part_set(self, name: str, pens: PenSet, poche: dict[str, Poche]) -> SetContent:
        """What of the drawing belongs to a part set: its share of each pixel, its strokes, its poche."""
        chosen = self.model.in_set(name)
        if chosen is None:
            chosen = np.zeros(len(self.model.parts), bool)
        seen, found = self.surface(), self.lines()
        mask = np.where(seen.part < 0, False, chosen[seen.part]).astype(np.float32)
        mask.ravel()[seen.edge_pixel] = np.where(seen.edge_part < 0, False, chosen[seen.edge_part]).mean(1)
        rows = [r for r in self.settled if chosen[r.part]]
        key = pass_key("set", _digest(chosen))
        return SetContent(
            key=key, mask=np.round(mask * 255).astype(np.uint8), strokes=line_work(found.only(chosen[found.part]), self.model, pens),
            poche=_filled(poche_shapes(self.scene, masses(self.model, rows)) if rows else [], poche),
        )  # fmt: skip

    def outline(self, name: str) -> shapely.MultiPolygon:
        """The closed outline of what is seen of a part set, in frame millimetres; nothing where there is no such set."""
        chosen = self.model.in_set(name)
        frame = self.scene.projection
        if chosen is None:
            return shapely.MultiPolygon()
        return outline_of(self.bounds(), self.hiders, chosen, frame.width, frame.height)

    def tones(self) -> Tones:
        """The pixel passes that the collage reads."""
        seen, lit = self.surface(), self.light()
        return Tones(seen.cover, seen.cap, seen.glass, seen.colour, lit.shadow, lit.shade)

    def plate(self, pens: PenSet, poche: dict[str, Poche], study_name: str = "", traces: Sequence[Trace] = ()) -> Plate:
        """The drawing with its pens and poche chosen, ready to be laid together; ``traces`` say which part sets are wanted."""
        return Plate(
            projection=self.scene.projection,
            tones=self.tones(),
            poche=_filled(self.poche(), poche),
            strokes=[
                *line_work(self.lines(), self.model, pens),
                *(profile_work(self.outline(pens.profile_of), pens) if pens.profile.on and pens.profile_of else ()),
            ],
            sets={name: self._part_set(name, pens, poche) for name in sorted({t.part_set for t in traces if t.part_set})},
            view_name=self.view.name,
            study_name=study_name or self.model.name,
            keys={
                **self.keys,
                "lines": self.ink_key(pens),
                "poche": pass_key("fill", self.keys["poche"], {n: p.model_dump(mode="json") for n, p in poche.items()}),
            },
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


def _digest(*arrays: NDArray[Any]) -> str:
    """A hash of arrays, text among them."""
    found = hashlib.sha256()
    for array in arrays:
        found.update(
            repr(array.shape).encode() + np.ascontiguousarray(array.astype("S") if array.dtype.kind == "U" else array).tobytes()
        )
    return found.hexdigest()[:32]


def _as_arrays(found: Any) -> Arrays:
    return {f.name: getattr(found, f.name) for f in fields(found)}


def _wkb(rows: list[shapely.Geometry]) -> Any:
    # Length-prefixed, because a fixed-width byte array would drop trailing zeros.
    data = [bytes(b) for b in shapely.to_wkb(rows)] if rows else []
    sizes = np.array([len(d) for d in data], np.int64)
    return np.concatenate(
        [np.array([len(data)], np.int64).view(np.uint8), sizes.view(np.uint8), np.frombuffer(b"".join(data), np.uint8)]
    )


def _geometry(data: Any) -> list[shapely.Geometry]:
    count = int(data[:8].view(np.int64)[0])
    sizes = data[8 : 8 + 8 * count].copy().view(np.int64)
    pieces = np.split(data[8 + 8 * count :], np.cumsum(sizes)[:-1]) if count else []
    return list(shapely.from_wkb([p.tobytes() for p in pieces])) if count else []
