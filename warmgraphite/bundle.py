"""The pass bundle: every pass of a view in open formats, all in one frame, written to a folder whole or not at all."""

from __future__ import annotations

import json
import os
import resource
import shutil
import tempfile
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Literal

import numpy as np
import shapely
from PIL import Image

from warmgraphite import MADE_BY
from warmgraphite.canvas.pixels import wire_picture
from warmgraphite.collage.specification import default_traces
from warmgraphite.colour import straightened
from warmgraphite.drawing import Drawing
from warmgraphite.errors import OutputError
from warmgraphite.geometry.tolerances import NEAR
from warmgraphite.needs import need
from warmgraphite.passes.cut import lifted, polygonal
from warmgraphite.passes.line_set import KINDS, RANKS
from warmgraphite.passes.pictures import depth_bands, depth_grey, depth_range, white_card
from warmgraphite.regions.words.facing import FACINGS
from warmgraphite.regions.words.light import LIGHTS
from warmgraphite.regions.words.storeys import part_storeys
from warmgraphite.regions.words.where import PLACES
from warmgraphite.sheet.specification import Sheet
from warmgraphite.sheet.write import write_drawing
from warmgraphite.view.surfaces import PlaneFrame

__all__ = ["BUNDLE_PASSES", "write_bundle"]

FORMAT = 1


def _lines(drawing: Drawing, out: Path) -> dict:
    found = drawing.lines()
    parts = [p.path for p in drawing.model.parts]
    columns = {
        "start": found.start.tolist(),
        "end": found.end.tolist(),
        "kind": [KINDS[k] for k in found.kind],
        "rank": [RANKS[r] for r in found.rank],
        "visible": found.visible.tolist(),
        "through": found.through.tolist(),
        "part": [parts[p] for p in found.part],
    }
    (out / "lines.json").write_text(json.dumps(columns))
    return {}


def _cut(drawing: Drawing, out: Path) -> dict:
    model = drawing.model

    def polygons(surface: int, region: shapely.Geometry) -> list:
        return [
            {"exterior": _points(frame, p.exterior), "holes": [_points(frame, h) for h in p.interiors]}
            for shape, frame in lifted(drawing.scene.surfaces[surface], region)
            for p in shapely.get_parts(shape)
            if shapely.get_type_id(p) == 3 and not p.is_empty
        ]

    rows = [
        {
            "part": model.parts[r.part].path,
            "material": model.materials[model.parts[r.part].material].name,
            "area": float(r.region.area),
            "polygons": polygons(r.plane, r.region),
            "strokes": [
                _points(frame, line)
                for shape, frame in lifted(drawing.scene.surfaces[r.plane], r.strokes)
                for line in shapely.get_parts(shape)
                if not line.is_empty
            ],
        }
        for r in drawing.regions()
    ]
    found = [
        {
            "material": model.materials[m.material].name,
            "area": float(m.region.area),
            "polygons": polygons(m.plane, m.region),
        }
        for m in drawing.masses
    ]
    whole = [
        {"area": float(region.area), "polygons": polygons(plane, region)}
        for plane in sorted({m.plane for m in drawing.masses})
        for region in [
            polygonal(shapely.union_all([m.region for m in drawing.masses if m.plane == plane], grid_size=NEAR))
        ]
    ]
    (out / "cut.json").write_text(json.dumps({"rows": rows, "masses": found, "whole": whole}))
    return {}


def _points(frame: PlaneFrame, line: Any) -> list:
    return frame.lifted(np.asarray(line.coords)[:, :2]).tolist()


def _save(pixels: np.ndarray, path: Path, resolution: float) -> None:
    Image.fromarray(pixels).save(path, dpi=(resolution, resolution), compress_level=4)


def _toned(colour: tuple[int, int, int], alpha: np.ndarray) -> np.ndarray:
    return np.dstack([np.broadcast_to(np.array(colour, np.uint8), (*alpha.shape, 3)), alpha])


def _resolution(drawing: Drawing) -> float:
    return drawing.size[0] / drawing.view.frame.width * 25.4


def _tone_of(name: str, values: Callable[[Drawing], np.ndarray]) -> Callable[[Drawing, Path], dict]:
    """The writer of a tone alone: black, as strong as it is, on nothing."""

    def write(drawing: Drawing, out: Path) -> dict:
        _save(_toned((0, 0, 0), values(drawing)), out / f"{name}.png", _resolution(drawing))
        return {}

    return write


def _rings(shape: shapely.Geometry) -> list:
    """Polygons in frame millimetres, exterior and holes, to a thousandth."""
    return [
        {
            "exterior": np.round(p.exterior.coords, 3).tolist(),
            "holes": [np.round(h.coords, 3).tolist() for h in p.interiors],
        }
        for p in shapely.get_parts(shape)
        if shapely.get_type_id(p) == 3 and not p.is_empty
    ]


def _shadow(drawing: Drawing, out: Path) -> dict:
    """Cast shadow, as pixels and as one shape for each part that it falls on."""
    cells, model = drawing.region_map(), drawing.model
    dark = cells.light == LIGHTS.index("shadow")
    rows = [
        {
            "part": model.parts[part].path,
            "material": model.materials[model.parts[part].material].name,
            "polygons": _rings(cells.shape(dark & (cells.part == part))),
        }
        for part in np.unique(cells.part[dark])
    ]
    (out / "shadow.json").write_text(json.dumps({"rows": rows}))
    _save(_toned((0, 0, 0), drawing.light().shadow), out / "shadow.png", _resolution(drawing))
    return {}


def _regions(drawing: Drawing, out: Path) -> dict:
    """The map: a row for each cell, and a picture in which the colour is the row's number, from 1."""
    cells, model = drawing.region_map(), drawing.model
    storeys = part_storeys(model)
    rows = []
    for k in range(len(cells)):
        part = int(cells.part[k])
        about: dict[str, Any] = {"part": None, "material": None, "role": None, "storey": None}
        if part >= 0:
            p = model.parts[part]
            about = {
                "part": p.path,
                "material": model.materials[p.material].name,
                "role": p.role,
                "storey": storeys[part] or None,
            }
        rows.append(
            {
                **about,
                "where": PLACES[cells.where[k]],
                "facing": FACINGS[cells.facing[k]] if cells.facing[k] < len(FACINGS) else None,
                "cut": bool(cells.cut[k]),
                "light": LIGHTS[cells.light[k]],
                "lit": bool(cells.light[k] == LIGHTS.index("lit")),
                "glass": int(cells.panes[k]),
                "near": _metres(cells.near[k]),
                "far": _metres(cells.far[k]),
                "tone": round(float(cells.tone[k]), 4),
                "from_pixels": bool(cells.traced[k]),
                "area": float(shapely.area(cells.shapes[k])),
                "polygons": _rings(cells.shapes[k]),
            }
        )
    (out / "regions.json").write_text(json.dumps({"rows": rows}))
    number = cells.cover(drawing.size).most + 1
    pixels = np.stack([number & 255, number >> 8 & 255, number >> 16 & 255, np.full_like(number, 255)], -1).astype(
        np.uint8
    )
    _save(pixels, out / "regions.png", _resolution(drawing))
    return {}


def _metres(value: float) -> float | None:
    return round(float(value), 4) if np.isfinite(value) else None


def _alpha(drawing: Drawing, out: Path) -> dict:
    _save(_toned((255, 255, 255), drawing.surface().cover), out / "alpha.png", _resolution(drawing))
    return {}


def _colour(drawing: Drawing, out: Path) -> dict:
    _save(straightened(drawing.colour()), out / "colour.png", _resolution(drawing))
    return {}


def _white(drawing: Drawing, out: Path) -> dict:
    seen, lit = drawing.surface(), drawing.light()
    _save(
        white_card(seen.cover, seen.cap, lit.shade, lit.shadow, drawing.occlusion()),
        out / "white.png",
        _resolution(drawing),
    )
    return {}


def _wire(drawing: Drawing, out: Path) -> dict:
    """Every edge: dark where it is seen, pale where it shines through."""
    found, (width, height) = drawing.wire(), (drawing.scene.projection.width, drawing.scene.projection.height)
    _save(
        wire_picture(found.from_mm, found.to_mm, found.visible, drawing.size, (width, height)),
        out / "wire.png",
        _resolution(drawing),
    )
    return {}


def _normals(drawing: Drawing, out: Path) -> dict:
    _save(drawing.result("normals"), out / "normals.png", _resolution(drawing))
    return {}


def _depth(drawing: Drawing, out: Path) -> dict:
    """Grey of 16 bits from 0 (near) to 65534 (far), 65535 where nothing is; and the number of the band, from 1."""
    distance, asked = drawing.surface().distance, drawing.view.depth
    span = depth_range(distance, asked)
    _save(depth_grey(distance, span), out / "depth.png", _resolution(drawing))
    _save(depth_bands(distance, span, asked.bands), out / "bands.png", _resolution(drawing))
    start, near, far = span
    return {"start": start, "near": near, "far": far, "bands": asked.bands}


def _drawing(drawing: Drawing, out: Path) -> dict:
    plate = drawing.plate()
    ink = [t for t in default_traces() if t.kind in ("paper", "poche", "lines")]
    for kind in ("svg", "pdf", "png"):
        write_drawing(plate, ink, Sheet(margin=0, title_on=False, scale_bar_on=False, north_on=False),
            out / f"drawing.{kind}",
                      resolution=drawing.view.frame.resolution)  # fmt: skip
    return {}


@dataclass(frozen=True)
class _Written:
    """What a bundle has under one name.
    The passes that it is made of, and its writer, which returns what else is told of it.
    """

    passes: tuple[str, ...]
    write: Callable[[Drawing, Path], dict]


BUNDLE_PASSES: dict[str, _Written] = {
    "lines": _Written(("lines",), _lines),
    "cut": _Written(("cut",), _cut),
    "shadow": _Written(("light", "regions"), _shadow),
    "shade": _Written(("light",), _tone_of("shade", lambda d: d.light().shade)),
    "occlusion": _Written(("occlusion",), _tone_of("occlusion", lambda d: d.occlusion())),
    "colour": _Written(("colour",), _colour),
    "white": _Written(("light", "occlusion"), _white),
    "wire": _Written(("wire",), _wire),
    "depth": _Written(("surface",), _depth),
    "normals": _Written(("normals",), _normals),
    "regions": _Written(("regions",), _regions),
    "alpha": _Written(("surface",), _alpha),
    "drawing": _Written(("strokes", "poche"), _drawing),
}


def _timed(drawing: Drawing, names: tuple[str, ...]) -> float:
    """Seconds that passes took, with all that they needed first."""
    found: set[str] = set()

    def visit(name: str) -> None:
        if name not in found:
            found.add(name)
            for other in drawing.needed(name):
                visit(need(other).name)

    for name in names:
        visit(name)
    return sum(drawing.seconds.get(name, 0.0) for name in found)


def _as_tiff(folder: Path) -> None:
    """Pictures as TIFF in place of PNG, with as many bits as they have."""
    for path in folder.glob("*.png"):
        picture = Image.open(path)
        kept: Any = (
            {} if picture.mode != "RGBA" else {"tiffinfo": {338: 2}}
        )  # alpha that the colours are not multiplied by
        picture.save(
            path.with_suffix(".tiff"), "TIFF", compression="tiff_lzw", dpi=picture.info.get("dpi", (72, 72)), **kept
        )
        path.unlink()


def write_bundle(
    drawing: Drawing,
    out: Path,
    only: Sequence[str] | None = None,
    *,
    pictures: Literal["png", "tiff"] = "png",
    watch: Callable[[str, float], None] | None = None,
) -> None:
    """Write the passes named in ``only`` (all by default) to the folder ``out``, replacing a bundle that is there.
    Those with pixels are kept as ``pictures``: depth has 16 bits in either. ``watch`` is told the pass at work and the
    whole's progress.

    Raises :class:`OutputError` for an unknown pass or a folder that cannot be written.
    """
    names = list(only) if only else list(BUNDLE_PASSES)
    for name in names:
        if name not in BUNDLE_PASSES:
            raise OutputError(f"There is no pass “{name}”; the passes are {', '.join(BUNDLE_PASSES)}.")
    if out.exists() and not (out.is_dir() and (not any(out.iterdir()) or (out / "bundle.json").exists())):
        raise OutputError(f"{out} is there already and is no pass bundle; name an empty or a new folder.")
    try:
        out.parent.mkdir(parents=True, exist_ok=True)
        draft = Path(tempfile.mkdtemp(prefix=f".{out.name}.", dir=out.parent))
    except OSError as error:
        raise OutputError(f"{out} cannot be written ({error.strerror or error}); choose another folder.") from error
    try:
        told: dict[str, dict] = {}
        for number, name in enumerate(names):
            if watch is not None:
                watch(f"Writing {name}", number / len(names))
            told[name] = BUNDLE_PASSES[name].write(drawing, draft)
        if pictures == "tiff":
            _as_tiff(draft)
        projection = drawing.scene.projection
        warnings = drawing.remarks()
        seconds = {}
        for name in names:
            seconds[name] = {"seconds": round(_timed(drawing, BUNDLE_PASSES[name].passes), 4), **told[name]}
        about = {
            "format": FORMAT,
            "made_by": MADE_BY,
            "frame": {"width": projection.width, "height": projection.height, "pixels": list(drawing.size)},
            "world_to_frame": projection.matrix.tolist(),
            "passes": seconds,
            "peak_memory": round(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024, 1),
            "warnings": warnings,
        }
        (draft / "bundle.json").write_text(json.dumps(about, indent=1))
        os.chmod(draft, 0o755)
        if out.exists():
            shutil.rmtree(out)
        os.replace(draft, out)
    except BaseException:
        shutil.rmtree(draft, ignore_errors=True)
        raise
