"""Zip archives with a model and its pictures: unpacked beside each other, never anywhere else, never without end."""

from __future__ import annotations

import zipfile
from pathlib import Path, PurePosixPath

from warmgraphite.errors import ModelFileError
from warmgraphite.model.readers import READERS

__all__ = ["unpack"]

#: What an archive may unpack to.
MOST_BYTES = 2_000_000_000
MOST_FILES = 5000
#: An archive that grows by more than this is made to fill a disk.
MOST_GROWTH = 200

_BESIDE = {".mtl", ".bin", ".png", ".jpg", ".jpeg", ".gif", ".webp", ".bmp", ".tif", ".tiff", ".tga"}


def unpack(path: Path, folder: Path) -> Path:
    """Unpack a model and what belongs to it into ``folder``; returns the model's path.

    Raises :class:`ModelFileError` for a damaged archive, names that lead out of it, contents without end, and when it
    holds no model or more than one.
    """
    wanted = {ending for reader in READERS.values() for ending in reader.endings}
    try:
        with zipfile.ZipFile(path) as archive:
            rows = [i for i in archive.infolist() if not i.is_dir() and not i.filename.startswith("__MACOSX/")]
            rows = [i for i in rows if PurePosixPath(i.filename.replace("\\", "/")).parts]  # “.” names nothing
            for row in rows:
                steps = PurePosixPath(row.filename.replace("\\", "/"))
                if steps.is_absolute() or ".." in steps.parts or ":" in steps.parts[0]:
                    raise ModelFileError(
                        f"{path.name} holds a file “{row.filename[:80]}” that leads out of the archive; pack the model "
                        f"anew."
                    )
            total = sum(i.file_size for i in rows)
            if (
                len(rows) > MOST_FILES
                or total > MOST_BYTES
                or total > 1_000_000 + MOST_GROWTH * max(path.stat().st_size, 1)
            ):
                raise ModelFileError(
                    f"{path.name} unpacks to {total:,} bytes in {len(rows):,} files, which no model needs; pack the "
                    f"model alone."
                )
            models = [i for i in rows if PurePosixPath(i.filename).suffix.lower() in wanted]
            if not models:
                raise ModelFileError(
                    f"{path.name} holds no model; pack one of {', '.join(sorted(wanted))} with its pictures."
                )
            if len(models) > 1:
                names = ", ".join(PurePosixPath(i.filename).name for i in models[:4])
                raise ModelFileError(f"{path.name} holds {len(models)} models ({names}); bring one at a time.")
            folder.mkdir(parents=True, exist_ok=True)
            for row in rows:
                name = PurePosixPath(row.filename.replace("\\", "/")).name
                if row is models[0] or Path(name).suffix.lower() in _BESIDE:
                    with archive.open(row) as source, (folder / name).open("wb") as out:
                        left = row.file_size
                        while left > 0 and (data := source.read(min(1 << 20, left))):
                            left -= len(data)
                            out.write(data)
            return folder / PurePosixPath(models[0].filename.replace("\\", "/")).name
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, OSError, EOFError, ValueError) as error:
        raise ModelFileError(
            f"{path.name} is a damaged or locked archive; pack the model anew and bring that."
        ) from error
    except zipfile.zlib.error as error:  # type: ignore[attr-defined]
        raise ModelFileError(f"{path.name} is a damaged archive; pack the model anew and bring that.") from error
