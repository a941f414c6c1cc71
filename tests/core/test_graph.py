"""The graph of passes: what a key is made of, and that a pass is handed nothing else."""

from __future__ import annotations

from dataclasses import fields, is_dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from tests.core.test_keys import INK, SIZE, needs, scene
from warmgraphite import sources
from warmgraphite.collage.pictures.specification import ExampleSpec
from warmgraphite.drawing import PASSES, Drawing, Need
from warmgraphite.drawing.graph import PLUMBING, Given
from warmgraphite.drawing.specification import PINNED, STEADY, WHOLE
from warmgraphite.errors import OurFault
from warmgraphite.keys import key_of, plain

pytestmark = pytest.mark.usefixtures("coarse")

OTHER = "another value than any field has"


def _changed(record: Any) -> list[tuple[str, Any, bool]]:
    """Each field of a record, and of records within it.
    With the record in which it is another, and whether it is only held.
    """
    found = []
    for f in fields(record):
        only_held, value = bool(f.metadata.get("held")), getattr(record, f.name)
        found.append((f.name, replace(record, **{f.name: OTHER}), only_held))
        if not only_held and is_dataclass(value) and not isinstance(value, type):
            found += [(f"{f.name}.{n}", replace(record, **{f.name: inner}), h) for n, inner, h in _changed(value)]
    return found


def test_any_field_that_a_pass_reads_changes_its_key_and_what_is_only_held_does_not() -> None:
    drawing, looked = Drawing(*scene(), SIZE, ink=INK), set()
    wanted = [*needs(), *(Need(n) for n, p in PASSES.items() if p.tool), Need("example", ExampleSpec(digest="0" * 64))]
    for one in wanted:
        record = PASSES[one.name]
        read = record.reads(drawing.spec, one.where)
        for name, other, only_held in _changed(read) if read is not None else ():
            assert (plain(other) == plain(read)) == only_held, f"{one.words}: {name}"
            looked.add((one.name, name))
    assert len(looked) > 150 and {p for p, _ in looked} >= {
        "cut",
        "lines",
        "light",
        "regions",
        "strokes",
        "mask",
        "built",
        "marks",
    }


def test_a_pass_is_handed_what_it_needs_and_nothing_else() -> None:
    given = Given(
        [Need("lines"), Need("scene", None, WHOLE)],
        lambda n: n,
        lambda n: f"key of {n.name}",
        lambda key, make: (key, make()),
    )
    assert given["lines"] == Need("lines") and given.key("lines") == "key of lines"
    assert given["scene"] == Need("scene", None, WHOLE), (
        "a name stands for the need that is called so, of whichever drawing"
    )
    for other in ("surface", Need("scene"), Need("lines", None, STEADY), Need("lines", None, PINNED)):
        with pytest.raises(OurFault, match="does not say that it needs"):
            given[other]
    one, two = given.remember(["a", 1], lambda: "piece"), given.remember(["a", 2], lambda: "piece")
    assert one[0] != two[0] and one[1] == "piece"


def test_a_changed_source_changes_the_keys_of_what_is_computed_by_it_and_of_no_other(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    read = sources._text

    def sources_of(changed: str) -> dict[str, str]:
        for kept in (sources._text, sources._digest, sources._stands_on, sources.digest_of):
            kept.cache_clear()
        monkeypatch.setattr(
            sources, "_text", lambda file: read(file) + ("# changed" if str(file).endswith(changed) else "")
        )
        without = {n: sources.digest_of(p.reads.__module__, without=PLUMBING) for n, p in PASSES.items()}
        monkeypatch.undo()
        sources._digest.cache_clear()
        sources.digest_of.cache_clear()
        return without

    before = sources_of("no file")
    for changed, moved, stays in (
        ("passes/occlusion.py", {"corners"}, {"lines", "surface", "light", "cut", "regions"}),
        ("passes/kernels/hiding.py", {"lines", "regions"}, {"surface", "corners", "cut", "scene", "strokes"}),
        ("ink/patterns/bond.py", {"surfaces", "poche"}, {"lines", "light", "cut", "surface"}),
        ("passes/kernels/grid.py", {"hiders", "surface", "lines"}, {"cut", "paper"}),
    ):
        after = sources_of(changed)
        other = {n for n in before if before[n] != after[n]}
        assert moved <= other and not stays & other, f"{changed}: {sorted(other)}"


def test_sources_are_followed_through_imports_and_through_folders_of_one_file_each(tmp_path: Path) -> None:
    found = {str(f.relative_to(sources.ROOT)) for f in sources.closure(["warmgraphite.passes.light"])}
    assert {"passes/light.py", "passes/kernels/pixels.py", "threads.py"} <= found
    assert "drawing/drawing.py" not in found, "what only a type checker imports is no source"
    kinds = {f.name for f in sources.closure(["warmgraphite.ink.patterns"])}
    assert kinds >= {f.name for f in (sources.ROOT / "ink" / "patterns").glob("*.py")}
    assert sources.closure(["warmgraphite.passes.light"], ["warmgraphite.passes.light"]) == ()


def test_keys_go_by_what_values_are() -> None:
    assert key_of("a", plain(24.0)) == key_of("a", plain(24)) != key_of("a", plain(24.5))
    assert key_of("a", 1) != key_of("b", 1) and key_of("a", 1, by="warmgraphite.keys") != key_of("a", 1)
    assert key_of("a", {"x": 1, "y": 2}) == key_of("a", {"y": 2, "x": 1})


def test_what_is_made_of_the_same_lies_on_one_bench_once() -> None:
    model, view = scene()
    first = Drawing(model, view, SIZE, ink=INK)
    other = first.sized((60, 42))
    assert other.lines() is first.lines() and other.scene is first.scene
    assert other.surface() is not first.surface() and other.surface().size == (60, 42)
    window = first.windowed((10, 8, 40, 30))
    assert window.scene is first.scene and window.surface().size == (40, 30)
    key = window.key("surface")
    assert key in window.own and key not in first.bench, "what has the pixels of a window goes with it"
    first.rest()
    assert first.key("scene") not in first.bench and first.key("lines") in first.bench
    assert np.array_equal(first.scene.corners, other.scene.corners)
