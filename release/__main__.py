"""Build ``dist/warm_graphite-VERSION-py3-none-any.whl``: ``python -m release INSTALLER``.

The packages and the built front end are laid into a folder of their own, with a project file that names just what they
need, each in the version it was tested with; so nothing that lies about in a checkout comes along, and the checkout
stays as it is.
"""

from __future__ import annotations

import re
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

from warmgraphite import __version__

__all__ = ["build", "requirements"]

ROOT = Path(__file__).resolve().parents[1]
PACKAGES = ("warmgraphite", "studio", "demo")

_PROJECT = """[build-system]
requires = ["setuptools>=77"]
build-backend = "setuptools.build_meta"

[project]
name = "warm-graphite"
version = "{version}"
description = "From a building model to a drawing at scale."
readme = "README.md"
requires-python = ">=3.11"
license = "Apache-2.0"
license-files = ["LICENSE"]
dependencies = [
{needs}
]

[project.scripts]
warm-graphite = "studio.command:main"

[tool.setuptools.packages.find]
include = ["warmgraphite*", "studio*", "demo*"]

[tool.setuptools.package-data]
"*" = ["*"]
"studio" = ["web/**"]
"""


def requirements() -> list[str]:
    """What a release needs, in the versions that are tested."""
    pinned = re.findall(
        r"^([\w.\-\[\]]+==[^\s;\\]+)(?:\s*;\s*([^\\\n]+))?", (ROOT / "requirements" / "base.txt").read_text(), re.M
    )
    return [f"{name}; {when.strip()}" if when else name for name, when in pinned]


def build(installer: str) -> Path:
    """The wheel's path; what was in the way is one sentence."""
    built = ROOT / "web" / "dist"
    leave = shutil.ignore_patterns("__pycache__", "*.pyc", "*.nbi", "*.nbc")
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for package in PACKAGES:
            shutil.copytree(ROOT / package, folder / package, ignore=leave)
        shutil.copytree(built, folder / "studio" / "web")
        for file in ("README.md", "LICENSE", "CHANGELOG.md"):
            shutil.copy(ROOT / file, folder / file)
        needs = "\n".join(f"    {row!r}," for row in requirements()).replace("'", '"')
        (folder / "pyproject.toml").write_text(_PROJECT.format(version=__version__, needs=needs))
        out = ROOT / "dist"
        done = subprocess.run(
            [installer, "build", "-q", "--wheel", "--out-dir", str(out), str(folder)], capture_output=True, text=True
        )
        if done.returncode:
            print(done.stderr[-4000:], file=sys.stderr)
            sys.exit("The wheel could not be built; the lines above say why.")
    return max(out.glob(f"warm_graphite-{__version__}-*.whl"), key=lambda p: p.stat().st_mtime)


if __name__ == "__main__":
    wheel = build(sys.argv[1])
    print(f"{wheel.relative_to(ROOT)}  {wheel.stat().st_size / 1e6:.1f} MB")
