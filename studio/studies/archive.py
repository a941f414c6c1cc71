"""A study in one archive: its document, its model as it stands, and the pictures of the stock that it shows.

A zip of ``study.json``, ``model/state.json``, ``model/body.npz``, ``pictures/*.png`` with the lines of those that are
drawings, what was painted, as ``masks/*.json`` and ``masks/*.tile``, and faces of one's own as ``faces/*.ttf``. Its
history stays where it is. What comes from elsewhere is believed in nothing: names are those that are looked for, sizes
are limited, triangles must be of their own vertices, pictures are taken in like any.
"""

from __future__ import annotations

import json
import logging
import re
import shutil
import tempfile
import zipfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from django.conf import settings

from studio.sentences import no_room
from studio.stock.models import StockPicture, kept_pictures
from studio.studies.making import create_study
from studio.studies.models import Study, model_store, text_of
from warmgraphite import MADE_BY
from warmgraphite.atomic import atomic_write
from warmgraphite.canvas.own_faces import MOST_FACE, take_face
from warmgraphite.drawing import Drawing
from warmgraphite.errors import GraphiteError, ModelFileError, PictureError
from warmgraphite.formats import Format, as_it_was
from warmgraphite.model.checked import refuse_unsound, refuse_unsound_words
from warmgraphite.model.model import Model
from warmgraphite.model.store import STATE, load_model
from warmgraphite.study import StudyDocument, read_document
from warmgraphite.study.finish import read_finish
from warmgraphite.vectors import Vectors
from warmgraphite.view.kinds import kind_of

__all__ = ["ARCHIVE", "pack_finish", "pack_study", "unpack_finish", "unpack_study"]

log = logging.getLogger(__name__)

#: How an archive is written.
ARCHIVE = Format("archive", (as_it_was,))
#: Bytes that what is in an archive may have when it is unpacked, and its document.
MOST_UNPACKED, MOST_DOCUMENT = 2_000_000_000, 20_000_000
#: Bytes of one tile of a painted mask.
MOST_TILE = 100_000
_MASK, _TILE = re.compile(r"masks/([0-9a-f]{32})\.json"), re.compile("[0-9a-f]{32}")
_FACE = re.compile(r"faces/([0-9a-f]{32})\.(?:ttf|otf)")
_PICTURE = re.compile(r"pictures/([0-9a-f]{32})\.png")

Tell = Callable[[str, float], None]


def shown_pictures(text: str) -> set[str]:
    """The digests of pictures that a text of JSON names."""
    return set(re.findall(r'"(?:picture|above|slanting)": ?"([0-9a-f]{32})"', text))


def shown_masks(document: StudyDocument) -> set[str]:
    """The names of what was painted on any view of a study."""
    return {m.tiles for view in (document.desk.view, *(v.view for v in document.views)) for m in view.masks if m.tiles}


def shown_faces(text: str) -> set[str]:
    """The digests of faces of one's own that a text of JSON names."""
    return set(re.findall(r'"own-([0-9a-f]{32})"', text))


def pack_study(study: Study, path: Path, tell: Tell) -> None:
    """Write a study as an archive."""
    document, store, version = study.document, model_store(), study.model_version
    kept = kept_pictures()
    tell("Packing the model", 0.1)
    state = store.folder / f"{version}.json"
    model = store.load(version)
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED, compresslevel=3) as out:
        text = text_of(document)
        out.writestr(
            "study.json",
            json.dumps(
                {
                    "format": ARCHIVE.number,
                    "made_by": MADE_BY,
                    "study": document.model_dump(mode="json"),
                    "pictures": _pack_stock(out, text, lambda f: tell("Packing pictures", 0.5 + 0.5 * f)),
                }
            ),
        )
        out.writestr("model/state.json", state.read_text("utf-8"))
        out.write(store.folder / f"{model.body}.npz", "model/body.npz")
        files = {file for name in shown_masks(document) for file in kept.masks.files(name)}
        for file in sorted(files):
            out.write(file, f"masks/{file.name}", zipfile.ZIP_STORED)
    tell("", 1.0)


def _pack_stock(out: zipfile.ZipFile, text: str, tell: Callable[[float], None]) -> list[dict[str, Any]]:
    """Put all of the stock that a text of JSON names into an archive: pictures with their lines and bodies, faces.
    Gives what is said of the pictures.
    """
    kept = kept_pictures()
    rows = {r.digest: r for r in StockPicture.objects.filter(digest__in=shown_pictures(text))}
    for number, digest in enumerate(sorted(rows)):
        tell(number / len(rows))
        if kept.has(digest):
            out.write(kept.path(digest), f"pictures/{digest}.png", zipfile.ZIP_STORED)
        if kept.lines(digest) is not None:
            out.write(kept.lines_path(digest), f"pictures/{digest}.paths.npz", zipfile.ZIP_STORED)
        if kept.body_path(digest).exists():
            out.write(kept.body_path(digest), f"pictures/{digest}.glb", zipfile.ZIP_STORED)
    for face in sorted({kept.face_path(d) for d in shown_faces(text)} - {None}):  # type: ignore[type-var]
        out.write(str(face), f"faces/{Path(str(face)).name}", zipfile.ZIP_STORED)
    return [{"digest": r.digest, "name": r.name, "laid": r.laid} for r in rows.values()]


def pack_finish(text: str, path: Path, tell: Tell) -> None:
    """Write a finish, as the ``text`` of its file, with the stock that it shows, as an archive.
    ``finish.json`` and what it names.
    """
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED, compresslevel=3) as out:
        about = _pack_stock(out, text, lambda f: tell("Packing pictures", f))
        out.writestr("finish.json", text)
        out.writestr("stock.json", json.dumps({"format": ARCHIVE.number, "made_by": MADE_BY, "pictures": about}))
    tell("", 1.0)


def unpack_finish(path: Path, name: str, tell: Tell) -> str:
    """The text of the finish in an archive, after the stock that it shows was taken in.
    Raises :class:`GraphiteError` with one sentence.
    """
    with (
        _refusing(f"“{name}” is no whole archive of a finish, or was damaged, and was not taken in; pack it again."),
        _room() as room,
        zipfile.ZipFile(path) as archive,
    ):
        _refuse_large(archive, name)
        if "finish.json" not in archive.namelist() or archive.getinfo("finish.json").file_size > MOST_DOCUMENT:
            raise ModelFileError(f"“{name}” is no finish with its stock; choose one that was packed here.")
        text = archive.read("finish.json").decode("utf-8")
        read_finish(text, f"“{name}”")  # before anything of it is taken in
        try:
            about = json.loads(archive.read("stock.json"))
        except ValueError:
            about = None
        tell("Taking in pictures", 0.3)
        renamed = _pictures(archive, room, about if isinstance(about, dict) else {}, name) | _faces(archive, room)
    for old, new in renamed.items():
        text = text.replace(old, new)
    return text


def _refuse_large(archive: zipfile.ZipFile, name: str) -> None:
    if sum(i.file_size for i in archive.infolist()) > MOST_UNPACKED:
        raise ModelFileError(f"“{name}” unpacks to more than {MOST_UNPACKED // 1_000_000} MB, which is not taken in.")


def unpack_study(path: Path, name: str, tell: Tell, job: int | None = None) -> Study:
    """The study in an archive, as a new one.
    Raises :class:`GraphiteError` with one sentence; then nothing of it was kept but pictures.
    """
    with (
        _refusing(f"“{name}” is no whole archive of a study, or was damaged, and was not taken in; pack it again."),
        _room() as room,
    ):
        with zipfile.ZipFile(path) as archive:
            about = _about(archive, name)
            text = json.dumps(about["study"])
            read_document(json.loads(text))
            tell("Unpacking the model", 0.2)
            model = _model(archive, room, name)
            tell("Taking in pictures", 0.5)
            renamed = _pictures(archive, room, about, name) | _masks(archive, name) | _faces(archive, room)
        for old, new in renamed.items():
            text = text.replace(old, new)
        document = read_document(json.loads(text))
        kind_of(document.desk.view, model.focus)
        Drawing(model, document.desk.view, ink=document.drawn_look(document.on_desk)).key("frame")
    tell("Laying it on the desk", 0.9)
    return create_study(
        document.name, model, file={"name": name[:255], "job": job}, document=document, label="From an archive"
    )


@contextmanager
def _room() -> Iterator[Path]:
    with tempfile.TemporaryDirectory(prefix="archive-", dir=settings.DATA) as room:
        yield Path(room)


@contextmanager
def _refusing(sentence: str) -> Iterator[None]:
    """Whatever a damaged archive makes of those who read it comes to one sentence; a full disk is one of its own."""
    try:
        yield
    except (GraphiteError, MemoryError):
        raise
    except Exception as error:
        if no_room(error):
            raise
        log.warning("an archive was refused: %s: %s", type(error).__name__, error)
        raise ModelFileError(sentence) from None


def _about(archive: zipfile.ZipFile, name: str) -> dict[str, Any]:
    _refuse_large(archive, name)
    if "study.json" not in archive.namelist() or archive.getinfo("study.json").file_size > MOST_DOCUMENT:
        raise ModelFileError(f"“{name}” is no archive of a study; choose one that was packed here.")
    try:
        about = json.loads(archive.read("study.json"))
    except ValueError:
        about = None
    if not isinstance(about, dict) or not isinstance(about.get("study"), dict):
        raise ModelFileError(f"“{name}” is no archive of a study; choose one that was packed here.")
    return ARCHIVE.upgraded(about, f"“{name}”")


def _model(archive: zipfile.ZipFile, room: Path, name: str) -> Model:
    body = room / "body.npz"
    with archive.open("model/body.npz") as source, body.open("wb") as out:
        shutil.copyfileobj(source, out)
    about = STATE.upgraded(json.loads(archive.read("model/state.json")), f"“{name}”")
    refuse_unsound_words(about)
    model = load_model(body, about)
    refuse_unsound(model)
    return model


def _pictures(archive: zipfile.ZipFile, room: Path, about: dict[str, Any], name: str) -> dict[str, str]:
    """Take pictures in; gives what they are called here by what they were called there, where that differs."""
    said = {
        p["digest"]: p for p in about.get("pictures", []) if isinstance(p, dict) and isinstance(p.get("digest"), str)
    }
    renamed: dict[str, str] = {}
    names = set(archive.namelist())
    for entry in archive.infolist():
        match = _PICTURE.fullmatch(entry.filename)
        if not match:
            continue
        digest = match[1]
        # A body draws its own picture.
        body = f"pictures/{digest}.glb"
        draft = room / (f"{digest}.glb" if body in names else f"{digest}.png")
        with archive.open(body if body in names else entry) as source, draft.open("wb") as out:
            shutil.copyfileobj(source, out)
        one = said.get(digest, {})
        row = StockPicture.take_in(draft, f"{str(one.get('name') or 'Picture')[:60]}{draft.suffix}")
        if isinstance(one.get("laid"), dict) and not row.laid:
            try:
                row.change(laid=one["laid"])
            except GraphiteError:
                raise PictureError(
                    f"What “{name}” says of the picture “{row.name}” is damaged; pack the study again."
                ) from None
        if row.digest != digest:
            renamed[digest] = row.digest
        lines = f"pictures/{digest}.paths.npz"
        if lines in names and not kept_pictures().lines_path(row.digest).exists():
            path = room / "lines.npz"
            with archive.open(lines) as source, path.open("wb") as out:
                shutil.copyfileobj(source, out)
            with atomic_write(kept_pictures().lines_path(row.digest)) as kept, kept.open("wb") as out:
                Vectors.read(path).write(out)
    return renamed


def _masks(archive: zipfile.ZipFile, name: str) -> dict[str, str]:
    """Take in what was painted; gives what it is called here by what it was called there, where that differs."""
    there, renamed = {i.filename: i for i in archive.infolist()}, {}
    for path, entry in there.items():
        match = _MASK.fullmatch(path)
        if not match:
            continue
        try:
            if entry.file_size > MOST_DOCUMENT:
                raise ValueError("larger than any mask")
            rows = [
                (int(i), int(j), str(tile))
                for i, j, tile in json.loads(archive.read(entry))
                if _TILE.fullmatch(str(tile))
            ]
            if any(there[f"masks/{tile}.tile"].file_size > MOST_TILE for _, _, tile in rows):
                raise ValueError("larger than any tile")
            tiles = {(i, j): archive.read(f"masks/{tile}.tile") for i, j, tile in rows}
        except (ValueError, TypeError, KeyError):
            raise ModelFileError(f"A painted mask in “{name}” is damaged; pack the study again.") from None
        own = kept_pictures().masks.take_in(tiles)
        if own != match[1]:
            renamed[match[1]] = own
    return renamed


def _faces(archive: zipfile.ZipFile, room: Path) -> dict[str, str]:
    """Take faces in; gives what they are called here by what they were called there, where that differs."""
    renamed: dict[str, str] = {}
    for entry in archive.infolist():
        match = _FACE.fullmatch(entry.filename)
        if match and entry.file_size <= MOST_FACE:
            draft = room / "face"
            with archive.open(entry) as source, draft.open("wb") as out:
                shutil.copyfileobj(source, out)
            found = take_face(draft, "A face of the archive", kept_pictures().folder / "faces")
            if found.digest != match[1]:
                renamed[f"own-{match[1]}"] = f"own-{found.digest}"
    return renamed
