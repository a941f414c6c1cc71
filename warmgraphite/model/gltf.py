"""glTF 2.0 and GLB (ISO/IEC 12113), read straight from the standard: nodes become layers and parts.

Written here and not taken from a mesh library because a town has ten thousand nodes: their names, their tree and their
places are what this application is about, and a general reader makes an object of each before it gives them away.
"""

from __future__ import annotations

import base64
import binascii
import json
import struct
import urllib.parse
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from warmgraphite.colour import of_shares
from warmgraphite.errors import GraphiteError, ModelFileError
from warmgraphite.model.behaviour import ROLES
from warmgraphite.model.gathering import Gathering, beside
from warmgraphite.model.model import Model
from warmgraphite.model.palette import Material
from warmgraphite.progress import Stages, unwatched

__all__ = ["read_gltf"]

_KINDS = {5120: "<i1", 5121: "<u1", 5122: "<i2", 5123: "<u2", 5125: "<u4", 5126: "<f4"}
_WIDTHS = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT4": 16}
#: Nodes below nodes: deeper than any building.
DEEPEST = 200
_LINES, _LINE_LOOP, _LINE_STRIP, _TRIANGLES, _STRIP, _FAN = 1, 2, 3, 4, 5, 6
_UPRIGHT = np.array([[1, -1], [0, 1]], np.float32)


def read_gltf(path: Path, watch: Stages = unwatched) -> Model:
    """The model of a GLB or glTF file, in file coordinates (Y up by the standard). Nodes above a mesh are its layers.

    Buffers and pictures are taken from the file or from beside it, never from elsewhere. Raises
    :class:`ModelFileError` with one sentence for anything that is wrong.
    """
    watch("Reading the file", 0.05)
    try:
        return _File(path).model(watch)
    except (GraphiteError, MemoryError):
        raise
    except (
        ValueError,
        TypeError,
        KeyError,
        IndexError,
        AttributeError,
        RecursionError,
        OverflowError,
        struct.error,
    ) as error:
        raise _damaged(path) from error


def _damaged(path: Path) -> ModelFileError:
    return ModelFileError(
        f"{path.name} is a damaged glTF file and cannot be read to its end; export it again and bring the new file."
    )


class _File:
    """One file: its head, its buffers, and what was understood of them so far."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.gathering = Gathering(path.name)
        data = path.read_bytes()
        self.binary = b""
        if data[:4] in (b"glTF", b"FTlg"):
            self.head = self._chunks(data)
        else:
            self.head = json.loads(data)
        if not isinstance(self.head, dict):
            raise _damaged(path)
        packed = [
            e
            for e in self.head.get("extensionsRequired") or []
            if "draco" in str(e).lower() or "meshopt" in str(e).lower()
        ]
        if packed:
            raise ModelFileError(f"{path.name} is packed with {packed[0]}; export it without compression.")
        self.buffers: dict[int, bytes] = {}
        for number, buffer in enumerate(self.head.get("buffers") or []):
            if isinstance(buffer.get("uri"), str):
                self._buffer(number)  # what is missing is said before anything else
        self.materials: dict[int, Material] = {}
        self.accessors: dict[int, NDArray[Any]] = {}

    def _chunks(self, data: bytes) -> dict[str, Any]:
        version, total, first, kind = struct.unpack_from("<IIII", data, 4)
        if version > 2**24 or data[:4] == b"FTlg":
            raise ModelFileError(
                f"{self.path.name} has its numbers the wrong way round (big-endian); export it again as standard GLB."
            )
        if version != 2:
            raise ModelFileError(f"{self.path.name} is GLB version {version}; export it as glTF 2.0.")
        if total > len(data) or 20 + first > len(data):
            raise ModelFileError(
                f"{self.path.name} breaks off: it says {total:,} bytes and has {len(data):,}; bring the whole file."
            )
        if kind != 0x4E4F534A:
            raise _damaged(self.path)
        at = 20 + first
        if at + 8 <= len(data):
            size, kind = struct.unpack_from("<II", data, at)
            if kind == 0x004E4942:
                self.binary = data[at + 8 : at + 8 + size]
        return json.loads(data[20 : 20 + first])

    def _beside(self, uri: str, what: str) -> bytes:
        if uri.startswith("data:"):
            try:
                return base64.b64decode(uri.partition(",")[2], validate=True)
            except (binascii.Error, ValueError) as error:
                raise _damaged(self.path) from error
        found = beside(self.path, urllib.parse.unquote(uri))
        if found is None:
            raise ModelFileError(
                f"{self.path.name} keeps {what} in “{uri[:80]}”, which is not beside it; bring both, or export one "
                f".glb file."
            )
        return found.read_bytes()

    def _buffer(self, number: int) -> bytes:
        if number not in self.buffers:
            uri = self.head["buffers"][number].get("uri")
            self.buffers[number] = self._beside(uri, "its geometry") if isinstance(uri, str) else self.binary
        return self.buffers[number]

    def _view(self, number: int) -> tuple[bytes, int, int, int]:
        """Buffer, offset, length and stride of a buffer view."""
        view = self.head["bufferViews"][number]
        data = self._buffer(view["buffer"])
        start, length = int(view.get("byteOffset", 0)), int(view["byteLength"])
        if start < 0 or length < 0 or start + length > len(data):
            raise ValueError("a view leaves its buffer")
        return data, start, length, int(view.get("byteStride", 0))

    def numbers(self, number: int) -> NDArray[Any]:
        """(count, width) numbers of an accessor; integers that stand for shares of one become those."""
        if number in self.accessors:
            return self.accessors[number]
        spec = self.head["accessors"][number]
        kind, width, count = np.dtype(_KINDS[spec["componentType"]]), _WIDTHS[spec["type"]], int(spec["count"])
        if not 0 <= count <= 100_000_000:
            raise ValueError("an accessor asks for too much")
        if "bufferView" in spec:
            found = self._strided(spec["bufferView"], int(spec.get("byteOffset", 0)), kind, width, count)
        else:
            if "sparse" not in spec or count > 20_000_000:
                raise ModelFileError(
                    f"{self.path.name} asks for {count:,} numbers that it does not hold; export it again."
                )
            found = np.zeros((count, width), kind)
        if "sparse" in spec:
            few = spec["sparse"]
            places = self._strided(
                few["indices"]["bufferView"],
                int(few["indices"].get("byteOffset", 0)),
                np.dtype(_KINDS[few["indices"]["componentType"]]),
                1,
                int(few["count"]),
            )
            values = self._strided(
                few["values"]["bufferView"], int(few["values"].get("byteOffset", 0)), kind, width, int(few["count"])
            )
            found = found.copy()
            found[places.ravel().astype(np.int64)] = values
        if spec.get("normalized") and kind.kind in "iu":
            found = np.maximum(found / np.iinfo(kind).max, -1.0)
        self.accessors[number] = found
        return found

    def _strided(self, view: int, offset: int, kind: np.dtype, width: int, count: int) -> NDArray[Any]:
        data, start, length, stride = self._view(view)
        size = kind.itemsize * width
        step = stride or size
        if count < 0 or offset < 0 or step < size or (count and offset + step * (count - 1) + size > length):
            raise ValueError("an accessor leaves its view")
        if step == size:
            return np.frombuffer(data, kind, count * width, start + offset).reshape(count, width)
        rows = np.frombuffer(data, np.uint8, step * (count - 1) + size if count else 0, start + offset)
        return (
            np.ascontiguousarray(np.lib.stride_tricks.as_strided(rows, (count, size), (step, 1)))
            .view(kind)
            .reshape(count, width)
        )

    def material(self, number: int | None) -> Material:
        """A material, understood once; ``None`` is none."""
        if number is None:
            return Material("Plain")
        if number not in self.materials:
            self.materials[number] = self._material(self.head["materials"][number], number)
        return self.materials[number]

    def _material(self, spec: dict[str, Any], number: int) -> Material:
        surface = spec.get("pbrMetallicRoughness") or {}
        old = (spec.get("extensions") or {}).get("KHR_materials_pbrSpecularGlossiness") or {}
        rgba = [float(v) for v in surface.get("baseColorFactor") or old.get("diffuseFactor") or (1, 1, 1, 1)]
        picture = surface.get("baseColorTexture") or old.get("diffuseTexture")
        texture = ""
        if isinstance(picture, dict):
            texture = self._texture(int(picture["index"]))
        colour = self.gathering.tone(texture, rgba) if texture else of_shares(rgba)
        clear = str(spec.get("alphaMode", "OPAQUE")).upper() == "BLEND"
        through = (spec.get("extensions") or {}).get("KHR_materials_transmission") or {}
        opacity = rgba[3] if clear and len(rgba) > 3 else 1.0
        opacity *= 1.0 - float(through.get("transmissionFactor", 0.0))
        name = str(spec.get("name") or f"Material {number + 1}")
        return Material(name, colour, round(min(max(opacity, 0.0), 1.0), 2), texture)

    def _texture(self, number: int) -> str:
        source = self.head["textures"][number].get("source")
        if source is None:
            return ""
        image = self.head["images"][source]
        if "bufferView" in image:
            data, start, length, _ = self._view(image["bufferView"])
            return self.gathering.picture(data[start : start + length])
        try:
            return self.gathering.picture(self._beside(str(image["uri"]), "a picture"))
        except ModelFileError:
            return ""  # a model without one of its pictures is still a model

    def model(self, watch: Stages) -> Model:
        """The model of all that the scene holds."""
        nodes = self.head.get("nodes") or []
        scenes = self.head.get("scenes") or []
        if scenes:
            roots = list(scenes[int(self.head.get("scene", 0))].get("nodes") or [])
        else:
            below = {c for n in nodes for c in n.get("children") or []}
            roots = [i for i in range(len(nodes)) if i not in below]
        waiting = [(r, np.eye(4), True, "", 0) for r in reversed(roots)]
        bodies: list[tuple[int, Any, str, str, NDArray[np.float64] | None]] = []
        done = 0
        while waiting:
            number, above, straight, layer, depth = waiting.pop()
            node = nodes[number]
            if depth > DEEPEST or done > 2_000_000:
                raise ModelFileError(f"{self.path.name} nests its nodes without end; export the model again.")
            done += 1
            own = _matrix(node)
            matrix = above if own is None else above @ own
            straight = straight and own is None
            name = str(node.get("name") or "")
            if "mesh" in node:
                bodies.append((int(node["mesh"]), node, name, layer, None if straight else matrix))
            children = node.get("children") or []
            if children:
                # Our own writer names a layer's node by its whole path, since names of nodes must differ.
                step = name.removeprefix(f"{layer}/").replace("/", " ") or ("Group" if depth else "")
                if depth == 0 and name in _WRAPPERS and len(roots) == 1:
                    step = ""
                path = f"{layer}/{step}" if layer and step else layer or step
                waiting += [(c, matrix, straight, path, depth + 1) for c in reversed(children)]
        # Parts come in the file's order of meshes, which programs keep from one export to the next.
        for at, (_, node, name, layer, place) in enumerate(sorted(bodies, key=lambda row: row[0])):
            if at % 500 == 0:
                watch("Gathering the parts", 0.2 + 0.7 * at / len(bodies))
            self._body(node, name, layer, place)
        return self.gathering.model(self.path.stem)

    def _body(self, node: dict[str, Any], name: str, layer: str, matrix: NDArray[np.float64] | None) -> None:
        mesh = self.head["meshes"][node["mesh"]]
        about: dict[str, Any] = {}
        for noted in (mesh.get("extras"), node.get("extras")):
            if isinstance(noted, dict):
                about |= noted
        mirrored = matrix is not None and bool(np.linalg.det(matrix[:3, :3]) < 0)
        rows = [p for p in mesh["primitives"] if p.get("mode", _TRIANGLES) in (_TRIANGLES, _STRIP, _FAN)]
        drawn = [p for p in mesh["primitives"] if p.get("mode", _TRIANGLES) in (_LINES, _LINE_LOOP, _LINE_STRIP)]
        lines = [self._lines(p, matrix) for p in drawn]
        title = name or str(mesh.get("name") or f"Part {len(self.gathering.rows) + 1}")
        # What our own writer noted beside the mesh is exact.
        role, lasting, path = about.get("role"), about.get("id"), about.get("layer")
        said: dict[str, Any] = {
            "role": role if role in ROLES else None,
            "id": lasting if isinstance(lasting, str) else "",
        }
        for primitive in rows:
            attributes = primitive["attributes"]
            points = self.numbers(attributes["POSITION"])
            faces = self._faces(primitive, len(points))
            if not len(faces):
                continue
            material = self.material(primitive.get("material"))
            corners = None
            if material.texture and "TEXCOORD_0" in attributes:
                uv = np.asarray(self.numbers(attributes["TEXCOORD_0"]), np.float32)
                if int(faces.max()) < len(uv):
                    corners = uv[faces] * _UPRIGHT[0] + _UPRIGHT[1]  # the picture's rows count from its top
            if mirrored:
                faces, corners = faces[:, ::-1], corners[:, ::-1] if corners is not None else None
            vertices = points[:, :3].astype(np.float64)
            if matrix is not None:
                vertices = vertices @ matrix[:3, :3].T + matrix[:3, 3]
            self.gathering.add(
                str(about.get("name") or title) if len(rows) == 1 else f"{title} · {material.name}",
                path if isinstance(path, str) else layer, material, vertices, faces, uv=corners,
                lines=np.concatenate(lines) if lines else None,
                **said,
            )  # fmt: skip
            lines = []  # they are the first one's
        if lines:
            material = self.material(drawn[0].get("material"))
            whole = path if isinstance(path, str) else layer
            self.gathering.add(
                str(about.get("name") or title),
                whole,
                material,
                _NOWHERE,
                _NO_FACES,
                lines=np.concatenate(lines),
                **said,
            )

    def _lines(self, primitive: dict[str, Any], matrix: NDArray[np.float64] | None) -> NDArray[np.float64]:
        """(L, 2, 3) the line elements of a primitive, where they lie in the scene."""
        points = self.numbers(primitive["attributes"]["POSITION"])[:, :3].astype(np.float64)
        if matrix is not None:
            points = points @ matrix[:3, :3].T + matrix[:3, 3]
        order = (
            self.numbers(primitive["indices"]).ravel().astype(np.int64)
            if "indices" in primitive
            else np.arange(len(points))
        )
        if len(order) and (order.min() < 0 or order.max() >= len(points)):
            raise ValueError("a line asks for a missing point")
        mode = primitive["mode"]
        if mode == _LINES:
            pairs = order[: len(order) // 2 * 2].reshape(-1, 2)
        else:
            run = np.append(order, order[:1]) if mode == _LINE_LOOP else order
            pairs = np.stack([run[:-1], run[1:]], 1)
        return points[pairs]

    def _faces(self, primitive: dict[str, Any], points: int) -> NDArray[np.int64]:
        order = (
            self.numbers(primitive["indices"]).ravel().astype(np.int64) if "indices" in primitive else np.arange(points)
        )
        mode = primitive.get("mode", _TRIANGLES)
        if mode == _STRIP and len(order) > 2:
            faces = np.stack([order[:-2], order[1:-1], order[2:]], 1)
            faces[1::2] = faces[1::2][:, [1, 0, 2]]
        elif mode == _FAN and len(order) > 2:
            faces = np.stack([np.full(len(order) - 2, order[0]), order[1:-1], order[2:]], 1)
        else:
            faces = order[: len(order) // 3 * 3].reshape(-1, 3)
        return faces


_NOWHERE, _NO_FACES = np.empty((0, 3)), np.empty((0, 3), np.int64)
#: Nodes that writers, ours among them, put above everything, and that say nothing.
_WRAPPERS = {"world", "Origin"}


def _matrix(node: dict[str, Any]) -> NDArray[np.float64] | None:
    """The 4×4 matrix of a node, ``None`` where it stays in place."""
    if "matrix" in node:
        found = np.array(node["matrix"], float).reshape(4, 4).T
        return None if np.array_equal(found, np.eye(4)) else found
    if not any(k in node for k in ("translation", "rotation", "scale")):
        return None
    found = np.eye(4)
    if "rotation" in node:
        x, y, z, w = (float(v) for v in node["rotation"])
        found[:3, :3] = [
            [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
            [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
            [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
        ]
    found[:3, :3] *= np.array([float(v) for v in node.get("scale", (1, 1, 1))])
    found[:3, 3] = [float(v) for v in node.get("translation", (0, 0, 0))]
    return found
