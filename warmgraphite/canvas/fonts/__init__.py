"""The faces that drawings are lettered in, as files (SIL Open Font License, see OFL.txt), and those of one's own."""

from __future__ import annotations

from pathlib import Path
from typing import NamedTuple

from fontTools.ttLib import TTFont

from warmgraphite.memory import remembered

__all__ = ["FACES", "FaceFile", "face_file"]

_HERE = Path(__file__).parent


class FaceFile(NamedTuple):
    """A face: its file, and the family, weight and style that formats know it by which name their fonts."""

    path: Path
    family: str
    weight: int = 400
    style: str = "normal"


FACES: dict[str, FaceFile] = {
    "serif": FaceFile(_HERE / "Fraunces-SemiBold.ttf", "Fraunces", 600),
    "sans": FaceFile(_HERE / "HankenGrotesk-Regular.ttf", "Hanken Grotesk"),
    "hand": FaceFile(_HERE / "ArchitectsDaughter-Regular.ttf", "Architects Daughter"),
    "italic": FaceFile(_HERE / "Fraunces-Italic.ttf", "Fraunces", 400, "italic"),
}


def face_file(face: str) -> FaceFile:
    """A face by its name, or by the path of its file; the plain one where that is not there (any more, or yet)."""
    if face in FACES:
        return FACES[face]
    path = Path(face)
    return _told(path) if path.is_file() else FACES["sans"]


@remembered("typefaces")
def _told(path: Path) -> FaceFile:
    with TTFont(path, lazy=True) as font:
        about = font["OS/2"]
        family = str(font["name"].getBestFamilyName() or path.stem)
        return FaceFile(path, family, int(about.usWeightClass), "italic" if about.fsSelection & 1 else "normal")
