"""3MF, an archive of XML. Each file says its unit; +Z is up."""

from __future__ import annotations

import zipfile
from pathlib import Path

from warmgraphite.errors import ModelFileError
from warmgraphite.model.reader import Head, Reader, Told
from warmgraphite.model.xml_files import read_3mf
from warmgraphite.progress import Stages


def _read(path: Path, watch: Stages) -> Told:
    model, metres = read_3mf(path, watch)
    return Told(model, metres, "z")


def _is_3mf(head: Head) -> bool:
    if not head.is_archive:
        return False
    try:
        with zipfile.ZipFile(head.path) as found:
            return any(n.lower().endswith("3d/3dmodel.model") for n in found.namelist())
    except (zipfile.BadZipFile, OSError, ValueError) as error:
        raise ModelFileError(f"{head.path.name} is a damaged archive; pack the model anew and bring that.") from error


READER = Reader("3mf", "3MF", 30, _is_3mf, _read, endings=(".3mf",))
