"""Bodies and models that several tests stand on. Each is made here, none is read from the product's own data.

What the short run leaves out is marked ``deep`` (:func:`deeper`, :func:`examples`); ``--deep`` runs it, too.
"""

from __future__ import annotations

import os
import sys
from collections import Counter
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Any

import hypothesis
import numpy as np
import pytest
import trimesh

from warmgraphite.model import Material, Model, Part, build_model

DEEP = "--deep" in sys.argv or os.environ.get("WARMGRAPHITE_DEEP") == "1"
os.environ["WARMGRAPHITE_DEEP"] = "1" if DEEP else "0"  # as processes that help with the run see it

# The same examples in each run, so that a red run is about the change; HYPOTHESIS_PROFILE=explore draws new ones.
hypothesis.settings.register_profile("same", derandomize=True)
hypothesis.settings.register_profile("explore", derandomize=False)
hypothesis.settings.load_profile(os.environ.get("HYPOTHESIS_PROFILE", "same"))


def examples(deep: int, short: int) -> int:
    """How many examples of a property are drawn: so many in the deep run, and so many in the short one."""
    return deep if DEEP else short


def deeper(short: Iterable[Any], deep: Iterable[Any]) -> list[Any]:
    """Parameters of a test: those of every run, and those that only the deep run adds."""

    def marked(value: Any) -> Any:
        if isinstance(value, type(pytest.param())):
            return pytest.param(*value.values, marks=[*value.marks, pytest.mark.deep], id=value.id)
        return pytest.param(*(value if isinstance(value, tuple) else (value,)), marks=pytest.mark.deep)

    return [*short, *(marked(value) for value in deep)]


def pytest_addoption(parser: pytest.Parser) -> None:
    parser.addoption("--deep", action="store_true", help="run the full products, more seeds and larger models, too")


def pytest_configure(config: pytest.Config) -> None:
    config.addinivalue_line("markers", "deep: only part of the deep run")


_left_out, _rooms = Counter[str](), Counter[str]()


def pytest_xdist_make_scheduler(config: pytest.Config, log: Any) -> Any:
    """What hangs together runs in one process: what drives a browser, with one application.
    And all that is asked of one judged case, whose model, drawing and judge are made once. The largest goes first.
    """
    from xdist.scheduler import LoadScopeScheduling

    class Together(LoadScopeScheduling):
        def _split_scope(self, nodeid: str) -> str:
            if nodeid.startswith("tests/interface/"):
                return "interface"
            case = nodeid.partition("[")[2].removesuffix("]")
            return case if ", parallel" in case or ", perspective" in case else nodeid

    return Together(config, log)


@pytest.hookimpl(tryfirst=True)
def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    """What is marked ``deep`` is left to the deep run."""
    if DEEP or any("::" in word for word in config.args):  # what is named is run
        return
    left = [item for item in items if item.get_closest_marker("deep")]
    if left:
        config.hook.pytest_deselected(items=left)
        items[:] = [item for item in items if not item.get_closest_marker("deep")]
        _left_out["deep"] = len(left)
        if hasattr(config, "workeroutput"):
            config.workeroutput["deep"] = len(left)


@pytest.hookimpl(optionalhook=True)
def pytest_testnodedown(node: Any) -> None:
    _left_out["deep"] = max(_left_out["deep"], getattr(node, "workeroutput", {}).get("deep", 0))


def pytest_runtest_logreport(report: pytest.TestReport) -> None:
    _rooms[report.nodeid.split("::")[0]] += round(report.duration * 1000)


def pytest_terminal_summary(terminalreporter: Any, config: pytest.Config) -> None:
    """What each room added to the time, and what was left to the deep run."""
    if hasattr(config, "workerinput") or sum(_rooms.values()) < 30_000:
        return
    terminalreporter.section("slowest fifteen rooms, in seconds of one process")
    for name, spent in _rooms.most_common(15):
        terminalreporter.write_line(f"{spent / 1000:7.1f}  {name}")
    if _left_out["deep"]:
        terminalreporter.write_line(
            f"Left to ./run test --deep: {_left_out['deep']} cases (full products, more seeds, larger models)."
        )


STONE, GLASS, WOOD = Material("Stone", "#aaa090"), Material("Glass", "#b0d0d0", 0.2), Material("Wood", "#c09060")


def model_of(*rows: tuple[str, trimesh.Trimesh, int], name: str = "Test") -> Model:
    """A model of (name, mesh, material number) rows; material 1 is glass."""
    parts = [
        (Part(n, "", m, "glass" if m == 1 else "structure"), np.array(t.vertices), np.array(t.faces))
        for n, t, m in rows
    ]
    return build_model(name, parts, [STONE, GLASS, WOOD])


def box(low: tuple[float, float, float], high: tuple[float, float, float]) -> trimesh.Trimesh:
    return trimesh.creation.box(bounds=[low, high])


@pytest.fixture(scope="session", autouse=True)
def no_kernel_is_compiled_late() -> Iterator[None]:
    """Whatever is computed in this process.
    A form of arguments that was not declared would be compiled while somebody waits.
    """
    yield
    if (found := sys.modules.get("warmgraphite.kernels")) is not None:
        assert not found.late(), "\n".join(f"{name}{form}" for name, form in found.late())


@pytest.fixture(scope="module")
def coarse() -> Iterator[None]:
    """What is followed on pixels is so on few: how many there are is no input of a key."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("warmgraphite.drawing.specification.STEADY_PIXELS", 200)
        patch.setattr("warmgraphite.regions.map.CHECK", 200)
        yield


@pytest.fixture(scope="session")
def yard() -> Model:
    """Blocks that touch, overlap and run through each other, a pipe, a sphere, an open sheet: no clean model at all."""
    sphere = trimesh.creation.icosphere(subdivisions=3, radius=1.1)
    sphere.apply_translation([5.2, 1.5, 1.9])
    pipe = trimesh.creation.annulus(0.6, 1.0, 4.0, sections=48)
    pipe.apply_transform(trimesh.transformations.rotation_matrix(0.9, [0.3, 1, 0.2]))
    pipe.apply_translation([2.0, -2.0, 2.2])
    beam = box((-1, 0.8, 2.2), (8, 1.2, 2.6))
    beam.apply_transform(trimesh.transformations.rotation_matrix(0.25, [0, 1, 0.1], [3, 1, 2]))
    sheet = trimesh.Trimesh([[-2, -3, 0.2], [3, -3.5, 0.2], [3, -3.2, 2.4], [-2, -2.9, 1.8]], [[0, 1, 2], [0, 2, 3]])
    return model_of(
        ("Base", box((-3, -4, -0.5), (9, 5, 0)), 0),
        ("Block", box((0, 0, 0), (3, 3, 3)), 0),
        ("Tower", box((2, 1, 0), (4, 4, 5.5)), 2),
        ("Lean-to", box((3, -2, 0), (6, 0, 1.4)), 2),
        ("Ball", sphere, 0),
        ("Pipe", pipe, 2),
        ("Beam", beam, 2),
        ("Sheet", sheet, 0),
        name="Yard",
    )


@pytest.fixture(scope="session")
def kiln_house() -> Model:
    from demo.kiln_house import build_kiln_house

    return build_kiln_house(planting=True)


@pytest.fixture()
def scratch(tmp_path: Path) -> Path:
    return tmp_path
