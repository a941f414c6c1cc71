"""A sheet that the stand-in photographed is found, laid straight and made clean.
Its lines come back, and nothing else.
"""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pytest
import skia
from PIL import Image, ImageOps
from scipy import ndimage

from tests.conftest import DEEP, deeper
from tests.core.test_windows import MODEL, QUIET, VIEW
from warmgraphite.collage.kinds.sketch import SketchTrace
from warmgraphite.collage.pictures.kept import KeptPictures
from warmgraphite.collage.pictures.phone import homography, photographed
from warmgraphite.collage.pictures.sheet import cleaned, found_corners
from warmgraphite.collage.pictures.specification import SheetSpec
from warmgraphite.drawing import Drawing, needs_of
from warmgraphite.ink.rules import Ink
from warmgraphite.sheet.write import write_drawing

LARGE = (2100, 1485)


def plate() -> np.ndarray:
    """A drawing with thick, thin and very thin lines, curves, a hatch and words, (h, w, 3)."""
    pixels = np.full((LARGE[1], LARGE[0], 4), 255, np.uint8)
    surface = skia.Surface.MakeRasterDirect(skia.ImageInfo.MakeN32Premul(*LARGE), pixels)
    canvas = surface.getCanvas()
    pen = lambda width, level=40: skia.Paint(AntiAlias=True, Color=skia.Color(level, level, level),
        Style=skia.Paint.kStroke_Style, StrokeWidth=width)  # fmt: skip
    canvas.drawRect(skia.Rect.MakeLTRB(300, 300, 1500, 1100), pen(7))
    for k in range(14):
        canvas.drawLine(330 + 80 * k, 330, 380 + 80 * k, 1080, pen(2.2 if k % 2 else 1.5, 60))
    for k in range(5):
        canvas.drawCircle(1720, 420 + 150 * k, 60, pen(3))
    for k in range(30):
        canvas.drawLine(420 + 12 * k, 1180, 360 + 12 * k, 1260, pen(1.6, 90))
    surface.flushAndSubmit()
    return pixels[..., 2::-1].copy()


def opened(data: bytes) -> np.ndarray:
    return np.asarray(ImageOps.exif_transpose(Image.open(io.BytesIO(data))).convert("RGBA"))  # type: ignore[union-attr]


def straight(found: np.ndarray, corners: np.ndarray, truth: np.ndarray) -> np.ndarray:
    """What was cleaned (h, w), put where it is on the sheet by where the corners really are.
    To judge lines, not corners.
    """
    height, width = found.shape
    own = np.array([[0, 0], [width, 0], [width, height], [0, height]], float)
    sheet = np.array([[0, 0], [LARGE[0], 0], [LARGE[0], LARGE[1]], [0, LARGE[1]]], float)
    matrix = homography(own, corners)
    back = homography(truth, sheet) @ matrix
    y, x = np.mgrid[: LARGE[1], : LARGE[0]] + 0.5
    inverse = np.linalg.inv(back)
    w = inverse[2, 0] * x + inverse[2, 1] * y + inverse[2, 2]
    at = [(inverse[r, 0] * x + inverse[r, 1] * y + inverse[r, 2]) / w - 0.5 for r in (1, 0)]
    return np.asarray(ndimage.map_coordinates(found.astype(float), at, order=1))


@pytest.mark.parametrize("seed", deeper([2], [1, 3, 7]))
def test_the_lines_of_a_photographed_plate_come_back(seed: int) -> None:
    drawn = plate()
    photograph = photographed(drawn, seed, (4000, 3000) if seed == 1 else (3000, 2250))
    picture = opened(photograph.data)
    corners = np.array(found_corners(picture))
    scale = np.array([picture.shape[1], picture.shape[0]])
    assert np.abs((corners - photograph.corners) * scale).max() < 5  # pixels of three thousand and more
    found = cleaned(picture, SheetSpec(corners=tuple(map(tuple, corners.tolist()))))  # type: ignore[arg-type]
    alpha = straight(found.pixels[..., 3], corners * scale, photograph.corners * scale)
    inked, there = alpha > 70, drawn.min(-1) < 150
    near = lambda mask, by: ndimage.binary_dilation(mask, iterations=by)
    recall = (there & near(inked, 3)).sum() / there.sum()
    precision = (inked & near(there, 3)).sum() / inked.sum()
    assert recall > 0.97 and precision > 0.97
    # Paper is nothing at all, however it was shaded; and lines are as wide as they were.
    assert (alpha[~near(there, 8)] < 8).mean() > 0.999
    assert inked.sum() == pytest.approx(there.sum(), rel=0.45)


def test_a_sheet_that_fills_the_picture_and_one_without_any_are_taken_whole() -> None:
    drawn = plate()
    whole = ((0.0, 0.0), (1.0, 0.0), (1.0, 1.0), (0.0, 1.0))
    assert found_corners(np.dstack([drawn, np.full(drawn.shape[:2], 255, np.uint8)])) == whole
    assert found_corners(np.full((40, 60, 4), 77, np.uint8)) == whole
    found = cleaned(np.full((200, 300, 4), 255, np.uint8), SheetSpec())
    assert not found.pixels[..., 3].any()


@pytest.mark.deep
def test_a_sketch_lies_on_the_drawing_as_pixels_and_as_vectors(tmp_path: Path) -> None:
    """Through the door as any picture, where its EXIF goes.
    Then its lines where they are on the sheet, within half a millimetre.
    """
    photograph = photographed(plate(), 3, (3000, 2250))
    (tmp_path / "photo.jpg").write_bytes(photograph.data)
    assert b"Pocket camera" in photograph.data
    pictures = KeptPictures(tmp_path / "stock")
    taken = pictures.take_in(tmp_path / "photo.jpg", "photo.jpg")
    assert b"Pocket" not in pictures.path(taken.digest).read_bytes() and (taken.width, taken.height) == (3000, 2250)
    pixels = pictures.pixels(taken.digest)
    assert pixels is not None
    corners = tuple(map(tuple, found_corners(pixels)))
    for as_ in ("drawn", "lines") if DEEP else ("lines",):
        trace = SketchTrace(
            id="s",
            name="S",
            picture=taken.digest,
            corners=corners,
            as_=as_,
            blend="normal",
            colour="#000000",
            lead="one tone",
        )  # type: ignore[arg-type]
        drawing = Drawing(MODEL, VIEW, (1600, 1120), ink=Ink(), pictures=pictures)
        drawing.compute(needs_of((trace,), drawing.ink))
        write_drawing(drawing.plate(), (trace,), QUIET, tmp_path / "a.svg")
        assert ("<image" in (tmp_path / "a.svg").read_text()) == (as_ == "drawn")
        write_drawing(drawing.plate(), (trace,), QUIET, tmp_path / "a.png", resolution=254)
        inked = np.asarray(Image.open(tmp_path / "a.png"))[..., 3] > 90
        there = np.asarray(Image.fromarray(plate()).resize((1600, 1120), Image.Resampling.BOX)).min(-1) < 170
        near = lambda mask: ndimage.binary_dilation(mask, iterations=5)
        assert (there & near(inked)).sum() > 0.95 * there.sum() and (inked & near(there)).sum() > 0.95 * inked.sum(), (
            as_
        )
