"""The canvas as PDF (ISO 32000): marks as objects of the page, and groups as optional content, which a reader switches.

The graphics library writes marks, fonts and pictures, and knows no layers. So each run of marks of one layer is drawn as a page of its own; those
pages are then put together as forms, in their order, each within what says which layer it belongs to. Fonts are shared by all
pages of a document, so that nothing is written twice. Pictures that are laid down by themselves are packed here, beside the drawing of what
follows: the library takes as long over them as all else takes together.
"""

from __future__ import annotations

import io
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import AbstractContextManager, contextmanager, nullcontext
from dataclasses import dataclass, field
from typing import Any, Literal, Protocol

import numpy as np
import pikepdf
import skia
from numpy.typing import NDArray
from pikepdf import Array, Dictionary, Name, String

from warmgraphite.canvas.journal import Journal
from warmgraphite.canvas.lettering import postscript_name
from warmgraphite.canvas.packed import LOSSLESS, Packed, pack
from warmgraphite.canvas.passing import Passing
from warmgraphite.canvas.pixels import SkiaCanvas
from warmgraphite.canvas.protocol import Canvas, Face, Matrix, Path

__all__ = ["Document", "Layers"]

_POINTS = 72 / 25.4
#: Pictures that wait for being packed at most: each takes as much room as the drawing has pixels.
_WAITING = 2
#: What is no mark in a journal.
_AROUND = ("end", "group", "clip", "clip_path", "mask", "transform")
_MODES = {
    "normal": "Normal", "multiply": "Multiply", "screen": "Screen", "overlay": "Overlay", "darken": "Darken", "lighten": "Lighten",
    "color-dodge": "ColorDodge", "color-burn": "ColorBurn", "hard-light": "HardLight", "soft-light": "SoftLight",
    "difference": "Difference", "exclusion": "Exclusion", "hue": "Hue", "saturation": "Saturation", "color": "Color",
    "luminosity": "Luminosity",
}  # fmt: skip


class Layers(Protocol):
    """Tells which groups are layers; ``groups`` are the names of those that are open, from the outermost in."""

    def layer(self, groups: Sequence[str]) -> str:
        """What the layer of the innermost group is called; empty where it is none."""

    def goes_deeper(self, groups: Sequence[str]) -> bool:
        """Whether a layer may lie in the innermost group."""


#: Names of layers, from the outermost in.
LayerPath = tuple[str, ...]


@dataclass
class _Picture:
    """A picture that is laid down by itself, with an opacity and a blend mode, after the operators ``before``, which move and confine
    it."""

    before: bytes
    opacity: float
    blend: str
    packed: Future[Packed | None]


@dataclass
class _Node:
    """What lies on a page, from the lowest up: numbers of runs, pictures, and nodes that are laid down as a whole or switched."""

    layer: LayerPath = ()
    opacity: float = 1.0
    blend: str = "normal"
    rows: list[int | _Picture | _Node] = field(default_factory=list)

    @property
    def is_plain(self) -> bool:
        return self.opacity >= 1 and self.blend == "normal"

    @property
    def is_empty(self) -> bool:
        """Whether there is nothing to be laid down."""
        return all(isinstance(row, _Node) and row.is_empty for row in self.rows)


class Document:
    """A PDF that is being written. ``archival`` makes it one that is kept: PDF/A-2b (ISO 19005-2). ``quality`` is that of pictures; at
    100 each pixel is kept as it is."""

    def __init__(
        self, title: str, subject: str = "", keywords: str = "", archival: bool = False, quality: int = LOSSLESS
    ) -> None:
        self.stream = skia.DynamicMemoryWStream()
        about = skia.PDF.Metadata()
        about.fTitle, about.fSubject, about.fKeywords, about.fCreator = title, subject, keywords, "Warm Graphite"
        about.fProducer = "Warm Graphite"
        about.fPDFA = archival
        self.target = skia.PDF.MakeDocument(self.stream, about)
        self.archival, self.quality = archival, quality
        self.packing = ThreadPoolExecutor(1)
        self.waiting: deque[Future[Packed | None]] = deque()
        self.runs = 0
        self.pages: list[tuple[tuple[float, float], _Node]] = []
        self.layers: dict[LayerPath, None] = {}
        self.written: dict[Face, dict[int, str]] = {}

    def page(self, size: tuple[float, float], draw: Callable[[Canvas], None], layers: Layers) -> None:
        """Draw a page of a size in millimetres."""
        canvas = _PageCanvas(self, size, layers)
        try:
            draw(canvas)
        except BaseException:
            # What is open must be ended before the stream goes that it writes to: the library does not look whether it is there.
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
        _Assembly(pdf, self).put_together()
        out = io.BytesIO()
        self.packing.shutdown()
        pdf.save(out, min_version="1.7" if self.archival else "1.5", object_stream_mode=pikepdf.ObjectStreamMode.generate)
        return out.getvalue()


class _Assembly:
    """Puts the runs of a document together to pages."""

    def __init__(self, pdf: pikepdf.Pdf, document: Document) -> None:
        self.pdf, self.document = pdf, document
        self.top, self.box = 0.0, Array([])  # of the page that is put together
        self.run_pages = list(pdf.pages)
        self.contents: dict[LayerPath, Any] = {
            path: pdf.make_indirect(Dictionary(Type=Name.OCG, Name=String(path[-1]))) for path in document.layers
        }

    def put_together(self) -> None:
        pdf, count = self.pdf, len(self.run_pages)
        for size, node in self.document.pages:
            tops = [float(self.run_pages[n].mediabox[3]) for n in _runs_of(node)]
            # The library rounds pages to whole points and measures from their top: the boxes are the true ones.
            top = self.top = tops[0] if tops else size[1] * _POINTS
            box = self.box = Array([round(v, 4) for v in (0.0, top - size[1] * _POINTS, size[0] * _POINTS, top)])
            # All of a page is one group: else some readers draw anew all that lies beneath each mark that blends.
            own = Dictionary()
            content = self._content(node, own)
            form = pdf.make_stream(content, Type=Name.XObject, Subtype=Name.Form, BBox=box, Resources=own, Group=_blending())
            resources = Dictionary()
            content = self._form(form, resources)
            page = Dictionary(
                Type=Name.Page, MediaBox=box, CropBox=box, TrimBox=box, Resources=resources, Contents=pdf.make_stream(content),
                Group=_blending(),
            )  # fmt: skip
            pdf.pages.append(pikepdf.Page(pdf.make_indirect(page)))
        for _ in range(count):
            del pdf.pages[0]
        self._say_letters()
        if self.contents:
            pdf.Root.OCProperties = Dictionary(
                OCGs=Array(list(self.contents.values())),
                D=Dictionary(
                    Name=String("Layers"), Order=Array(self._order(())), ON=Array(list(self.contents.values())), OFF=Array([])
                ),
            )

    def _say_letters(self) -> None:
        """Say what letters the glyphs of each font stand for. The library knows that of glyphs that a letter has by itself, and not of those
        that take its place beside others: words with such a glyph could not be searched."""
        of_name = {postscript_name(face): said for face, said in self.document.written.items()}
        for thing in self.pdf.objects:
            if not isinstance(thing, Dictionary) or thing.get("/Subtype") != "/Type0" or "/ToUnicode" not in thing:
                continue
            said = of_name.get(str(thing.BaseFont)[1:].partition("+")[2])
            if said:
                thing.ToUnicode = self.pdf.make_stream(_letter_map(said))

    def _order(self, above: LayerPath) -> list[Any]:
        """The layers within another as a reader lists them, the uppermost first."""
        found: list[Any] = []
        for path in reversed(self.contents):
            if path[:-1] == above:
                found.append(self.contents[path])
                within = self._order(path)
                if within:
                    found.append(Array(within))
        return found

    def _content(self, node: _Node, resources: Dictionary) -> bytes:
        """The operators that lay down all of a node; what they name is put into the resources."""
        out: list[bytes] = []
        for row in node.rows:
            if isinstance(row, int):
                out.append(self._form(self.run_pages[row].as_form_xobject(), resources))
                continue
            if isinstance(row, _Picture):
                out.append(self._picture(row, resources))
                continue
            if row.layer:
                out.append(b"/OC /%s BDC" % self._named(resources, "Properties", self.contents[row.layer]).encode())
            out.append(self._content(row, resources) if row.is_plain else self._group(row, resources))
            if row.layer:
                out.append(b"EMC")
        return b"\n".join(out)

    def _group(self, node: _Node, resources: Dictionary) -> bytes:
        """A node that is laid down as a whole."""
        if node.is_empty:
            return b""
        own = Dictionary()
        content = self._content(node, own)
        form = self.pdf.make_stream(
            content, Type=Name.XObject, Subtype=Name.Form, BBox=self.box, Resources=own, Group=_blending()
        )
        return b"q %s %s Q" % (self._laid(node.opacity, node.blend, resources), self._form(form, resources))

    def _picture(self, row: _Picture, resources: Dictionary) -> bytes:
        """A picture that is laid down by itself."""
        found = row.packed.result()
        if found is None:
            return b""
        colour = {"ColorSpace": Name.DeviceRGB, "Filter": Name("/" + found.filter)}
        image = self._picture_of(found.colour, found.colour_size, colour)
        if found.alpha is not None:
            image.SMask = self._picture_of(found.alpha, found.size, {"ColorSpace": Name.DeviceGray, "Filter": Name.FlateDecode})
        x, y, width, height = found.place
        laid = b"" if row.opacity >= 1 and row.blend == "normal" else self._laid(row.opacity, row.blend, resources)
        return b"q %s %s %s %s %s Q" % (
            _matrix(_POINTS, 0, 0, -_POINTS, 0, self.top), row.before, laid, _matrix(width, 0, 0, -height, x, y + height),
            self._form(image, resources),
        )  # fmt: skip

    def _picture_of(self, data: bytes, size: tuple[int, int], about: dict[str, Any]) -> Any:
        return self.pdf.make_stream(
            data, Type=Name.XObject, Subtype=Name.Image, Width=size[0], Height=size[1], BitsPerComponent=8, **about
        )

    def _laid(self, opacity: float, blend: str, resources: Dictionary) -> bytes:
        """The operator after which marks are laid down with an opacity and a blend mode."""
        state = Dictionary(Type=Name.ExtGState, BM=Name("/" + _MODES[blend]), ca=opacity, CA=opacity)
        return b"/%s gs" % self._named(resources, "ExtGState", self.pdf.make_indirect(state)).encode()

    def _form(self, form: Any, resources: Dictionary) -> bytes:
        return b"/%s Do" % self._named(resources, "XObject", form).encode()

    def _named(self, resources: Dictionary, kind: str, thing: Any) -> str:
        if "/" + kind not in resources:
            resources["/" + kind] = Dictionary()
        found: Any = resources["/" + kind]
        name = f"{kind[0]}{len(found.keys())}"
        found["/" + name] = thing if getattr(thing, "is_indirect", False) else self.pdf.make_indirect(thing)
        return name


def _letter_map(said: dict[int, str]) -> bytes:
    """The map from glyphs to letters (ISO 32000-1, 9.10.3)."""
    rows = [f"<{glyph:04X}> <{letters.encode('utf-16-be').hex().upper()}>" for glyph, letters in sorted(said.items())]
    blocks = "\n".join(
        f"{len(part)} beginbfchar\n" + "\n".join(part) + "\nendbfchar"
        for part in (rows[k : k + 100] for k in range(0, len(rows), 100))
    )
    return (
        "/CIDInit /ProcSet findresource begin\n12 dict begin\nbegincmap\n/CIDSystemInfo << /Registry (Letters) /Ordering (UCS) /Supplement 0 >> def\n"
        "/CMapName /Letters-UCS def\n/CMapType 2 def\n1 begincodespacerange\n<0000> <FFFF>\nendcodespacerange\n"
        f"{blocks}\nendcmap\nCMapName currentdict /CMap defineresource pop\nend\nend\n"
    ).encode()


def _blending() -> Dictionary:
    """Marks blend in the screen's colours, whatever a printer has."""
    return Dictionary(Type=Name.Group, S=Name.Transparency, CS=Name.DeviceRGB, I=True)


def _runs_of(node: _Node) -> list[int]:
    return [n for row in node.rows for n in ([row] if isinstance(row, int) else _runs_of(row) if isinstance(row, _Node) else [])]


def _numbers(*values: float) -> bytes:
    return " ".join(f"{v:.6f}".rstrip("0").rstrip(".") for v in values).encode()


def _matrix(*values: float) -> bytes:
    return _numbers(*values) + b" cm"


class _Operators:
    """Takes down what moves and confines a picture, as operators of a page, and the picture."""

    def __init__(self) -> None:
        self.rows: list[bytes] = []
        self.picture: tuple[NDArray[np.uint8], float, float, float, float] | None = None

    def group(self, _name: str, _opacity: float = 1.0, _blend: str = "normal") -> AbstractContextManager[None]:
        return nullcontext()

    def clip(self, x: float, y: float, width: float, height: float) -> AbstractContextManager[None]:
        self.rows.append(_numbers(x, y, width, height) + b" re W n")
        return nullcontext()

    def clip_path(self, path: Path, rule: Literal["evenodd", "nonzero"] = "evenodd") -> AbstractContextManager[None]:
        said = {"M": b"m", "L": b"l", "C": b"c", "Z": b"h"}
        self.rows += [(_numbers(*numbers) + b" " + said[step]).strip() for step, numbers in path.steps]
        self.rows.append(b"W* n" if rule == "evenodd" else b"W n")
        return nullcontext()

    def transform(self, matrix: Matrix) -> AbstractContextManager[None]:
        self.rows.append(_matrix(*matrix))
        return nullcontext()

    def image(self, pixels: NDArray[np.uint8], x: float, y: float, width: float, height: float) -> None:
        self.picture = (pixels, x, y, width, height)


class _PageCanvas(Passing):
    """Passes marks on to the run that they belong to. What moves or confines marks is said anew to each run."""

    of_pixels = False

    def __init__(self, document: Document, size: tuple[float, float], layers: Layers) -> None:
        self.document, self.size, self.layers = document, size, layers
        self.nodes = [_Node()]
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
            canvas = self.document.target.beginPage(self.size[0] * _POINTS, self.size[1] * _POINTS)
            canvas.scale(_POINTS, _POINTS)
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
        with words():
            yield
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
        operators = _Operators()
        for words in self.within:
            words(operators).__enter__()
        journal.play(operators)  # type: ignore[arg-type]
        assert operators.picture is not None
        pixels, *place = operators.picture
        packed = self.document.packed(pixels, (place[0], place[1], place[2], place[3]))
        self.nodes[-1].rows.append(_Picture(b" ".join(operators.rows), opacity, blend, packed))

    @contextmanager
    def _node(self, node: _Node) -> Iterator[None]:
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
            with self._node(_Node(self.layer_path)):
                yield from self._as_one(opacity, blend)
        elif layer or (not plain and deeper):
            with self._node(_Node(self.layer_path if layer else (), opacity, blend)):
                yield
        elif deeper:
            yield
        else:
            yield from self._as_one(opacity, blend)
        self.whole -= not deeper
        self.layer_path = outer
        self.groups.pop()

    def _as_one(self, opacity: float, blend: str) -> Iterator[None]:
        """Marks that are laid down as a whole. One mark alone needs no group for that: readers of documents take long over groups that
        blend, the longer the more lies beneath."""
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
