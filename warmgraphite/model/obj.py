"""OBJ with MTL: text in, model out, faults named by line.

Written here and not taken from a mesh library because groups and object names are the layer tree of this
application, and general readers drop one or the other.
"""

from __future__ import annotations

import itertools
import re
from collections import Counter
from dataclasses import replace
from pathlib import Path

import numpy as np

from warmgraphite import MADE_BY
from warmgraphite.colour import channels
from warmgraphite.errors import ModelFileError
from warmgraphite.model.gathering import Gathering, beside
from warmgraphite.model.model import Model
from warmgraphite.model.palette import Material
from warmgraphite.model.polygons import triangles_of
from warmgraphite.progress import Stages, unwatched

__all__ = ["read_mtl", "read_obj", "write_obj"]

#: The colour of a material of which nothing is said.
UNSAID = Material("").colour


def read_mtl(text: str) -> dict[str, Material]:
    """Materials by name from MTL text.
    Diffuse colour ``Kd``, opacity ``d`` (or 1 − ``Tr``), picture ``map_Kd`` by file name.
    """
    found: dict[str, Material] = {}
    name, colour, opacity, texture = "", UNSAID, 1.0, ""
    for line in [*text.splitlines(), "newmtl"]:
        words = line.split()
        if not words:
            continue
        try:
            if words[0] == "newmtl":
                if name:
                    found[name] = Material(name, colour, opacity, texture)
                name, colour, opacity, texture = " ".join(words[1:]), UNSAID, 1.0, ""
            elif words[0] == "Kd" and len(words) >= 4:
                red, green, blue = (min(max(float(w), 0.0), 1.0) for w in words[1:4])
                colour = f"#{round(red * 255):02x}{round(green * 255):02x}{round(blue * 255):02x}"
            elif words[0] == "d":
                opacity = min(max(float(words[-1]), 0.0), 1.0)
            elif words[0] == "map_Kd" and len(words) > 1:
                # Options stand before the file's name, which may hold spaces.
                bare = re.sub(r"-\w+(\s+[-+.\d]+|\s+(on|off))*\s+", "", " ".join(words[1:]))
                texture = Path(bare.replace("\\", "/")).name
            elif words[0] == "Tr":
                opacity = 1.0 - min(max(float(words[-1]), 0.0), 1.0)
        except ValueError:
            continue  # a colour given as a spectral file or with a slip of the pen: keep the plain material
    return found


# Long: one reading of a file, statement by statement, whose state all of them share.
def read_obj(path: Path, watch: Stages = unwatched) -> Model:
    """The model of an OBJ file, in file coordinates.
    ``g`` becomes the layer, ``o`` the part, ``usemtl`` the material.
    """
    text = path.read_text("utf-8", errors="replace")
    points: list[list[float]] = []
    places: list[tuple[float, float]] = []
    faces: list[tuple[tuple[str, str, str], list[int], list[int]]] = []
    drawn: dict[tuple[str, str, str], list[tuple[int, int]]] = {}
    materials: dict[str, Material] = {}
    group, name, material = "", "", ""

    def wrong(number: int, what: str) -> ModelFileError:
        return ModelFileError(f"{path.name}, line {number}: {what}; export the model again.")

    all_lines = text.replace("\\\n", " ").splitlines()
    for number, line in enumerate(all_lines, 1):
        if number % 50_000 == 0:
            watch("Reading the file", 0.6 * number / len(all_lines))
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
            corners: list[int] = []
            spots: list[int] = []
            for word in words[1:]:
                about = word.split("/")
                try:
                    index = int(about[0])
                    spot = int(about[1]) if len(about) > 1 and about[1] else 0
                except ValueError:
                    raise wrong(number, f"“{word[:20]}” is not a corner of a face") from None
                if spot:
                    spots.append(spot - 1 if spot > 0 else len(places) + spot)
                index = index - 1 if index > 0 else len(points) + index
                if not 0 <= index < len(points):
                    raise wrong(
                        number, f"a face asks for point {word.split('/', 1)[0]}, but there are only {len(points)}"
                    )
                corners.append(index)
            if len(corners) < 3:
                raise wrong(number, "a face has fewer than three corners")
            faces.append(((group, name, material), corners, spots if len(spots) == len(corners) else []))
        elif key == "l":
            run: list[int] = []
            for word in words[1:]:
                try:
                    index = int(word.split("/")[0])
                except ValueError:
                    raise wrong(number, f"“{word[:20]}” is not a point of a line") from None
                index = index - 1 if index > 0 else len(points) + index
                if not 0 <= index < len(points):
                    raise wrong(
                        number, f"a line asks for point {word.split('/', 1)[0]}, but there are only {len(points)}"
                    )
                run.append(index)
            drawn.setdefault((group, name, material), []).extend(itertools.pairwise(run))
        elif key == "vt":
            try:
                places.append((float(words[1]), float(words[2]) if len(words) > 2 else 0.0))
            except (ValueError, IndexError):
                raise wrong(number, "a texture coordinate is not a number") from None
        elif key == "o":
            name = " ".join(words[1:])
        elif key == "g":
            group = "/".join(w for w in words[1:] if w != "default")
        elif key == "usemtl":
            material = " ".join(words[1:])
        elif key == "mtllib":
            for library in {" ".join(words[1:]), *words[1:]}:
                found = beside(path, library)
                if found is not None:
                    materials.update(read_mtl(found.read_text("utf-8", errors="replace")))

    vertices = np.array(points, dtype=float).reshape(-1, 3)
    bad = ~np.isfinite(vertices).all(1)
    if bad.any() and (row := next((c for _, corners, _ in faces for c in corners if bad[c]), None)) is not None:
        raise ModelFileError(
            f"{path.name} has a point (number {row + 1}) that is not a number; export the model again."
        )
    flat = np.array([*places, (0.0, 0.0)], np.float32)
    rows: dict[tuple[str, str, str], list[tuple[int, int, int]]] = {}
    spread: dict[tuple[str, str, str], list[tuple[int, int, int]]] = {}
    nowhere = len(flat) - 1
    for at, (owner, corners, spots) in enumerate(faces):
        if at % 50_000 == 0:
            watch("Gathering the parts", 0.6 + 0.35 * at / len(faces))
        inside = spots and min(spots) >= 0 and max(spots) < nowhere
        for a, b, c in triangles_of([vertices[corners]]):
            rows.setdefault(owner, []).append((corners[a], corners[b], corners[c]))
            place = (spots[a], spots[b], spots[c]) if inside else (nowhere, nowhere, nowhere)
            spread.setdefault(owner, []).append(place)
    gathering = Gathering(path.name)
    for key, look in materials.items():
        kept = beside(path, look.texture)
        picture = gathering.picture(kept.read_bytes()) if kept is not None else ""
        if picture:
            # Nothing said of the colour is white, as far as a picture is concerned.
            factor = (1.0, 1.0, 1.0) if look.colour == UNSAID else [c / 255 for c in channels(look.colour)]
            look = replace(look, colour=gathering.tone(picture, factor))
        materials[key] = replace(look, texture=picture)
    for owner in drawn:
        rows.setdefault(owner, [])
    several = Counter((group, name) for group, name, _ in rows)
    for (group, name, material_name), triangles in rows.items():
        look = materials.get(material_name, Material(material_name or "Plain"))
        title = name or (group.rpartition("/")[2] if group else path.stem)
        if several[group, name] > 1:
            title = f"{title} · {look.name}"
        layer = group if name else group.rpartition("/")[0]
        used, local = np.unique(np.array(triangles, dtype=np.int64).reshape(-1, 3), return_inverse=True)
        uv = flat[np.array(spread[group, name, material_name])] if look.texture and triangles else None
        pairs = np.array(drawn.get((group, name, material_name), []), np.int64).reshape(-1, 2)
        gathering.add(title, layer, look, vertices[used], local.reshape(-1, 3), uv=uv, lines=vertices[pairs])
    return gathering.model(path.stem)


def write_obj(model: Model, path: Path) -> None:
    """Write the model as OBJ (metres, Z up) with an MTL file of the same name, and its pictures, beside it."""
    library = path.with_suffix(".mtl")
    order = np.argsort(model.triangle_part, kind="stable")
    limits = np.searchsorted(model.triangle_part[order], np.arange(len(model.parts) + 1))
    with path.open("w", encoding="utf-8") as out:
        out.write(f"# {MADE_BY}\nmtllib {library.name}\n")
        out.writelines(f"v {x!r} {y!r} {z!r}\n" for x, y, z in (model.vertices + np.array(model.origin)).tolist())
        written, ends = 0, len(model.vertices)
        lines = (model.mesh.line_ends + np.array(model.origin)).tolist()
        for index, part in enumerate(model.parts):
            rows = order[limits[index] : limits[index + 1]]
            drawn = np.flatnonzero(model.mesh.line_part == index).tolist() if not part.absent else []
            if not len(rows) and not drawn:
                continue
            material = model.materials[part.material]
            out.write(f"g {part.layer.replace(' ', '_')}\no {part.name}\nusemtl {material.name}\n")
            for number in drawn:
                out.writelines(f"v {x!r} {y!r} {z!r}\n" for x, y, z in lines[number])
                out.write(f"l {ends + 1} {ends + 2}\n")
                ends += 2
            corners = (model.triangles[rows] + 1).tolist()
            if model.mesh.uv is None or not material.texture:
                out.writelines(f"f {a} {b} {c}\n" for a, b, c in corners)
                continue
            out.writelines(f"vt {u:.7g} {v:.7g}\n" for u, v in model.mesh.uv[rows].reshape(-1, 2).tolist())
            for i, (a, b, c) in enumerate(corners):
                t = written + 3 * i + 1
                out.write(f"f {a}/{t} {b}/{t + 1} {c}/{t + 2}\n")
            written += 3 * len(corners)
    text = []
    for material in model.materials:
        colour = "#ffffff" if material.texture else material.colour  # a picture says its colour itself
        red, green, blue = (c / 255 for c in channels(colour))
        text += [f"newmtl {material.name}", f"Kd {red:.4f} {green:.4f} {blue:.4f}", f"d {material.opacity:g}"]
        if material.texture:
            text.append(f"map_Kd {material.texture}")
            (path.parent / material.texture).write_bytes(model.textures[material.texture])
    library.write_text("\n".join(text) + "\n", "utf-8")
