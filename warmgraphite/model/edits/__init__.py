"""What a person says of a model: each change is a small specification that makes a new state of it.
Found by being here, whatever file they are in.

The triangles are touched only by dropping, mending and reading in other units; everything else is said of parts,
materials and sets. Parts go by their number, which they keep for as long as the study lives.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from warmgraphite.catalogue import Catalogue, any_of, classes_in, name_of
from warmgraphite.model.edits._edit import Edit
from warmgraphite.model.model import Model

__all__ = ["EDITS", "ModelEdit", "label_of"]

#: Each edit by its name.
EDITS: Catalogue[type[Edit]] = Catalogue(lambda: classes_in(__name__, Edit, by="do"), lambda e: name_of(e, "do"))

if TYPE_CHECKING:
    ModelEdit = Edit
else:
    ModelEdit: Any = any_of(EDITS.values(), by="do")


def label_of(edit: Edit, model: Model) -> str:
    """What an edit is called beside Undo."""
    parts: tuple[int, ...] = getattr(edit, "parts", ())
    what = (
        f"“{model.parts[parts[0]].name[:40]}”"
        if len(parts) == 1 and 0 <= parts[0] < len(model.parts)
        else f"{len(parts):,} parts"
    )
    return edit.called(what)
