"""Files written whole or not at all."""

from __future__ import annotations

import os
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

__all__ = ["DRAFT", "whole"]

#: The ending of a file that is not whole yet: what has it was left by somebody who was killed, or is being written.
DRAFT = ".draft"


@contextmanager
def whole(path: Path) -> Iterator[Path]:
    """Gives a draft to write to, in the same folder, and puts it in the place of ``path`` when that was done; the folder is
    made where it is missing, and nothing is left of a draft that was not."""
    path.parent.mkdir(parents=True, exist_ok=True)
    draft = path.with_name(f".{uuid.uuid4().hex}{DRAFT}")
    try:
        yield draft
        os.replace(draft, path)
    finally:
        draft.unlink(missing_ok=True)
