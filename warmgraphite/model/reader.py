"""What reads one format of model files, and how it is recognised."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path

from warmgraphite.errors import ModelFileError
from warmgraphite.model.model import Model
from warmgraphite.model.units import UpAxis
from warmgraphite.progress import Stages

__all__ = ["Head", "Reader", "Told"]

#: Bytes by which a file is recognised.
LOOKED_AT = 4096


class Head:
    """How a file begins: by that, and not by its ending, its format is told."""

    def __init__(self, path: Path) -> None:
        self.path = path
        try:
            with path.open("rb") as file:
                self.bytes = file.read(LOOKED_AT)
        except OSError as error:
            raise ModelFileError(
                f"{path.name} cannot be opened ({error.strerror or error}); check that it is there."
            ) from error

    @cached_property
    def text(self) -> bytes:
        """What it begins with, without white space and the mark of its coding."""
        return self.bytes.lstrip(b"\xef\xbb\xbf \t\r\n")

    @cached_property
    def word(self) -> bytes:
        """Its first word."""
        return self.text.split(None, 1)[0] if self.text else b""

    @property
    def is_archive(self) -> bool:
        """Whether it is a zip archive, which some formats are."""
        return self.bytes[:4] == b"PK\x03\x04"


@dataclass(frozen=True)
class Told:
    """What was read of a file.
    Its ``model`` in the file's coordinates, metres of its unit, and which way is up, as far as the file says; ``notes``
    are sentences about what was left out. One that is in metres ``because`` of something is not looked at again.
    """

    model: Model
    metres: float | None = None
    up: UpAxis | None = None
    notes: tuple[str, ...] = ()
    because: str = ""


@dataclass(frozen=True)
class Reader:
    """A format.
    ``title`` is what a person knows it by; ``recognise`` says whether a file is one, and is asked in ``order``: what is
    told by less comes later. ``metres`` is whether the format itself, and not each file, says that it is in metres.
    """

    name: str
    title: str
    order: int
    recognise: Callable[[Head], bool]
    read: Callable[[Path, Stages], Told]
    metres: bool = False
    #: Whether what it says of its unit is never doubted, however large that makes a building.
    certain: bool = False
    #: Endings that its files have in an archive, with the models that are looked for in there.
    endings: tuple[str, ...] = ()
