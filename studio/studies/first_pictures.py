"""The pictures that come with the samples, so that no card is blank while they are drawn for the first time.

``python -m studio.studies.first_pictures`` draws them anew, each with a pass store of its own, and writes down what
they were drawn of: a digest of the samples and of all that computes them.
"""

from __future__ import annotations

import hashlib
import os
from pathlib import Path

import django

__all__ = ["first_picture", "out_of_date"]

ROOT = Path(__file__).resolve().parents[2]
FOLDER = ROOT / "demo" / "pictures"
#: The files that the samples come in, by the slug of their study.
SAMPLES = {"alder-weir-kiln-house": "alder-weir-kiln-house.glb", "saltern-steps": "saltern-steps.ifc"}


def _digest() -> str:
    """What the pictures are drawn of, and by."""
    found = hashlib.sha256()
    for folder in ("demo", "warmgraphite"):
        for file in sorted((ROOT / folder).rglob("*.py")):
            found.update(str(file.relative_to(ROOT)).encode() + b"\0" + file.read_bytes() + b"\0")
    return found.hexdigest()[:24]


def out_of_date() -> bool:
    """Whether the samples, or what draws them, changed since their pictures were drawn."""
    said = FOLDER / "drawn-of.txt"
    return not said.exists() or said.read_text().strip() != _digest()


def first_picture(slug: str, file: str, revision: int, view_id: str) -> bytes | None:
    """The picture of a view of a sample as it was laid out; none of anything that was changed."""
    path = FOLDER / f"{slug}-{view_id}.jpg"
    if revision != 1 or SAMPLES.get(slug) != file or not path.is_file():
        return None
    return path.read_bytes()


def draw() -> None:
    """Draw the samples' views small, as the worker does."""
    from studio.studies.desk import THUMBNAIL_PIXELS, store, tone_size, wanted
    from studio.studies.models import Study
    from warmgraphite.drawing import Drawing
    from warmgraphite.sheet.preview import LayerCache, compose, encode_jpeg

    for old in FOLDER.glob("*.jpg"):
        old.unlink()
    for slug in SAMPLES:
        study = Study.objects.select_related("head").get(slug=slug)
        document = study.document
        for saved in document.views:
            look, size = document.drawn_look(saved), tone_size(saved.view, THUMBNAIL_PIXELS)
            drawing = Drawing(study.model, saved.view, size, store(), ink=look)
            drawing.compute(wanted(look))
            picture = compose(drawing.plate(document.name), look.traces, saved.sheet, size, LayerCache())
            (FOLDER / f"{slug}-{saved.id}.jpg").write_bytes(encode_jpeg(picture, 88))
    (FOLDER / "drawn-of.txt").write_text(_digest() + "\n")


if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "studio.settings")
    django.setup()
    from studio.prepare import prepare

    prepare()
    draw()
