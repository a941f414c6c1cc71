"""The canvas as PDF (ISO 32000): marks as objects of the page, and groups as optional content, which a reader switches.

The graphics library writes marks, fonts and pictures, and knows no layers. So each run of marks of one layer is drawn
as a page of its own; those pages are then put together as forms, in their order, each within what says which layer it
belongs to. Fonts are shared by all pages of a document, so that nothing is written twice. Pictures that are laid down
by themselves are packed here, beside the drawing of what follows: the library takes as long over them as all else takes
together.
"""

from __future__ import annotations

import io
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import AbstractContextManager, contextmanager
from typing import Any, Literal, Protocol

import numpy as np
import pikepdf
import skia
from numpy.typing import NDArray

from warmgraphite import MADE_BY
from warmgraphite.canvas.assembly import POINTS, Assembly, LayerPath, Node, Operators, Picture
from warmgraphite.canvas.journal import Journal
from warmgraphite.canvas.packed import LOSSLESS, Packed, pack
from warmgraphite.canvas.passing import Passing
from warmgraphite.canvas.pixels import SkiaCanvas
from warmgraphite.canvas.protocol import Canvas, Face, Matrix, Path

__all__ = ["Document", "Layers"]

#: Pictures that wait for being packed at most: each takes as much room as the drawing has pixels.
_WAITING = 2
#: What is no mark in a journal.
_AROUND = ("end", "group", "clip", "clip_path", "mask", "transform")


class Layers(Protocol):
    """Tells which groups are layers; ``groups`` are the names of those that are open, from the outermost in."""

    def layer(self, groups: Sequence[str]) -> str:
        """What the layer of the innermost group is called; empty where it is none."""

    def goes_deeper(self, groups: Sequence[str]) -> bool:
        """Whether a layer may lie in the innermost group."""


class Document:
    """A PDF that is being written.
    ``archival`` makes it one that is kept: PDF/A-2b (ISO 19005-2). ``quality`` is that of pictures; at 100 each pixel
    is kept as it is.
    """

    def __init__(
        self, title: str, subject: str = "", keywords: str = "", archival: bool = False, quality: int = LOSSLESS
    ) -> None:
        self.stream = skia.DynamicMemoryWStream()
        about = skia.PDF.Metadata()
        about.fTitle, about.fSubject, about.fKeywords, about.fCreator = title, subject, keywords, MADE_BY
        about.fProducer = MADE_BY
        about.fPDFA = archival
        self.target = skia.PDF.MakeDocument(self.stream, about)
        self.archival, self.quality = archival, quality
        self.packing = ThreadPoolExecutor(1)
        self.waiting: deque[Future[Packed | None]] = deque()
        self.runs = 0
        self.pages: list[tuple[tuple[float, float], Node]] = []
        self.layers: dict[LayerPath, None] = {}
        self.written: dict[Face, dict[int, str]] = {}

    def page(self, size: tuple[float, float], draw: Callable[[Canvas], None], layers: Layers) -> None:
        """Draw a page of a size in millimetres."""
        canvas = _PageCanvas(self, size, layers)
        try:
            draw(canvas)
        except BaseException:
            # What is open must be ended before the stream goes that it writes to: the library does not look whether it
            # is there.
            self.target.abort()
            self.packing.shutdown(cancel_futures=True)
            raise
        canvas.end_run()
        self.pages.append((size, canvas.nodes[0]))

    def packed(self, pixels: NDArray[np.uint8], place: tuple[float, float, float, float]) -> Future[Packed | None]:
        """A picture that is being packed."""
        while len(self.waiting) >= _WAITING:
            self.waiting.popleft().result()
        self.waiting.append(self.packing.submit(pack, pixels, place, self.quality))
        return self.waiting[-1]

    def bytes(self) -> bytes:
        """The whole file, after which nothing is drawn any more."""
        if not self.runs:
            self.target.beginPage(1, 1)
            self.target.endPage()
        self.target.close()
        pdf = pikepdf.open(io.BytesIO(bytes(self.stream.detachAsData())))
        Assembly(pdf, tuple(self.layers), self.written).put_together(self.pages)
        out = io.BytesIO()
        self.packing.shutdown()
        pdf.save(
            out, min_version="1.7" if self.archival else "1.5", object_stream_mode=pikepdf.ObjectStreamMode.generate
        )
        return out.getvalue()


class _PageCanvas(Passing):
    """Passes marks on to the run that they belong to. What moves or confines marks is said anew to each run."""

    of_pixels = False

    def __init__(self, document: Document, size: tuple[float, float], layers: Layers) -> None:
        self.document, self.size, self.layers = document, size, layers
        self.nodes = [Node()]
        self.groups: list[str] = []
        self.layer_path: LayerPath = ()
        self.within: list[Callable[[Any], AbstractContextManager[None]]] = []
        self.entered: list[AbstractContextManager[None]] = []
        self.run: SkiaCanvas | None = None
        self.held: Journal | None = None  # marks of a group that is laid down as a whole
        self.whole = 0  # groups that are open in which there are no layers
        self.joined = 0  # groups and masks that are open in a run, which is not to end before they do

    @property
    def canvas(self) -> Any:  # type: ignore[override]
        """The run that marks go to."""
        if self.held is not None:
            return self.held
        if self.run is None:
            canvas = self.document.target.beginPage(self.size[0] * POINTS, self.size[1] * POINTS)
            canvas.scale(POINTS, POINTS)
            self.run = SkiaCanvas(canvas, is_document=True)
            self.run.written = self.document.written
            for words in self.within:
                self._enter(words)
            self.nodes[-1].rows.append(self.document.runs)
            self.document.runs += 1
        return self.run

    def _enter(self, words: Callable[[Any], AbstractContextManager[None]]) -> None:
        assert self.run is not None
        self.entered.append(words(self.run))
        self.entered[-1].__enter__()

    def end_run(self) -> None:
        """What follows is another run."""
        if self.run is not None:
            while self.entered:
                self.entered.pop().__exit__(None, None, None)
            self.document.target.endPage()
            self.run = None

    @contextmanager
    def _confined(self, words: Callable[[Any], AbstractContextManager[None]]) -> Iterator[None]:
        if self.held is not None or self.joined:
            with words(self.canvas):
                yield
            return
        self.within.append(words)
        if self.run is not None:
            self._enter(words)
        yield
        self.within.pop()
        if self.run is not None:
            self.entered.pop().__exit__(None, None, None)

    @contextmanager
    def _in_run(self, words: Callable[[], AbstractContextManager[None]]) -> Iterator[None]:
        """Marks made inside stay in one run."""
        self.joined += 1
        try:
            with words():
                yield
        finally:
            self.joined -= 1

    def image(self, pixels: NDArray[np.uint8], x: float, y: float, width: float, height: float) -> None:
        if self.held is not None or self.joined:
            self.canvas.image(pixels, x, y, width, height)
            return
        journal = Journal()
        journal.image(pixels, x, y, width, height)
        self._picture(journal)

    def _picture(self, journal: Journal, opacity: float = 1.0, blend: str = "normal") -> None:
        """Lay down a picture, and nothing else, that a journal has."""
        self.end_run()
        operators = Operators()
        for words in self.within:
            words(operators).__enter__()
        journal.play(operators)  # type: ignore[arg-type]
        assert operators.picture is not None
        pixels, *place = operators.picture
        packed = self.document.packed(pixels, (place[0], place[1], place[2], place[3]))
        self.nodes[-1].rows.append(Picture(b" ".join(operators.rows), opacity, blend, packed))

    @contextmanager
    def _node(self, node: Node) -> Iterator[None]:
        self.end_run()
        self.nodes[-1].rows.append(node)
        self.nodes.append(node)
        yield
        self.end_run()
        self.nodes.pop()

    @contextmanager
    def group(self, name: str, opacity: float = 1.0, blend: str = "normal") -> Iterator[None]:
        if self.whole:
            if self.held is None and opacity >= 1 and blend == "normal":
                yield
                return
            with self._in_run(lambda: self.canvas.group(name, opacity, blend)):
                yield
            return
        self.groups.append(name)
        layer, deeper, outer = self.layers.layer(self.groups), self.layers.goes_deeper(self.groups), self.layer_path
        if layer:
            self.layer_path = (*outer, layer)
            self.document.layers.setdefault(self.layer_path)
        self.whole += not deeper
        plain = opacity >= 1 and blend == "normal"
        if layer and not deeper:
            with self._node(Node(self.layer_path)):
                yield from self._as_one(opacity, blend)
        elif layer or (not plain and deeper):
            with self._node(Node(self.layer_path if layer else (), opacity, blend)):
                yield
        elif deeper:
            yield
        else:
            yield from self._as_one(opacity, blend)
        self.whole -= not deeper
        self.layer_path = outer
        self.groups.pop()

    def _as_one(self, opacity: float, blend: str) -> Iterator[None]:
        """Marks that are laid down as a whole.
        One mark alone needs no group for that: readers of documents take long over groups that blend, the longer the
        more lies beneath.
        """
        if opacity >= 1 and blend == "normal":
            yield
            return
        self.held = Journal()
        yield
        held, self.held = self.held, None
        marks = [name for name, _ in held.rows if name not in _AROUND]
        # A mask, and a group that is faint or blends, are laid down as a whole themselves.
        whole = any(name == "mask" or (name == "group" and words[1:] != (1.0, "normal")) for name, words in held.rows)
        if marks == ["image"] and not whole:
            self._picture(held, opacity, blend)
        elif marks == ["fill"] and not whole:
            with self.canvas.laying(opacity, blend):
                held.play(self.canvas)
        elif marks:
            with self.canvas.group("", opacity, blend):
                held.play(self.canvas)

    def clip(self, x: float, y: float, width: float, height: float) -> AbstractContextManager[None]:
        return self._confined(lambda target: target.clip(x, y, width, height))

    def clip_path(self, path: Path, rule: Literal["evenodd", "nonzero"] = "evenodd") -> AbstractContextManager[None]:
        return self._confined(lambda target: target.clip_path(path, rule))

    def transform(self, matrix: Matrix) -> AbstractContextManager[None]:
        return self._confined(lambda target: target.transform(matrix))

    @contextmanager
    def mask(self, share: NDArray[np.uint8], x: float, y: float, width: float, height: float) -> Iterator[None]:
        # What a mask leaves of marks is one picture of them all.
        self.whole += 1
        with self._in_run(lambda: self.canvas.mask(share, x, y, width, height)):
            yield
        self.whole -= 1
