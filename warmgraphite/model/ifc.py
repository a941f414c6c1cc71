"""IFC 2x3 and 4 (ISO 16739): storeys and classes make the layers, classes give roles, spaces become rooms.

Geometry comes from the open IFC library, in metres and double precision. Its quick kernel makes what it can; what it
leaves out is made by the exact one.
"""

from __future__ import annotations

import contextlib
import math
import re
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from warmgraphite.colour import of_shares
from warmgraphite.errors import ModelFileError
from warmgraphite.geometry.tolerances import NEAR
from warmgraphite.geometry.triangles import normals
from warmgraphite.model.axes import Axis, Door
from warmgraphite.model.gathering import Gathering
from warmgraphite.model.joining import OntoMap
from warmgraphite.model.model import Model, Room
from warmgraphite.model.palette import SEE_THROUGH, Material
from warmgraphite.model.roles import guess_role
from warmgraphite.progress import Stages, unwatched

__all__ = ["read_ifc"]

_QUICK: Any = "hybrid-cgal-simple-opencascade"
_EXACT: Any = "opencascade"
#: Openings are taken out of what they void; the rest has no body of its own in a drawing.
_NO_BODY = ("IfcOpeningElement", "IfcGrid", "IfcAnnotation", "IfcVirtualElement")

# The first class that a product is an instance of decides; glass is so only where its material is seen through. What is
# none of these is told by its names.
_ROLES: tuple[tuple[str, str], ...] = (
    ("IfcWindow", "glass"), ("IfcDoor", "glass"), ("IfcPlate", "glass"), ("IfcCurtainWall", "glass"),
    ("IfcCovering", "envelope"),
    ("IfcRoof", "envelope"), ("IfcFurnishingElement", "furniture"), ("IfcFlowTerminal", "furniture"),
    ("IfcTransportElement", "structure"), ("IfcGeographicElement", "ground"), ("IfcSite", "ground"),
    ("IfcWall", "structure"),
    ("IfcSlab", "structure"), ("IfcColumn", "structure"), ("IfcBeam", "structure"), ("IfcFooting", "structure"),
    ("IfcPile", "structure"), ("IfcStair", "structure"), ("IfcRamp", "structure"), ("IfcMember", "structure"),
)  # fmt: skip
_PLAIN = Material("Plain")
_NOWHERE, _NO_FACES = np.empty((0, 3)), np.empty((0, 3), np.int64)


def _words(kind: str) -> str:
    """``IfcFurnishingElement`` as a layer's name: ``Furnishing element``."""
    bare = kind.removeprefix("Ifc").removesuffix("StandardCase").removesuffix("ElementedCase")
    return re.sub(r"(?<=[a-z])(?=[A-Z])", " ", bare).capitalize()


def _role(product: Any, name: str, material: Material) -> str:
    clear = material.opacity < SEE_THROUGH
    for kind, role in _ROLES:
        if product.is_a(kind):
            if role == "glass" and not clear:
                return "envelope"
            return role
    if product.is_a("IfcBuildingElementProxy") and str(getattr(product, "ObjectType", "") or "").lower() in (
        "site",
        "terrain",
    ):
        return "ground"
    return guess_role("", name, material)


def _layer(product: Any) -> str:
    """The storey, or what else contains the product, and its class."""
    import ifcopenshell.util.element as element

    try:
        above = element.get_container(product)
    except RecursionError:
        above = None
    if above is None and product.is_a("IfcSpace"):
        above = element.get_aggregate(product)
    where = (getattr(above, "Name", None) or _words(above.is_a())) if above is not None else "Building"
    return f"{_clean(where)}/{_words(product.is_a())}"


def _clean(text: Any) -> str:
    return re.sub(r"[\x00-\x1f/]+", " ", str(text or "")).strip()[:120]


def _material(file: Any, style: Any) -> Material:
    name = ""
    with contextlib.suppress(RuntimeError):  # a look that the library made up has no entity
        name = _clean(getattr(file.by_id(style.instance_id()), "Name", ""))
    name = name or _clean(re.sub(r"-\d+$", "", style.name)) or "Plain"
    colour = style.diffuse
    see = float(style.transparency) if style.has_transparency else 0.0
    return Material(
        name,
        of_shares((colour.r(), colour.g(), colour.b())),
        1.0 - min(max(see, 0.0), 1.0) if math.isfinite(see) else 1.0,
    )


def _settings() -> Any:
    import ifcopenshell.geom

    found = ifcopenshell.geom.settings()
    found.set("use-world-coords", True)
    found.set("no-normals", True)
    return found


def _shapes(file: Any, products: list[Any], kernel: Any, watch: Any) -> Any:
    """(product id, geometry) of the products that the kernel makes something of."""
    import ifcopenshell.geom

    if not products:
        return
    iterator = ifcopenshell.geom.iterator(_settings(), file, 2, include=products, geometry_library=kernel)
    if not iterator.initialize():
        return
    while True:
        shape = iterator.get()
        yield shape.id, shape.geometry
        watch(iterator.progress() / 100)
        if not iterator.next():
            return


def _room(space: Any, layer: str, points: NDArray[np.float64], faces: NDArray[np.int32]) -> Room:
    """A space as a room: named, standing in the middle of its floor."""
    corners = points[faces]
    normal = normals(corners)
    level = np.abs(normal[:, 2]) / 2
    low = corners[:, :, 2].min(1) <= points[:, 2].min() + 0.05
    floor = level * (low & (np.ptp(corners[:, :, 2], axis=1) < 0.05))
    middle = (corners.mean(1) * floor[:, None]).sum(0) / floor.sum() if floor.sum() > 0 else points.mean(0)
    title, number = _clean(getattr(space, "LongName", None)), _clean(space.Name)
    place = (float(middle[0]), float(middle[1]), float(points[:, 2].min()))
    return Room(title or number, number if title else "", layer.split("/")[0], place, round(float(floor.sum()), 3))


_LEAVES: dict[str, tuple[tuple[float, float, int], ...]] = {
    # Of each leaf: where it hangs and how wide it is, in widths of the door, and which way it is shut along the door's
    # own right.
    "SINGLE_SWING_LEFT": ((0.0, 1.0, 1),), "DOUBLE_SWING_LEFT": ((0.0, 1.0, 1),),
    "SINGLE_SWING_RIGHT": ((1.0, 1.0, -1),),
    "DOUBLE_SWING_RIGHT": ((1.0, 1.0, -1),), "DOUBLE_DOOR_SINGLE_SWING": ((0.0, 0.5, 1), (1.0, 0.5, -1)),
    "DOUBLE_DOOR_DOUBLE_SWING": ((0.0, 0.5, 1), (1.0, 0.5, -1)),
}  # fmt: skip


def _doors(ifc: Any, scale: float) -> list[Door]:
    """How the doors of the file open, where it says so.
    Hinges are on the left, or right, as one looks the way that they open.
    """
    import ifcopenshell.util.element as element
    import ifcopenshell.util.placement as placement

    found: list[Door] = []
    for door in ifc.by_type("IfcDoor"):
        kind, width = getattr(door, "OperationType", None), door.OverallWidth
        if not kind or kind == "NOTDEFINED":
            kind = getattr(element.get_type(door), "OperationType", None)
        if kind not in _LEAVES or not width or door.ObjectPlacement is None:
            continue
        matrix = placement.get_local_placement(door.ObjectPlacement)
        right, into, at = matrix[:3, 0], matrix[:3, 1], matrix[:3, 3] * scale
        for hangs, share, way in _LEAVES[kind]:
            hinge = at + right * hangs * width * scale
            x, y, z = hinge.tolist()
            found.append(
                Door(
                    (x, y, z),
                    tuple((right[:2] * way).tolist()),
                    tuple(into[:2].tolist()),
                    float(width) * scale * share,
                    door.GlobalId,
                )
            )
    return found


def _axes(grid: Any, scale: float) -> list[Axis]:
    """The axes of a grid that are straight."""
    import ifcopenshell.util.placement as placement

    found: list[Axis] = []
    matrix = placement.get_local_placement(grid.ObjectPlacement) if grid.ObjectPlacement else np.eye(4)
    for axis in (*(grid.UAxes or ()), *(grid.VAxes or ()), *(grid.WAxes or ())):
        curve = axis.AxisCurve
        if curve.is_a("IfcPolyline"):
            points = [tuple(p.Coordinates) for p in curve.Points]
        elif curve.is_a("IfcIndexedPolyCurve"):
            points = [tuple(p) for p in curve.Points.CoordList]
        elif curve.is_a("IfcLine"):
            start = np.array(curve.Pnt.Coordinates, float)
            way = np.array(curve.Dir.Orientation.DirectionRatios, float) * curve.Dir.Magnitude
            points = [tuple(start), tuple(start + way)]
        else:
            continue
        ends = [np.array([*p, 0.0][:3]) for p in (points[0], points[-1])]
        a, b = ((matrix @ np.append(e, 1.0))[:3] * scale for e in ends)
        if np.linalg.norm(b - a) > NEAR:
            found.append(Axis(_clean(axis.AxisTag)[:8], tuple(a.tolist()), tuple(b.tolist())))
    return found


def read_ifc(path: Path, watch: Stages = unwatched) -> tuple[Model, tuple[str, ...]]:
    """The model of an IFC file in metres, Z up, and sentences about what was left out.

    Raises :class:`ModelFileError` for a damaged or empty file.
    """
    import ifcopenshell

    head, tail = path.open("rb").read(4096), b""
    with path.open("rb") as file:
        file.seek(max(0, path.stat().st_size - 4096))
        tail = file.read()
    if b"END-ISO-10303-21" not in tail:
        raise ModelFileError(f"{path.name} breaks off before its end; export it again and bring the whole file.")
    schema = re.search(rb"FILE_SCHEMA\s*\(\s*\(\s*'([^']*)'", head, re.IGNORECASE)
    if schema and not schema[1].upper().startswith((b"IFC2X3", b"IFC4")):
        raise ModelFileError(
            f"{path.name} is written as {schema[1].decode(errors='replace')}; export it as IFC 2x3 or IFC 4."
        )
    watch("Reading the file", 0.05)
    try:
        ifc = ifcopenshell.open(str(path))
        products = [p for p in ifc.by_type("IfcProduct") if not any(p.is_a(k) for k in _NO_BODY) and p.Representation]
    except Exception as error:  # the library raises whatever its parser meets
        raise ModelFileError(
            f"{path.name} is a damaged IFC file and cannot be read to its end; export it again."
        ) from error
    gathering, onto_map = Gathering(path.name), None
    try:
        _gather(ifc, products, gathering, watch)
    except (RuntimeError, TypeError, AttributeError, ValueError) as error:
        raise ModelFileError(
            f"{path.name} is a damaged IFC file: its products cannot be understood; export it again."
        ) from error
    with contextlib.suppress(
        RuntimeError, TypeError, AttributeError, ValueError, KeyError
    ):  # what is only told beside is no reason to stop
        import ifcopenshell.util.unit

        scale = float(ifcopenshell.util.unit.calculate_unit_scale(ifc))
        gathering.doors += _doors(ifc, scale)
        _gather_grids(ifc, gathering, scale)
        onto_map = _onto_map(ifc, scale)
    # The library passes over what it does not know without a word.
    with contextlib.suppress(RuntimeError, TypeError, AttributeError, ValueError, KeyError):
        _gather_annotations(ifc, gathering)
    lines = len(re.findall(rb"(?m)^\s*#\d+\s*=", path.read_bytes()))
    left = lines - sum(1 for _ in ifc)
    notes = (
        (f"{left:,} {'line' if left == 1 else 'lines'} of the file could not be understood, so parts may be missing.",)
        if left > 0
        else ()
    )
    return replace(gathering.model(path.stem), onto_map=onto_map), notes


def _onto_map(ifc: Any, scale: float) -> OntoMap | None:
    """How the file's coordinates, in metres, lie on the map, by its map conversion; ``None`` where it has none.
    ``scale`` is metres of its unit.
    """
    import ifcopenshell.util.geolocation as geolocation
    import ifcopenshell.util.unit as unit

    found = geolocation.get_helmert_transformation_parameters(ifc)
    if found is None:
        return None
    east, north, height, across, along, times = (
        float(v) for v in (found.e, found.n, found.h, found.xaa, found.xao, found.scale)
    )  # fmt: skip
    # The map may have units of its own; where they are not named, a scale that leads to metres tells them.
    named = (
        []
        if ifc.schema == "IFC2X3"
        else [getattr(c.TargetCRS, "MapUnit", None) for c in ifc.by_type("IfcMapConversion")]
    )
    of_map = (
        float(unit.get_unit_scale(named[0]))
        if named and named[0] is not None
        else 1.0
        if abs(times / scale - 1) < 0.1
        else scale
    )
    # The scale leads from the file's units to the map's. One that does not is of a program that left the units to its
    # reader.
    ratio = times * of_map / scale
    ratio = ratio if 0.9 < ratio < 1.1 else 1.0
    long = math.hypot(across, along) or 1.0
    cos, sin = (across / long * ratio, along / long * ratio) if (across or along) else (ratio, 0.0)
    return (
        (cos, -sin, 0.0, east * of_map), (sin, cos, 0.0, north * of_map), (0.0, 0.0, ratio, height * of_map),
        (0.0, 0.0, 0.0, 1.0),
    )  # fmt: skip


def _gather_grids(ifc: Any, gathering: Gathering, scale: float) -> None:
    """The axes of grids, as axes that notes name, and as line elements."""
    for grid in ifc.by_type("IfcGrid"):
        axes = _axes(grid, scale)
        gathering.axes += axes
        if axes:
            ends = np.array([(a.start, a.end) for a in axes])
            name = _clean(grid.Name) or "Grid"
            gathering.add(name, _layer(grid), _PLAIN, _NOWHERE, _NO_FACES, lines=ends, role="context", id=grid.GlobalId)


def _gather_annotations(ifc: Any, gathering: Gathering) -> None:
    """What annotations draw that has no faces, as line elements."""
    import ifcopenshell.geom

    settings = _settings()
    settings.set("dimensionality", ifcopenshell.ifcopenshell_wrapper.CURVES_SURFACES_AND_SOLIDS)
    for product in ifc.by_type("IfcAnnotation"):
        if not product.Representation:
            continue
        try:
            shape: Any = ifcopenshell.geom.create_shape(settings, product)
        except RuntimeError:
            continue  # words and hatches have no curves
        geometry = shape.geometry
        points = np.frombuffer(geometry.verts_buffer).reshape(-1, 3)
        edges = np.frombuffer(geometry.edges_buffer, np.int32).reshape(-1, 2)
        if len(np.frombuffer(geometry.faces_buffer, np.int32)) or not len(edges):
            continue
        name = _clean(product.Name) or f"Annotation {product.id()}"
        gathering.add(
            name, _layer(product), _PLAIN, _NOWHERE, _NO_FACES, lines=points[edges], role="context", id=product.GlobalId
        )


@dataclass(frozen=True)
class _Made:
    """What a kernel made of a product: points (V, 3), faces (T, 3), and of each face which of the ``looks`` it has."""

    points: NDArray[np.float64]
    faces: NDArray[np.int32]
    which: NDArray[np.int32]
    looks: list[Material]


def _gather(ifc: Any, products: list[Any], gathering: Gathering, watch: Stages) -> None:
    made: dict[int, _Made] = {}
    styles: dict[tuple[int, str], Material] = {}
    for kernel, start, share in ((_QUICK, 0.1, 0.6), (_EXACT, 0.7, 0.25)):
        rest = [p for p in products if p.id() not in made]
        for number, geometry in _shapes(
            ifc, rest, kernel, lambda f, s=start, w=share: watch("Making the bodies", s + w * f)
        ):
            points = np.frombuffer(geometry.verts_buffer).reshape(-1, 3).copy()
            faces = np.frombuffer(geometry.faces_buffer, np.int32).reshape(-1, 3).copy()
            if not len(faces):
                continue
            looks = []
            for style in geometry.materials:
                key = (style.instance_id(), style.name)
                if key not in styles:
                    styles[key] = _material(ifc, style)
                looks.append(styles[key])
            made[number] = _Made(points, faces, np.frombuffer(geometry.material_ids_buffer, np.int32).copy(), looks)
    # The kernels work on several products at once and give them as they are done; a file that is read again is the same
    # model.
    for product in products:
        found = made.pop(product.id(), None)
        if found is not None:
            _add(product, found, gathering)


def _add(product: Any, made: _Made, gathering: Gathering) -> None:
    """A product as parts, one for each of its looks, or as a room."""
    layer = _layer(product)
    if product.is_a("IfcSpace"):
        gathering.rooms.append(_room(product, layer, made.points, made.faces))
        return
    name = _clean(product.Name) or f"{_words(product.is_a())} {product.id()}"
    groups: dict[Material, NDArray[np.bool_]] = {}
    for value in np.unique(made.which).tolist():
        look = made.looks[value] if 0 <= value < len(made.looks) else _PLAIN
        groups[look] = groups.get(look, np.zeros(len(made.which), bool)) | (made.which == value)
    for look, rows in groups.items():
        used, local = np.unique(made.faces[rows], return_inverse=True)
        title = name if len(groups) == 1 else f"{name} · {look.name}"
        lasting = product.GlobalId if len(groups) == 1 else f"{product.GlobalId} {look.name}"
        gathering.add(
            title, layer, look, made.points[used], local.reshape(-1, 3), role=_role(product, name, look), id=lasting
        )
