"""COLLADA 1.4/1.5 and 3MF: the two formats of XML, read with the entities that could blow up left unresolved."""

from __future__ import annotations

import io
import re
import zipfile
from pathlib import Path, PurePosixPath
from typing import Any

import numpy as np
from numpy.typing import NDArray

from warmgraphite.colours import channels, written
from warmgraphite.errors import GraphiteError, ModelFileError
from warmgraphite.model.gathering import Gathering, Stages, hex_colour, unwatched
from warmgraphite.model.model import Material, Model

__all__ = ["metres_per_unit", "read_3mf", "read_collada", "refuse_entities", "up_axis"]

#: Nodes below nodes below nodes: deeper than any building.
DEEPEST = 60
#: Placements of one file; instances of instances of instances reach this long before a person would.
MOST_INSTANCES = 200_000


def refuse_entities(text: bytes, name: str) -> None:
    """Raise when an XML text declares entities: a model needs none, and a few lines of them can fill a memory."""
    if re.search(rb"<!(DOCTYPE|ENTITY)", text[:200_000], re.IGNORECASE):
        raise ModelFileError(f"{name} declares entities of its own, which no model needs; export it again.")


def metres_per_unit(path: Path) -> float | None:
    """Metres of a COLLADA file's unit, or ``None``."""
    found = re.search(rb"<unit\b[^>]*\bmeter\s*=\s*[\"']([-+0-9.eE]+)[\"']", path.read_bytes()[:100_000])
    try:
        metres = float(found[1]) if found else 0.0
    except ValueError:
        metres = 0.0
    return metres if 1e-6 < metres < 1e6 else None


def up_axis(path: Path) -> str:
    """``y`` or ``z`` of a COLLADA file; the standard's own is Y."""
    found = re.search(rb"<up_axis>\s*([XYZ])_UP\s*</up_axis>", path.read_bytes()[:100_000])
    return "z" if found and found[1] == b"Z" else "y"


def read_collada(path: Path, watch: Stages = unwatched) -> Model:
    """The model of a COLLADA file in file coordinates; nodes are its layers and parts."""
    import collada

    watch("Reading the file", 0.05)
    refuse_entities(path.read_bytes(), path.name)
    gathering = Gathering(path.name)
    try:
        source = collada.Collada(str(path), ignore=[collada.common.DaeError])
        if source.scene is None:
            raise ModelFileError(f"{path.name} has no scene, so nothing stands anywhere; export the model again.")
        looks: dict[Any, Material] = {}
        count = [0]

        def look(material: Any) -> Material:
            if material is None:
                return Material("Plain")
            if material.id not in looks:
                looks[material.id] = _collada_material(material, path, gathering)
            return looks[material.id]

        def walk(node: Any, matrix: NDArray[np.float64], steps: list[str]) -> None:
            if len(steps) > DEEPEST:
                raise ModelFileError(f"{path.name} nests its nodes deeper than {DEEPEST}; export the model again.")
            if isinstance(node, collada.scene.GeometryNode):
                count[0] += 1
                if count[0] > MOST_INSTANCES:
                    raise ModelFileError(
                        f"{path.name} places more than {MOST_INSTANCES:,} bodies; leave out what the drawing does not need."
                    )
                _collada_body(node, matrix, steps, look, gathering)
            elif hasattr(node, "children"):
                if hasattr(node, "node"):  # an instance of a node kept in the library
                    walk(node.node, matrix, steps)
                    return
                own = getattr(node, "xmlnode", None)
                name = (own.get("name") or own.get("id") or "") if own is not None else ""
                below = matrix @ np.asarray(node.matrix, float) if getattr(node, "matrix", None) is not None else matrix
                for child in node.children:
                    walk(child, below, [*steps, name])
            elif hasattr(node, "node"):
                walk(node.node, matrix, steps)

        for at, node in enumerate(source.scene.nodes):
            watch("Gathering the parts", 0.3 + 0.6 * at / max(len(source.scene.nodes), 1))
            walk(node, np.eye(4), [])
        return gathering.model(path.stem)
    except (GraphiteError, MemoryError):
        raise
    except Exception as error:  # the library raises whatever its parts raise
        raise ModelFileError(f"{path.name} is a damaged COLLADA file and cannot be read to its end; export it again.") from error


def _collada_material(material: Any, path: Path, gathering: Gathering) -> Material:
    import collada

    effect = material.effect
    diffuse, colour, texture = getattr(effect, "diffuse", None), "#cfc8bc", ""
    if isinstance(diffuse, collada.material.Map):
        beside = path.parent / PurePosixPath(str(diffuse.sampler.surface.image.path).replace("\\", "/")).name
        if beside.is_file():
            texture = gathering.picture(beside.read_bytes())
            colour = gathering.tone(texture) if texture else colour
    elif diffuse is not None:
        colour = hex_colour(diffuse)
    clear = getattr(effect, "transparency", None)
    opacity = float(clear) if isinstance(clear, int | float) else 1.0
    through = getattr(effect, "transparent", None)
    if isinstance(through, tuple) and getattr(effect, "opaque_mode", None) == collada.material.OPAQUE_MODE.RGB_ZERO:
        opacity = 1.0 - opacity * float(np.mean(through[:3]))
    elif isinstance(through, tuple) and len(through) > 3:
        opacity = opacity * float(through[3])
    return Material(str(material.name or material.id), colour, round(min(max(opacity, 0.0), 1.0), 2), texture)


def _collada_body(node: Any, matrix: NDArray[np.float64], steps: list[str], look: Any, gathering: Gathering) -> None:
    import collada

    bound = {m.symbol: m.target for m in node.materials}
    named = [s for s in steps if s]
    name = named[-1] if named else str(node.geometry.name or node.geometry.id)
    layer = "/".join(s.replace("/", " ") for s in named[:-1])
    groups: dict[Material, list[tuple[NDArray, NDArray, NDArray | None]]] = {}
    for primitive in node.geometry.primitives:
        if isinstance(primitive, collada.polylist.Polylist | collada.polygons.Polygons):
            primitive = primitive.triangleset()
        if not isinstance(primitive, collada.triangleset.TriangleSet) or primitive.vertex is None or not len(primitive):
            continue
        material = look(bound.get(primitive.material))
        uv = None
        if material.texture and primitive.texcoordset:
            uv = np.asarray(primitive.texcoordset[0])[primitive.texcoord_indexset[0]][..., :2]
        groups.setdefault(material, []).append((np.asarray(primitive.vertex, float), np.asarray(primitive.vertex_index), uv))
    for material, rows in groups.items():
        offsets = np.cumsum([0] + [len(v) for v, _, _ in rows])
        points = np.concatenate([v for v, _, _ in rows]) @ matrix[:3, :3].T + matrix[:3, 3]
        faces = np.concatenate([f.reshape(-1, 3) + o for (_, f, _), o in zip(rows, offsets, strict=False)])
        corners = np.concatenate([u for _, _, u in rows]) if all(u is not None for _, _, u in rows) else None
        if np.linalg.det(matrix[:3, :3]) < 0:
            faces, corners = faces[:, ::-1], corners[:, ::-1] if corners is not None else None
        gathering.add(name if len(groups) == 1 else f"{name} · {material.name}", layer, material, points, faces, uv=corners)


_CORE = "{http://schemas.microsoft.com/3dmanufacturing/core/2015/02}"
#: Units that 3MF names, as ours.
THREEMF_UNITS = {"micron": 1e-6, "millimeter": 1e-3, "centimeter": 1e-2, "inch": 0.0254, "foot": 0.3048, "meter": 1.0}


def read_3mf(path: Path, watch: Stages = unwatched) -> tuple[Model, float]:
    """The model of a 3MF file in file coordinates, and the metres of its unit."""
    from lxml import etree

    watch("Reading the file", 0.05)
    gathering = Gathering(path.name)
    try:
        with zipfile.ZipFile(path) as archive:
            inside = next((i for i in archive.infolist() if i.filename.lower().lstrip("/").endswith("3d/3dmodel.model")), None)
            if inside is None:
                raise ModelFileError(f"{path.name} is a 3MF package without a model in it; export it again.")
            if inside.file_size > 2_000_000_000:
                raise ModelFileError(f"{path.name} unpacks to more than 2 GB; leave out what the drawing does not need.")
            text = archive.read(inside)
        refuse_entities(text, path.name)
        parser = etree.XMLParser(resolve_entities=False, no_network=True, huge_tree=True)
        root = etree.parse(io.BytesIO(text), parser).getroot()
        watch("Gathering the parts", 0.5)
        _gather_3mf(root, gathering)
        return gathering.model(path.stem), THREEMF_UNITS.get(root.get("unit", "millimeter"), 1e-3)
    except (GraphiteError, MemoryError):
        raise
    except Exception as error:  # the libraries raise whatever their parts raise
        raise ModelFileError(f"{path.name} is a damaged 3MF file and cannot be read to its end; export it again.") from error


def _matrix(text: str | None) -> NDArray[np.float64]:
    found = np.eye(4)
    if text:
        found[:3, :] = np.array([float(v) for v in text.split()]).reshape(4, 3).T
    return found


def _gather_3mf(root: Any, gathering: Gathering) -> None:
    palettes: dict[str, list[Material]] = {}
    for group in root.iter(f"{_CORE}basematerials"):
        palettes[group.get("id")] = [
            Material(
                base.get("name") or "Plain",
                written(channels(base.get("displaycolor", "#cfc8bc"))),
                round(int((base.get("displaycolor", "#cfc8bc") + "ff")[7:9], 16) / 255, 2),
            )
            for base in group.iter(f"{_CORE}base")
        ]

    def look(group: str | None, index: str | None) -> Material:
        rows = palettes.get(group or "", [])
        return rows[int(index or 0)] if 0 <= int(index or 0) < len(rows) else Material("Plain")

    objects = {o.get("id"): o for o in root.iter(f"{_CORE}object")}
    bodies: dict[str, list[tuple[Material, NDArray, NDArray]]] = {}
    count = [0]

    def body(number: str) -> list[tuple[Material, NDArray, NDArray]]:
        if number not in bodies:
            thing = objects[number]
            points = np.array([[float(v.get(c)) for c in "xyz"] for v in thing.iter(f"{_CORE}vertex")], float).reshape(-1, 3)
            own = look(thing.get("pid"), thing.get("pindex"))
            rows: dict[Material, list[list[int]]] = {}
            for t in thing.iter(f"{_CORE}triangle"):
                material = look(t.get("pid") or thing.get("pid"), t.get("p1")) if t.get("p1") is not None else own
                rows.setdefault(material, []).append([int(t.get(k)) for k in ("v1", "v2", "v3")])
            bodies[number] = [(m, points, np.array(f, np.int64)) for m, f in rows.items()]
        return bodies[number]

    def place(number: str, matrix: NDArray[np.float64], steps: list[str]) -> None:
        count[0] += 1
        if len(steps) > DEEPEST or count[0] > MOST_INSTANCES:
            raise ModelFileError(f"{gathering.file} nests its objects without end; export the model again.")
        thing = objects.get(number)
        if thing is None:
            raise ModelFileError(f"{gathering.file} places an object “{number}” that it does not hold; export the model again.")
        name = thing.get("name") or f"Body {number}"
        rows = body(number) if thing.find(f"{_CORE}mesh") is not None else []
        for material, points, faces in rows:
            turned = faces[:, ::-1] if np.linalg.det(matrix[:3, :3]) < 0 else faces
            title = name if len(rows) == 1 else f"{name} · {material.name}"
            gathering.add(title, "/".join(steps), material, points @ matrix[:3, :3].T + matrix[:3, 3], turned)
        for part in thing.iter(f"{_CORE}component"):
            place(part.get("objectid"), matrix @ _matrix(part.get("transform")), [*steps, name.replace("/", " ")])

    for item in root.iter(f"{_CORE}item"):
        place(item.get("objectid"), _matrix(item.get("transform")), [])
