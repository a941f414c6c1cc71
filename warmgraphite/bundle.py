"""The pass bundle: every pass of a view in open formats, all in one frame, written to a folder whole or not at all."""

from __future__ import annotations

import json
import os
import resource
import shutil
import tempfile
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

import numpy as np
import shapely
from PIL import Image

from warmgraphite.collage.specification import default_traces
from warmgraphite.drawing import Drawing
from warmgraphite.errors import OutputError
from warmgraphite.ink.specification import PenSet, default_poche
from warmgraphite.passes.cut import lifted, polygonal
from warmgraphite.passes.lines import KINDS, RANKS
from warmgraphite.sheet.specification import Sheet
from warmgraphite.sheet.write import write_drawing
from warmgraphite.view.surfaces import PlaneFrame

__all__ = ["BUNDLE_PASSES", "write_bundle"]

FORMAT = 1


def _lines(drawing: Drawing, out: Path) -> None:
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


def _cut(drawing: Drawing, out: Path) -> None:
    model = drawing.model

    def polygons(surface: int, region: shapely.Geometry) -> list:
        return [
            {"exterior": _points(frame, p.exterior), "holes": [_points(frame, h) for h in p.interiors]}
            for shape, frame in lifted(drawing.scene.surfaces[surface], region, model)
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
                for shape, frame in lifted(drawing.scene.surfaces[r.plane], r.strokes, model)
                for line in shapely.get_parts(shape)
                if not line.is_empty
            ],
        }
        for r in drawing.regions()
    ]
    found = [
        {"material": model.materials[m.material].name, "area": float(m.region.area), "polygons": polygons(m.plane, m.region)}
        for m in drawing.masses
    ]
    whole = [
        {"area": float(region.area), "polygons": polygons(plane, region)}
        for plane in sorted({m.plane for m in drawing.masses})
        for region in [polygonal(shapely.union_all([m.region for m in drawing.masses if m.plane == plane], grid_size=1e-6))]
    ]
    (out / "cut.json").write_text(json.dumps({"rows": rows, "masses": found, "whole": whole}))


def _points(frame: PlaneFrame, line: Any) -> list:
    return frame.lifted(np.asarray(line.coords)[:, :2]).tolist()


def _save(pixels: np.ndarray, path: Path, resolution: float) -> None:
    Image.fromarray(pixels).save(path, dpi=(resolution, resolution), compress_level=4)


def _toned(colour: tuple[int, int, int], alpha: np.ndarray) -> np.ndarray:
    return np.dstack([np.broadcast_to(np.array(colour, np.uint8), (*alpha.shape, 3)), alpha])


def _shadow(drawing: Drawing, out: Path) -> None:
    _save(_toned((0, 0, 0), drawing.light().shadow), out / "shadow.png", drawing.view.frame.resolution)


def _shade(drawing: Drawing, out: Path) -> None:
    _save(_toned((0, 0, 0), drawing.light().shade), out / "shade.png", drawing.view.frame.resolution)


def _alpha(drawing: Drawing, out: Path) -> None:
    _save(_toned((255, 255, 255), drawing.surface().cover), out / "alpha.png", drawing.view.frame.resolution)


def _colour(drawing: Drawing, out: Path) -> None:
    pixels = drawing.surface().colour
    alpha = pixels[..., 3:].astype(np.uint16)
    straight = np.minimum((pixels[..., :3].astype(np.uint16) * 255 + alpha // 2) // np.maximum(alpha, 1), 255)
    _save(np.concatenate([straight, alpha], -1).astype(np.uint8), out / "colour.png", drawing.view.frame.resolution)


def _depth(drawing: Drawing, out: Path) -> None:
    """16-bit grey from 0 (nearest) to 65534 (farthest); 65535 where nothing is."""
    distance = drawing.surface().distance
    seen = np.isfinite(distance)
    grey = np.full(distance.shape, 65535, np.uint16)
    if seen.any():
        low, high = float(distance[seen].min()), float(distance[seen].max())
        grey[seen] = np.round((distance[seen] - low) / max(high - low, 1e-9) * 65534)
    _save(grey, out / "depth.png", drawing.view.frame.resolution)


def _drawing(drawing: Drawing, out: Path) -> None:
    plate = drawing.plate(PenSet(), default_poche(drawing.model))
    ink = [t for t in default_traces() if t.source in ("paper", "poche", "lines")]
    for kind in ("svg", "pdf", "png"):
        write_drawing(plate, ink, Sheet(margin=0, title_on=False, scale_bar_on=False, north_on=False), out / f"drawing.{kind}",
                      resolution=drawing.view.frame.resolution)  # fmt: skip


#: Name → (passes of the drawing it is made from, writer).
BUNDLE_PASSES: dict[str, tuple[tuple[str, ...], Callable[[Drawing, Path], None]]] = {
    "lines": (("lines",), _lines),
    "cut": (("cut",), _cut),
    "shadow": (("light",), _shadow),
    "shade": (("light",), _shade),
    "colour": (("surface",), _colour),
    "depth": (("surface",), _depth),
    "alpha": (("surface",), _alpha),
    "drawing": ((), _drawing),
}


def write_bundle(drawing: Drawing, out: Path, only: Sequence[str] | None = None) -> None:
    """Write the passes named in ``only`` (all by default) to the folder ``out``, replacing a bundle that is there.

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
        for name in names:
            BUNDLE_PASSES[name][1](drawing, draft)
        projection = drawing.scene.projection
        warnings = [r._asdict() for r in drawing.remarks()]
        seconds = {}
        for name in names:
            needs = BUNDLE_PASSES[name][0] or ("cut", "lines", "poche", "surface", "light")
            seconds[name] = {"seconds": round(sum(drawing.seconds.get(n, 0.0) for n in needs), 4)}
        about = {
            "format": FORMAT,
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
