"""Models kept on disk: the triangles once, in NumPy's own container; what is said of them beside it, as JSON.

An illustrator renames, hides and assigns a hundred times for each time that a triangle changes. Each of these states is
kept, so that undo costs nothing; what takes the room is kept once for all of them.
"""

from __future__ import annotations

import json
import threading
from collections import OrderedDict
from pathlib import Path
from typing import Any

import numpy as np

from warmgraphite.formats import Format, as_it_was
from warmgraphite.model.axes import Axis, Door
from warmgraphite.model.joining import Joined
from warmgraphite.model.model import Contours, Material, Model, Part, Room
from warmgraphite.whole import whole

__all__ = ["STATE", "ModelStore", "load_model", "save_model"]

#: How what is said of a model is written.
STATE = Format("model", (as_it_was,))


def _words(about: dict[str, Any]) -> dict[str, Any]:
    """Fields of a model from what :meth:`Model.about` wrote, in whatever format."""
    about = STATE.upgraded(about)

    def material(row: dict[str, Any]) -> Material:
        return Material(**{**row, "size": tuple(row.get("size", (1.0, 1.0))), "was": tuple(row.get("was", ()))})

    return {
        "parts": tuple(Part(**p) for p in about["parts"]),
        "materials": tuple(material(m) for m in about["materials"]),
        "rooms": tuple(Room(**{**r, "place": tuple(r["place"])}) for r in about.get("rooms", [])),
        "axes": tuple(Axis(a["name"], tuple(a["start"]), tuple(a["end"])) for a in about.get("axes", [])),
        "doors": tuple(
            Door(tuple(d["hinge"]), tuple(d["shut"]), tuple(d["open"]), d["width"], d["part"]) for d in about.get("doors", [])
        ),
        "joined": tuple(Joined(**{**j, "by": tuple(j["by"]), "pivot": tuple(j["pivot"])}) for j in about.get("joined", [])),
        "onto_map": tuple(tuple(row) for row in about["onto_map"]) if about.get("onto_map") else None,
        "origin": tuple(about.get("origin", (0.0, 0.0, 0.0))),
        "contours": Contours(**about["contours"]) if about.get("contours") else None,
        "units": about.get("units", "m"),
        "up": about.get("up", "z"),
        "hidden": tuple(about.get("hidden", ())),
        "sets": {name: tuple(parts) for name, parts in about.get("sets", {}).items()},
        "white_card": bool(about.get("white_card", False)),
        "cut_order": tuple(about.get("cut_order", ())),
    }


def save_model(model: Model, path: Path, with_words: bool = True) -> None:
    """Write the model to ``path`` whole or not at all, in double precision."""
    about = {
        "format": STATE.number,
        "name": model.name,
        "textures": list(model.textures),
        **(model.about() if with_words else {}),
    }
    arrays: dict[str, Any] = {f"texture_{i}": np.frombuffer(data, np.uint8) for i, data in enumerate(model.textures.values())}
    if model.uv is not None:
        arrays["uv"] = model.uv
    if len(model.line_part):
        arrays |= {"line_ends": model.line_ends, "line_part": model.line_part}
    arrays |= {
        "vertices": model.vertices,
        "triangles": model.triangles,
        "triangle_part": model.triangle_part,
        "about": np.frombuffer(json.dumps(about).encode(), np.uint8),
    }
    with whole(path) as draft, draft.open("wb") as out:
        np.savez(out, **arrays)


def load_model(path: Path, words: dict[str, Any] | None = None) -> Model:
    """The model of a file that :func:`save_model` wrote, with its own words about it or with others."""
    with np.load(path) as arrays:
        about = json.loads(arrays["about"].tobytes())
        return Model(
            name=about["name"],
            vertices=arrays["vertices"],
            triangles=arrays["triangles"],
            triangle_part=arrays["triangle_part"],
            uv=arrays["uv"] if "uv" in arrays.files else None,
            **({n: arrays[n] for n in ("line_ends", "line_part")} if "line_part" in arrays.files else {}),
            textures={name: arrays[f"texture_{i}"].tobytes() for i, name in enumerate(about.get("textures", []))},
            **_words(words or about),
        )


class ModelStore:
    """A folder with the states of models by their version. Safe for threads.

    The bodies read last are shared by all states that stand on them, with what was computed of their triangles.
    """

    def __init__(self, folder: Path, bodies: int = 3) -> None:
        self.folder, self.limit = folder, bodies
        self._bodies: OrderedDict[str, Model] = OrderedDict()
        self._lock = threading.Lock()

    def save(self, model: Model) -> str:
        """Keep a state; returns its version."""
        body = self.folder / f"{model.body}.npz"
        if not body.exists():
            save_model(model, body, with_words=False)
        state = self.folder / f"{model.version}.json"
        if not state.exists():
            text = json.dumps({"format": STATE.number, "name": model.name, "body": model.body, **model.about()})
            with whole(state) as draft:
                draft.write_text(text, "utf-8")
        self._remember(model)
        return model.version

    def load(self, version: str) -> Model:
        """The state with this version."""
        state = self.folder / f"{version}.json"
        if not state.exists():  # kept before states and bodies were told apart
            return load_model(self.folder / f"{version}.npz")
        about = json.loads(state.read_text("utf-8"))
        with self._lock:
            known = self._bodies.get(about["body"])
        if known is None:
            found = load_model(self.folder / f"{about['body']}.npz", about)
            found.__dict__["body"] = about["body"]
        else:
            found = known.said(name=about["name"], **_words(about))
        found.__dict__["version"] = version
        self._remember(found)
        return found

    def _remember(self, model: Model) -> None:
        with self._lock:
            self._bodies[model.body] = model
            self._bodies.move_to_end(model.body)
            while len(self._bodies) > self.limit:
                self._bodies.popitem(last=False)
