"""Pictures from anywhere: a clean picture, or one sentence."""

from __future__ import annotations

import io
import struct
import zlib
from pathlib import Path

import numpy as np
import pytest
import skia
from PIL import Image, ImageCms

from warmgraphite.collage.pictures.intake import MOST_BYTES, taken
from warmgraphite.collage.pictures.kept import KeptPictures
from warmgraphite.errors import PictureError

RED = Image.new("RGB", (60, 40), "#d02010")
SVG = '<svg xmlns="http://www.w3.org/2000/svg" {} width="40mm" height="20mm" viewBox="0 0 40 20">{}<rect width="40" height="10" fill="#f00"/></svg>'


def written(image: Image.Image, kind: str, **said: object) -> bytes:
    out = io.BytesIO()
    image.save(out, kind, **said)
    return out.getvalue()


def pdf(extra: bytes = b"") -> bytes:
    stream = skia.DynamicMemoryWStream()
    document = skia.PDF.MakeDocument(stream)
    document.beginPage(200, 100).drawRect(skia.Rect.MakeXYWH(0, 0, 100, 100), skia.Paint(Color=0xFFFF0000))
    document.endPage()
    document.close()
    return bytes(stream.detachAsData()) + extra


def chunk(name: bytes, data: bytes) -> bytes:
    return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))


def pixels(data: bytes, name: str = "a") -> np.ndarray:
    return np.asarray(taken(data, name).picture)


def test_pictures_of_every_sort_come_in_as_plain_pixels() -> None:
    assert np.abs(pixels(written(RED, "PNG"))[20, 30].astype(int) - [208, 32, 16, 255]).max() == 0
    for kind in ("JPEG", "WEBP"):
        assert np.abs(pixels(written(RED, kind, quality=95))[20, 30].astype(int) - [208, 32, 16, 255]).max() < 6
    deep = Image.fromarray(np.full((20, 30), 65535 // 2, np.uint16))
    assert abs(int(pixels(written(deep, "PNG"))[5, 5, 0]) - 127) <= 1
    clear = RED.convert("RGBA")
    clear.putalpha(100)
    assert pixels(written(clear, "PNG"))[5, 5, 3] == 100
    print_ = taken(written(RED.convert("CMYK"), "JPEG", quality=95), "a")
    assert print_.notes and np.abs(np.asarray(print_.picture)[20, 30, :3].astype(int) - [208, 32, 16]).max() < 12
    moving = taken(written(RED, "WEBP", save_all=True, append_images=[Image.new("RGB", (60, 40), "#00ff00")]), "a")
    assert "first picture" in moving.notes[0]
    # Its orientation is applied, its profile honoured; nothing else of what was in the file is left.
    exif = Image.Exif()
    exif[0x0112], exif[0x010E] = 6, "somebody's name"
    turned = taken(written(RED, "JPEG", exif=exif), "a")
    assert turned.picture.size == (40, 60) and not turned.picture.getexif() and "exif" not in turned.picture.info
    lab = ImageCms.createProfile("LAB")
    assert "profile" in taken(written(RED, "PNG", icc_profile=ImageCms.ImageCmsProfile(lab).tobytes()), "a").notes[0]
    large = taken(written(Image.new("RGB", (9000, 40)), "PNG"), "a")
    assert max(large.picture.size) == 4096


def test_drawings_and_pages_come_in_as_they_look_and_do_nothing() -> None:
    plain = pixels(SVG.format("", "").encode())
    assert plain.shape == (1024, 2048, 4) and plain[200, 1000].tolist() == [255, 0, 0, 255] and plain[900, 1000, 3] == 0
    for inside in (
        "<script>fetch('http://192.0.2.1')</script>", '<image href="http://192.0.2.1/a.png" width="9" height="9"/>',
        '<image href="file:///etc/passwd" width="9" height="9"/>',
        '<foreignObject><b xmlns="http://www.w3.org/1999/xhtml">x</b></foreignObject>',
        '<rect onclick="x()" width="40" height="10" fill="#f00"/>',
        "<style>@import url(http://192.0.2.1/a.css);</style>",
        '<rect width="1" height="1" fill="url(http://192.0.2.1/a#b)"/>',
    ):  # fmt: skip
        found = taken(SVG.format("", inside).encode(), "a")
        assert "left out" in found.notes[0] and np.asarray(found.picture)[200, 1000].tolist() == [255, 0, 0, 255], (
            inside
        )
    script = b"\n1 0 obj << /Names << /JavaScript << /Names [(a) << /S /JavaScript /JS (app.alert(1)) >>] >> >> >>"
    for data in (pdf(), pdf(script)):
        found = pixels(data)
        assert found.shape[:2] == (1024, 2048) and found[500, 500].tolist() == [255, 0, 0, 255]


def test_type_in_a_drawing_is_not_drawn_and_that_is_said() -> None:
    said = taken(SVG.format("", "<g><text x='2' y='18'>Kiln <tspan>yard</tspan></text></g>").encode(), "a").notes
    assert any("as outlines" in n for n in said)
    assert (
        not taken(SVG.format("", "<text> </text>").encode(), "a").notes
        and not taken(SVG.format("", "").encode(), "a").notes
    )


def test_what_is_broken_too_large_or_no_picture_is_one_sentence(tmp_path: Path) -> None:
    png, jpeg = written(RED, "PNG"), written(RED, "JPEG")
    head = struct.pack(">IIBBBBB", 60000, 60000, 8, 2, 0, 0, 0)
    bomb = (
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0" * 4000)) + chunk(b"IEND", b"")
    )
    wide = struct.pack(">IIBBBBB", 12000, 9000, 8, 2, 0, 0, 0)
    entities = '<!DOCTYPE svg [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;">]><svg xmlns="http://www.w3.org/2000/svg" width="9" height="9">&b;</svg>'
    bad = {
        "is broken or cut off": [png[:90], jpeg[:300], pdf()[:60], b"%PDF-1.7 nothing"],
        "pixels": [bomb, b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", wide) + chunk(b"IDAT", b"x") + chunk(b"IEND", b"")],
        "no picture that is taken in": [b"", b"hello", written(RED.convert("P"), "GIF"), b"\x7fELF" + bytes(200)],
        "entities of its own": [entities.encode()],
        "no whole SVG": [b'<svg xmlns="http://www.w3.org/2000/svg" width="4"'],
        "how large it is": [b'<svg xmlns="http://www.w3.org/2000/svg"><rect width="4" height="4"/></svg>'],
        "shows nothing": [b'<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"/>'],
    }
    for said, rows in bad.items():
        for data in rows:
            with pytest.raises(PictureError, match=said) as told:
                taken(data, "my picture")
            assert (
                str(told.value).startswith("“my picture”")
                and str(told.value).endswith(".")
                and "\n" not in str(told.value)
            )
    with pytest.raises(PictureError, match="MB"):
        taken(b"\x89PNG" + bytes(MOST_BYTES), "a")
    # Any damage of any sort of file is a sentence or a picture, and never anything else.
    rng = np.random.default_rng(5)
    for good in (png, jpeg, written(RED, "WEBP"), SVG.format("", "").encode(), pdf()):
        for _ in range(60):
            harmed = bytearray(good)
            for place in rng.integers(0, len(harmed), 6):
                harmed[place] = rng.integers(256)
            try:
                assert (
                    taken(bytes(harmed[: rng.integers(len(harmed) // 2, len(harmed) + 1)]), "a").picture.mode == "RGBA"
                )
            except PictureError as error:
                assert str(error).endswith(".")
    # Taken in apart and kept once, whatever it is called.
    kept = KeptPictures(tmp_path / "stock")
    for name in ("one.png", "two.png"):
        (tmp_path / name).write_bytes(png)
    one, two = (kept.take_in(tmp_path / n, n) for n in ("one.png", "two.png"))
    assert one.digest == two.digest and len(list((tmp_path / "stock").glob("*.png"))) == 1
    assert kept.pixels(one.digest)[20, 30].tolist() == [208, 32, 16, 255] and kept.pixels("00") is None  # type: ignore[index]
    (tmp_path / "bad.png").write_bytes(png[:80])
    with pytest.raises(PictureError, match=r"“bad\.png” is broken"):
        kept.take_in(tmp_path / "bad.png", "bad.png")
