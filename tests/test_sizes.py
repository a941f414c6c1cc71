"""How large things are, and whether what is small has a name: a reason stands beside what is larger."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from pathlib import Path

from warmgraphite.sources import ROOT

#: Lines of a module and of a function, arguments of a function, methods of a class.
LINES, LONG, ARGUMENTS, METHODS = 400, 80, 8, 20
#: What is larger is no tolerance, but a share, a length or a tone.
SMALL = 1e-3


def too_large(path: Path) -> Iterator[str]:
    text = path.read_text("utf-8")
    rows, tree = text.splitlines(), ast.parse(text)

    def said(node: ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef, word: str) -> bool:
        at = min([node.lineno, *(d.lineno for d in node.decorator_list)]) - 2
        while at >= 0 and rows[at].lstrip().startswith("#"):
            if rows[at].lstrip().startswith(f"# {word}: "):
                return True
            at -= 1
        return False

    if len(rows) > LINES and not any(row.startswith("# Long: ") for row in rows[:30]):
        yield f"{path}: {len(rows)} lines"
    for node in ast.walk(tree):
        if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
            long = (node.end_lineno or 0) - node.lineno + 1
            named = [*node.args.posonlyargs, *node.args.args, *node.args.kwonlyargs]
            many = len(named) - (bool(named) and named[0].arg in ("self", "cls"))
            if long > LONG and not said(node, "Long"):
                yield f"{path}:{node.lineno} {node.name}: {long} lines"
            if many > ARGUMENTS and not said(node, "Many arguments"):
                yield f"{path}:{node.lineno} {node.name}: {many} arguments"
        elif isinstance(node, ast.ClassDef):
            methods = sum(isinstance(n, ast.FunctionDef | ast.AsyncFunctionDef) for n in node.body)
            if methods > METHODS and not said(node, "Many methods"):
                yield f"{path}:{node.lineno} {node.name}: {methods} methods"


def test_what_is_large_has_a_reason_beside_it(tmp_path: Path) -> None:
    files = [
        f for r in ("warmgraphite", "studio") for f in (ROOT.parent / r).rglob("*.py") if "migrations" not in f.parts
    ]
    assert len(files) > 500 and [found for f in sorted(files) for found in too_large(f)] == []
    large = tmp_path / "large.py"
    arguments = ", ".join(f"a{k}" for k in range(9))
    large.write_text(
        "\n".join([f"def many({arguments}):", *["    pass"] * 90, "class C:", *["    def m(self): ..."] * 21])
    )
    assert [f.split()[-1] for f in too_large(large)] == ["lines", "arguments", "methods"]


def unnamed(path: Path) -> Iterator[str]:
    """Numbers as small as tolerances that stand within the code, and not under a name of their own."""
    for node in ast.parse(path.read_text("utf-8")).body:
        named = isinstance(node, ast.Assign | ast.AnnAssign)
        for part in ast.walk(node) if not named else ():
            if isinstance(part, ast.Call) and getattr(part.func, "id", "") == "Field":
                part.args, part.keywords = [], []  # what may be said is no tolerance
            elif isinstance(part, ast.Constant) and isinstance(part.value, float) and 0 < part.value < SMALL:
                yield f"{path}:{part.lineno} {part.value}"


def test_no_tolerance_is_without_a_name(tmp_path: Path) -> None:
    assert [number for f in sorted(ROOT.rglob("*.py")) for number in unnamed(f)] == []
    loose = tmp_path / "loose.py"
    loose.write_text("NEAR = 1e-6\nwidth = Field(ge=1e-9)\ndef same(a, b):\n    return abs(a - b) < 2e-7\n")
    assert list(unnamed(loose)) == [f"{loose}:4 2e-07"]


def test_the_first_line_of_a_docstring_is_a_sentence() -> None:
    loose = []
    for path in sorted((*ROOT.rglob("*.py"), *(ROOT.parent / "studio").rglob("*.py"))):
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef):
                first = (ast.get_docstring(node) or ".").splitlines()[0]
                if not first.rstrip("”)\"'`").endswith((".", "?", "!", "…", ":")):
                    loose.append(f"{path}: {first}")
    assert loose == []
