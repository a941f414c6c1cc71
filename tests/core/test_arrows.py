"""Imports run one way: no stage knows the one that comes after it."""

from __future__ import annotations

import ast
from pathlib import Path

CORE = Path(__file__).parents[2] / "warmgraphite"
#: Each may use those after it, and none before.
ORDER = ("study", "sheet", "drawing", "collage", "ink", "regions", "passes", "view", "model", "canvas")


def test_no_package_of_the_core_imports_one_that_stands_on_it() -> None:
    against, seen = [], set()
    for path in CORE.rglob("*.py"):
        room = path.relative_to(CORE).parts[0].removesuffix(".py")
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            modules = [a.name for a in node.names] if isinstance(node, ast.Import) else []
            modules += [node.module] if isinstance(node, ast.ImportFrom) and node.module else []
            for other in (m.split(".")[1] for m in modules if m.startswith("warmgraphite.")):
                if room in ORDER and other in ORDER and room != other:
                    seen.add((room, other))
                    against += [f"{path.name} → {other}"] if ORDER.index(room) > ORDER.index(other) else []
            assert not any(m.split(".")[0] in ("django", "studio", "ninja") for m in modules), path
    assert against == [] and len(seen) > 20
