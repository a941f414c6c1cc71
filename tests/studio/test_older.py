"""What older versions left opens, with its whole history.

``older/format-0.tar.xz`` is the data folder of the version before documents had a format: the sample, edited at every
bench, with two views locked and grouped, kept regions, a renamed part, a second model file, a book of rules, and undo
behind and ahead of its head.
"""

from __future__ import annotations

import json
import shutil
import sqlite3
import subprocess
import sys
import tarfile
from collections.abc import Iterable
from pathlib import Path

import pytest

from studio.settings import ROOT
from warmgraphite.study import read_document

OPEN = """
import json, sys
from studio.studies.models import RuleBook, Revision, Study
from studio.jobs.models import Job
from django.test import Client
from django.conf import settings
settings.ALLOWED_HOSTS = ["*"]
client = Client()
slug = Study.objects.get().slug
base = f"/api/studies/{slug}"
def step(way):
    return client.post(f"{base}/{way}", {"base": client.get(base).json()["revision"]}, content_type="application/json").status_code
seen = []
while client.get(base).json()["redo"]:
    assert step("redo") == 200
while True:
    state = client.get(base).json()
    parts = client.get(f"{base}/parts").json()
    seen.append([state["revision"], state["look"], parts["name"][5], sorted(parts["sets"]), len(parts["name"])])
    if not state["undo"]:
        break
    assert step("undo") == 200
# Everything can go on from there.
while client.get(base).json()["redo"]:
    step("redo")
command = {"do": "look", "everywhere": True, "changes": [{"path": ["pens", "cut", "pen", "weight"], "value": 0.9}]}
edit = client.post(f"{base}/edits", {"base": client.get(base).json()["revision"], "commands": [command]}, content_type="application/json")
assert edit.status_code == 200, edit.content
assert client.get("/api/rule-books").json() == [{"name": "Houses", "rules": [{"pattern": "*tree*", "role": "planting"}]}]
print(json.dumps({"seen": seen, "jobs": [sorted(j.wanted) for j in Job.objects.all()], "weight": client.get(base).json()["look"]["pens"][0]["pen"]["weight"]}))
"""


@pytest.fixture()
def left(tmp_path: Path) -> Path:
    with tarfile.open(Path(__file__).parent / "older" / "format-0.tar.xz") as kept:
        kept.extractall(tmp_path / "data", filter="data")
    return tmp_path / "data"


def kept_documents(folder: Path) -> dict[int, dict]:
    with sqlite3.connect(folder / "studio.sqlite3") as rows:
        return {n: json.loads(text) for n, text in rows.execute("select number, document from studies_revision")}


#: Fields that traces have had since, as they are where nothing is said by them.
LATER = {"bundle": "", "edge": "clean", "edge_reach": 2.0, "outward": False, "palette": "as they are", "towards": 0.75}


def as_before(data: dict, view: dict) -> dict:
    """What a view looked like.
    The pen of each rank, the fill of each material, its traces, each with what meant something for its source.
    """
    meant = {
        "paper": {"colour", "grain"},
        "sky": {"colour", "horizon", "mottle"},
        "glass": {"colour"},
        "tint": set(),
        "poche": set(),
        "lines": set(),
    }
    traces = []
    for old in view["traces"]:
        dropped = {"colour", "horizon", "mottle", "grain"} - meant.get(old["source"], {"colour", "mottle"})
        new = {n: v for n, v in old.items() if n not in dropped | {"source"}} | {"kind": old["source"]}
        of = new.pop("part_set")
        traces.append(new | {"sets": [of] if of else []} | ({"lies": "below"} if old["source"] == "paper" else {}))
    pens = {n: (p["on"], p["weight"], p["colour"], p["dash"]) for n, p in data["pens"].items() if isinstance(p, dict)}
    pens["profile"] = (pens["profile"][0] and data["pens"]["profile_of"] != "", *pens["profile"][1:])
    fills = {name: p["colour"] if p["on"] else None for name, p in data["poche"].items()}
    return {"pens": pens, "fade": data["pens"]["fade"], "fills": fills, "traces": traces}


def as_now(look: dict, materials: Iterable[str]) -> dict:
    """The same of a look of today, as its rules say it."""
    traces = [
        {**{n: v for n, v in t.items() if n not in {"where", *LATER}}, "sets": t["where"]["sets"] if t["where"] else []}
        for t in look["traces"]
        if t["kind"] != "hatches"  # a sheet that came later, on which nothing lies
    ]
    assert all(t.get(n, v) == v for t in look["traces"] for n, v in LATER.items())
    rules = {r["id"]: r for r in look["pens"]}
    pens = {
        n: (rules[n]["on"], *(rules[n]["pen"][k] for k in ("weight", "colour", "dash")))
        for n in ("cut", "outline", "edge", "surface", "hidden", "profile")
    }
    assert (rules["soft"]["times"], rules["soft"]["paler"], rules["strong"]["times"]) == (0.55, 0.38, 1.4)
    fills = {}
    for name in materials:
        held = [r for r in look["poche"] if not r["where"]["materials"] or name in r["where"]["materials"]]
        fills[name] = held[-1]["fills"][0]["colour"] if held[-1]["fills"] else None
    return {
        "pens": pens,
        "fade": pytest.approx(rules["fading"]["fading"]["thinner"] / 0.55),
        "fills": fills,
        "traces": traces,
    }


def test_documents_without_a_format_look_as_they_did(left: Path) -> None:
    documents = kept_documents(left)
    assert len(documents) == 33 and all("format" not in d for d in documents.values())
    for data in documents.values():
        before = json.dumps(data)
        document = read_document(data)
        assert json.dumps(data) == before  # a step changes nothing of what is kept
        for old, view in zip(data["views"], document.views, strict=True):
            look = document.look_of(view).model_dump(mode="json")
            assert as_before(data, old) == as_now(look, data["poche"])
            for name in ("id", "mark", "view", "sheet", "locked", "group"):
                since = (
                    {"discs": [], "masks": [], "figures": {"on": True, "hidden": [], "groups": [], "kinds": []}}
                    if name == "view"
                    else {}
                )  # which no view had then
                now = json.loads(view.model_dump_json())[name]
                assert now == (old[name] | since if since else old[name])
        for kept, old in zip(document.regions, data["regions"], strict=True):
            query = json.loads(kept.model_dump_json())["query"]
            assert (kept.id, kept.name, {n: query[n] for n in old["query"]}) == (old["id"], old["name"], old["query"])
    newest = read_document(documents[33])
    assert sum(v.locked for v in newest.views) == 2 and {v.group for v in newest.views} == {"", "For the review"}
    # Most views are as the finish says; those that were changed keep that, as few changes.
    assert sorted(len(v.changes) for v in newest.views) == [0, 0, 0, 0, 0, 0, 1, 4]


def test_a_data_folder_of_before_opens_with_its_whole_history(left: Path) -> None:
    documents = kept_documents(left)
    environment = {
        "WARMGRAPHITE_DATA": str(left),
        "DJANGO_SETTINGS_MODULE": "studio.settings",
        "PATH": "/usr/bin:/bin",
        "PYTHONPATH": str(ROOT),
    }

    def run(code: str) -> str:
        done = subprocess.run(
            [sys.executable, "-c", "import django; django.setup()\n" + code],
            cwd=ROOT,
            env=environment,
            capture_output=True,
            text=True,
        )
        assert done.returncode == 0, done.stderr
        return done.stdout

    run("from django.core.management import call_command; call_command('migrate', verbosity=0)")
    found = json.loads(run(OPEN).splitlines()[-1])
    assert [row[0] for row in found["seen"]] == list(range(33, 0, -1))
    for number, look, part, sets, count in found["seen"]:
        data = documents[number]
        before = as_before(data, next(v for v in data["views"] if v["id"] == data["desk"]["view_id"]))
        assert before == as_now(look, data["poche"])
        assert (part == "Kiln wall, north") == (number > 1) and ("Three things" in sets) == (number > 3) and count > 100
    assert found["weight"] == 0.9 and len(found["jobs"]) == 3
    shutil.rmtree(left)
