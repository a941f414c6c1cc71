"""Vector drawings from elsewhere, PDF and SVG, as lines in millimetres of their page.

An SVG is laid on a page of PDF first, so that there is one reader: a library that knows what a page shows. Nothing in a
file is run.
"""

from __future__ import annotations

import ctypes
import re
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
import skia
from numpy.typing import NDArray

from warmgraphite.errors import PictureError
from warmgraphite.geometry.ragged import firsts_of
from warmgraphite.geometry.tolerances import NEAR
from warmgraphite.svg_files import clean_svg

__all__ = ["Vectors", "read_vectors", "said_scale"]

#: Pieces of path of one drawing, and how deeply parts of it may be put into each other.
MOST, DEEPEST = 400_000, 12
#: Bytes of its lines.
MOST_BYTES = 200_000_000
#: Millimetres by which a line may leave the curve that it stands for.
FLAT = 0.003
_POINT = 25.4 / 72


@dataclass(frozen=True)
class Vectors:
    """Lines (L) in millimetres from the page's top left corner, y downwards.
    Points (V, 2), of line l those from ``first[l]`` to ``first[l + 1]``, the last of which is the first where it is
    closed. ``weight`` (L,) millimetres, 0 where it is not drawn along; ``colour`` (L, 3) of its stroke; ``path`` (L,)
    which path it is of; ``filled`` (L,) whether that is filled, with ``fill`` (L, 3). ``page`` (2,) is its width and
    height, ``scale`` (1,) the n of 1:n that is written on it, 0 where there is none.
    """

    points: NDArray[np.float64]
    first: NDArray[np.int64]
    weight: NDArray[np.float32]
    colour: NDArray[np.uint8]
    path: NDArray[np.int32]
    filled: NDArray[np.bool_]
    fill: NDArray[np.uint8]
    page: NDArray[np.float64]
    scale: NDArray[np.float64]

    def line(self, number: int) -> NDArray[np.float64]:
        """The points (n, 2) of a line."""
        return self.points[self.first[number] : self.first[number + 1]]

    def write(self, path: Path | BinaryIO) -> None:
        """Keep them in a file."""
        np.savez_compressed(path, **self.__dict__)

    @staticmethod
    def read(path: Path) -> Vectors:
        """From a file. Raises :class:`PictureError` for one that is damaged."""
        try:
            with zipfile.ZipFile(path) as packed:
                if sum(i.file_size for i in packed.infolist()) > MOST_BYTES:
                    raise ValueError("larger than any drawing that is read")
            with np.load(path, allow_pickle=False) as found:
                read = Vectors(**{n: found[n] for n in Vectors.__dataclass_fields__})
            lines = len(read.weight)
            sound = (
                read.points.ndim == 2 and read.points.shape[1] == 2 and bool(np.isfinite(read.points).all())
                    and len(read.first) == lines + 1
                and bool((np.diff(read.first) > 0).all()) and read.first[0] == 0 and read.first[-1] == len(read.points)
                and read.colour.shape == read.fill.shape == (lines, 3)
                    and read.path.shape == read.filled.shape == (lines,)
                and read.page.shape == (2,) and read.scale.shape == (1,)
            )  # fmt: skip
        except Exception:
            sound = False
        if not sound:
            raise PictureError("The lines of a picture are damaged; take the drawing in again.")
        return read


def said_scale(words: str) -> float:
    """The n of the first 1:n in a text, 0 where there is none."""
    found = re.search(r"(?<![\d.:,])1\s*[:_\-/]\s*(\d{1,5})(?!\d|[.,:]\d)", words)
    return float(found[1]) if found and int(found[1]) > 0 else 0.0


def read_vectors(data: bytes, name: str) -> Vectors:
    """The lines of the first page of a PDF, or of an SVG. Raises :class:`PictureError` with one sentence."""
    if data.lstrip()[:5] == b"%PDF-":
        return _of_pdf(data, name)
    drawn, page = _as_pdf(data, name)
    return replace(_of_pdf(drawn, name), page=np.array(page))


def _as_pdf(data: bytes, name: str) -> tuple[bytes, tuple[float, float]]:
    """A page of PDF with the drawing in its top left corner, and how large the drawing is in millimetres."""
    clean = clean_svg(data, name)
    own = clean.data
    drawn = skia.SVGDOM.MakeFromStream(skia.MemoryStream(own))
    if drawn is None:
        raise PictureError(f"“{name}” cannot be drawn; save it as plain SVG.")
    stream = skia.DynamicMemoryWStream()
    document = skia.PDF.MakeDocument(stream, skia.PDF.Metadata())
    times = 72 / 96
    # Whole points: the library rounds a page, and what lies on it does not move for that.
    page = document.beginPage(np.ceil(clean.width * times), np.ceil(clean.height * times))
    page.scale(times, times)
    drawn.setContainerSize(skia.Size.Make(clean.width, clean.height))
    drawn.render(page)
    document.endPage()
    document.close()
    return bytes(stream.detachAsData()), (clean.width * 25.4 / 96, clean.height * 25.4 / 96)


def _of_pdf(data: bytes, name: str) -> Vectors:
    import pypdfium2
    import pypdfium2.raw as raw

    try:
        document = pypdfium2.PdfDocument(data)
    except pypdfium2.PdfiumError:
        raise PictureError(f"“{name}” is broken, cut off or locked; export it again.") from None
    try:
        page = document[0]
        width, height = page.get_size()
        reader = _Reader(raw, name)
        reader.read(raw.FPDFPage_CountObjects(page), lambda k: raw.FPDFPage_GetObject(page, k), np.eye(3), 0)
        text = page.get_textpage().get_text_bounded()[:20_000]
    except (pypdfium2.PdfiumError, IndexError):
        raise PictureError(f"“{name}” is broken or cut off; export it again.") from None
    finally:
        document.close()
    flip = np.array([[_POINT, 0, 0], [0, -_POINT, height * _POINT], [0, 0, 1.0]])
    return reader.found(flip, (width * _POINT, height * _POINT), said_scale(text))


class _Reader:
    """Goes through what a page shows, and keeps its paths."""

    def __init__(self, raw: Any, name: str) -> None:
        self.raw, self.name, self.count, self.paths = raw, name, 0, 0
        self.lines: list[NDArray[np.float64]] = []
        self.rows: list[tuple[float, tuple[int, ...], int, bool, tuple[int, ...]]] = []

    def read(self, count: int, get: Any, matrix: NDArray[np.float64], depth: int) -> None:
        raw = self.raw
        for k in range(count):
            shown = get(k)
            sort = raw.FPDFPageObj_GetType(shown)
            if sort == raw.FPDF_PAGEOBJ_FORM and depth < DEEPEST:
                own = matrix @ self._matrix(shown)
                self.read(
                    raw.FPDFFormObj_CountObjects(shown),
                    lambda j, s=shown: raw.FPDFFormObj_GetObject(s, j),
                    own,
                    depth + 1,
                )
            elif sort == raw.FPDF_PAGEOBJ_PATH:
                self._path(shown, matrix @ self._matrix(shown))

    def _matrix(self, shown: Any) -> NDArray[np.float64]:
        m = self.raw.FS_MATRIX()
        if not self.raw.FPDFPageObj_GetMatrix(shown, m):
            return np.eye(3)
        return np.array([[m.a, m.c, m.e], [m.b, m.d, m.f], [0, 0, 1.0]])

    def _colour(self, get: Any, shown: Any) -> tuple[int, int, int]:
        r, g, b, a = (ctypes.c_uint() for _ in range(4))
        get(shown, r, g, b, a)
        share = a.value / 255
        return tuple(round(c.value * share + 255 * (1 - share)) for c in (r, g, b))  # type: ignore[return-value]

    def _path(self, shown: Any, matrix: NDArray[np.float64]) -> None:
        raw = self.raw
        fill, stroke, wide = ctypes.c_int(), ctypes.c_int(), ctypes.c_float()
        raw.FPDFPath_GetDrawMode(shown, fill, stroke)
        raw.FPDFPageObj_GetStrokeWidth(shown, wide)
        if not (fill.value or stroke.value):
            return
        pieces = list(self._pieces(shown))
        size = float(np.sqrt(abs(np.linalg.det(matrix[:2, :2]))))
        weight = max(wide.value * size * _POINT, 0.02) if stroke.value else 0.0
        colour = self._colour(raw.FPDFPageObj_GetStrokeColor, shown) if stroke.value else (0, 0, 0)
        inside = self._colour(raw.FPDFPageObj_GetFillColor, shown) if fill.value else (0, 0, 0)
        for line in pieces:
            points = np.array(line, float)
            if fill.value and not np.array_equal(points[0], points[-1]):
                points = np.concatenate([points, points[:1]])
            moved = points @ matrix[:2, :2].T + matrix[:2, 2]
            keep = np.append(True, np.abs(np.diff(moved, axis=0)).max(1) > NEAR)
            if keep.sum() > 1 and np.isfinite(moved).all() and np.abs(moved).max() < 1e6:
                self.lines.append(moved[keep])
                self.rows.append((weight, colour, self.paths, bool(fill.value), inside))
        self.paths += 1

    def _pieces(self, shown: Any) -> Iterator[list[tuple[float, float]]]:
        raw = self.raw
        x, y = ctypes.c_float(), ctypes.c_float()
        own: list[tuple[float, float]] = []
        handles: list[tuple[float, float]] = []
        total = raw.FPDFPath_CountSegments(shown)
        self.count += total
        if self.count > MOST:
            raise PictureError(
                f"“{self.name}” has more than {MOST:,} pieces of line; leave out what the drawing does not need."
            )
        for k in range(total):
            piece = raw.FPDFPath_GetPathSegment(shown, k)
            sort = raw.FPDFPathSegment_GetType(piece)
            raw.FPDFPathSegment_GetPoint(piece, x, y)
            at = (x.value, y.value)
            if sort == raw.FPDF_SEGMENT_MOVETO:
                if len(own) > 1:
                    yield own
                own, handles = [at], []
            elif sort == raw.FPDF_SEGMENT_LINETO:
                own.append(at)
            else:
                handles.append(at)
                if len(handles) == 3 and own:
                    own += _curve(own[-1], *handles)
                    handles = []
            if raw.FPDFPathSegment_GetClose(piece) and len(own) > 1:
                if own[-1] != own[0]:
                    own.append(own[0])
                yield own
                own = [own[0]]
        if len(own) > 1:
            yield own

    def found(self, matrix: NDArray[np.float64], page: tuple[float, float], scale: float) -> Vectors:
        lines = [line @ matrix[:2, :2].T + matrix[:2, 2] for line in self.lines]
        first = firsts_of(lines)
        rows = self.rows
        return Vectors(
            np.concatenate([np.empty((0, 2)), *lines]), first, np.array([r[0] for r in rows], np.float32),
            np.array([r[1] for r in rows], np.uint8).reshape(-1, 3), np.array([r[2] for r in rows], np.int32),
            np.array([r[3] for r in rows], bool), np.array([r[4] for r in rows], np.uint8).reshape(-1, 3),
            np.array(page), np.array([scale]),
        )  # fmt: skip


def _curve(
    a: tuple[float, float], b: tuple[float, float], c: tuple[float, float], d: tuple[float, float]
) -> list[tuple[float, float]]:
    """Points of a cubic curve after its first.
    They are so many that it is left nowhere by more than :data:`FLAT` (Wang's bound).
    """
    p = np.array([a, b, c, d])
    bend = float(np.abs(np.diff(p, 2, axis=0)).max()) * _POINT
    count = int(np.clip(np.ceil(np.sqrt(0.75 * bend / FLAT)), 1, 200))
    t = (np.arange(1, count + 1) / count)[:, None]
    at = (1 - t) ** 3 * p[0] + 3 * (1 - t) ** 2 * t * p[1] + 3 * (1 - t) * t**2 * p[2] + t**3 * p[3]
    return [(float(x), float(y)) for x, y in at]
