"""Passes as pictures: colour with textures at their real size, white card, wire, depth, normals.
And the bundle of all.
"""

from __future__ import annotations

import io
import json
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import shapely
from PIL import Image

from tests.conftest import GLASS, STONE, WOOD, box, model_of
from warmgraphite.bundle import BUNDLE_PASSES, write_bundle
from warmgraphite.drawing import Drawing
from warmgraphite.model import Model, Part, build_model
from warmgraphite.passes.pictures import NOTHING, depth_bands, depth_grey, depth_range, normals
from warmgraphite.view.specification import Cut, Depth, Frame, Parallel, Perspective, Sun, ViewSpecification

#: Left half black, right half white.
HALVES = np.repeat(np.array([[0, 255]], np.uint8), 32, 1).repeat(64, 0)


def papered(
    uv: np.ndarray | None = None, size: tuple[float, float] = (0.5, 0.5), picture: np.ndarray = HALVES
) -> Model:
    """A wall four metres wide and two high, papered with a picture."""
    data = io.BytesIO()
    Image.fromarray(picture).save(data, "PNG")
    paper = replace(STONE, name="Paper", texture="halves", size=size)
    wall = box((0, 0, 0), (4, 0.2, 2))
    rows = [(Part("Wall", "", 0), np.array(wall.vertices), np.array(wall.faces))]
    return build_model(
        "Papered", rows, [paper, GLASS, WOOD], uv=() if uv is None else (uv,), textures={"halves": data.getvalue()}
    )


def across(model: Model, size: tuple[int, int] = (800, 400), scale: float = 20) -> np.ndarray:
    """Red along the middle of the wall, seen squarely: from its left end to its right."""
    view = ViewSpecification(
        projection=Parallel(direction=(0, 1, 0), centre=(2, 0, 1)),
        frame=Frame(width=4000 / scale, height=2000 / scale, scale=scale),
    )
    return Drawing(model, view, size).colour()[size[1] // 2, :, 0].astype(float)


def test_a_picture_lies_on_a_wall_at_its_real_size() -> None:
    red = across(papered())
    turns = np.flatnonzero(np.diff((red > 127).astype(int)))
    assert len(turns) == 15 and np.diff(turns) == pytest.approx(
        50, abs=1
    )  # half a metre: eight pictures, sixteen halves
    assert len(np.flatnonzero(np.diff((across(papered(size=(2.0, 2.0))) > 127).astype(int)))) == 3


def test_a_picture_lies_where_the_file_says() -> None:
    model = papered()
    corners = model.vertices[model.triangles]
    uv = (corners[..., [0, 2]] / [4.0, 2.0]).astype(np.float32)  # once across the whole wall
    red = across(papered(uv))
    turns = np.flatnonzero(np.diff((red > 127).astype(int)))
    assert turns.tolist() == [399]


def test_a_fine_picture_seen_from_afar_is_its_mean_and_does_not_flicker() -> None:
    noise = np.random.default_rng(3).integers(0, 2, (128, 128)).astype(np.uint8) * 255
    red = across(papered(size=(0.05, 0.05), picture=noise), (80, 40))
    assert red[1:-1] == pytest.approx(noise.mean(), abs=12)


def test_a_damaged_picture_leaves_the_plain_colour() -> None:
    model = replace(papered(), textures={"halves": b"no picture"})
    assert np.unique(across(model)).tolist() == [int(STONE.colour[1:3], 16)]


def test_colour_is_fresh_only_while_all_that_it_reads_is_the_same() -> None:
    """Whatever of the materials changes the picture changes the key."""
    view = ViewSpecification(
        projection=Parallel(direction=(0, 1, 0), centre=(2, 0, 1)), frame=Frame(width=100, height=50, scale=40)
    )
    base = papered()
    other = replace(base.materials[0], name="Other", texture="")

    def with_first(**changes: object) -> Model:
        return replace(base, materials=(replace(base.materials[0], **changes), *base.materials[1:]))  # type: ignore[arg-type]

    changed = {
        "size": with_first(size=(2.0, 2.0)),
        "no picture": with_first(texture=""),
        "colour": with_first(texture="", colour="#112233"),
        "another picture": replace(
            base, textures={k: papered(picture=np.full((8, 8), 90, np.uint8)).textures[k] for k in base.textures}
        ),
        "another material": replace(
            base, materials=(base.materials[0], other), parts=(replace(base.parts[0], material=1),)
        ),
        "white card": replace(base, white_card=True),
    }
    first = Drawing(base, view, (200, 100))
    for what, model in changed.items():
        drawing = Drawing(model, view, (200, 100))
        assert not np.array_equal(drawing.colour(), first.colour()), f"{what} changes nothing, so it proves nothing"
        assert drawing.key("colour") != first.key("colour"), what
    assert Drawing(with_first(name="Renamed"), view, (200, 100)).key("colour") == first.key("colour")


def test_depth_spans_what_is_seen_or_what_is_said() -> None:
    steps = [(f"Step {k}", box((k, 2 * k, 0), (k + 1, 2 * k + 1, 2)), 0) for k in range(4)]
    view = ViewSpecification(
        projection=Parallel(direction=(0, 1, 0), centre=(2, 0, 1)), frame=Frame(width=250, height=150, scale=25)
    )
    distance = Drawing(model_of(*steps), view, (250, 150)).surface().distance
    grey = depth_grey(distance, depth_range(distance, Depth()))
    assert np.unique(grey).tolist() == [0, round(65534 / 3), round(65534 * 2 / 3), 65534, NOTHING]
    span = depth_range(distance, Depth(near=2, far=4))
    assert np.unique(depth_grey(distance, span)).tolist() == [0, 65534, NOTHING] and span[1:] == (2, 4)
    bands = depth_bands(distance, depth_range(distance, Depth(bands=3)), 3)
    # Depths of 0, 2, 4 and 6 metres in three bands of two; the last metre is of the last band.
    assert [int(bands[75, x]) for x in (20, 65, 105, 145, 185, 230)] == [0, 1, 2, 3, 3, 0]


def test_normals_are_those_of_the_faces_as_seen() -> None:
    view = ViewSpecification(
        projection=Parallel(direction=(0.5, 1, -0.7), centre=(0, 0, 0)), frame=Frame(width=100, height=100, scale=50),
        cuts=(Cut(point=(0, 0, 0.4), normal=(0, 0, 1)),),
    )  # fmt: skip
    drawing = Drawing(model_of(("Box", box((-1, -1, -1), (1, 1, 1)), 0)), view, (200, 200))
    found = normals(drawing.scene, drawing.hiders, drawing.surface())
    plain = np.unique(found[found[..., 3] == 255][:, :3], axis=0).tolist()
    assert {(0, 128, 128), (128, 0, 128), (128, 128, 255)} <= {tuple(p) for p in plain}  # west, south, up


def test_a_bundle_has_every_pass_in_one_frame(tmp_path: Path) -> None:
    model = model_of(
        ("Yard", box((-6, -6, -0.5), (6, 6, 0)), 0),
        ("Wall", box((-2, 0, 0), (2, 0.3, 2.5)), 0),
        ("Block", box((2, -2, 0), (3, -1, 1)), 2),
    )
    view = ViewSpecification(
        projection=Perspective(eye=(-4, -9, 5), target=(0, 0, 0.5), field_of_view=60),
        sun=Sun(azimuth=140, altitude=35),
        frame=Frame(width=120, height=90, resolution=100), depth=Depth(bands=4),
    )  # fmt: skip
    write_bundle(Drawing(model, view), tmp_path / "out")
    about = json.loads((tmp_path / "out" / "bundle.json").read_text())
    assert list(about["passes"]) == list(BUNDLE_PASSES) and {"near", "far", "start", "bands"} < set(
        about["passes"]["depth"]
    )
    size = tuple(about["frame"]["pixels"])
    names = (
        "shadow",
        "shade",
        "occlusion",
        "colour",
        "white",
        "wire",
        "depth",
        "bands",
        "normals",
        "regions",
        "alpha",
        "drawing",
    )
    pictures = {n: Image.open(tmp_path / "out" / f"{n}.png") for n in names}
    assert {p.size for p in pictures.values()} == {size}
    rows = json.loads((tmp_path / "out" / "regions.json").read_text())["rows"]
    assert sum(r["area"] for r in rows) == pytest.approx(120 * 90, rel=1e-6)
    assert {r["light"] for r in rows} == {"lit", "shadow", "shade", "none"} and {r["where"] for r in rows} >= {
        "building",
        "outside",
    }
    # The number in the picture is the row of the region that is there.
    pixels = np.asarray(pictures["regions"]).astype(int)
    number = pixels[..., 0] + 256 * pixels[..., 1] + 65536 * pixels[..., 2] - 1
    for k, row in enumerate(rows):
        ring = shapely.Polygon(row["polygons"][0]["exterior"], [h for h in row["polygons"][0]["holes"]])
        inner = ring.buffer(-0.5)
        if not inner.is_empty:
            x, y = inner.representative_point().coords[0]
            assert number[int(y / 90 * size[1]), int(x / 120 * size[0])] == k
    shadow = json.loads((tmp_path / "out" / "shadow.json").read_text())["rows"]
    area = sum(shapely.Polygon(p["exterior"], p["holes"]).area for r in shadow for p in r["polygons"])
    assert area == pytest.approx(sum(r["area"] for r in rows if r["light"] == "shadow"), rel=1e-4)
    share = np.asarray(pictures["shadow"])[..., 3].sum() / 255 / (size[0] * size[1])
    assert area / (120 * 90) == pytest.approx(share, rel=0.01)
    white = np.asarray(pictures["white"])
    assert (white[..., 3] == np.asarray(pictures["alpha"])[..., 3]).all() and white[white[..., 3] == 255][
        :, 0
    ].min() < 120
    wire = np.asarray(pictures["wire"])[..., 3]
    assert (wire > 200).any() and ((wire > 40) & (wire < 120)).any()  # before, and shining through
