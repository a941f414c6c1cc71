"""Backdrop: what stands behind everything, on the horizon: a sky, hills, a wood's edge, a town, or a picture."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, field_validator

from warmgraphite.collage.backdrop import Painted, Spot, window_of
from warmgraphite.collage.backdrops import BACKDROPS
from warmgraphite.collage.edges import Edge, edge_share
from warmgraphite.collage.fields import BorderField, field_of, grid_of
from warmgraphite.collage.grain import PaperGrid
from warmgraphite.collage.pictures.laying import laid_picture
from warmgraphite.collage.pictures.specification import Digest, PictureSpec
from warmgraphite.collage.plate import Plate
from warmgraphite.collage.trace import PixelTrace, rgb
from warmgraphite.colour import luminance
from warmgraphite.forms import number, setting, share
from warmgraphite.geometry.tolerances import NEAR
from warmgraphite.memory import Store
from warmgraphite.needs import Need
from warmgraphite.noise.easing import eased
from warmgraphite.passes.surface import Raster
from warmgraphite.specification import Colour
from warmgraphite.threads import in_stretches

PICTURE = "picture"
#: Rows that are painted at once.
STRIP = 160
#: Millimetres that a picture is wide at a scale of 1.
_WIDE = 420.0
_SCENES = [[b.name, b.label] for b in BACKDROPS.values()] + [[PICTURE, "A picture"]]
_OF_PICTURE = {"scene": [PICTURE]}


class BackdropTrace(PixelTrace):
    label: ClassVar[str] = "Backdrop"
    about: ClassVar[str] = (
        "What stands behind everything, on the horizon: a sky, hills, a wood’s edge, a town, or a picture."
    )
    passes: ClassVar[tuple[str, ...]] = ("surface", "extent")
    stands_behind: ClassVar[bool] = True
    sample: ClassVar[Literal["wall", "house", "open"]] = "open"
    pours: ClassVar[bool] = False

    kind: Literal["backdrop"] = "backdrop"
    scene: str = Field(default="hills", title="What it is", json_schema_extra={"options": _SCENES})  # type: ignore[dict-item]
    picture: Digest = Field(default="", title="Picture", json_schema_extra={"hidden": True})
    raised: float = number(0.0, "Horizon", "How far its horizon lies above that of the drawing.", low=-2000, high=2000,
        unit="mm", most=150)  # fmt: skip
    aside: float = number(0.0, "Aside", "How far it is moved to the right.", low=-5000, high=5000, unit="mm", most=200)
    scale: float = number(1.0, "Scale", "1 is as large as it is drawn.", low=0.05, high=20, most=4)
    line: float = share(0.62, "Its own horizon", "How far down the picture its horizon lies.", when=_OF_PICTURE)
    tone: Colour = setting(
        "#77846a", "First tone", "The zenith of a sky, what is near of a silhouette.", unless=_OF_PICTURE
    )
    second: Colour = setting(
        "#a9b7bd", "Second tone", "A sky at its horizon, what is far of a silhouette.", unless=_OF_PICTURE
    )
    third: Colour = setting("#e6dcc4", "Third tone", "Clouds, mist, light.", unless=_OF_PICTURE)
    grey: float = share(0.0, "Without colour", "How much colour is taken out.")
    through: float = share(0.45, "Through glass", "How much of it is seen through panes.")
    ends: Edge = setting("feathered", "Its edge", "How it ends at its own outline and before the frame does.")
    ends_reach: float = number(
        6.0, "Reach of its edge", low=0.05, high=150, unit="mm", most=40, unless={"ends": ["clean"]}
    )
    short: float = number(14.0, "Stops short", "Of the frame's edge.", low=0, high=300, unit="mm", most=60)
    seed: int = Field(default=1, ge=0, le=9999, title="Another one")

    @field_validator("scene")
    @classmethod
    def _is_one(cls, scene: str) -> str:
        if scene != PICTURE and scene not in BACKDROPS:
            raise ValueError(f"there is no backdrop “{scene}”; choose one of {', '.join([*BACKDROPS, PICTURE])}")
        return scene

    def horizon(self, plate: Plate) -> float:
        """Where it has its horizon, in frame millimetres from the top.
        Minus infinite where one looks down on the ground.
        """
        frame = plate.frame
        over = float(plate.projection.over_horizon(np.array([frame[0] / 2]), np.array([0.0]))[0])
        if np.isneginf(over):
            return -np.inf if self.scene != PICTURE else plate.middle[1] - self.raised
        base = over if np.isfinite(over) else min(float(plate.of("extent").skyline), frame[1])
        return base - self.raised

    def places(self, plate: Plate) -> dict[str, float]:
        at = self.horizon(plate)
        return {"horizon": at, "middle": plate.middle[0] + self.aside} if np.isfinite(at) else {}

    @property
    def shown_picture(self) -> str:
        return self.picture if self.scene == PICTURE else ""

    def needs(self) -> tuple[Need, ...]:
        return (
            *super().needs(),
            *((Need("whole picture", PictureSpec(digest=self.picture)),) if self.scene == PICTURE else ()),
        )

    def pixels(self, plate: Plate) -> NDArray[np.uint8]:
        base = self.horizon(plate)
        height, width = plate.raster.height, plate.raster.width
        if not np.isfinite(base):
            return np.zeros((height, width, 4), np.uint8)
        out = np.zeros((height, width, 4), np.uint8)
        first, last = self._rows(plate, base)
        if first < last:
            outline = self._outline(plate, base)  # made once, for all strips
            # A strip at a time, and of that what is not hidden: most of it often is.
            in_stretches(
                lambda a, b: self._lay_strip(plate, base, outline, slice(first + a, first + b), out),
                last - first,
                STRIP,
            )
        return out

    def _rows(self, plate: Plate, base: float) -> tuple[int, int]:
        """The rows of a window that there is anything of it in."""
        scene = BACKDROPS.get(self.scene)
        if scene is None:
            return 0, plate.raster.height
        low, high = (-8.0, np.inf) if scene.above else scene.span
        y = plate.ground.along(1) + plate.middle[1]
        rows = np.flatnonzero((y >= base - high * self.scale) & (y <= base - low * self.scale))
        return (int(rows[0]), int(rows[-1]) + 1) if len(rows) else (0, 0)

    def _lay_strip(
        self, plate: Plate, base: float, outline: BorderField | None, rows: slice, out: NDArray[np.uint8]
    ) -> None:
        """Fill rows of ``out`` (h, w, 4), premultiplied, with what is seen of it."""
        seen = plate.surface
        hidden = (seen.cover[rows] == 255) | ((seen.glass[rows] == 255) & (self.through == 0))
        columns = np.flatnonzero(~hidden.all(0))
        if not len(columns):
            return
        part = np.s_[rows.start : rows.stop, int(columns[0]) : int(columns[-1]) + 1]
        whole = plate.raster
        raster = Raster(
            whole.size,
            whole.x + part[1].start,
            whole.y + rows.start,
            part[1].stop - part[1].start,
            rows.stop - rows.start,
        )
        ground = PaperGrid(raster, plate.frame, plate.middle)
        found = self._painted(plate, ground, base)
        if not found.alpha.any():
            return
        behind = 1 - seen.cover[part].astype(np.float32) / 255
        behind *= 1 - (1 - self.through) * seen.glass[part].astype(np.float32) / 255
        alpha = found.alpha * behind * self._edge(ground, outline)
        colour = found.colour
        if self.grey:
            light = luminance(colour)
            colour = colour + np.float32(self.grey) * (light[..., None] - colour)
        out[part][..., :3] = np.clip(np.round(colour * alpha[..., None]), 0, 255)
        out[part][..., 3] = np.round(255 * alpha)

    def _painted(self, plate: Plate, ground: PaperGrid, base: float) -> Painted:
        u = (ground.along(0) - self.aside) / self.scale
        v = (base - (ground.along(1) + ground.middle[1])) / self.scale
        if self.scene == PICTURE:
            return self._picture(plate, np.asarray(u, np.float32), np.asarray(v, np.float32))
        scene = BACKDROPS[self.scene]
        tones = np.stack([rgb(self.tone), rgb(self.second), rgb(self.third)])
        spot = Spot(ground, np.asarray(u, np.float32), np.asarray(v, np.float32), self.scale, self.seed, tones)
        colour, alpha = scene.paint(spot)
        if scene.above:
            alpha = alpha * eased((spot.v[:, None] * self.scale + 2 + 1.6 * spot.noise(9, 3, 5)) / 4)
        return Painted(colour, np.asarray(alpha, np.float32))

    def _picture(self, plate: Plate, u: NDArray[np.float32], v: NDArray[np.float32]) -> Painted:
        pixels: NDArray[np.uint8] | None = plate.results[Need("whole picture", PictureSpec(digest=self.picture))]
        if pixels is None:
            return Painted(np.zeros((len(v), len(u), 3), np.float32), np.zeros((len(v), len(u)), np.float32))
        high = _WIDE * pixels.shape[0] / pixels.shape[1]
        left, top = -_WIDE / 2, self.line * high
        laid = laid_picture(pixels, u, v, (left, top, _WIDE, -high))
        alpha = laid[..., 3].astype(np.float32) / 255
        colour = laid[..., :3].astype(np.float32) / np.maximum(alpha, np.float32(NEAR))[..., None]
        return Painted(np.asarray(colour, np.float32), np.asarray(alpha, np.float32))

    def _outline(self, plate: Plate, base: float) -> BorderField | None:
        """How far each place lies from its own outline and the frame's, where it does not end cleanly."""
        if self.ends == "clean":
            return None
        sky = self.scene != PICTURE and BACKDROPS[self.scene].above
        said = self.model_dump_json(
            include={"short"} if sky else {"scene", "picture", "scale", "aside", "line", "seed", "short"}
        )
        key = (said, plate.frame, plate.middle, 0.0 if sky else round(base, 3))
        return _fields.get(key, lambda: self._field(plate, base))

    def _edge(self, ground: PaperGrid, outline: BorderField | None) -> NDArray[np.float32]:
        """The share of each pixel that its edge leaves."""
        if outline is None:
            return np.asarray(np.clip((self._room(ground) - self.short) / 0.15 + 0.5, 0, 1), np.float32)
        return edge_share(ground, outline, self.ends, self.ends_reach, False, 3 + self.seed)

    def _room(self, ground: PaperGrid) -> NDArray[np.float64]:
        """(h, w) millimetres from the frame's edges, but for the lower one."""
        x, y = (ground.along(axis) + ground.middle[axis] for axis in (0, 1))
        return np.minimum(np.minimum(x, ground.frame[0] - x)[None], y[:, None])

    def _field(self, plate: Plate, base: float) -> BorderField:
        frame = plate.frame
        columns, rows = grid_of(frame)
        size = (
            max(2, columns // 2),
            max(2, rows // 2),
        )  # half as fine as a region's: its outline is none of the model's
        ground = window_of(PaperGrid(plate.raster, frame, plate.middle), size)
        room = self._room(ground) > self.short
        scene = BACKDROPS.get(self.scene)
        if scene is None or not scene.above:  # its outline is where there is something of it; a sky ends nowhere
            room &= self._painted(plate, ground, base).alpha > 0.02
        return field_of(np.where(room, 0, -1).astype(np.int32), frame)


#: The outlines of backdrops as they were laid last: the same in every tile of a sheet.
_fields: Store[BorderField] = Store("outlines of backdrops")
