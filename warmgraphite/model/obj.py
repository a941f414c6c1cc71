"""OBJ with MTL: text in, model out, faults named by line.

Written here and not taken from a mesh library because groups and object names are the layer tree of this
application, and general readers drop one or the other.
"""

from __future__ import annotations

from collections import Counter
from pathlib import Path

import mapbox_earcut
import numpy as np
from numpy.typing import NDArray

from warmgraphite.errors import ModelFileError
from warmgraphite.model.model import Material, Model, Part, build_model
from warmgraphite.model.roles import guess_role

__all__ = ["read_mtl", "read_obj", "write_obj"]


def read_mtl(text: str) -> dict[str, Material]:
    """Materials by name from MTL text: diffuse colour ``Kd`` and opacity ``d`` (or 1 − ``Tr``)."""
    found: dict[str, Material] = {}
    name, colour, opacity = "", "#cfc8bc", 1.0
    for line in [*text.splitlines(), "newmtl"]:
        words = line.split()
        if not words:
            continue
        try:
            if words[0] == "newmtl":
                if name:
                    found[name] = Material(name, colour, opacity)
                name, colour, opacity = " ".join(words[1:]), "#cfc8bc", 1.0
            elif words[0] == "Kd" and len(words) >= 4:
                red, green, blue = (min(max(float(w), 0.0), 1.0) for w in words[1:4])
                colour = f"#{round(red * 255):02x}{round(green * 255):02x}{round(blue * 255):02x}"
            elif words[0] == "d":
                opacity = min(max(float(words[-1]), 0.0), 1.0)
            elif words[0] == "Tr":
                opacity = 1.0 - min(max(float(words[-1]), 0.0), 1.0)
        except ValueError:
            continue  # a colour given as a spectral file or with a slip of the pen: keep the plain material
    return found


def _triangulate(points: NDArray[np.float64], corners: list[int]) -> list[tuple[int, int, int]]:
    """Triangles of one face, concave ones included, wound as the face is."""
    if len(corners) == 3:
        return [(corners[0], corners[1], corners[2])]
    ring = points[corners]
    normal = np.cross(ring, np.roll(ring, -1, axis=0)).sum(0)  # Newell's normal, twice the area
    axis = int(np.argmax(np.abs(normal)))
    flat = np.delete(ring, axis, axis=1)
    turn = np.cross(np.roll(flat, -1, 0) - flat, np.roll(flat, -2, 0) - np.roll(flat, -1, 0))
    if (turn >= 0).all() or (turn <= 0).all():
        return [(corners[0], corners[i], corners[i + 1]) for i in range(1, len(corners) - 1)]
    found = mapbox_earcut.triangulate_float64(np.ascontiguousarray(flat), np.array([len(flat)], dtype=np.uint32)).reshape(-1, 3)
    out = []
    for a, b, c in found.tolist():
        if np.dot(np.cross(ring[b] - ring[a], ring[c] - ring[a]), normal) < 0:
            b, c = c, b
        out.append((corners[a], corners[b], corners[c]))
    return out


def read_obj(path: Path) -> Model:
    """The model of an OBJ file, in file coordinates. ``g`` becomes the layer, ``o`` the part, ``usemtl`` the material."""
    text = path.read_text("utf-8", errors="replace")
    points: list[list[float]] = []
    faces: list[tuple[int, tuple[str, str, str], list[int]]] = []
    materials: dict[str, Material] = {}
    group, name, material = "", "", ""

    def wrong(number: int, what: str) -> ModelFileError:
        return ModelFileError(f"{path.name}, line {number}: {what}; export the model again.")

    for number, line in enumerate(text.replace("\\\n", " ").splitlines(), 1):
        words = line.split()
        if not words:
            continue
        key = words[0]
        if key == "v":
            try:
                points.append([float(w) for w in words[1:4]])
            except ValueError:
                raise wrong(number, "a point has something that is not a number") from None
            if len(points[-1]) != 3:
                raise wrong(number, "a point has fewer than three coordinates")
        elif key == "f":
            corners = []
            for word in words[1:]:
                try:
                    index = int(word.split("/", 1)[0])
                except ValueError:
                    raise wrong(number, f"“{word[:20]}” is not a corner of a face") from None
                index = index - 1 if index > 0 else len(points) + index
                if not 0 <= index < len(points):
                    raise wrong(number, f"a face asks for point {word.split('/', 1)[0]}, but there are only {len(points)}")
                corners.append(index)
            if len(corners) < 3:
                raise wrong(number, "a face has fewer than three corners")
            faces.append((number, (group, name, material), corners))
        elif key == "o":
            name = " ".join(words[1:])
        elif key == "g":
            group = "/".join(w for w in words[1:] if w != "default")
        elif key == "usemtl":
            material = " ".join(words[1:])
        elif key == "mtllib":
            for library in {" ".join(words[1:]), *words[1:]}:
                beside = path.parent / Path(library.replace("\\", "/")).name
                if beside.is_file():
                    materials.update(read_mtl(beside.read_text("utf-8", errors="replace")))

    vertices = np.array(points, dtype=float).reshape(-1, 3)
    rows: dict[tuple[str, str, str], list[tuple[int, int, int]]] = {}
    for _, owner, corners in faces:
        rows.setdefault(owner, []).extend(_triangulate(vertices, corners))

    names = {name: i for i, name in enumerate(dict.fromkeys(owner[2] for owner in rows))}
    table = [materials.get(n, Material(n or "Plain")) for n in names]
    meshes = []
    shared = Counter(key[:2] for key in rows)
    for owner, triangles in rows.items():
        layer, part, material_name = owner
        if not part:
            layer, _, part = layer.rpartition("/") if layer else ("", "", path.stem)
        if shared[owner[:2]] > 1:
            part = f"{part} · {material_name or 'Plain'}"
        index = names[material_name]
        used, local = np.unique(np.array(triangles, dtype=np.int64), return_inverse=True)
        meshes.append(
            (
                Part(part, layer, index, guess_role(layer, part, table[index])),
                vertices[used],
                local.reshape(-1, 3).astype(np.int32),
            )
        )
    if not meshes:
        raise ModelFileError(f"{path.name} holds no faces, so there is nothing to draw; export it again with its surfaces.")
    return build_model(path.stem, meshes, table)


def write_obj(model: Model, path: Path) -> None:
    """Write the model as OBJ (metres, Z up) with an MTL file of the same name beside it."""
    library = path.with_suffix(".mtl")
    lines = [f"mtllib {library.name}"]
    lines += [f"v {x!r} {y!r} {z!r}" for x, y, z in model.vertices.tolist()]
    for index, part in enumerate(model.parts):
        lines += [f"g {part.layer.replace(' ', '_')}", f"o {part.name}", f"usemtl {model.materials[part.material].name}"]
        lines += [f"f {a} {b} {c}" for a, b, c in (model.triangles[model.triangle_part == index] + 1).tolist()]
    path.write_text("\n".join(lines) + "\n", "utf-8")
    rows = []
    for material in model.materials:
        red, green, blue = (int(material.colour[i : i + 2], 16) / 255 for i in (1, 3, 5))
        rows += [f"newmtl {material.name}", f"Kd {red:.4f} {green:.4f} {blue:.4f}", f"d {material.opacity:g}"]
    library.write_text("\n".join(rows) + "\n", "utf-8")
