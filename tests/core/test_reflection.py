"""What water and panes mirror, against a mirrored camera and another library's rays."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh

from tests.conftest import box
from warmgraphite.collage.kinds.reflection import ReflectionTrace
from warmgraphite.collage.mirrors import MirrorSpec
from warmgraphite.drawing import Drawing, Need, needs_of
from warmgraphite.model import Material, Model, Part, build_model
from warmgraphite.passes.reflection import Reflection
from warmgraphite.view.specification import Frame, Parallel, PartChoice, Perspective, Sun, ViewSpecification

SIZE = (360, 240)
NIGHT = Sun(azimuth=180, altitude=0)
COLOURS = ["#ff0000", "#00ff00", "#0000ff", "#ffff00", "#80a0a0", "#b0d0d0"]


def pond(level: float = 0.0, far: float = 0.0) -> Model:
    """Three bodies and a bank round level water, a pane before one of them; ``far`` metres off."""
    roof = box((-1, 7, 3), (4, 11, 3.4))
    roof.apply_transform(trimesh.transformations.rotation_matrix(0.3, [1, 0, 0], [0, 9, 3]))
    rows = [
        ("House", box((-1, 7.5, -2), (4, 11, 3)), 0, "structure"), ("Roof", roof, 1, "structure"),
        ("Post", box((6, 4, -3), (6.4, 4.4, 2.5)), 2, "structure"),
        ("Bank", box((-30, 6, -2), (30, 40, -0.1 + 0.4)), 3, "ground"),
        ("Pond", box((-30, -30, -1), (30, 6, 0)), 4, "water"),
        ("Pane", box((-4, 6.5, 0.5), (-2, 6.55, 2.8)), 5, "glass"),
    ]  # fmt: skip
    moved = np.array([far, -far, level])
    looks = [Material(f"M{k}", c, 0.3 if k == 5 else 1.0) for k, c in enumerate(COLOURS)]
    return build_model(
        "Pond",
        [(Part(n, "", m, role), np.array(t.vertices) + moved, np.array(t.faces)) for n, t, m, role in rows],
        looks,
    )


def view_of(level: float = 0.0, far: float = 0.0, up: float = 1.0, **more) -> ViewSpecification:  # type: ignore[no-untyped-def]
    """From over the water; ``up`` −1 from as far below it, as in a mirror."""
    at = lambda x, y, z: (x + far, y - far, level + up * z)
    camera = Perspective(eye=at(2, -9, 1.9), target=at(1.5, 8, 1.1), field_of_view=60, upright=True)
    return ViewSpecification(projection=camera, frame=Frame(width=180, height=120), sun=NIGHT, **more)


def colour_of(picture: np.ndarray) -> np.ndarray:
    """(…,) which of the colours each is nearest to, whatever its light; −1 where it is clear."""
    named = np.array([[int(c[i : i + 2], 16) for i in (1, 3, 5)] for c in COLOURS[:5]], float)
    unit = lambda v: v / np.maximum(np.linalg.norm(v, axis=-1, keepdims=True), 1e-9)
    found = (unit(picture[..., :3].astype(float))[..., None, :] * unit(named)).sum(-1).argmax(-1)
    return np.where(picture[..., 3] > 127, found, -1)


def mirrored(drawing: Drawing, sort: str = "water") -> tuple[Reflection, np.ndarray]:
    """What is mirrored, and its pictures put together over the window, (h, w, 4)."""
    need = Need("mirrors", MirrorSpec(sort=sort))  # type: ignore[arg-type]
    drawing.compute((need,))
    found: Reflection = drawing.result(need)
    out = np.zeros((*found.label.shape, 4), np.uint8)
    for k, (x, y, w, h) in enumerate(found.boxes):
        own = found.texels[found.start[k] : found.start[k + 1]].reshape(h, w, 4)
        rows, columns = np.nonzero(found.label == k + 1)
        out[rows, columns] = own[rows - y, columns - x]
    return found, out


@pytest.mark.parametrize(("level", "far"), [(0.0, 0.0), (-3.7, 0.0), (1200.0, 40_000.0)])
def test_water_shows_what_a_camera_as_far_below_it_sees(level: float, far: float) -> None:
    model = pond(level, far)
    drawing = Drawing(model, view_of(level, far), SIZE)
    found, picture = mirrored(drawing)
    below = Drawing(model, view_of(level, far, up=-1.0, parts=PartChoice(hidden=("Pond", "Pane"))), SIZE)
    seen = below.surface()
    # A picture in a level mirror stands on its head.
    there = np.where(seen.part >= 0, np.append(model.parts.material, 0)[seen.part], -1)[::-1]
    water = drawing.surface().part == 4
    assert (found.share[water] > 0).all() and len(found.planes) == 1 and abs(found.planes[0, 3] - level) < 1e-6
    inner = water & (found.share == 255)
    # What lies below the water is seen by that camera, too, and is not mirrored: only the pond's own bed would be, and
    # it has none.
    rim = np.zeros_like(inner)
    for axis in (0, 1):
        for by in (-1, 1):
            rim |= np.roll(there, by, axis) != there
    good = colour_of(picture) == there
    assert inner.sum() > 15_000 and set(np.unique(there[inner])) >= {-1, 0, 1, 2, 3}
    assert good[inner & ~rim].mean() > 0.999 and good[inner].mean() > 0.97
    assert not picture[found.share == 0].any()


@pytest.mark.parametrize("parallel", [False, True])
def test_panes_show_what_rays_turned_about_them_meet(parallel: bool) -> None:
    model = pond()
    view = view_of()
    if parallel:
        view = view.model_copy(
            update={
                "projection": Parallel(direction=(-0.8, 1, -0.1), centre=(-2, 6, 1.5)),
                "frame": Frame(width=180, height=120, scale=60),
            }
        )
    drawing = Drawing(model, view, SIZE)
    found, picture = mirrored(drawing, "glass")
    rows, columns = np.nonzero(found.share == 255)
    assert len(rows) > 300 and len(found.planes) >= 1
    xy = (np.stack([columns, rows], 1) + 0.5) * (180 / SIZE[0])
    start, way = drawing.paper.rays(xy, -50.0)
    t = (6.5 - start[:, 1]) / way[:, 1]
    turned = way * [1, -1, 1]
    rays = trimesh.ray.ray_triangle.RayMeshIntersector(
        trimesh.Trimesh(model.vertices, model.triangles[model.triangle_part != 5], process=False)
    )
    part = np.append(model.triangle_part[model.triangle_part != 5], -1)
    at = start + t[:, None] * way + turned * 1e-4
    meets = part[rays.intersects_first(at, turned)]
    said = colour_of(picture)[rows, columns]
    want = np.where(meets >= 0, model.parts.material[meets], -1)
    assert (said == want).mean() > 0.97  # but for pixels with an edge in them


def test_a_reflection_lies_in_its_water_alone_and_is_the_same_in_every_window() -> None:
    model, view = pond(), view_of().model_copy(update={"sun": Sun(azimuth=150, altitude=35)})
    still = ReflectionTrace(id="r", name="R", ripple=0, strokes=0, fade=0)
    lively = ReflectionTrace(id="r", name="R", ripple=0.8, strokes=0.6, fade=0.6, open=0.5)
    drawing = Drawing(model, view, SIZE)
    drawing.compute(needs_of((still, lively), drawing.ink))
    found, picture = mirrored(drawing)
    shown = still.finished(drawing.plate())
    assert np.abs(shown.astype(int) - np.round(picture * (found.share[..., None] / 255.0)).astype(int)).max() <= 1
    moved = lively.finished(drawing.plate())
    assert not moved[found.share == 0].any() and np.abs(moved.astype(int) - shown).mean() > 3
    # Rippled, it is moved, not made lighter: its tones are those of the picture.
    rippled = ReflectionTrace(id="r", name="R", ripple=0.8, strokes=0, fade=0).finished(drawing.plate())
    inner = found.share == 255
    assert abs(rippled[inner].mean() - shown[inner].mean()) < 8
    window = drawing.windowed((100, 90, 160, 120))
    window.compute(needs_of((lively,), drawing.ink))
    part = lively.finished(window.plate()).astype(int)
    assert np.abs(part - moved[90:210, 100:260]).max() <= 3


def test_on_fine_paper_a_mirrored_picture_has_fewer_texels_and_shows_the_same() -> None:
    model = pond()
    still = ReflectionTrace(id="r", name="R", ripple=0, strokes=0, fade=0)
    coarse = Drawing(model, view_of(), SIZE)
    # The same picture on a sixth of the paper has six times as many pixels to the millimetre.
    small = view_of().model_copy(update={"frame": Frame(width=30, height=20)})
    fine = Drawing(model, small, SIZE)
    window = fine.windowed((101, 91, 160, 119))
    for drawing in (coarse, fine, window):
        drawing.compute(needs_of((still,), drawing.ink))
    found: Reflection = fine.result(Need("mirrors", MirrorSpec(sort="water")))
    assert found.side == 2 and len(found.texels) * 4 == sum(w * h for _, _, w, h in found.boxes)
    shown = still.finished(fine.plate()).astype(int)
    whole = still.finished(coarse.plate()).astype(int)
    off = lambda other: np.abs(shown - other).max(-1)
    assert (off(whole) < 12).mean() > 0.95  # but for edges, which are softer
    assert off(whole).mean() < 0.9 * min(off(np.roll(whole, by, axis)).mean() for axis in (0, 1) for by in (-1, 1))
    assert np.abs(still.finished(window.plate()).astype(int) - shown[91:210, 101:261]).max() <= 3
