"""COLLADA 1.4/1.5 and 3MF: the two formats of XML, read with the entities that could blow up left unresolved."""

from __future__ import annotations

import io
import re
import zipfile
from array import array
from pathlib import Path
from typing import IO, Any

import numpy as np
from numpy.typing import NDArray

from warmgraphite.colour import channels, of_shares, written
from warmgraphite.errors import GraphiteError, ModelFileError
from warmgraphite.geometry.ragged import firsts_of
from warmgraphite.geometry.tolerances import NEAR
from warmgraphite.model.gathering import MAX_TRIANGLES, Gathering, beside
from warmgraphite.model.model import Model
from warmgraphite.model.palette import Material
from warmgraphite.model.polygons import triangles_of
from warmgraphite.progress import Stages, unwatched

__all__ = ["metres_per_unit", "read_3mf", "read_collada", "refuse_entities", "up_axis"]

#: Nodes below nodes below nodes: deeper than any building.
DEEPEST = 60
#: Placements of one file; instances of instances of instances reach this long before a person would.
MOST_INSTANCES = 200_000
#: Bytes of XML of one file.
MOST_XML = 2_000_000_000


def refuse_entities(text: bytes, name: str) -> None:
    """Raise when an XML text declares entities: a model needs none, and a few lines of them can fill a memory."""
    if text[:2] in (b"\xff\xfe", b"\xfe\xff") or b"\0" in text[:4]:
        text = text.replace(b"\0", b"")  # two bytes a letter: those of the markup are plain letters and nothing
    if re.search(rb"<!(DOCTYPE|ENTITY)", text, re.IGNORECASE):
        raise ModelFileError(f"{name} declares entities of its own, which no model needs; export it again.")


def metres_per_unit(path: Path) -> float | None:
    """Metres of a COLLADA file's unit, or ``None``."""
    found = re.search(rb"<unit\b[^>]*\bmeter\s*=\s*[\"']([-+0-9.eE]+)[\"']", path.read_bytes()[:100_000])
    try:
        metres = float(found[1]) if found else 0.0
    except ValueError:
        metres = 0.0
    return metres if NEAR < metres < 1e6 else None


def up_axis(path: Path) -> str:
    """``y`` or ``z`` of a COLLADA file; the standard's own is Y."""
    found = re.search(rb"<up_axis>\s*([XYZ])_UP\s*</up_axis>", path.read_bytes()[:100_000])
    return "z" if found and found[1] == b"Z" else "y"


#: Faces of no corner.
_FACELESS = re.compile(rb"<(?:\w+:)?(?:p|h)(?:\s*/>|>\s*</(?:\w+:)?(?:p|h)>)")


def read_collada(path: Path, watch: Stages = unwatched) -> Model:
    """The model of a COLLADA file in file coordinates; nodes are its layers and parts."""
    import collada

    watch("Reading the file", 0.05)
    text = path.read_bytes()
    refuse_entities(text, path.name)
    gathering = Gathering(path.name)
    try:
        # Some write a face without corners, which is none; the library ends at it.
        kept = _FACELESS.sub(b"", text)
        source = collada.Collada(str(path) if kept == text else io.BytesIO(kept), ignore=[collada.common.DaeError])
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
                        f"{path.name} places more than {MOST_INSTANCES:,} bodies; leave out what the drawing does not "
                        f"need."
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
        raise ModelFileError(
            f"{path.name} is a damaged COLLADA file and cannot be read to its end; export it again."
        ) from error


def _collada_material(material: Any, path: Path, gathering: Gathering) -> Material:
    import collada

    effect = material.effect
    diffuse, colour, texture = getattr(effect, "diffuse", None), "#cfc8bc", ""
    if isinstance(diffuse, collada.material.Map):
        picture = beside(path, str(diffuse.sampler.surface.image.path))
        if picture is not None:
            texture = gathering.picture(picture.read_bytes())
            colour = gathering.tone(texture) if texture else colour
    elif diffuse is not None:
        colour = of_shares(diffuse)
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
        if isinstance(primitive, collada.polygons.Polygons):
            holed = _holed(primitive, gathering.file)
            if holed is not None:
                groups.setdefault(look(bound.get(primitive.material)), []).append(holed)
        if isinstance(primitive, collada.polylist.Polylist | collada.polygons.Polygons):
            primitive = primitive.triangleset()
        if not isinstance(primitive, collada.triangleset.TriangleSet) or primitive.vertex is None or not len(primitive):
            continue
        material = look(bound.get(primitive.material))
        uv = None
        if material.texture and primitive.texcoordset:
            uv = np.asarray(primitive.texcoordset[0])[primitive.texcoord_indexset[0]][..., :2]
        groups.setdefault(material, []).append(
            (np.asarray(primitive.vertex, float), np.asarray(primitive.vertex_index), uv)
        )
    for material, rows in groups.items():
        offsets = firsts_of([v for v, _, _ in rows])
        points = np.concatenate([v for v, _, _ in rows]) @ matrix[:3, :3].T + matrix[:3, 3]
        faces = np.concatenate([f.reshape(-1, 3) + o for (_, f, _), o in zip(rows, offsets, strict=False)])
        corners = np.concatenate([u for _, _, u in rows]) if all(u is not None for _, _, u in rows) else None
        if np.linalg.det(matrix[:3, :3]) < 0:
            faces, corners = faces[:, ::-1], corners[:, ::-1] if corners is not None else None
        gathering.add(
            name if len(groups) == 1 else f"{name} · {material.name}", layer, material, points, faces, uv=corners
        )


def _holed(primitive: Any, file: str) -> tuple[NDArray, NDArray, NDArray | None] | None:
    """Points, triangles and texture coordinates of the polygons with holes among some.
    They are those which the library leaves out; ``None`` where there are none.
    """
    inputs = [row for rows in primitive.sources.values() for row in rows]
    places = [row for row in inputs if row[1] == "VERTEX"]
    pictures = [row for row in inputs if row[1] == "TEXCOORD"]
    if not places:
        return None
    stride = 1 + max(row[0] for row in inputs)
    points = np.asarray(places[0][4].data, float)
    faces: list[NDArray] = []
    spots: list[NDArray] = []
    for holed in primitive.xmlnode.iterfind("{*}ph"):
        rings = []
        for ring in (*holed.iterfind("{*}p"), *holed.iterfind("{*}h")):
            numbers = np.array((ring.text or "").split(), np.int64)
            corners = numbers[: len(numbers) // stride * stride].reshape(-1, stride)
            if len(corners) >= 3:
                rings.append(corners)
        if not rings:
            continue
        corners = np.concatenate(rings)
        at = corners[:, places[0][0]]
        if at.min() < 0 or at.max() >= len(points):
            raise ModelFileError(f"{file} has faces that ask for missing points; export the model again.")
        found = np.array(triangles_of([points[r[:, places[0][0]]] for r in rings]), np.int64).reshape(-1, 3)
        faces.append(at[found])
        if pictures:
            uv = np.asarray(pictures[0][4].data, float)[:, :2]
            spots.append(uv[np.clip(corners[:, pictures[0][0]], 0, len(uv) - 1)][found])
    if not faces:
        return None
    return points, np.concatenate(faces), np.concatenate(spots) if pictures else None


_TRIANGLE = re.compile(rb"[<:]triangle\s")
_CORE = "{http://schemas.microsoft.com/3dmanufacturing/core/2015/02}"
#: Units that 3MF names, as ours.
THREEMF_UNITS = {"micron": 1e-6, "millimeter": 1e-3, "centimeter": 1e-2, "inch": 0.0254, "foot": 0.3048, "meter": 1.0}


def read_3mf(path: Path, watch: Stages = unwatched) -> tuple[Model, float]:
    """The model of a 3MF file in file coordinates, and the metres of its unit.

    Its XML is read as it unpacks and never held whole: a small package may unpack to a thousand times its size.
    """
    watch("Reading the file", 0.05)
    gathering = Gathering(path.name)
    try:
        with zipfile.ZipFile(path) as archive:
            inside = next(
                (i for i in archive.infolist() if i.filename.lower().lstrip("/").endswith("3d/3dmodel.model")), None
            )
            if inside is None:
                raise ModelFileError(f"{path.name} is a 3MF package without a model in it; export it again.")
            with archive.open(inside) as source:
                _look_through(source, path.name)
            found = _Package(gathering)
            with archive.open(inside) as source:
                found.read(source)
        watch("Gathering the parts", 0.6)
        found.gather()
        return gathering.model(path.stem), THREEMF_UNITS.get(found.unit, 1e-3)
    except (GraphiteError, MemoryError):
        raise
    except Exception as error:  # the libraries raise whatever their parts raise
        raise ModelFileError(
            f"{path.name} is a damaged 3MF file and cannot be read to its end; export it again."
        ) from error


def _look_through(source: IO[bytes], name: str) -> None:
    """Refuse entities, contents without end and more triangles than can be drawn.
    Before anything is made of the XML.
    """
    total, triangles, last = 0, 0, b""
    while data := source.read(1 << 20):
        total += len(data)
        # What begins at the end of one piece is found with the next.
        piece = last + data
        refuse_entities(piece, name)
        triangles += len(_TRIANGLE.findall(piece)) - len(_TRIANGLE.findall(last))
        last = piece[-64:]
        if total > MOST_XML:
            raise ModelFileError(f"{name} unpacks to more than 2 GB; leave out what the drawing does not need.")
        if triangles > MAX_TRIANGLES:
            raise ModelFileError(
                f"{name} has more than {MAX_TRIANGLES:,} triangles; leave out what the drawing does not need."
            )


def _matrix(text: str | None) -> NDArray[np.float64]:
    found = np.eye(4)
    if text:
        found[:3, :] = np.array([float(v) for v in text.split()]).reshape(4, 3).T
    return found


class _Object:
    """One object of a package: its points, its faces by material, and the objects that it is made of."""

    def __init__(self, element: Any) -> None:
        self.name, self.palette, self.index = element.get("name") or "", element.get("pid"), element.get("pindex")
        self.points = array("d")
        self.faces: dict[tuple[str | None, str | None], array] = {}
        self.components: list[tuple[str, str | None]] = []


class _Package:
    """The objects, materials and placements of a 3MF model."""

    def __init__(self, gathering: Gathering) -> None:
        self.gathering = gathering
        self.unit = "millimeter"
        self.palettes: dict[str | None, list[Material]] = {}
        self.objects: dict[str | None, _Object] = {}
        self.items: list[tuple[str | None, str | None]] = []
        self.placed = self.triangles = 0

    def read(self, stream: IO[bytes]) -> None:
        """Take in the stream, element by element."""
        from lxml import etree

        thing: _Object | None = None
        palette: list[Material] = []
        for event, element in etree.iterparse(
            stream, events=("start", "end"), resolve_entities=False, no_network=True, huge_tree=True
        ):
            kind = element.tag.removeprefix(_CORE) if isinstance(element.tag, str) else ""
            if event == "start":
                if kind == "model":
                    self.unit = element.get("unit", "millimeter")
                elif kind == "object":
                    thing = self.objects[element.get("id")] = _Object(element)
                elif kind == "basematerials":
                    palette = self.palettes[element.get("id")] = []
                continue
            if kind == "vertex" and thing is not None:
                thing.points.extend((float(element.get("x")), float(element.get("y")), float(element.get("z"))))
            elif kind == "triangle" and thing is not None:
                own = element.get("p1") is None
                look = (thing.palette, thing.index) if own else (element.get("pid") or thing.palette, element.get("p1"))
                thing.faces.setdefault(look, array("q")).extend(int(element.get(k)) for k in ("v1", "v2", "v3"))
            elif kind == "base":
                colour = element.get("displaycolor", "#cfc8bc")
                palette.append(
                    Material(
                        element.get("name") or "Plain",
                        written(channels(colour)),
                        round(int((colour + "ff")[7:9], 16) / 255, 2),
                    )
                )
            elif kind == "component" and thing is not None:
                thing.components.append((element.get("objectid"), element.get("transform")))
            elif kind == "item":
                self.items.append((element.get("objectid"), element.get("transform")))
            element.clear()
            above = element.getparent()
            while above is not None and element.getprevious() is not None:
                del above[0]

    def _look(self, palette: str | None, index: str | None) -> Material:
        rows = self.palettes.get(palette or "", [])
        return rows[int(index or 0)] if 0 <= int(index or 0) < len(rows) else Material("Plain")

    def gather(self) -> None:
        """Place every object where the build wants it."""
        for number, transform in self.items:
            self._place(number, _matrix(transform), [])

    def _place(self, number: str | None, matrix: NDArray[np.float64], steps: list[str]) -> None:
        self.placed += 1
        if len(steps) > DEEPEST or self.placed > MOST_INSTANCES:
            raise ModelFileError(f"{self.gathering.file} nests its objects without end; export the model again.")
        thing = self.objects.get(number)
        if thing is None:
            raise ModelFileError(
                f"{self.gathering.file} places an object “{number}” that it does not hold; export the model again."
            )
        name = thing.name or f"Body {number}"
        points = np.array(thing.points, float).reshape(-1, 3)
        rows: dict[Material, list[NDArray[np.int64]]] = {}
        for look, faces in thing.faces.items():
            rows.setdefault(self._look(*look), []).append(np.array(faces, np.int64).reshape(-1, 3))
        for material, some in rows.items():
            triangles = np.concatenate(some)
            turned = triangles[:, ::-1] if np.linalg.det(matrix[:3, :3]) < 0 else triangles
            title = name if len(rows) == 1 else f"{name} · {material.name}"
            self.gathering.add(title, "/".join(steps), material, points @ matrix[:3, :3].T + matrix[:3, 3], turned)
            self.triangles += len(triangles)
            if self.triangles > MAX_TRIANGLES:
                raise ModelFileError(
                    f"{self.gathering.file} has more than {MAX_TRIANGLES:,} triangles; leave out what the drawing does "
                    f"not need."
                )
        for part, transform in thing.components:
            self._place(part, matrix @ _matrix(transform), [*steps, name.replace("/", " ")])
