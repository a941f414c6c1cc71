"""Wash: watercolour, pigment that settles in water on paper."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
import shapely
from numpy.typing import NDArray
from pydantic import Field

from warmgraphite.canvas.protocol import BlendMode
from warmgraphite.collage.kernels import washing
from warmgraphite.collage.kernels.records import Cover, Window
from warmgraphite.collage.palettes import Palette, moved
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import Flat, PixelTrace
from warmgraphite.colour import shares, written
from warmgraphite.needs import Need
from warmgraphite.regions.map import RegionMap
from warmgraphite.regions.query import depth_bounds
from warmgraphite.specification import Colour
from warmgraphite.threads import in_stretches

_WAYS = {"evenly": 0.0, "down the drawing": 1.0, "up the drawing": 1.0, "down each face": 2.0, "up each face": 2.0,
    "away from a point": 3.0}  # fmt: skip
_BORDERS = {"region": "borders", "materials": "borders of materials", "faces": "borders of faces"}


class Wash(PixelTrace):
    label: ClassVar[str] = "Wash"
    about: ClassVar[str] = (
        "Watercolour: pigment that settles at rims and in the paper's tooth, two colours wet in wet, white left "
        "between."
    )
    sample: ClassVar[Literal["wall", "house", "open"]] = "wall"

    kind: Literal["wash"] = "wash"
    blend: BlendMode = "multiply"
    colours: Literal["its own", "of materials"] = Field(default="its own", title="Colours")
    colour: Colour = Field(
        default="#b9cdcf", title="Pigment", json_schema_extra={"unless": {"colours": ["of materials"]}}
    )
    second: Colour = Field(default="#ddd8c4", title="Second pigment", description="Runs into the first, wet in wet.")
    palette: Palette = Field(
        default="kiln",
        title="Palette",
        description="What colours of materials are moved towards.",
        json_schema_extra={"when": {"colours": ["of materials"]}},
    )
    wet: float = Field(
        default=0.5, ge=0, le=1, title="Wet in wet", description="How much of the second pigment runs in."
    )
    density: float = Field(default=1.0, ge=0, le=3, title="Density", description="How much pigment is laid on.")
    holds: Literal["region", "materials", "faces"] = Field(
        default="region", title="One wash for", description="What has a rim of its own."
    )
    flow: float = Field(default=0.35, ge=0, le=1, title="Flow", description="How unevenly it flows.")
    pools: float = Field(default=38.0, ge=2, le=400, title="Pools", json_schema_extra={"unit": "mm", "most": 120})
    rim: float = Field(
        default=0.4, ge=0, le=2, title="Dark rim", description="Pigment that the water carries to the edge."
    )
    rim_width: float = Field(
        default=0.5,
        ge=0.05,
        le=10,
        title="Width of the rim",
        json_schema_extra={"unless": {"rim": [0]}, "unit": "mm", "most": 3},
    )
    bloom: float = Field(default=0.2, ge=0, le=1, title="Bloom", description="Paler where water was dropped in.")
    back_run: float = Field(
        default=0.0, ge=0, le=1, title="Back-run", description="A crinkled edge where water ran back."
    )
    granulation: float = Field(
        default=0.3, ge=0, le=1, title="Granulation", description="Pigment that lies in the paper's tooth."
    )
    dry: float = Field(
        default=0.0, ge=0, le=1, title="Dry brush", description="Paper that shows where the brush runs dry."
    )
    white: float = Field(default=0.0, ge=0, le=5, title="White left",
        description="Paper between this wash and the next.", json_schema_extra={"unit": "mm", "most": 1.5})  # fmt: skip
    lost: float = Field(
        default=0.0, ge=0, le=1, title="Lost edges", description="Edges that run out where it is light."
    )
    graded: Literal["evenly", "down the drawing", "up the drawing", "down each face", "up each face",
        "away from a point"] = Field(default="evenly", title="Thins out")  # fmt: skip
    fade: float = Field(
        default=0.6,
        ge=0,
        le=1,
        title="By",
        description="How much thinner it is at the end.",
        json_schema_extra={"unless": {"graded": ["evenly"]}},
    )
    across: float = Field(default=50.0, ge=-100, le=200, title="Point across", description="Of the drawing's width.",
        json_schema_extra={"when": {"graded": ["away from a point"]}, "unit": "%", "most": 100})  # fmt: skip
    down: float = Field(default=50.0, ge=-100, le=200, title="Point down", description="Of the drawing's height.",
        json_schema_extra={"when": {"graded": ["away from a point"]}, "unit": "%", "most": 100})  # fmt: skip
    reach: float = Field(default=100.0, ge=1, le=2000, title="Reach",
        description="How far it is from the point to the end.",
        json_schema_extra={"when": {"graded": ["away from a point"]}, "unit": "mm", "most": 300})  # fmt: skip
    short: float = Field(default=0.0, ge=0, le=200, title="Stops short",
        description="Of the frame's edge, in a line that wavers.",
        json_schema_extra={"unit": "mm", "most": 60})  # fmt: skip
    seed: int = Field(default=1, ge=0, le=9999, title="Another hand")

    def needs(self) -> tuple[Need, ...]:
        more = ("light",) * bool(self.lost) + ("looks",) * (self.colours == "of materials")
        by_depth = (Need("mask", self.where),) if self._by_depth else ()
        return (
            Need("regions"),
            Need("cover"),
            *by_depth,
            Need(_BORDERS[self.holds], self.where),
            *(Need(n) for n in more),
        )

    def confined(self, plate: Plate) -> NDArray[np.uint8]:
        found = self.pixels(plate)  # it is laid cell by cell, and so confined without a mask
        if self._by_depth:  # but for cells that a bound of depth goes through
            found = np.round(found * (plate.of("mask", self.where)[..., None] / np.float32(255))).astype(np.uint8)
        return found

    @property
    def _by_depth(self) -> bool:
        return self.where is not None and not self.runs_over and bool(depth_bounds(self.where))

    def flat(self, plate: Plate) -> Flat | None:
        uneven = (self.flow, self.rim, self.bloom, self.back_run, self.granulation, self.dry, self.white, self.lost,
            self.short, self.wet)  # fmt: skip
        if any(uneven) or self.graded != "evenly" or self.colours != "its own" or self._by_depth:
            return None
        # What is seen is the pigment's colour to the power of its density.
        laid = np.clip(shares(self.colour)[0], 0.02, 1.0) ** self.density
        cells: RegionMap = plate.of("regions")
        return Flat.of(cells.shape(cells.areas(self.where, plate.model, self.holds) >= 0), written(255 * laid))

    def pixels(self, plate: Plate) -> NDArray[np.uint8]:
        cells, cover = plate.of("regions"), plate.of("cover")
        field = plate.of(_BORDERS[self.holds], self.where)
        washes = self._washes(cells, plate)
        raster, frame = plate.raster, plate.frame
        left, top, _, _ = plate.place
        step = (frame[0] / raster.size[0], frame[1] / raster.size[1])
        out = np.empty((raster.height, raster.width, 4), np.uint8)
        shadow = plate.light.shadow if self.lost else np.zeros(out.shape[:2], np.uint8)
        window, middle = Window(float(left), float(top), *step), washing.Middle(*map(float, plate.middle))
        shown = Cover(cover.whole, cover.pixel, cover.start, cover.cell, cover.share)
        fields = washing.Fields(shadow, field.away, *map(float, field.step))
        dials = self._dials(plate)
        in_stretches(
            lambda a, b: washing.wash_rows(a, b, window, middle, shown, washes, fields, dials, out), raster.height, 32
        )
        return out

    def _washes(self, cells: RegionMap, plate: Plate) -> washing.Washes:
        """The washes of all cells; where they begin and end is told in millimetres from the middle."""
        model = plate.model
        area = np.zeros(len(cells), np.int64) if self.runs_over else cells.areas(self.where, model, self.holds)
        of_material = self.colours == "of materials"
        made_of = np.append(model.parts.material, -1)[cells.part] if of_material else np.full(len(cells), -1)
        area = np.where(of_material & (cells.part < 0), -1, area)
        rows = np.flatnonzero(area >= 0)
        # Both as one number: rows of two take twenty times as long to be told apart.
        many = int(made_of.max(initial=-1)) + 2
        both, number = np.unique(area[rows] * many + made_of[rows] + 1, return_inverse=True)
        named = np.stack([both // many, both % many - 1])
        wash_of = np.full(len(cells), -1, np.int32)
        wash_of[rows] = number.reshape(-1)
        count = named.shape[1]
        reach = np.tile(np.array([np.inf, -np.inf]), (max(count, 1), 1))
        if count:
            bounds = shapely.bounds(cells.shapes[rows]) - plate.middle[1]
            np.minimum.at(reach[:, 0], number.reshape(-1), bounds[:, 1])
            np.maximum.at(reach[:, 1], number.reshape(-1), bounds[:, 3])
        if self.graded == "up each face":
            reach = reach[:, ::-1].copy()
        # A wash goes on as it is when another is added: its seed is that of what it is laid on.
        seeds = (np.abs(named[0] if self.holds != "faces" else named[1]) * 7 + self.seed * 131).astype(np.int64)
        one = shares(self.colour, self.second)
        pigments = np.broadcast_to(one, (max(count, 1), 2, 3)).copy()
        if of_material and count:
            looks = shares(*plate.of("looks"))
            own = moved(looks, self.palette)[named[1]]
            # The second one leans towards the second pigment, so that all washes of a sheet have something in common.
            pigments = np.stack([own, 0.6 * own + 0.4 * one[1]], axis=1)
        return washing.Washes(
            wash_of, np.log(np.clip(pigments, 0.02, 1.0)), reach, seeds if count else np.zeros(1, np.int64)
        )

    def _dials(self, plate: Plate) -> washing.Dials:
        frame, middle = plate.frame, plate.middle
        way = _WAYS[self.graded]
        start, end = -middle[1], frame[1] - middle[1]
        place = (start, end) if way == 1.0 else (0.0, 0.0)
        if self.graded == "up the drawing":
            place = (end, start)
        if way == 3.0:
            place = (frame[0] * self.across / 100 - middle[0], frame[1] * self.down / 100 - middle[1])
        sides = (middle[0], frame[0] - middle[0], middle[1], frame[1] - middle[1])
        return washing.Dials(*(float(v) for v in (
            self.density, self.flow, self.pools, self.wet, self.rim, self.rim_width, self.bloom, self.back_run,
            self.granulation,
            self.dry, self.white, self.lost, way, self.fade, *place, self.reach, self.short, *sides,
        )))  # fmt: skip
