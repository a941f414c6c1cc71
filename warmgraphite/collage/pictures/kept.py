"""Pictures as they are kept: each once, by the hash of its pixels, as a PNG in one folder for all studies."""

from __future__ import annotations

import tempfile
import zipfile
import zlib
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from warmgraphite.atomic import is_whole_picture, make_folder, put
from warmgraphite.errors import PictureError
from warmgraphite.figures.bodies import height_of, read_body
from warmgraphite.memory import remembered
from warmgraphite.model.model import Model
from warmgraphite.progress import Stages, unwatched
from warmgraphite.regions.painted import KeptMasks
from warmgraphite.sandbox import SandboxError, run_sandboxed
from warmgraphite.vectors import Vectors

__all__ = ["KeptPictures", "TakenIn"]

SECONDS, MEGABYTES = 40, 3072
#: What takes pictures in, and what bodies.
_PICTURES, _BODIES = "warmgraphite.collage.pictures.intake", "warmgraphite.sheet.body_intake"


def is_body(path: Path) -> bool:
    """Whether a file is a model as GLB, by what it holds."""
    with path.open("rb") as file:
        return file.read(4) in (b"glTF", b"FTlg")


@dataclass(frozen=True)
class TakenIn:
    """A picture that was taken in.
    The ``digest`` that it is known by, what it was in, its size in pixels, what is worth a word, and where a sheet of
    paper lies in it, in shares of its width and height.
    """

    digest: str
    kind: str
    width: int
    height: int
    notes: tuple[str, ...]
    corners: tuple[tuple[float, float], ...] = ()


class KeptPictures:
    """The pictures in a folder."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def __eq__(self, other: object) -> bool:
        return isinstance(other, KeptPictures) and self.folder == other.folder

    def __hash__(self) -> int:
        return hash(self.folder)

    def path(self, digest: str) -> Path:
        """Where a picture is kept, or would be."""
        return self.folder / f"{digest}.png"

    def has(self, digest: str) -> bool:
        """Whether a picture is kept."""
        return bool(digest) and is_whole_picture(self.path(digest))

    def pixels(self, digest: str) -> NDArray[np.uint8] | None:
        """(h, w, 4) straight; ``None`` for one that is not kept here, or whose file is damaged.
        Not to be written to.
        """
        return _pixels(self.path(digest)) if self.has(digest) else None

    def is_damaged(self, digest: str) -> bool:
        """Whether what is kept of a picture is gone, cut off or cannot be read.
        As far as that can be told without reading all of it.
        """
        lines = self.lines_path(digest)
        return not is_whole_picture(self.path(digest)) or (lines.exists() and not zipfile.is_zipfile(lines))

    def lines_path(self, digest: str) -> Path:
        """Where the lines of a picture that was drawn with lines are kept."""
        return self.folder / f"{digest}.paths.npz"

    def lines(self, digest: str) -> Vectors | None:
        """The lines of a picture that came as a drawing; ``None`` for one that has none, or is not kept here."""
        return _lines(self.lines_path(digest)) if self.has(digest) and self.lines_path(digest).exists() else None

    def drawn_at(self, digest: str) -> float | None:
        """The n of 1:n that is written on a picture that came as a drawing, 0 where none is.
        ``None`` for one that has no lines. Of the lines themselves nothing is read.
        """
        path = self.lines_path(digest)
        if not path.exists():
            return None
        try:
            with np.load(path, allow_pickle=False) as found:
                return float(found["scale"][0])
        except (OSError, ValueError, KeyError, IndexError, EOFError, zipfile.BadZipFile, zlib.error):
            return 0.0  # harmed: it had lines, and says nothing of them any more

    def face_path(self, digest: str) -> str | None:
        """Where a face of one's own is kept; ``None`` where it is not."""
        found = next((p for end in ("ttf", "otf") if (p := self.folder / "faces" / f"{digest}.{end}").is_file()), None)
        return str(found) if found else None

    def body_path(self, digest: str) -> Path:
        """Where the body is kept that a picture is of."""
        return self.folder / f"{digest}.glb"

    def body(self, digest: str) -> Model | None:
        """The body that a picture is of; ``None`` for what is a picture alone, or is not kept here."""
        return read_body(self.body_path(digest)) if self.has(digest) and self.body_path(digest).exists() else None

    def tall(self, digest: str) -> float:
        """Metres that the body is tall which a picture is of; 0 for a picture alone."""
        return _tall(self.body_path(digest)) if self.body_path(digest).exists() else 0.0

    @property
    def masks(self) -> KeptMasks:
        """The painted masks that are kept with them."""
        return KeptMasks(self.folder / "masks")

    def take_in(self, path: Path, name: str, watch: Stages = unwatched) -> TakenIn:
        """Take a file in, in a process of its own, and keep its picture.
        Raises :class:`PictureError` with one sentence; whatever ``watch`` raises ends it.
        """
        make_folder(self.folder)
        with tempfile.TemporaryDirectory(prefix=".taking-", dir=self.folder) as room:
            draft = Path(room) / "picture.png"
            try:
                answer = run_sandboxed(
                    _BODIES if is_body(path) else _PICTURES, [str(path.resolve()), str(draft.resolve()), name],
                    Path(room), watch,
                    seconds=SECONDS, megabytes=MEGABYTES, quiet=True,
                )  # fmt: skip
            except SandboxError:
                raise PictureError(
                    f"“{name}” cannot be read: it is damaged, or needs more room or time than it may have; export it "
                    f"again, smaller."
                ) from None
            if "error" in answer:
                raise PictureError(str(answer["error"]))
            digest = str(answer["digest"])
            # The picture comes last: where it is, all that belongs to it is, too.
            for beside, place in ((".paths.npz", self.lines_path(digest)), (".glb", self.body_path(digest))):
                if draft.with_suffix(beside).exists():
                    put(draft.with_suffix(beside), place)
            put(draft, self.path(digest))
        corners = tuple((float(x), float(y)) for x, y in answer.get("corners", ()))
        return TakenIn(digest, answer["kind"], answer["width"], answer["height"], tuple(answer["notes"]), corners)


@remembered("pictures")
def _pixels(path: Path) -> NDArray[np.uint8] | None:
    try:
        with Image.open(path) as image:
            found = np.asarray(image.convert("RGBA"))
    except (OSError, SyntaxError, ValueError, zlib.error):  # what the library makes of a damaged file
        return None
    found.flags.writeable = False
    return found


@remembered("bodies of one's own")
def _tall(path: Path) -> float:
    model = read_body(path)
    return 0.0 if model is None else height_of(model)


@remembered("pictures drawn with lines")
def _lines(path: Path) -> Vectors:
    return Vectors.read(path)
