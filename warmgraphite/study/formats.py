"""The formats of a study's document and of a finish."""

from __future__ import annotations

import copy
import json
from collections import Counter
from typing import Any

from warmgraphite.formats import Data, Format, as_it_was
from warmgraphite.study.changes import Change, changes_between, make_changes

__all__ = ["DOCUMENT", "DRAWING", "FINISH", "look_with_hatches", "pens_along"]


_LAID = ("id", "name", "on", "opacity", "blend", "part_set")
_SHOWN = {"paper": ("colour", "grain"), "sky": ("colour", "horizon", "mottle"), "glass": ("colour",)} | {
    kind: ("colour", "mottle") for kind in ("shade", "shadow", "occlusion")
}


def _of_a_kind(trace: Data) -> Data:
    """A trace had a source and the settings of all of them; it has a kind, and the settings of that."""
    kind = trace["source"]
    return {"kind": kind, **{n: trace[n] for n in (*_LAID, *_SHOWN.get(kind, ())) if n in trace}}


def _looks_become_a_finish(data: Data) -> Data:
    """Pens and poche of the study and the traces that most views have become a finish, which all views wear.
    Where a view's traces are others, these are changes of its own.
    """
    traces = [[_of_a_kind(t) for t in v.pop("traces")] for v in data["views"]]
    common, _ = Counter(json.dumps(t) for t in traces).most_common(1)[0]
    finish = {"pens": data.pop("pens", {}), "poche": data.pop("poche", {}), "traces": json.loads(common)}
    for view, own in zip(data["views"], traces, strict=True):
        rows = changes_between({"traces": finish["traces"]}, {"traces": own})
        view["finish"] = "finish-1"
        view["changes"] = [c.model_dump(mode="json") for c in rows]
    data["finishes"] = [{"id": "finish-1", "name": "Graphite and wash", **finish}]
    return data


#: The pens that were written where nothing was said, and the ranks that soft, strong, glazed and fading were about.
_PENS: Data = {
    "cut": {"weight": 0.50}, "outline": {"weight": 0.30}, "edge": {"weight": 0.18}, "surface": {"weight": 0.09},
    "hidden": {"weight": 0.13, "colour": "#6b635b", "dash": [1.6, 0.9], "on": False},
    "profile": {"weight": 0.70, "on": False},
}  # fmt: skip
_INK = "#2e2a27"
_BEYOND = ["outline", "edge", "surface"]


def _match(**said: object) -> Data:
    return {"kind": "match", **said}


def _pens_as_rules(pens: Data) -> list[Data]:
    """A pen for each rank, and what code did to soft, strong, distant and glazed lines, become rules in their order."""

    def rule(identity: str, where: Data, **said: object) -> Data:
        return {"id": identity, "where": where, **said}

    def pen_of(name: str) -> Data:
        found = {**_PENS[name], **pens.get(name, {})}
        return {"weight": found["weight"], "colour": found.get("colour", _INK), "dash": found.get("dash", [])}

    def is_on(name: str) -> bool:
        return bool({**_PENS[name], **pens.get(name, {})}.get("on", True))

    fade = pens.get("fade", 0.45)
    subject = pens.get("profile_of", "")
    soft, strong, fading = (_match(ranks=_BEYOND, hidden=False) for _ in range(3))
    return [
        *(rule(n, _match(ranks=[n], hidden=False), pen=pen_of(n), on=is_on(n)) for n in ("cut", *_BEYOND)),
        rule("hidden", _match(hidden=True), pen=pen_of("hidden"), on=is_on("hidden")),
        rule("soft", {**soft, "drawn": ["soft"]}, times=0.55, paler=0.38),
        rule("strong", {**strong, "drawn": ["strong"]}, times=1.4),
        rule("fading", fading, fading={"thinner": round(0.55 * fade, 4), "paler": round(0.45 * fade, 4)}),
        rule("glazed", _match(glass=True, hidden=False), times=0.8, paler=0.3),
        rule(
            "profile", _match(sets=[subject]) if subject else _match(roles=["subject"]), round=True,
            pen=pen_of("profile"),
            on=is_on("profile") and bool(subject),
        ),
    ]  # fmt: skip


def _poche_as_rules(poche: Data) -> list[Data]:
    """A poche for each material becomes rules.
    They are a rule for all that is cut, and one for each material that is filled otherwise.
    """
    rules: list[Data] = [
        {"id": "all", "name": "All that is cut", "where": _match(), "fills": [{"kind": "flat", "colour": _INK}]}
    ]
    others: dict[tuple[str, str], list[str]] = {}
    for number, (material, fill) in enumerate(poche.items()):
        colour = fill.get("colour", _INK) if fill.get("on", True) else ""
        if colour != _INK:
            # One rule for each, so that each is changed alone; where a model has hundreds, one for each colour.
            others.setdefault(
                (colour, f"material-{number + 1}" if len(poche) <= 200 else f"fill-{colour.strip('#') or 'void'}"), []
            ).append(material)
    for (colour, identity), materials in others.items():
        fills = [{"kind": "flat", "colour": colour}] if colour else []
        rules.append({"id": identity, "where": _match(materials=materials), "fills": fills})
    return rules


def _confined_by_query(trace: Data) -> Data:
    where = trace.pop("part_set", "")
    return {**trace, "where": _match(sets=[where]) if where else None}


def _look_of_rules(look: Data) -> Data:
    return {
        "pens": _pens_as_rules(look.get("pens", {})),
        "poche": _poche_as_rules(look.get("poche", {})),
        "traces": [_confined_by_query(dict(t)) for t in look.get("traces", [])],
    }


def _worn(finish: Data, changes: list[Data]) -> Data:
    """The look of a finish, as it was then, with a view's own changes."""
    look = copy.deepcopy(
        {"pens": finish.get("pens", {}), "poche": finish.get("poche", {}), "traces": finish.get("traces", [])}
    )
    found: Data = make_changes(look, [Change.model_validate(c) for c in changes], loose=True)
    return found


def _ink_by_rule(data: Data) -> Data:
    """Pens by rank and poche by material become rules, part sets that traces are confined to become queries.
    What views change of their finish is said of the rules.
    """
    old = {f["id"]: f for f in data["finishes"]}
    data["finishes"] = [{"id": f["id"], "name": f["name"], **_look_of_rules(f)} for f in data["finishes"]]
    new = {f["id"]: {k: f[k] for k in ("pens", "poche", "traces")} for f in data["finishes"]}
    for view in data["views"]:
        if view.get("changes"):
            own = _look_of_rules(_worn(old[view["finish"]], view["changes"]))
            rows = changes_between(new[view["finish"]], own)
            view["changes"] = [c.model_dump(mode="json") for c in rows]
    return data


def _finish_by_rule(data: Data) -> Data:
    return {**{k: v for k, v in data.items() if k not in ("pens", "poche", "traces")}, **_look_of_rules(data)}


def pens_along(pens: list[Data]) -> list[Data]:
    """A pen that went round its subject says what it goes along; there is more now that a pen may go along."""
    out = []
    for rule in pens:
        rest = {k: v for k, v in rule.items() if k != "round"} if isinstance(rule, dict) else rule
        out.append({**rest, "along": "subject"} if isinstance(rule, dict) and rule.get("round") else rest)
    return out


def _with_hatches(traces: list[Data]) -> list[Data]:
    """A sheet of hatches under poche and lines, which shows nothing until a rule says so."""
    if not traces or any(t.get("kind") == "hatches" for t in traces):
        return traces
    taken = {t.get("id") for t in traces}
    identity = next(n for n in ("hatches", *(f"hatches-{k}" for k in range(2, 100))) if n not in taken)
    place = next((n for n, t in enumerate(traces) if t.get("kind") in ("poche", "lines")), len(traces))
    return [*traces[:place], {"kind": "hatches", "id": identity, "name": "Hatches"}, *traces[place:]]


def look_with_hatches(look: Data) -> Data:
    """A look as it is written since there are hatches on faces."""
    found = dict(look)
    if isinstance(found.get("pens"), list):
        found["pens"] = pens_along(found["pens"])
    if isinstance(found.get("traces"), list):
        found["traces"] = _with_hatches(found["traces"])
    return found


def _own_with_hatches(change: Data) -> Data:
    path, value = list(change["path"]), change.get("value")
    if path[0] == "pens":
        if path[-1] == "round" and len(path) == 3:
            return {**change, "path": [*path[:-1], "along"], "value": "subject" if value else "lines"}
        if len(path) == 2 and isinstance(value, dict):
            return {**change, "value": pens_along([value])[0]}
    if len(path) == 1 and isinstance(value, list) and change.get("do", "set") == "set":
        return {**change, "value": look_with_hatches({path[0]: value})[path[0]]}
    return change


def _hatches_on_faces(data: Data) -> Data:
    """Finishes get a sheet of hatches; pens say what they go along."""
    data["finishes"] = [look_with_hatches(f) for f in data["finishes"]]
    for view in data["views"]:
        view["changes"] = [_own_with_hatches(c) for c in view.get("changes", [])]
    return data


_FIGURES = ("figure", "detail")


def _ranks_of(rule: object) -> list[str]:
    where = rule.get("where") if isinstance(rule, dict) else None
    return list(where.get("ranks") or ()) if isinstance(where, dict) else []


def pens_of_figures(look: Data) -> Data:
    """A look as it is written since there are figures.
    Their lines have ranks of their own, and pens a little lighter than those of edges and of surfaces; what fades with
    distance, behind glass or in the light does so for them, too.
    """
    pens = look.get("pens")
    if not isinstance(pens, list) or any(set(_ranks_of(p)) & set(_FIGURES) for p in pens):
        return look
    rules = [p for p in pens if isinstance(p, dict)]
    of_rank = {
        _ranks_of(p)[0]: p
        for p in rules
        if len(_ranks_of(p)) == 1 and p.get("pen", {}).get("weight") and p.get("on", True)
    }
    last = max((n for n, p in enumerate(pens) if any(p is q for q in of_rank.values())), default=len(pens) - 1)
    taken, out = {p.get("id") for p in rules}, []
    for number, rule in enumerate(pens):
        ranks = _ranks_of(rule)
        if (
            {"outline", "edge", "surface"} <= set(ranks)
            and not rule.get("pen", {}).get("weight")
            and not rule["where"].get("drawn")
        ):
            rule = {**rule, "where": {**rule["where"], "ranks": [*ranks, *_FIGURES]}}
        out.append(rule)
        if number == last:
            for rank, like, times in (("figure", "edge", 0.9), ("detail", "surface", 0.85)):
                pen = of_rank.get(like, {}).get(
                    "pen", {"weight": 0.15 if rank == "figure" else 0.08, "colour": _INK, "dash": []}
                )
                identity = next(n for n in (rank, *(f"{rank}-{k}" for k in range(2, 100))) if n not in taken)
                said = {**pen, "weight": round(max(0.02, pen["weight"] * times), 3)}
                out.append({"id": identity, "where": _match(ranks=[rank], hidden=False), "pen": said})
    return {**look, "pens": out}


def _with_figures(data: Data) -> Data:
    """Finishes get pens for figures."""
    data["finishes"] = [pens_of_figures(f) for f in data["finishes"]]
    for view in data["views"]:
        view["changes"] = [
            {**c, "value": pens_of_figures({"pens": c["value"]})["pens"]}
            if list(c["path"]) == ["pens"] and c.get("do", "set") == "set"
            else c
            for c in view.get("changes", [])
        ]
    return data


_WASHES: Data = {
    "kind": "wash", "id": "figure-washes", "name": "Washes of figures", "where": _match(sets=["figures in wash"]),
    "colours": "of materials",
    "holds": "materials", "wet": 0.7, "turbulence": 0.55, "blotch": 7.0, "rim": 0.7, "rim_width": 0.35, "bloom": 0.45,
    "granulation": 0.25,
    "white": 0.0, "density": 1.15,
}  # fmt: skip


def _with_washes(data: Data) -> Data:
    """Finishes in which figures are drawn in wash get the sheet that lays it, which hatches were before."""
    any_figure = any(f.get("drawn") == "wash" for f in data.get("figures") or [])
    for finish in data["finishes"]:
        own = [
            c.get("value")
            for v in data["views"]
            if v.get("finish") == finish["id"]
            for c in v.get("changes", [])
            if c["path"][0] == "entourage"
        ]
        traces = finish.get("traces")
        if not isinstance(traces, list) or not (any_figure or "'wash'" in repr([finish.get("entourage"), own])):
            continue
        place = next((n for n, t in enumerate(traces) if t.get("kind") in ("hatches", "lines")), len(traces))
        finish["traces"] = [*traces[:place], _WASHES, *traces[place:]]
    return data


#: What kinds of traces and their settings were called, and are.
_KINDS = {
    "levels": "black-and-white", "curve": "tone-curve", "hue": "hue-and-strength", "brightness": "light-and-contrast",
    "traced": "few-papers",
    "picture-contours": "level-lines",
}  # fmt: skip
_SETTINGS: dict[str, Data] = {
    "wash": {"turbulence": "flow", "blotch": "pools"},
    "hue": {"saturation": "strength"},
    "brightness": {"brightness": "light"},
}


def _trace_by_our_names(trace: object) -> Any:
    if not isinstance(trace, dict):
        return trace
    kind = trace.get("kind")
    names = _SETTINGS.get(kind, {}) if isinstance(kind, str) else {}
    found = {names.get(n, n): v for n, v in trace.items()}
    if isinstance(kind, str) and kind in _KINDS:
        found["kind"] = _KINDS[kind]
    # It began with six where nothing was said.
    return {"colours": 6, **found} if kind == "traced" else found


def look_by_our_names(look: Data) -> Data:
    """A look whose traces and their settings are called by names of our own."""
    traces = look.get("traces")
    return {**look, "traces": [_trace_by_our_names(t) for t in traces]} if isinstance(traces, list) else look


def _change_by_our_names(change: Data, kinds: dict[Any, Any]) -> Data:
    path, value = list(change["path"]), change.get("value")
    if path[0] != "traces":
        return change
    if len(path) == 1:
        return {**change, "value": [_trace_by_our_names(t) for t in value]} if isinstance(value, list) else change
    if len(path) == 2:
        return {**change, "value": _trace_by_our_names(value)}
    names = _SETTINGS.get(kinds.get(path[1], ""), {})
    return {**change, "path": [*path[:2], names.get(path[2], path[2]), *path[3:]]}


def _by_our_names(data: Data) -> Data:
    """Kinds of traces and their settings are called by names of our own.
    In finishes and in what views change of them.
    """
    kinds = {
        f["id"]: {t.get("id"): t.get("kind") for t in f.get("traces", []) if isinstance(t, dict)}
        for f in data["finishes"]
    }
    for view in data["views"]:
        own = dict(kinds.get(view.get("finish"), {}))
        for change in view.get("changes", []):  # a view may have traces that its finish has not
            value = change.get("value")
            for trace in value if isinstance(value, list) else [value]:
                if isinstance(trace, dict) and "kind" in trace and change["path"][0] == "traces":
                    own[trace.get("id")] = trace["kind"]
        view["changes"] = [_change_by_our_names(c, own) for c in view.get("changes", [])]
    data["finishes"] = [look_by_our_names(f) for f in data["finishes"]]
    return data


def _drawing_by_our_names(data: Data) -> Data:
    """Traces as above; where nothing was said of it, the sun stood 40° high."""
    view = data.get("view", {"name": "Axonometric"})
    if isinstance(view, dict):
        sun = view.get("sun", {})
        data = {**data, "view": {**view, "sun": {"altitude": 40, **sun} if isinstance(sun, dict) else sun}}
    return {**data, "finish": look_by_our_names(data["finish"])} if isinstance(data.get("finish"), dict) else data


# What came with each: 4 build-ups; 5 washes, textures, adjusting sheets; 6 windows, backdrops, reflections, veils and
# pictures from elsewhere; 7 figures; 8 their washes; 9 notes, lettering and boards; 10 names of our own.
DOCUMENT = Format(
    "study",
    (
        _looks_become_a_finish,
        _ink_by_rule,
        _hatches_on_faces,
        as_it_was,
        as_it_was,
        as_it_was,
        _with_figures,
        _with_washes,
        as_it_was,
        _by_our_names,
    ),
)
FINISH = Format(
    "finish",
    (
        as_it_was,
        _finish_by_rule,
        look_with_hatches,
        as_it_was,
        as_it_was,
        as_it_was,
        pens_of_figures,
        as_it_was,
        look_by_our_names,
    ),
)
DRAWING = Format("drawing", (as_it_was, _drawing_by_our_names))
