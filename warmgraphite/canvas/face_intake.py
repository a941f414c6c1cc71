"""Opening a file of type that came from elsewhere.

    python -m warmgraphite.canvas.face_intake FILE OUT NAME

writes the face to OUT as plain TrueType or OpenType, and tells what was found as a line of JSON.
"""

from __future__ import annotations

import hashlib
import sys
from pathlib import Path
from typing import Any

from fontTools.ttLib import TTFont, TTLibError

from warmgraphite.canvas.own_faces import MOST_UNPACKED
from warmgraphite.sandbox import answer_sandboxed


def _opened(source: Path, out: Path, name: str) -> dict[str, Any]:
    try:
        font = TTFont(source, recalcTimestamp=False)
        letters = font.getBestCmap()
        outlines = "glyf" in font or "CFF " in font or "CFF2" in font
        font.flavor = None
        if not letters or not outlines or "head" not in font or "hmtx" not in font:
            raise TTLibError("it has no letters")
        font.save(out)
        if out.stat().st_size > MOST_UNPACKED:
            return {
                "error": f"“{name}” unpacks to {out.stat().st_size / 1e6:.0f} MB of type, which is not taken in; take "
                f"another file of the face."
            }
        family, style = font["name"].getBestFamilyName(), font["name"].getBestSubFamilyName()
    except MemoryError:
        raise
    except Exception as error:  # the library raises whatever its parser meets
        return {
            "error": f"“{name}” is no file of type that can be read ({str(error)[:80]}); take a TTF, OTF or WOFF file."
        }
    called = " ".join(str(w) for w in (family, style if style != "Regular" else "") if w).strip()
    digest = hashlib.sha256(out.read_bytes()).hexdigest()[:32]
    return {
        "digest": digest,
        "ending": "ttf" if "glyf" in font else "otf",
        "name": called[:80] or "A face",
        "letters": len(letters),
    }


def main() -> None:
    """Open a file; what was wrong with it is said in the answer."""
    answer_sandboxed(lambda _tell: _opened(Path(sys.argv[1]), Path(sys.argv[2]), sys.argv[3]))


if __name__ == "__main__":
    main()
