"""The formats of a study's document and of a finish."""

from __future__ import annotations

import json
from collections import Counter

from warmgraphite.formats import Data, Format, as_it_was
from warmgraphite.study.changes import changes_between

__all__ = ["DOCUMENT", "FINISH"]


_LAID = ("id", "name", "on", "opacity", "blend", "part_set")
_SHOWN = {"paper": ("colour", "grain"), "sky": ("colour", "horizon", "mottle"), "glass": ("colour",)} | {
    kind: ("colour", "mottle") for kind in ("shade", "shadow", "occlusion")
}


def _of_a_kind(trace: Data) -> Data:
    """A trace had a source and the settings of all of them; it has a kind, and the settings of that."""
    kind = trace["source"]
    return {"kind": kind, **{n: trace[n] for n in (*_LAID, *_SHOWN.get(kind, ())) if n in trace}}


def _looks_become_a_finish(data: Data) -> Data:
    """Pens and poche of the study and the traces that most views have become a finish, which all views wear; where a view's
    traces are others, these are changes of its own."""
    traces = [[_of_a_kind(t) for t in v.pop("traces")] for v in data["views"]]
    common, _ = Counter(json.dumps(t) for t in traces).most_common(1)[0]
    finish = {"pens": data.pop("pens", {}), "poche": data.pop("poche", {}), "traces": json.loads(common)}
    for view, own in zip(data["views"], traces, strict=True):
        rows = changes_between({"traces": finish["traces"]}, {"traces": own})
        view["finish"] = "finish-1"
        view["changes"] = [c.model_dump(mode="json") for c in rows]
    data["finishes"] = [{"id": "finish-1", "name": "Graphite and wash", **finish}]
    return data


DOCUMENT = Format("study", (_looks_become_a_finish,))
FINISH = Format("finish", (as_it_was,))
