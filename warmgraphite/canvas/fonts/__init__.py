"""The faces that drawings are lettered in, as files (SIL Open Font License, see OFL.txt)."""

from __future__ import annotations

from pathlib import Path

__all__ = ["FACES"]

_HERE = Path(__file__).parent

#: Face → (file, family name for formats that name their fonts, weight).
FACES: dict[str, tuple[Path, str, int]] = {
    "serif": (_HERE / "Fraunces-SemiBold.ttf", "Fraunces", 600),
    "sans": (_HERE / "HankenGrotesk-Regular.ttf", "Hanken Grotesk", 400),
    "hand": (_HERE / "ArchitectsDaughter-Regular.ttf", "Architects Daughter", 400),
}
