"""Runs of marks and pictures put together to pages of a PDF (ISO 32000).
Each lies within what says which layer it belongs to.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from concurrent.futures import Future
from contextlib import AbstractContextManager, contextmanager, nullcontext
from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np
import pikepdf
from numpy.typing import NDArray
from pikepdf import Array, Dictionary, Name, String

from warmgraphite.canvas.lettering import postscript_name
from warmgraphite.canvas.packed import Packed
from warmgraphite.canvas.protocol import Face, Matrix, Path

__all__ = ["POINTS", "Assembly", "LayerPath", "Node", "Operators", "Picture"]

POINTS = 72 / 25.4
_MODES = {
    "normal": "Normal", "multiply": "Multiply", "screen": "Screen", "overlay": "Overlay", "darken": "Darken",
    "lighten": "Lighten",
    "color-dodge": "ColorDodge", "color-burn": "ColorBurn", "hard-light": "HardLight", "soft-light": "SoftLight",
    "difference": "Difference", "exclusion": "Exclusion", "hue": "Hue", "saturation": "Saturation", "color": "Color",
    "luminosity": "Luminosity",
}  # fmt: skip
#: Names of layers, from the outermost in.
LayerPath = tuple[str, ...]


@dataclass
class Picture:
    """A picture that is laid down by itself.
    It has an opacity and a blend mode, after the operators ``before``, which move and confine it.
    """

    before: bytes
    opacity: float
    blend: str
    packed: Future[Packed | None]


@dataclass
class Node:
    """What lies on a page, from the lowest up.
    Numbers of runs, pictures, and nodes that are laid down as a whole or switched.
    """

    layer: LayerPath = ()
    opacity: float = 1.0
    blend: str = "normal"
    rows: list[int | Picture | Node] = field(default_factory=list)

    @property
    def is_plain(self) -> bool:
        return self.opacity >= 1 and self.blend == "normal"

    @property
    def is_empty(self) -> bool:
        """Whether there is nothing to be laid down."""
        return all(isinstance(row, Node) and row.is_empty for row in self.rows)


class Assembly:
    """Puts the runs of a document together to pages.
    ``layers`` are all that there are, and ``written`` says what each glyph of a face stands for.
    """

    def __init__(self, pdf: pikepdf.Pdf, layers: Sequence[LayerPath], written: Mapping[Face, dict[int, str]]) -> None:
        self.pdf, self.written = pdf, written
        self.top, self.box = 0.0, Array([])  # of the page that is put together
        self.run_pages = list(pdf.pages)
        self.contents: dict[LayerPath, Any] = {
            path: pdf.make_indirect(Dictionary(Type=Name.OCG, Name=String(path[-1]))) for path in layers
        }

    def put_together(self, pages: Sequence[tuple[tuple[float, float], Node]]) -> None:
        """Make of the document's own pages those of a size in millimetres.
        Its own are runs of marks; with what lies on each.
        """
        pdf, count = self.pdf, len(self.run_pages)
        for size, node in pages:
            tops = [float(self.run_pages[n].mediabox[3]) for n in _runs_of(node)]
            # The library rounds pages to whole points and measures from their top: the boxes are the true ones.
            top = self.top = tops[0] if tops else size[1] * POINTS
            box = self.box = Array([round(v, 4) for v in (0.0, top - size[1] * POINTS, size[0] * POINTS, top)])
            # All of a page is one group: else some readers draw anew all that lies beneath each mark that blends.
            own = Dictionary()
            content = self._content(node, own)
            form = pdf.make_stream(
                content, Type=Name.XObject, Subtype=Name.Form, BBox=box, Resources=own, Group=_blending()
            )
            resources = Dictionary()
            content = self._form(form, resources)
            page = Dictionary(
                Type=Name.Page, MediaBox=box, CropBox=box, TrimBox=box, Resources=resources,
                Contents=pdf.make_stream(content),
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
                    Name=String("Layers"),
                    Order=Array(self._order(())),
                    ON=Array(list(self.contents.values())),
                    OFF=Array([]),
                ),
            )

    def _say_letters(self) -> None:
        """Say what letters the glyphs of each font stand for.
        The library knows that of glyphs that a letter has by itself, and not of those that take its place beside
        others: words with such a glyph could not be searched.
        """
        of_name = {postscript_name(face): said for face, said in self.written.items()}
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

    def _content(self, node: Node, resources: Dictionary) -> bytes:
        """The operators that lay down all of a node; what they name is put into the resources."""
        out: list[bytes] = []
        for row in node.rows:
            if isinstance(row, int):
                out.append(self._form(self.run_pages[row].as_form_xobject(), resources))
                continue
            if isinstance(row, Picture):
                out.append(self._picture(row, resources))
                continue
            if row.layer:
                out.append(b"/OC /%s BDC" % self._named(resources, "Properties", self.contents[row.layer]).encode())
            out.append(self._content(row, resources) if row.is_plain else self._group(row, resources))
            if row.layer:
                out.append(b"EMC")
        return b"\n".join(out)

    def _group(self, node: Node, resources: Dictionary) -> bytes:
        """A node that is laid down as a whole."""
        if node.is_empty:
            return b""
        own = Dictionary()
        content = self._content(node, own)
        form = self.pdf.make_stream(
            content, Type=Name.XObject, Subtype=Name.Form, BBox=self.box, Resources=own, Group=_blending()
        )
        return b"q %s %s Q" % (self._laid(node.opacity, node.blend, resources), self._form(form, resources))

    def _picture(self, row: Picture, resources: Dictionary) -> bytes:
        """A picture that is laid down by itself."""
        found = row.packed.result()
        if found is None:
            return b""
        colour = {"ColorSpace": Name.DeviceRGB, "Filter": Name("/" + found.filter)}
        image = self._picture_of(found.colour, found.colour_size, colour)
        if found.alpha is not None:
            image.SMask = self._picture_of(
                found.alpha, found.size, {"ColorSpace": Name.DeviceGray, "Filter": Name.FlateDecode}
            )
        x, y, width, height = found.place
        laid = b"" if row.opacity >= 1 and row.blend == "normal" else self._laid(row.opacity, row.blend, resources)
        return b"q %s %s %s %s %s Q" % (
            _matrix(POINTS, 0, 0, -POINTS, 0, self.top), row.before, laid, _matrix(width, 0, 0, -height, x, y + height),
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
        "/CIDInit /ProcSet findresource begin\n12 dict begin\nbegincmap\n/CIDSystemInfo << /Registry (Letters) /"
        "Ordering (UCS) /Supplement 0 >> def\n"
        "/CMapName /Letters-UCS def\n/CMapType 2 def\n1 begincodespacerange\n<0000> <FFFF>\nendcodespacerange\n"
        f"{blocks}\nendcmap\nCMapName currentdict /CMap defineresource pop\nend\nend\n"
    ).encode()


def _blending() -> Dictionary:
    """Marks blend in the screen's colours, whatever a printer has."""
    return Dictionary(Type=Name.Group, S=Name.Transparency, CS=Name.DeviceRGB, I=True)


def _runs_of(node: Node) -> list[int]:
    return [
        n
        for row in node.rows
        for n in ([row] if isinstance(row, int) else _runs_of(row) if isinstance(row, Node) else [])
    ]


def _numbers(*values: float) -> bytes:
    return " ".join(f"{v:.6f}".rstrip("0").rstrip(".") for v in values).encode()


def _matrix(*values: float) -> bytes:
    return _numbers(*values) + b" cm"


class Operators:
    """Takes down what moves and confines a picture, as operators of a page, and the picture."""

    def __init__(self) -> None:
        self.rows: list[bytes] = []
        self.picture: tuple[NDArray[np.uint8], float, float, float, float] | None = None

    @contextmanager
    def _within(self, *rows: bytes) -> Iterator[None]:
        count = len(self.rows)
        self.rows += rows
        yield
        if self.picture is None:  # what ends before the picture says nothing of it
            del self.rows[count:]

    def group(self, _name: str, _opacity: float = 1.0, _blend: str = "normal") -> AbstractContextManager[None]:
        return nullcontext()

    def clip(self, x: float, y: float, width: float, height: float) -> AbstractContextManager[None]:
        return self._within(_numbers(x, y, width, height) + b" re W n")

    def clip_path(self, path: Path, rule: Literal["evenodd", "nonzero"] = "evenodd") -> AbstractContextManager[None]:
        said = {"M": b"m", "L": b"l", "C": b"c", "Z": b"h"}
        steps = [(_numbers(*numbers) + b" " + said[step]).strip() for step, numbers in path.steps]
        return self._within(*steps, b"W* n" if rule == "evenodd" else b"W n")

    def transform(self, matrix: Matrix) -> AbstractContextManager[None]:
        return self._within(_matrix(*matrix))

    def image(self, pixels: NDArray[np.uint8], x: float, y: float, width: float, height: float) -> None:
        self.picture = (pixels, x, y, width, height)
