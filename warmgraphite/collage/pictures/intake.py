"""Taking pictures in: PNG, JPEG, WebP, SVG and PDF from anywhere.
They become plain pixels without anything else that was in the file.

    python -m warmgraphite.collage.pictures.intake FILE OUT

writes them to OUT as PNG, and tells what was found as a line of JSON; see
:func:`warmgraphite.collage.pictures.kept.take_in`, which runs it apart.
"""

from __future__ import annotations

import hashlib
import io
import sys
import warnings
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image, ImageCms, ImageOps, UnidentifiedImageError
from PIL.Image import Image as Picture

from warmgraphite.collage.pictures.sheet import found_corners
from warmgraphite.errors import PictureError
from warmgraphite.progress import Stages
from warmgraphite.sandbox import answer_sandboxed
from warmgraphite.svg_files import clean_svg, plain
from warmgraphite.vectors import read_vectors

__all__ = ["KINDS", "MOST_BYTES", "MOST_PIXELS", "Taken", "taken"]

#: What is taken in, by what it is called.
KINDS = {"PNG": "PNG", "JPEG": "JPEG", "WEBP": "WebP", "SVG": "SVG", "PDF": "PDF"}
#: The largest file and the most pixels that are taken in, the longest side that is kept, and that of what has no
#: pixels.
MOST_BYTES, MOST_PIXELS, LONGEST, DRAWN = 60_000_000, 80_000_000, 4096, 2048
_MEGA = 1_000_000


@dataclass(frozen=True)
class Taken:
    """A picture with red, green, blue and alpha, what it was in, and what is worth a word."""

    picture: Picture
    kind: str
    notes: tuple[str, ...]


def taken(data: bytes, name: str) -> Taken:
    """The picture in a file.
    Raises :class:`PictureError` with one sentence for what is none, is broken, or is too large.
    """
    if len(data) > MOST_BYTES:
        raise PictureError(
            f"“{name}” has {len(data) / _MEGA:.0f} MB; {MOST_BYTES // _MEGA} MB are taken in: make it smaller."
        )
    head = data[:1024].lstrip(b"\xef\xbb\xbf\0 \t\r\n")
    if head.startswith(b"%PDF-"):
        return _of_pdf(data, name)
    if head.startswith(b"<") and b"<svg" in data[:20_000].lower():
        return _of_svg(data, name)
    return _of_pixels(data, name)


def _of_pixels(data: bytes, name: str) -> Taken:
    notes = []
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # of a bomb we speak ourselves
            image = Image.open(io.BytesIO(data), formats=("PNG", "JPEG", "WEBP"))
        _refuse_many(*image.size, name)
        kind = KINDS[str(image.format)]
        if getattr(image, "n_frames", 1) > 1:
            notes.append("It moves; its first picture was taken.")
            image.seek(0)
        if kind == "JPEG":
            image.draft("RGB", (LONGEST, LONGEST))  # a quarter of the work for what is kept smaller anyway
        image.load()
    except PictureError:
        raise
    except Image.DecompressionBombError:
        raise PictureError(f"“{name}” has more pixels than are taken in; make it smaller.") from None
    except UnidentifiedImageError:
        raise PictureError(
            f"“{name}” is no picture that is taken in; bring a PNG, JPEG, WebP, SVG or PDF, or a body as GLB."
        ) from None
    except (OSError, ValueError, SyntaxError, EOFError, MemoryError) as error:
        raise PictureError(f"“{name}” is broken or cut off ({plain(error)}); export it again.") from None
    profile = image.info.get("icc_profile")
    turned = ImageOps.exif_transpose(image) or image
    found = _in_srgb(_eight_bits(turned), profile, notes)
    return Taken(_sized(found), kind, tuple(notes))


def _refuse_many(width: int, height: int, name: str) -> None:
    if width * height > MOST_PIXELS:
        raise PictureError(
            f"“{name}” has {width} × {height} pixels; {MOST_PIXELS // _MEGA} million are taken in: make it smaller."
        )
    if width < 2 or height < 2:
        raise PictureError(f"“{name}” has {width} × {height} pixels, which is no picture; choose another.")


def _eight_bits(image: Picture) -> Picture:
    """The picture with eight bits a channel, its colours still of its own profile."""
    if image.mode in ("I", "F", "I;16", "I;16B", "I;16L", "I;16N"):
        values = np.asarray(image, np.float64)
        low, high = (
            (0.0, 65535.0)
            if image.mode != "F" and values.max(initial=0) > 255
            else (0.0, max(values.max(initial=1), 1.0))
        )
        return Image.fromarray(np.clip((values - low) / (high - low) * 255, 0, 255).astype(np.uint8))
    if image.mode in ("P", "PA", "1", "LA", "La", "RGBa") or "transparency" in image.info:
        return image.convert("RGBA")
    return image


def _in_srgb(image: Picture, profile: bytes | None, notes: list[str]) -> Picture:
    alpha = image.getchannel("A") if "A" in image.getbands() else None
    bare = image if alpha is None else image.convert("RGB")
    if profile:
        try:
            own = ImageCms.ImageCmsProfile(io.BytesIO(profile))
            bare = ImageCms.profileToProfile(bare, own, ImageCms.createProfile("sRGB"), outputMode="RGB") or bare
        except (ImageCms.PyCMSError, OSError, ValueError):
            notes.append("Its colour profile is broken and was left out.")
    elif bare.mode == "CMYK":
        notes.append("It is in CMYK without a profile; its colours were guessed.")
    found = bare.convert("RGB")
    found.putalpha(alpha if alpha is not None else Image.new("L", found.size, 255))
    # Pixels and nothing else: no profile that is not its own any more, nobody's name, no place.
    return Image.frombytes("RGBA", found.size, found.tobytes())


def _sized(image: Picture) -> Picture:
    if max(image.size) > LONGEST:
        image = image.copy()
        image.thumbnail((LONGEST, LONGEST), Image.Resampling.LANCZOS)
    return image


def _of_svg(data: bytes, name: str) -> Taken:
    clean = clean_svg(data, name)
    return Taken(_drawn_svg(clean.data, clean.width, clean.height, name), "SVG", clean.notes)


def _drawn_svg(data: bytes, width: float, height: float, name: str) -> Picture:
    import skia

    times = DRAWN / max(width, height)
    size = (max(2, round(width * times)), max(2, round(height * times)))
    document = skia.SVGDOM.MakeFromStream(skia.MemoryStream(data))
    if document is None:
        raise PictureError(f"“{name}” cannot be drawn; save it as plain SVG.")
    surface = skia.Surface.MakeRaster(skia.ImageInfo.MakeN32Premul(*size))
    canvas = surface.getCanvas()
    canvas.clear(0)
    canvas.scale(times, times)
    document.setContainerSize(skia.Size.Make(width, height))
    document.render(canvas)
    pixels = surface.makeImageSnapshot().toarray(colorType=skia.kRGBA_8888_ColorType)
    if not pixels[..., 3].any():
        raise PictureError(f"“{name}” shows nothing; see whether its drawing lies within its page.")
    return Image.fromarray(pixels, "RGBA")


def _of_pdf(data: bytes, name: str) -> Taken:
    import pypdfium2

    try:
        document = pypdfium2.PdfDocument(data)
    except pypdfium2.PdfiumError as error:
        locked = "password" in str(error).lower()
        why = "is locked with a password; save it without one" if locked else "is broken or cut off; export it again"
        raise PictureError(f"“{name}” {why}.") from None
    notes = []
    try:
        if len(document) < 1:
            raise PictureError(f"“{name}” has no page; export it again.")
        if len(document) > 1:
            notes.append(f"It has {len(document)} pages; the first was taken.")
        page = document[0]
        width, height = page.get_size()
        if not (0 < width < 1e5 and 0 < height < 1e5):
            raise PictureError(f"“{name}” does not say how large its page is; export it again.")
        # Nothing in it is run: forms and scripts are not asked for.
        bitmap = page.render(scale=DRAWN / max(width, height), may_draw_forms=False, fill_color=(255, 255, 255, 0))
        image = bitmap.to_pil().convert("RGBA")
    except pypdfium2.PdfiumError:
        raise PictureError(f"“{name}” is broken or cut off; export it again.") from None
    finally:
        document.close()
    return Taken(image, "PDF", tuple(notes))


def _take(source: Path, out: Path, name: str, tell: Stages) -> dict[str, Any]:
    tell("Opening the picture", 0.1)
    try:
        found = taken(source.read_bytes(), name)
    except PictureError as error:
        return {"error": str(error)}
    tell("Keeping the picture", 0.6)
    found.picture.save(out, "PNG", compress_level=4)
    if found.kind in ("SVG", "PDF"):
        tell("Following its lines", 0.8)
        vectors = read_vectors(source.read_bytes(), name)
        if len(vectors.weight):
            vectors.write(out.with_suffix(".paths.npz"))
    tell("Looking for a sheet in it", 0.9)
    corners = found_corners(np.asarray(found.picture.convert("RGBA")))
    width, height = found.picture.size
    # Of the pixels, and not of the file: whatever packs them closer one day, they are the same picture.
    digest = hashlib.sha256(f"{width} {height} ".encode() + found.picture.tobytes()).hexdigest()[:32]
    return {
        "digest": digest,
        "kind": found.kind,
        "notes": found.notes,
        "width": width,
        "height": height,
        "corners": corners,
    }


def main() -> None:
    """Take a file in; what was wrong with it is said in the answer."""
    answer_sandboxed(lambda tell: _take(Path(sys.argv[1]), Path(sys.argv[2]), sys.argv[3], tell))


if __name__ == "__main__":
    main()
