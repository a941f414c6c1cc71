"""Models kept on disk: the triangles once, in NumPy's own container; what is said of them beside it, as JSON.

An illustrator renames, hides and assigns a hundred times for each time that a triangle changes. Each of these states is
kept, so that undo costs nothing; what takes the room is kept once for all of them.
"""

from __future__ import annotations

import hashlib
import json
import zipfile
import zlib
from dataclasses import fields
from pathlib import Path
from typing import Any

import numpy as np

from warmgraphite.atomic import atomic_write, used
from warmgraphite.errors import GraphiteError, ModelFileError
from warmgraphite.formats import Format, as_it_was
from warmgraphite.memory import Store, tell
from warmgraphite.model.axes import Axis, Door
from warmgraphite.model.joining import Joined
from warmgraphite.model.mesh import Mesh
from warmgraphite.model.model import Contours, Model, Room
from warmgraphite.model.palette import Material
from warmgraphite.model.parts import Part

__all__ = ["STATE", "ModelLost", "ModelStore", "load_model", "save_model"]

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
            Door(tuple(d["hinge"]), tuple(d["shut"]), tuple(d["open"]), d["width"], d["part"])
            for d in about.get("doors", [])
        ),
        "joined": tuple(
            Joined(**{**j, "by": tuple(j["by"]), "pivot": tuple(j["pivot"])}) for j in about.get("joined", [])
        ),
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
    arrays: dict[str, Any] = {
        f"texture_{i}": np.frombuffer(data, np.uint8) for i, data in enumerate(model.textures.values())
    }
    if model.mesh.uv is not None:
        arrays["uv"] = model.mesh.uv
    if len(model.mesh.line_part):
        arrays |= {"line_ends": model.mesh.line_ends, "line_part": model.mesh.line_part}
    arrays |= {
        "vertices": model.vertices,
        "triangles": model.triangles,
        "triangle_part": model.triangle_part,
        "about": np.frombuffer(json.dumps(about).encode(), np.uint8),
    }
    with atomic_write(path) as draft, draft.open("wb") as out:
        np.savez(out, **arrays)


def load_model(path: Path, words: dict[str, Any] | None = None) -> Model:
    """The model of a file that :func:`save_model` wrote, with its own words about it or with others."""
    with np.load(path) as arrays:
        about = json.loads(arrays["about"].tobytes())
        mesh = Mesh(**{f.name: arrays[f.name] for f in fields(Mesh) if f.name in arrays.files})
        return Model(
            name=about["name"],
            mesh=mesh,
            textures={name: arrays[f"texture_{i}"].tobytes() for i, name in enumerate(about.get("textures", []))},
            **_words(words or about),
        )


class ModelLost(ModelFileError):
    """A state of a model that was kept cannot be read any more.
    What is said of its parts (``state``), or its triangles (``body``).
    """

    def __init__(self, what: str, version: str) -> None:
        self.what, self.version = what, version
        of = (
            "What is said of the parts of this model"
            if what == "state"
            else "The file with the triangles of this model"
        )
        super().__init__(f"{of} is gone or damaged in the data folder.")


def _digest(about: dict[str, Any]) -> str:
    return hashlib.sha256(json.dumps(about, sort_keys=True).encode()).hexdigest()[:32]


def _state_of(path: Path) -> tuple[int, int]:
    try:
        found = path.stat()
    except OSError:
        return 0, 0
    return found.st_ino, found.st_mtime_ns


def _is_archive(path: Path) -> bool:
    """Whether a file ends as an archive does: one that is empty or cut off does not."""
    try:
        return zipfile.is_zipfile(path)
    except OSError:
        return False


class ModelStore:
    """A folder with the states of models by their version. Safe for threads.

    The bodies read last are shared by all states that stand on them, with what was computed of their triangles.
    """

    def __init__(self, folder: Path, bodies: int = 3) -> None:
        self.folder = folder
        self._bodies: Store[Model] = Store("models", most=bodies)
        #: Bodies that were found harmed within when they were read, as their files were then.
        self._harmed: dict[Path, tuple[int, int]] = {}

    def save(self, model: Model) -> str:
        """Keep a state; returns its version.
        What is there already counts as used now; what is there and damaged is made anew.
        """
        body, state = self._body(model.body), self._state(model.version)
        known = model.body in self._bodies
        if not used(body) or not (known or _is_archive(body)):
            save_model(model, body, with_words=False)
        if not used(state) or self._words_of(state) is None:
            about = {"format": STATE.number, "name": model.name, "body": model.body, **model.about()}
            with atomic_write(state) as draft:
                draft.write_text(json.dumps({"digest": _digest(about), **about}), "utf-8")
        self._bodies.put(model.body, model)
        return model.version

    def load(self, version: str) -> Model:
        """The state with this version. Raises :class:`ModelLost` for one that is gone or damaged."""
        state = self._state(version)
        if not state.exists() and self._body(version).exists():  # kept before states and bodies were told apart
            return self._read(version, version, None)
        about = self._words_of(state)
        if about is None:
            raise ModelLost("state", version)
        known = self._bodies.peek(about["body"])
        if known is None:
            found = self._read(version, about["body"], about)
            tell(found, "body", about["body"])
        else:
            found = known.said(name=about["name"], **_words(about))
        tell(found, "version", version)
        self._bodies.put(found.body, found)
        return found

    def refuse_lost(self, version: str) -> None:
        """Raises :class:`ModelLost` where a state cannot be read any more.
        As far as that can be told without reading its triangles.
        """
        state, body = self._state(version), self._body(version)
        if state.exists() or not body.exists():
            about = self._words_of(state)
            if about is None:
                raise ModelLost("state", version)
            body = self._body(about["body"])
        if not _is_archive(body) or self._harmed.get(body) == _state_of(body):
            raise ModelLost("body", version)

    def words_of(self, version: str) -> dict[str, Any] | None:
        """What is said of a state, as it was written; ``None`` for one that is gone or damaged."""
        return self._words_of(self._state(version))

    def put_body_back(self, model: Model) -> None:
        """Write the triangles of a model anew, whatever lies in their place."""
        save_model(model, self._body(model.body), with_words=False)

    def _body(self, name: str) -> Path:
        return self.folder / f"{name}.npz"

    def _state(self, version: str) -> Path:
        return self.folder / f"{version}.json"

    def _read(self, version: str, body: str, about: dict[str, Any] | None) -> Model:
        try:
            return load_model(self._body(body), about)
        except GraphiteError:
            raise
        except (FileNotFoundError, ValueError, KeyError, TypeError, EOFError, zipfile.BadZipFile, zlib.error) as error:
            self._harmed[self._body(body)] = _state_of(self._body(body))
            raise ModelLost("body", version) from error

    @staticmethod
    def _words_of(state: Path) -> dict[str, Any] | None:
        try:
            about = json.loads(state.read_text("utf-8"))
            said = about.pop("digest", None)
            sound = isinstance(about["body"], str) and isinstance(about["name"], str) and said in (None, _digest(about))
        except (FileNotFoundError, ValueError, KeyError, TypeError, AttributeError):
            return None
        return about if sound else None
