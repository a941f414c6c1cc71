"""A small IFC file in the making, for studies that are written by a script."""

from __future__ import annotations

from pathlib import Path
from typing import Any, Literal

import numpy as np

__all__ = ["Ifc"]


class Ifc:
    """A small IFC file in the making: metres or millimetres, storeys, and products with tessellated or swept bodies."""

    def __init__(
        self,
        schema: Literal["IFC2X3", "IFC4", "IFC4X3"] = "IFC4",
        prefix: str | None = None,
        origin: tuple[float, float, float] = (0, 0, 0),
    ) -> None:
        import ifcopenshell
        import ifcopenshell.guid

        self.file = ifcopenshell.file(schema=schema)
        self.per = 1000.0 if prefix == "MILLI" else 1.0
        self._guid = ifcopenshell.guid.new
        make = self.make
        unit = make("IfcSIUnit", None, "LENGTHUNIT", prefix, "METRE")
        self.owner = None
        if schema == "IFC2X3":
            person = make("IfcPersonAndOrganization", make("IfcPerson"), make("IfcOrganization", None, "Bench"))
            application = make("IfcApplication", person.TheOrganization, "1", "Bench", "bench")
            self.owner = make("IfcOwnerHistory", person, application, None, "ADDED", None, None, None, 1700000000)
        world = make("IfcAxis2Placement3D", self.point(0, 0, 0))
        context = make("IfcGeometricRepresentationContext", None, "Model", 3, 1e-5, world)
        self.context = make(
            "IfcGeometricRepresentationSubContext",
            "Body",
            "Model",
            None,
            None,
            None,
            None,
            context,
            None,
            "MODEL_VIEW",
            None,
        )
        project = self.root(
            "IfcProject",
            "House",
            LongName=None,
            RepresentationContexts=[context],
            UnitsInContext=make("IfcUnitAssignment", [unit]),
        )
        self.site = self.root("IfcSite", "Site", ObjectPlacement=self.place(None, origin), CompositionType="ELEMENT")
        self.building = self.root(
            "IfcBuilding",
            "Long House",
            ObjectPlacement=self.place(self.site.ObjectPlacement),
            CompositionType="ELEMENT",
        )
        self.within(project, [self.site])
        self.within(self.site, [self.building])
        self._styles: dict[str, Any] = {}

    def make(self, kind: str, *values: Any, **named: Any) -> Any:
        """One entity."""
        return self.file.create_entity(kind, *values, **named)

    def root(self, kind: str, name: str, guid: str | None = None, **named: Any) -> Any:
        """One entity with a global id."""
        return self.make(kind, GlobalId=guid or self._guid(), OwnerHistory=self.owner, Name=name, **named)

    def point(self, *xyz: float) -> Any:
        return self.make("IfcCartesianPoint", [float(c) * self.per for c in xyz])

    def direction(self, *xyz: float) -> Any:
        return self.make("IfcDirection", [float(c) for c in xyz])

    def place(self, above: Any, at: tuple[float, float, float] = (0, 0, 0), turn: float = 0.0) -> Any:
        """A local placement, turned by radians about the upright axis."""
        x = self.direction(np.cos(turn), np.sin(turn), 0)
        return self.make(
            "IfcLocalPlacement", above, self.make("IfcAxis2Placement3D", self.point(*at), self.direction(0, 0, 1), x)
        )

    def within(self, whole: Any, parts: list[Any]) -> None:
        self.root("IfcRelAggregates", "", RelatingObject=whole, RelatedObjects=parts)

    def storey(self, name: str, level: float) -> Any:
        at = self.place(self.building.ObjectPlacement, (0, 0, level))
        found = self.root(
            "IfcBuildingStorey", name, ObjectPlacement=at, CompositionType="ELEMENT", Elevation=level * self.per
        )
        self.within(self.building, [found])
        return found

    def style(self, name: str, colour: str, opacity: float = 1.0) -> Any:
        """A surface style, made once."""
        if name not in self._styles:
            rgb = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
            shade = self.make(
                "IfcSurfaceStyleRendering",
                self.make("IfcColourRgb", None, *rgb),
                1 - opacity,
                None,
                None,
                None,
                None,
                None,
                None,
                "FLAT",
            )
            found = self.make("IfcSurfaceStyle", name, "BOTH", [shade])
            if self.file.schema == "IFC2X3":
                found = self.make("IfcPresentationStyleAssignment", [found])
            self._styles[name] = found
        return self._styles[name]

    def block(self, low: tuple[float, float, float], high: tuple[float, float, float], style: Any = None) -> Any:
        """A swept rectangle."""
        size = np.subtract(high, low)
        middle = self.make("IfcAxis2Placement2D", self.point(0, 0))
        profile = self.make(
            "IfcRectangleProfileDef", "AREA", None, middle, float(size[0] * self.per), float(size[1] * self.per)
        )
        at = self.make("IfcAxis2Placement3D", self.point(low[0] + size[0] / 2, low[1] + size[1] / 2, low[2]))
        return self.styled(
            self.make("IfcExtrudedAreaSolid", profile, at, self.direction(0, 0, 1), float(size[2] * self.per)), style
        )

    def faces(self, vertices: np.ndarray, triangles: np.ndarray, style: Any = None) -> Any:
        """A tessellated body, or in IFC 2x3 a faceted one."""
        if self.file.schema == "IFC2X3":
            points = [self.point(*v) for v in vertices]
            loops = [self.make("IfcPolyLoop", [points[i] for i in t]) for t in triangles.tolist()]
            shell = self.make(
                "IfcClosedShell", [self.make("IfcFace", [self.make("IfcFaceOuterBound", loop, True)]) for loop in loops]
            )
            return self.styled(self.make("IfcFacetedBrep", shell), style)
        points = self.make("IfcCartesianPointList3D", (np.asarray(vertices) * self.per).tolist())
        return self.styled(
            self.make("IfcTriangulatedFaceSet", points, None, True, (np.asarray(triangles) + 1).tolist(), None), style
        )

    def styled(self, item: Any, style: Any) -> Any:
        if style is not None:
            self.make("IfcStyledItem", item, [style], None)
        return item

    def product(
        self,
        kind: str,
        name: str,
        storey: Any,
        items: list[Any],
        at: tuple[float, float, float] = (0, 0, 0),
        turn: float = 0.0,
        **named: Any,
    ) -> Any:
        """A product with a body, in a storey."""
        shape = None
        if items:
            sort = (
                "SweptSolid"
                if items[0].is_a("IfcExtrudedAreaSolid")
                else "Brep"
                if self.file.schema == "IFC2X3"
                else "Tessellation"
            )
            shape = self.make(
                "IfcProductDefinitionShape",
                None,
                None,
                [self.make("IfcShapeRepresentation", self.context, "Body", sort, items)],
            )
        found = self.root(
            kind, name, ObjectPlacement=self.place(storey.ObjectPlacement, at, turn), Representation=shape, **named
        )
        if kind == "IfcSpace":
            self.within(storey, [found])
        elif kind != "IfcOpeningElement":
            self.root("IfcRelContainedInSpatialStructure", "", RelatedElements=[found], RelatingStructure=storey)
        return found

    def void(self, wall: Any, storey: Any, low: tuple[float, float, float], high: tuple[float, float, float]) -> None:
        opening = self.product("IfcOpeningElement", "Opening", storey, [self.block(low, high)])
        self.root("IfcRelVoidsElement", "", RelatingBuildingElement=wall, RelatedOpeningElement=opening)

    def write(self, path: Path) -> None:
        self.file.write(str(path))
