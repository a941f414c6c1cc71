"""What figures take: to be made, to stand in a drawing, to show on the desk."""

from __future__ import annotations

import statistics
import time
from typing import Any

from bench.collage import _seconds

__all__ = ["crowd", "people", "put", "sample_lines", "trees"]


def people() -> dict:
    """A person in each pose, made anew."""
    from warmgraphite.figures.people.person import person
    from warmgraphite.figures.people.poses import POSES

    person("standing", seed=900)
    found, most = [], 0
    for k, name in enumerate(POSES):
        found.append(_seconds(lambda n=name, k=k: person(n, seed=901 + k)))  # type: ignore[misc]
        clothed = [
            p
            for p in person(name, seed=901 + k)
            if p.name in ("skin", "hair", "shoes", "shirt", "trousers", "skirt", "dress", "coat")
        ]
        most = max(most, sum(len(p.triangles) for p in clothed))
    return {
        "seconds": statistics.median(found),
        "note": f"{len(found)} poses; {most:,} triangles at most, without what is held",
    }


def trees() -> dict:
    """A tree of 8 m of each habit of trees, grown anew."""
    from warmgraphite.figures.planting.habits import HABITS
    from warmgraphite.figures.planting.plant import plant

    plant("oak", 8.0, seed=900)
    names = [h.name for h in HABITS.values() if h.group in ("trees", "conifers")]
    found = {
        n: statistics.median(_seconds(lambda n=n, k=k: plant(n, 8.0, seed=901 + k)) for k in range(3)) for n in names
    }  # type: ignore[misc]
    dearest = max(found, key=lambda n: found[n])
    return {
        "seconds": found[dearest],
        "note": f"the dearest, {dearest}; {statistics.median(found.values()):.3f} s in the middle",
    }


def _peopled(view: Any, people: int, trees: int) -> tuple[Any, Any]:
    from demo.figures import sample_figures
    from demo.kiln_house import build_kiln_house
    from demo.views import sample_views, with_sample_words
    from warmgraphite.figures.choosing import Marked

    model, views = with_sample_words(build_kiln_house()), sample_views()
    figures = sample_figures(model, {v.name: f"view-{k}" for k, v in enumerate(views, 1)})
    some = [f for f in figures if f.kind == "person"][:people] + [f for f in figures if f.group == "Trees"][:trees]  # type: ignore[attr-defined]
    some += [f for f in figures if f.group == "Reed"]
    return model, Marked(figures=tuple(some) if people else ())


def sample_lines() -> dict:
    """Lines of the sample's six views with 12 people, 10 trees and reeds, against those without."""
    from demo.views import sample_views
    from warmgraphite.drawing import Drawing
    from warmgraphite.passes import edges

    rows = []
    for view in sample_views():
        seconds = []
        for count in (0, 12):
            model, ink = _peopled(view, count, 10)

            def work(model: Any = model, ink: Any = ink, view: Any = view) -> None:
                edges.forget()
                Drawing(model, view.model_copy(update={"figures": type(view.figures)()}), ink=ink).lines()

            work()
            seconds.append(statistics.median(_seconds(work) for _ in range(3)))
        rows.append(seconds)
    without, with_them = (sum(r[k] for r in rows) for k in (0, 1))
    worst = max(b / a for a, b in rows)
    return {
        "seconds": with_them,
        "note": f"six views, {with_them / without:.2f} times the {without:.2f} s without; {worst:.2f} in the worst",
    }


def crowd() -> dict:
    """300 figures in a town at 1:500, all passes at screen size, against the town without them."""
    import numpy as np

    from bench.models import block_model
    from warmgraphite.drawing import Drawing
    from warmgraphite.figures.choosing import Marked
    from warmgraphite.figures.kinds.person import Person
    from warmgraphite.figures.kinds.plant import Plant
    from warmgraphite.view.specification import Frame, Parallel, ViewSpecification

    model = block_model(100_000)
    low, high = model.bounds
    chance = np.random.default_rng(1)
    middle = (low + high)[:2] / 2
    spots = middle + chance.uniform(-0.5, 0.5, (300, 2)) * (190.0, 130.0)
    figures = [
        (Plant(id=f"f{k}", habit="broad-leaved", seed=k % 9, at=(x, y, 0.0)) if k % 3 == 0
            else Person(id=f"f{k}", pose="walking", seed=k, at=(x, y, 0.0)))
        for k, (x, y) in enumerate(spots.tolist())
    ]  # fmt: skip
    view = ViewSpecification(
        projection=Parallel(direction=(0.5, 1.0, -0.7), centre=(*middle.tolist(), 4.0)),
        frame=Frame(width=420, height=297, scale=500),
    )
    needs = ["frame", "lines", "strokes", "surface", "light", "shadow", "occlusion", "regions", "colour"]
    seconds = []
    for ink in (Marked(), Marked(figures=tuple(figures))):
        Drawing(model, view, (1600, 1131), ink=ink).compute(needs)
        start = time.perf_counter()
        Drawing(model, view, (1600, 1131), ink=ink).compute(needs)
        seconds.append(time.perf_counter() - start)
    return {"seconds": seconds[1] - seconds[0], "note": f"added to {seconds[0]:.1f} s of {len(model.parts):,} parts"}


def put() -> dict:
    """A person put on the floor of the long section: pointed at, kept, and drawn alone in its window, over HTTP."""
    import json
    import tempfile
    import urllib.request
    from pathlib import Path

    from tests.interface.serve import application

    with tempfile.TemporaryDirectory() as data, application(Path(data)) as app:
        base = f"{app.address}/api/studies/alder-weir-kiln-house"

        def ask(path: str, body: dict | None = None) -> bytes:
            sent = None if body is None else json.dumps(body).encode()
            with urllib.request.urlopen(
                urllib.request.Request(base + path, sent, {"Content-Type": "application/json"})
            ) as answer:
                return answer.read()

        found = []
        for i in range(12):
            revision = json.loads(ask(""))["revision"]
            start = time.perf_counter()
            body = {"figure": {"kind": "person", "pose": "walking", "seed": i}, "place": [150 + 6 * i, 205]}
            figure = json.loads(ask("/figures/stand", body))["figure"] | {"id": f"bench-{i}"}
            command = {"do": "figures", "changes": [{"path": ["figures", f"bench-{i}"], "value": figure}]}
            ask("/edits", {"base": revision, "commands": [command]})
            ask(f"/figures/bench-{i}/patch?density=2")
            found.append(time.perf_counter() - start)
    return {
        "seconds": statistics.median(found[2:]),
        "note": f"{max(found[2:]):.2f} s at most, the job of the passes beside it",
    }
