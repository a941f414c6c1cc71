"""What lies under the passes: colour against published values, noise alike in arrays and in loops."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

from warmgraphite.catalogue import Catalogue, constants_in
from warmgraphite.colour import (
    channels,
    encoded,
    from_oklab,
    is_light,
    lightness,
    linear,
    luminance,
    of_shares,
    premultiplied,
    shares,
    straightened,
    to_oklab,
    written,
)  # fmt: skip
from warmgraphite.kernels import kernel
from warmgraphite.noise import kernels as loops
from warmgraphite.noise.easing import eased
from warmgraphite.noise.hashing import hashed, unit_share
from warmgraphite.noise.value import value_noise, value_over


def test_the_transfer_is_the_standards() -> None:
    # IEC 61966-2-1: its linear part, its knee, and the value of middle grey that every table gives.
    assert linear(np.array([0.0, 0.04045, 0.5, 1.0])) == pytest.approx([0.0, 0.0031308, 0.2140411, 1.0], abs=1e-6)
    codes = np.arange(256) / 255
    assert encoded(linear(codes)) == pytest.approx(codes, abs=1e-6)
    assert linear(codes.astype(np.float32)).dtype == np.float32
    assert np.array_equal(
        lightness(np.full((2, 3), 188, np.uint8)), np.full(2, linear(np.float32(188 / 255)), np.float32)
    )


def test_hues_are_those_of_the_published_table() -> None:
    # The author's table of CIE XYZ to OKLab, by way of the sRGB primaries (2020), and the values that CSS Color 4 gives
    # for its names.
    for colour, lab in {
        "#ff0000": (0.62796, 0.22486, 0.12585),
        "#0000ff": (0.45201, -0.03246, -0.31153),
        "#ffffff": (1, 0, 0),
    }.items():
        assert to_oklab(shares(colour))[0] == pytest.approx(lab, abs=2e-4)
    any_colour = np.random.default_rng(1).uniform(0, 1, (200, 3))
    assert from_oklab(to_oklab(any_colour)) == pytest.approx(any_colour, abs=1e-5)


def test_colours_are_read_and_written_alike() -> None:
    assert channels("#0a7Fff80") == (10, 127, 255) and written((9.6, 127, 300)) == "#0a7fff"
    assert of_shares((1.2, 0.5, float("nan"))) == "#ff80c8" and written(channels("#c98672")) == "#c98672"
    assert luminance(shares("#00ff00", "#ffffff")) == pytest.approx([0.7152, 1.0], abs=1e-4)
    assert is_light("#b39a76") and not is_light("#5d5145")


def test_pixels_become_straight_and_back_to_the_nearest_step() -> None:
    colour, alpha = np.meshgrid(np.arange(256), np.arange(256))
    straight = np.stack([colour, 255 - colour, colour, alpha], -1).astype(np.uint8)
    laid = premultiplied(straight)
    assert np.array_equal(
        laid[..., :3], np.round(straight[..., :3].astype(float) * straight[..., 3:] / 255).astype(np.uint8)
    )
    back = straightened(laid)
    seen = straight[..., 3] > 0
    off = np.abs(back[..., :3].astype(int) - straight[..., :3])[seen] * straight[..., 3:][seen].astype(int)
    assert off.max() <= 255 and np.array_equal(back[..., 3], straight[..., 3]), "no more than half a step of what shows"


@kernel("u8[::1], u8, f8[::1], f8[::1], f8[:,::1]")
def _asked(numbers, key, u, v, out):
    for k in range(len(numbers)):
        out[k, 0] = loops.share(np.uint64(0), numbers[k])
        out[k, 1] = loops.value_over(key, u[k], v[k])
        out[k, 2] = loops.eased(u[k] / 50)
        out[k, 3] = loops.value_along(key, u[k])


def test_noise_is_the_same_in_arrays_and_in_loops() -> None:
    chance = np.random.default_rng(2)
    numbers = chance.integers(0, 1 << 62, 500).astype(np.uint64)
    u, v = chance.uniform(-60, 60, 500), chance.uniform(-60, 60, 500)
    out = np.empty((500, 4))
    _asked(numbers, np.uint64(9), u, v, out)
    assert np.array_equal(out[:, 0], unit_share(hashed(numbers)))
    assert out[:, 1] == pytest.approx(value_over(9, u, v), abs=1e-12)
    assert out[:, 2] == pytest.approx(eased(u / 50), abs=1e-6)
    assert np.abs(out[:, [1, 3]]).max() <= 1 and out[:, [1, 3]].std() > 0.25


def test_hashes_are_even_and_those_of_the_paper() -> None:
    # The first number of the paper's generator whose state is 0 is the finalizer of its step.
    assert int(hashed(np.array([0]))[0]) == 0xE220A8397B1DCDAF
    found = unit_share(hashed(*np.divmod(np.arange(200_000), 400)))
    counts = np.histogram(found, 64, (0, 1))[0]
    assert ((counts - 3125) ** 2 / 3125).sum() < 120, "chi-squared of 63 degrees"
    assert len(np.unique(found)) == len(found)


def test_noise_of_a_window_is_that_of_the_whole() -> None:
    x, y = np.arange(300) * 0.5 - 40, np.arange(200) * 0.5 - 30
    whole = value_noise(x, y, 0.5, 12.0, 3, 5)
    assert np.array_equal(value_noise(x[40:90], y[100:], 0.5, 12.0, 3, 5), whole[100:, 40:90])
    assert whole.min() >= -1 and whole.max() <= 1 and not np.array_equal(whole, value_noise(x, y, 0.5, 12.0, 3, 6))


def test_a_new_thing_is_a_new_file_and_nothing_else(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    package = tmp_path / "shapes_of_a_test"
    package.mkdir()
    (package / "__init__.py").touch()
    (package / "_helped.py").write_text("raise RuntimeError('nobody imports this by itself')")
    (package / "two.py").write_text("THINGS = ['b', 'c']")
    monkeypatch.syspath_prepend(str(tmp_path))
    things = Catalogue(lambda: constants_in("shapes_of_a_test", "THINGS"), str.upper)
    (package / "one.py").write_text("THINGS = 'a'")
    assert dict(things) == {"A": "a", "B": "b", "C": "c"} and "D" not in things and len(things) == 3


#: Where a file of its own makes a new thing, and what of it a test writes there.
NEW_FILES = {
    "warmgraphite.model.readers": (
        "from warmgraphite.model.reader import Reader\n"
        "READER = Reader('dots', 'Dots', 5, lambda head: head.word == b'dots', lambda path, watch: None)\n",
        "READERS",
        "dots",
    ),
    "warmgraphite.view.kinds": (
        "from typing import ClassVar, Literal\nfrom warmgraphite.view.kinds.plan import Plan\n"
        "class RoofPlan(Plan):\n    order: ClassVar[int] = 40\n    kind: Literal['roof plan'] = 'roof plan'\n"
        "    @classmethod\n    def seen(cls, look): return None\n",
        "KINDS",
        "roof plan",
    ),
    "warmgraphite.study.commands": (
        "from typing import Literal\nfrom warmgraphite.study.commands._command import Command\n"
        "class Wait(Command):\n    do: Literal['wait'] = 'wait'\n    label: str = 'Wait'\n"
        "    def apply(self, document): return document\n",
        "COMMANDS",
        "wait",
    ),
    "warmgraphite.model.edits": (
        "from typing import Literal\nfrom warmgraphite.model.edits._edit import Edit\n"
        "class Look(Edit):\n    do: Literal['look'] = 'look'\n    def apply(self, model): return model\n"
        "    def called(self, what): return 'Look'\n",
        "EDITS",
        "look",
    ),
    "warmgraphite.regions.words": (
        "from warmgraphite.regions.words._word import Word, of_parts\nimport numpy as np\n"
        "MANY = Word('many', int | None, of_parts(lambda said, asked, model: np.bincount(model.triangle_part) >= said), order=9,\n"
        "            unsaid=None, tail=lambda said: f'of {said} faces or more', label='Faces')\n",
        "WORDS",
        "many",
    ),
    "warmgraphite.figures.kinds": (
        "from typing import Literal\nfrom warmgraphite.figures.figure import Figure, FigureItem\n"
        "class Flag(Figure):\n    plural = 'Flags'\n    kind: Literal['flag'] = 'flag'\n"
        "    @classmethod\n    def stock(cls): return [FigureItem.of('flag', 'flag', 'flags', 'Flag')]\n",
        "KINDS",
        "flag",
    ),
}

ASKED = """
import importlib, sys

import numpy as np

rows, more = {rows!r}, dict(zip([row[0] for row in {rows!r}], sys.argv[1:]))

class WithMore:
    @staticmethod
    def find_spec(name, path=None, target=None):
        found = (finder.find_spec(name, path) for finder in sys.meta_path if finder is not WithMore)
        spec = next(filter(None, found), None)
        if spec is not None and name in more:
            spec.submodule_search_locations.append(more[name])
        return spec

sys.meta_path.insert(0, WithMore)
for package, catalogue, name in rows:
    assert name in getattr(importlib.import_module(package), catalogue), name
from pydantic import TypeAdapter
from warmgraphite.figures.stock import figure_stock
from warmgraphite.model.read import FORMATS
from warmgraphite.study import Command
from warmgraphite.view.kinds import KIND_LABELS, ViewKind
assert FORMATS["dots"] == "Dots" and KIND_LABELS["roof plan"] == "roof plan"
assert TypeAdapter(Command).validate_python({{"do": "wait"}}).label == "Wait"
assert TypeAdapter(ViewKind).validate_python({{"kind": "roof plan"}}).height == 1.2
from warmgraphite.ink.sentences import held_words
from warmgraphite.model.model import Material, Part, build_model
from warmgraphite.regions.query import Match, PartCells, answer
rows = [(Part(n, "", 0), np.eye(3), np.array([[0, 1, 2]] * k)) for n, k in (("A", 1), ("B", 3))]
model = build_model("M", rows, [Material("Stone")])
assert answer(Match(many=2), PartCells.of(model), model).tolist() == [False, True]
assert held_words(Match(many=2), "parts") == "of 2 faces or more"
assert "flag-flag" in [item.id for item in figure_stock()]
"""


def test_readers_kinds_of_view_commands_edits_words_and_kinds_of_figure_are_files(tmp_path: Path) -> None:
    rows, folders = [], []
    for number, (package, (text, catalogue, name)) in enumerate(NEW_FILES.items()):
        folder = tmp_path / str(number)
        folder.mkdir()
        (folder / f"new_{number}.py").write_text(text)
        folders.append(str(folder))
        rows.append((package, catalogue, name))
    done = subprocess.run(
        [sys.executable, "-c", ASKED.format(rows=rows), *folders],
        capture_output=True,
        text=True,
        cwd=Path(__file__).parents[2],
    )
    assert done.returncode == 0, done.stderr
