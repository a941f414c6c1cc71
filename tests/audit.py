"""Known faults of what the application stands on: ``python -m tests.audit``.

Asks the registries of Python's and Node's packages, once a day for the same pins. Where they cannot be asked that is
said, and nothing fails: a machine without a network runs the tests, too.
"""

from __future__ import annotations

import hashlib
import json
import shutil
import subprocess
import sys
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
DAY = 86400.0


def python_faults() -> tuple[list[str], str]:
    """Faults of pinned packages, and why they could not be asked for."""
    words = [
        "--strict",
        "--require-hashes",
        "--disable-pip",
        "--progress-spinner",
        "off",
        "-f",
        "json",
        "-r",
        "requirements/base.txt",
    ]
    try:
        done = subprocess.run(
            [sys.executable, "-m", "pip_audit", *words], cwd=ROOT, capture_output=True, text=True, timeout=120
        )
        rows = json.loads(done.stdout)["dependencies"]
    except (subprocess.TimeoutExpired, ValueError, KeyError):
        return [], "the registry of Python's packages cannot be asked here"
    return [f"{r['name']} {r['version']}: {v['id']}" for r in rows for v in r.get("vulns", ())], ""


def node_faults() -> tuple[list[str], str]:
    """As :func:`python_faults`, of what the front end is built of; grave ones only."""
    npm = shutil.which("npm") or "npm"
    try:
        words = [npm, "--prefix", "web", "audit", "--omit=dev", "--json"]
        done = subprocess.run(words, cwd=ROOT, capture_output=True, text=True, timeout=120)
        rows = json.loads(done.stdout)["vulnerabilities"]
    except (subprocess.TimeoutExpired, ValueError, KeyError):
        return [], "the registry of Node's packages cannot be asked here"
    return [f"{name}: {r['severity']}" for name, r in rows.items() if r["severity"] in ("high", "critical")], ""


def main() -> int:
    """Say what is known; 1 where there is something."""
    pins = [ROOT / "requirements" / "base.txt", ROOT / "web" / "package-lock.json"]
    kept = ROOT / ".setup" / f"audit-{hashlib.sha256(b''.join(p.read_bytes() for p in pins)).hexdigest()[:16]}"
    if kept.exists() and time.time() - kept.stat().st_mtime < DAY:
        return 0
    faults, silent = [], []
    for ask in (python_faults, node_faults):
        found, why = ask()
        faults += found
        silent += [why] if why else []
    for words in (*faults, *(f"Not audited: {why}." for why in silent)):
        print(words)
    if not faults and not silent and kept.parent.is_dir():
        kept.write_text("")
    return 1 if faults else 0


if __name__ == "__main__":
    sys.exit(main())
