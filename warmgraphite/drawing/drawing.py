"""A drawing: what is drawn, with a bench on which its passes lie, each computed at most once for the same inputs."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from warmgraphite.collage.pictures.kept import KeptPictures
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import Trace
from warmgraphite.drawing.graph import Level, Pass
from warmgraphite.drawing.running import ALWAYS, Bench, Runner, Stale
from warmgraphite.drawing.specification import DrawingSpec, Window
from warmgraphite.errors import ViewError
from warmgraphite.ink.along import along_needs
from warmgraphite.ink.rules import Ink
from warmgraphite.memory import Store
from warmgraphite.model.model import Model
from warmgraphite.needs import Need
from warmgraphite.notes.lettering import Lettering
from warmgraphite.notes.note import Note
from warmgraphite.passes.store import PassStore
from warmgraphite.passes.surface import Raster
from warmgraphite.results import Results
from warmgraphite.view.projection import Projection
from warmgraphite.view.specification import ViewSpecification
from warmgraphite.view.sun import to_sun

__all__ = ["ALWAYS", "Bench", "Drawing", "Looked", "Stale", "needs_of"]

#: Bytes that a drawing takes beside its model.
BYTES = 4000


def needs_of(
    traces: Sequence[Trace],
    ink: Ink | None = None,
    notes: Sequence[Note] = (),
    always: Sequence[str] = ALWAYS,
    *,
    vectors: bool = False,
) -> tuple[Need, ...]:
    """The passes that a picture is made of, and those that there are ``always``.
    It is made of these traces, this ink and these notes; ``vectors`` is whether areas stay such where they can.
    """
    found = [*(Need(name) for name in always), *(n for t in traces if t.on for n in t.all_needs())]
    found += [n for t in traces if t.on and vectors for n in t.plain.vector_needs()]
    confined = any(n.name == "room" for n in found) and any(
        n.name == "strokes" for t in traces if t.on for n in t.all_needs()
    )
    along = [n for r in (ink.pens if ink and confined else ()) if r.on for n in along_needs(r)]
    written = [n for note in notes if note.on for n in note.needs()]
    return tuple(dict.fromkeys([*found, *along, *written]))


class Drawing(Runner):
    """A view of a model, with ``size`` = (width, height) pixels for the pixel passes (the frame's own by default).

    ``ink`` is what it is drawn with, the usual one by default. ``store`` keeps passes between processes; ``bench``
    holds them in memory, a bench of its own by default; ``pictures`` are those of the stock (the store's by default).
    ``pinned`` is a frame of another drawing that it has. ``seconds`` holds the computing time of each pass that was not
    fresh.
    """

    # Many arguments: what is drawn, and where it is kept; all but three have a usual value.
    def __init__(
        self,
        model: Model,
        view: ViewSpecification,
        size: tuple[int, int] | None = None,
        store: PassStore | None = None,
        *,
        ink: Ink | None = None,
        bench: Bench | None = None,
        pictures: KeptPictures | None = None,
        pinned: Projection | None = None,
        level: Level = "paper",
    ) -> None:
        size = size or view.frame.pixels
        kept = pictures or (store.pictures if store else None)
        given = Ink() if ink is None else ink
        self._begin(
            DrawingSpec(model, view, given, size, (0, 0, *size), kept, pinned=pinned, level=level), store, bench
        )

    # What is drawn.

    @property
    def model(self) -> Model:
        """The model, with all figures that stand in it."""
        return self.spec.model

    @property
    def bare(self) -> Model:
        """The model without figures."""
        return self.spec.bare

    @property
    def view(self) -> ViewSpecification:  # type: ignore[override]
        return self.spec.view

    @property
    def ink(self) -> Ink:
        """What it is drawn with."""
        return self.spec.ink

    @property
    def size(self) -> tuple[int, int]:
        """Width and height of the whole frame in pixels."""
        return self.spec.size

    @property
    def middle(self) -> tuple[float, float]:
        """Where the middle of the drawing lies on the paper, in millimetres."""
        return self.spec.middle

    def weighed(self) -> tuple[int, list[Any]]:
        """What it weighs in memory: its model; what lies on its bench is weighed there."""
        return BYTES, [self.spec.bare, self.spec.model]

    # Other drawings upon the same bench.

    def alone(self, name: str) -> Drawing:
        """The drawing of a part set alone, in the same frame and light, with nothing before it."""
        spec = replace(self.spec, only=name, whole=self.spec)
        if not spec.sight.shown.shown.any():
            raise ViewError(f"Part set “{name}” has no part that this view shows; choose another.")
        return self._of(spec)

    def under(self, view: ViewSpecification) -> Drawing:
        """The drawing of another view of the same."""
        return self._of(self.spec.under(view))

    def windowed(self, window: Window, store: PassStore | None = None) -> Drawing:
        """The drawing of a part of the frame, with its own ``store``; all that has no pixels is shared."""
        self.result("frame")  # what every window needs first, so that none makes it anew
        return self._of(self.spec.windowed(window), store, Store[Any]("passes of windows"))

    def sized(self, size: tuple[int, int]) -> Drawing:
        """The same drawing with another number of pixels."""
        return self._of(self.spec.sized(size))

    def looked(self) -> Looked:
        """The same drawing where nothing is computed."""
        found = Looked.__new__(Looked)
        found._begin(self.spec, self.store, None)
        return found

    def sharing(self, before: Drawing) -> Drawing:
        """This drawing upon the bench of another."""
        self.bench = self.own = before.bench
        return self

    def remarks(self) -> list[dict[str, Any]]:
        """What the cut found that is not shut, in the order of the parts.
        The path of each ``part``, the ``place`` in metres, and ``what`` it is.
        """
        return [
            {"part": self.model.parts[r.part].path, "place": r.place, "what": r.what} for r in self.result("remarks")
        ]

    def plate(self, study_name: str = "", look: Ink | None = None) -> Plate:
        """The drawing ready to be laid together: what its traces show is got from here before they are drawn.
        What is written on it, and how, says ``look``, its own ink by default.
        """
        said, spec = self.spec.given if look is None else look, self.spec
        pictures = spec.pictures
        return Plate(
            projection=self.paper,
            raster=Raster.of(spec.size, spec.window),
            model=self.model,
            results=Results(self.result, self.key, self.has_pixels),
            ink=self.ink,
            middle=self.middle,
            view=self.view,
            study_name=study_name or self.model.name,
            sun=to_sun(self.view.sun),
            notes=getattr(said, "notes", ()),
            lettering=getattr(said, "lettering", Lettering()),
            kept_face=lambda digest: pictures.face_path(digest) if pictures else None,
        )


class Looked(Drawing):
    """A drawing whose passes are looked at where none is computed: what is not there is :class:`Stale`."""

    def refuse_computing(self, wanted: Need, record: Pass[Any, Any]) -> None:
        if record.stored or record.tool:
            raise Stale(wanted.words)
