"""A power cut at any moment: what was acknowledged is there, all studies open, and nothing is said but sentences."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from tests.conftest import DEEP
from tests.studio.power import WAYS, Disk, File, _path, traced

#: Of some three thousand writes so many lie between two cuts.
EVERY = 7 if DEEP else 613
ROOT = Path(__file__).resolve().parents[2]


@pytest.mark.deep
def test_nothing_acknowledged_is_lost_by_a_power_cut(tmp_path: Path) -> None:
    data, told = tmp_path / "data", tmp_path / "acknowledged"
    data.mkdir()
    here = {
        **os.environ,
        "DJANGO_SETTINGS_MODULE": "studio.settings",
        "PYTHONPATH": str(ROOT),
        "PYTHONDONTWRITEBYTECODE": "1",
    }
    look = subprocess.Popen(
        [sys.executable, "-m", "tests.studio.power", "look"], env={**here, "WARMGRAPHITE_DATA": str(tmp_path / "none")},
        stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True,
    )  # fmt: skip
    assert look.stdin and look.stdout
    disk, acknowledged, points, wrong = Disk(data), list[dict](), 0, list[str]()
    calls = traced(
        [sys.executable, "-m", "tests.studio.power", "session", str(told)],
        tmp_path / "calls",
        {**here, "WARMGRAPHITE_DATA": str(data)},
    )
    for call, words, result in calls:
        if call == "write" and _path(words[0]) == str(told):
            acknowledged.append(json.loads(bytes.fromhex(words[1].strip('"').replace("\\x", ""))))
        elif disk.carry_out(call, words, result):
            points += 1
            if not acknowledged or points % EVERY:
                continue
            way, left = WAYS[points // EVERY % len(WAYS)], tmp_path / "left"
            disk.left(way, left)
            print(json.dumps([str(left), acknowledged]), file=look.stdin, flush=True)
            said = json.loads(look.stdout.readline())
            if said != "-":
                wrong.append(f"cut at {points} ({call} {_path(words[0])}), {way} is left: {said}")
            shutil.rmtree(left)
    look.stdin.close()
    look.wait(20)
    assert points > 1000 and len(acknowledged) > 20
    assert not wrong, f"{len(wrong)} cuts; the first: " + "\n".join(wrong[:5])
    # The replay is the session: what is left when all is there is what lies in its folder.
    disk.left("all", tmp_path / "end")
    for path in (p for p in data.rglob("*") if p.is_file() and not p.name.endswith("-shm")):
        assert (tmp_path / "end" / path.relative_to(data)).read_bytes() == path.read_bytes(), path


def test_a_disk_loses_what_was_not_settled(tmp_path: Path) -> None:
    disk = Disk(Path("/data"))
    hexed = lambda text: "".join(f"\\x{b:02x}" for b in text.encode())
    opened, name = f"3<{hexed('/data/a')}>", f'"{hexed("/data/a")}"'
    disk.carry_out("openat", ["AT_FDCWD</x>", name, "O_WRONLY|O_CREAT|O_TRUNC"], 3)
    disk.carry_out("write", [opened, f'"{hexed("abcd")}"', "4"], 4)
    disk.carry_out("fsync", [opened], 0)
    disk.left("nothing", tmp_path / "no name")
    assert not list((tmp_path / "no name").iterdir())
    disk.carry_out("fsync", [f"4<{hexed('/data')}>"], 0)
    disk.carry_out("write", [opened, f'"{hexed("efgh")}"', "4"], 4)
    found = {}
    for way in WAYS:
        disk.left(way, tmp_path / way)
        found[way] = (tmp_path / way / "a").read_text()
    assert found == {"nothing": "abcd", "names": "abcd", "half": "abcdef", "all": "abcdefgh"}
    disk.carry_out("rename", [name, f'"{hexed("/data/b")}"'], 0)
    disk.left("nothing", tmp_path / "old")
    assert (tmp_path / "old" / "a").exists() and isinstance(disk.top.names["b"], File)
