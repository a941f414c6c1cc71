"""Kinds of view as an illustrator names them, one module each, found by being here; all reduce to the view file.

A kind says how one looks; it leaves the parts, the sun and the paper of a view alone. A plan and a section bring the
one cut that makes them what they are, under a name of its own, and leave all other cuts.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

import numpy as np
from pydantic import TypeAdapter

from warmgraphite.catalogue import Catalogue, any_of, classes_in, name_of
from warmgraphite.errors import ViewError
from warmgraphite.geometry.tolerances import NEAR, ROUNDING
from warmgraphite.specification import valid
from warmgraphite.view.kinds._kind import KIND_CUT, Box, Kind, Outlook, level, own_cut, same_plane, tidy, unit_normal
from warmgraphite.view.specification import Cut, Parallel, ViewSpecification
from warmgraphite.view.surfaces import axes_in

__all__ = ["KINDS", "KIND_LABELS", "ViewKind", "begun", "kind_of", "of_kind", "other_cuts", "usual_views"]

#: Each kind by its name, in the order in which they are offered.
KINDS: Catalogue[type[Kind]] = Catalogue(lambda: classes_in(__name__, Kind), name_of, lambda kind: kind.order)

if TYPE_CHECKING:
    ViewKind = Kind
else:
    ViewKind: Any = any_of(KINDS.values())

_ANY: TypeAdapter[Kind] = TypeAdapter(ViewKind)
#: What each kind is called.
KIND_LABELS: dict[str, str] = {name: name.replace("'", "’") for name in KINDS}
#: The kinds in the order in which a view is asked whether it is one.
_ASKED = sorted(KINDS.values(), key=lambda kind: kind.general)


def usual_views(box: Box) -> list[ViewSpecification] | None:
    """The views that a study of what lies in a box (2, 3) begins with, where they are not those of any model.
    A flat drawing is looked at from above.
    """
    size = box[1] - box[0]
    if size[2] > ROUNDING * max(float(size.max()), 1.0):
        return None
    return [ViewSpecification(name="Drawing", projection=Parallel(direction=(0, 0, -1), up=(0, 1, 0)))]


def begun(name: str, view: ViewSpecification, box: Box, floors: Sequence[float] = ()) -> ViewKind:
    """Another kind for a view, set up as the trade usually does.
    It looks the way that the view looked, as nearly as the kind can, and a section stands where the view is cut
    already, else in the middle. ``floors`` are the storeys' heights, from below. Raises :class:`ViewError` for a kind
    that is none.
    """
    made = KINDS.get(name)
    if made is None:
        raise ViewError(f"“{name[:60]}” is no kind of view; choose one of {', '.join(KIND_LABELS)}.")
    now = kind_of(view, box)
    bearing = float(getattr(now, "bearing", getattr(now, "corner", 0)))
    settings: dict[str, Any] = {}
    if "corner" in made.model_fields:
        settings["corner"] = (45, 135, 225, 315)[int(bearing % 360 // 90)]
    if "bearing" in made.model_fields:
        square = round(bearing / 90) * 90 % 360
        near = abs((bearing + 45) % 90 - 45) < 1
        bearing = square if made.straight else (bearing + 30) % 360 if near else bearing
        settings["bearing"] = bearing
    if "storey" in made.model_fields:
        cut = now.storey + getattr(now, "height", 0.0) if hasattr(now, "storey") else -math.inf
        lowest = floors[0] if floors else tidy(box[0, 2])
        settings["storey"] = max((z for z in floors if z <= cut + NEAR), default=lowest)
    if "eye_height" in made.model_fields and not box[0, 2] <= 0 <= box[1, 2]:
        # The model's zero is not this building's: it stands at its height above the sea, and the eye does so with it.
        ground = floors[0] if floors else tidy(box[0, 2])
        settings["eye_height"] = tidy(ground + made.model_fields["eye_height"].default)
    if "place" in made.model_fields:
        way = level(bearing)
        standing = [c for c in view.cuts if c.role == "cut" and np.allclose(unit_normal(c), -way, atol=NEAR)]
        middle = round(float(box.mean(0) @ way), 2)
        settings["place"] = getattr(
            now, "place", tidy(float(np.array(standing[0].point) @ way)) if standing else middle
        )
    with valid("This kind of view"):
        return _ANY.validate_python({"kind": name, **settings})


def of_kind(view: ViewSpecification, kind: ViewKind, box: Box, scale: float | None = None) -> ViewSpecification:
    """The view as another kind of it.
    ``box`` (2, 3) bounds what is drawn, in metres; ``scale`` stands in for an absent one where the kind needs a scale.
    """
    with valid("This kind of view"):
        return _reduced(view, kind, box, scale)


def _reduced(view: ViewSpecification, kind: ViewKind, box: Box, scale: float | None) -> ViewSpecification:
    brought = kind.cut()
    # The cut that made the view what it was goes with that; one in the very place of the new one is that one.
    made = own_cut(view)
    gone = made if made is not None and (made.name == KIND_CUT or kind_of(view, box).cut() is not None) else None
    if (
        made is not None
        and made.jogs
        and brought is not None
        and np.allclose(unit_normal(made), unit_normal(brought), atol=NEAR)
    ):
        # The steps of a section go with it, each in its place along the trace.
        start = float((np.array(made.point) - brought.point) @ axes_in(unit_normal(brought))[0])
        jogs = tuple(jog.model_copy(update={"at": tidy(jog.at + start)}) for jog in made.jogs)
        brought, gone = brought.model_copy(update={"jogs": jogs}), made
    cuts = tuple(
        c for c in view.cuts if c is not gone and c.name != KIND_CUT and not (brought and same_plane(c, brought))
    )
    frame = view.frame
    if kind.scaled and frame.scale is None:
        frame = frame.model_copy(update={"scale": scale or 100.0})
    return view.model_copy(
        update={
            "projection": kind.projection(box),
            "cuts": (brought, *cuts) if brought else cuts,
            "frame": frame,
        }
    )


def other_cuts(view: ViewSpecification, box: Box) -> list[Cut]:
    """The cuts that the kind's settings do not tell of.
    All but the one that makes a plan or section, which is with them where it steps.
    """
    own = own_cut(view)
    told = own if own is not None and not own.jogs and kind_of(view, box).cut() is not None else None
    return [c for c in view.cuts if c is not told]


def kind_of(view: ViewSpecification, box: Box) -> ViewKind:
    """What an illustrator would call a view, with the settings that make it so.
    ``of_kind`` of the answer gives the same direction, and the same picture but for where it is centred.
    """
    look = Outlook(view, box)
    found = next((seen for seen in (kind.seen(look) for kind in _ASKED) if seen is not None), None)
    assert found is not None, "any view is a trimetric or has vanishing points"
    return found
