"""The next version of a model: which part is which, what carries over, and a report of what changed.

Parts are matched by the file's own lasting id, then by layer, name and material, then by shape and place. A part keeps
its number for as long as it is matched, so that everything that goes by numbers, the passes included, stays right.
"""

from __future__ import annotations

from collections import defaultdict, deque
from collections.abc import Callable, Hashable, Sequence
from dataclasses import asdict, dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from warmgraphite.model.edits.file import in_step
from warmgraphite.model.joining import keeping_bodies
from warmgraphite.model.model import Model
from warmgraphite.model.palette import Material
from warmgraphite.model.parts import Part
from warmgraphite.model.role_rules import RoleRule, apply_rules
from warmgraphite.model.shapes import forms_of, in_classes, same_body, same_place

__all__ = ["Report", "match_parts", "succeed"]

#: Metres to which places are compared.
PLACE = 1e-3
#: Rows of each list in a report; the counts are always whole.
MOST_ROWS = 500


@dataclass(frozen=True)
class Report:
    """What a newer version changed.
    Rows name a part by ``layer/name``; ``moved`` adds metres, ``renamed`` the old path, ``lost`` what was said of a
    part that is gone.
    """

    same: int = 0
    new: tuple[str, ...] = ()
    gone: tuple[str, ...] = ()
    moved: tuple[tuple[str, float], ...] = ()
    reshaped: tuple[str, ...] = ()
    renamed: tuple[tuple[str, str], ...] = ()
    rematerialled: tuple[str, ...] = ()
    lost: tuple[tuple[str, str], ...] = ()
    notes: tuple[str, ...] = ()
    counts: dict[str, int] = field(default_factory=dict)

    def as_json(self) -> dict[str, Any]:
        """Fields with lists cut to :data:`MOST_ROWS`, ``counts`` whole."""
        return {k: list(v)[:MOST_ROWS] if isinstance(v, tuple) else v for k, v in asdict(self).items()}


def match_parts(old: Model, new: Model) -> NDArray[np.int64]:
    """(P_new,) the number of each new part in the old model, −1 for those that are new. Each old part is given once."""
    found = np.full(len(new.parts), -1, np.int64)
    # A part that was gone for a while comes back under its id or its name; it has no shape to go by.
    free = [True] * len(old.parts)
    bodied = [np.bincount(m.triangle_part, minlength=len(m.parts)) > 0 for m in (old, new)]
    forms = forms_of(old), forms_of(new)
    old_shape, new_shape = in_classes(forms[0].signature, forms[1].signature)

    def by(old_key: Callable[[int], Hashable | None], new_key: Callable[[int], Hashable | None]) -> None:
        waiting: dict[Hashable, deque[int]] = defaultdict(deque)
        # A part is only ever found among those of its own file.
        for i in range(len(old.parts)):
            key = old_key(i) if free[i] else None
            if key is not None:
                waiting[old.parts[i].source, key].append(i)
        for j in range(len(new.parts)):
            key = new_key(j) if found[j] < 0 else None
            if key is not None and waiting.get((new.parts[j].source, key)):
                found[j] = waiting[new.parts[j].source, key].popleft()
                free[found[j]] = False

    def name_of(model: Model) -> Callable[[int], Hashable]:
        return lambda i: (model.parts[i].layer, model.parts[i].name, model.materials[model.parts[i].material].name)

    def at(shape: NDArray, place: NDArray, there: NDArray) -> Callable[[int], Hashable | None]:
        return lambda i: (int(shape[i]), *np.round(place[i] / PLACE).astype(int).tolist()) if there[i] else None

    named_old, named_new = name_of(old), name_of(new)
    shaped_old, shaped_new = at(old_shape, forms[0].middle, bodied[0]), at(new_shape, forms[1].middle, bodied[1])
    by(lambda i: old.parts[i].id or None, lambda j: new.parts[j].id or None)
    # Of several parts with one name those go together that are also alike; then those that stand in the same order.
    by(lambda i: (named_old(i), shaped_old(i)), lambda j: (named_new(j), shaped_new(j)))
    by(lambda i: (named_old(i), int(old_shape[i])), lambda j: (named_new(j), int(new_shape[j])))
    by(named_old, named_new)
    by(lambda i: (old.parts[i].layer, old.parts[i].name), lambda j: (new.parts[j].layer, new.parts[j].name))
    by(shaped_old, shaped_new)
    by(lambda i: (old.parts[i].name, int(old_shape[i])), lambda j: (new.parts[j].name, int(new_shape[j])))
    return found


def _renumbered(base: Model, fresh: Model, match: NDArray[np.int64]) -> Model:
    """The fresh model with the numbers of the base.
    Matched parts keep theirs, gone ones stay empty, new ones follow.
    """
    number = match.copy()
    new = np.flatnonzero(match < 0)
    number[new] = len(base.parts) + np.arange(len(new))
    # Gone parts keep their materials too, in case they come back.
    table = list(fresh.materials)
    of_name = {m.name: i for i, m in enumerate(table)}
    rows: list[Part] = []
    taken = set(match.tolist())
    for i, part in enumerate(base.parts):
        material = base.materials[part.material]
        if i not in taken and material.name not in of_name:
            of_name[material.name] = len(table)
            table.append(material)
        rows.append(replace(part, absent=True, material=of_name.get(material.name, 0)))
    for j, n in enumerate(number.tolist()):
        if n < len(rows):
            rows[n] = fresh.parts[j]
        else:
            rows.append(fresh.parts[j])
    owner = number[fresh.triangle_part].astype(np.int32)
    order = np.argsort(owner, kind="stable")
    return fresh.reshaped(
        triangles=np.ascontiguousarray(fresh.triangles[order]),
        triangle_part=owner[order],
        uv=None if fresh.mesh.uv is None else fresh.mesh.uv[order],
        line_part=number[fresh.mesh.line_part].astype(np.int32),
        parts=tuple(rows),
        materials=tuple(table),
    )


def _said_of(part: Part, base: Part, model: Model, number: int) -> list[str]:
    """What a person said of a part, in words."""
    said = []
    if part.role != base.role:
        said.append(f"role {part.role}")
    if part.name != base.name:
        said.append(f"name “{part.name}”")
    if part.layer != base.layer:
        said.append(f"layer “{part.layer}”")
    said += [
        f"{f} {getattr(part, f)}" for f in ("cut", "clear", "drawn", "poche", "cut_as") if getattr(part, f) is not None
    ]
    said += [f"part set “{name}”" for name, rows in model.sets.items() if number in rows]
    return said


# Long: one decision for each part, in the order in which they are tried.
def succeed(
    base: Model, current: Model, fresh: Model, rules: Sequence[RoleRule] = (), source: str = ""
) -> tuple[Model, Model, Report]:
    """The study's model after a newer file: its new base, its new state, and the report.

    ``base`` is the older file as it was read; ``current`` the study's state of it, with the same part numbers;
    ``fresh`` the newer file, in metres about the same origin as ``current``. ``rules`` give roles to parts that are
    new; ``source`` is the joined file that is the newer one, where it is not the model's own. The bodies of all other
    files stay as they are in the study.
    """
    base = in_step(base, current)
    match = match_parts(base, fresh)
    new_base = _renumbered(base, fresh, match)
    matched = np.flatnonzero(match >= 0)
    numbers = match[matched]

    # Materials: those of the newer file, as the study knows them by the names they had.
    standing = {name: i for i, m in enumerate(current.materials) for name in m.names}
    table: list[Material] = list(current.materials)
    was_base = {m.name: m for m in base.materials}
    number_of: dict[int, int] = {}
    for k, material in enumerate(new_base.materials):
        at = standing.get(material.name)
        if at is None:
            number_of[k] = len(table)
            table.append(material)
            continue
        number_of[k] = at
        old = was_base.get(material.name)
        untouched = old is not None and replace(table[at], was=()) == replace(old, was=())
        if untouched:  # nobody changed it here, so the newer file's look counts
            table[at] = replace(material, was=table[at].was)

    rows: list[Part] = []
    lost: list[tuple[str, str]] = []
    changed_material: list[str] = []
    for number, part in enumerate(new_base.parts):
        own = replace(part, material=number_of.get(part.material, 0)) if not part.absent else part
        if number >= len(base.parts):
            rows.append(own)
            continue
        before, said = base.parts[number], current.parts[number]
        if part.absent:
            rows.append(replace(said, absent=True))
            if not said.absent and (words := _said_of(said, before, current, number)):
                lost.append((said.path, ", ".join(words)))
            continue
        usual = standing.get(base.materials[before.material].name, 0)
        if said.material == usual:
            chosen = own.material
            if new_base.materials[part.material].name != base.materials[before.material].name:
                changed_material.append(part.path)
        else:
            chosen = said.material  # given here, so it stays
        dropped_here = said.absent and not before.absent
        rows.append(
            replace(
                own,
                material=chosen,
                absent=dropped_here,
                cut=said.cut,
                clear=said.clear,
                drawn=said.drawn,
                poche=said.poche,
                cut_as=said.cut_as,
                name=said.name if said.name != before.name else own.name,
                layer=said.layer if said.layer != before.layer else own.layer,
                role=said.role if said.role != before.role else own.role,
            )
        )
    absent = np.array([p.absent for p in rows], bool)
    state = new_base.only(~absent[new_base.triangle_part]).said(
        name=current.name, parts=tuple(rows), materials=tuple(table),
        textures={**current.textures, **new_base.textures}, contours=current.contours, white_card=current.white_card,
        cut_order=current.cut_order,
        hidden=tuple(h for h in current.hidden if not absent[h]), sets=dict(current.sets),
    )  # fmt: skip
    if current.joined:
        state = keeping_bodies(state, current, source)
    added = np.arange(len(base.parts), len(rows))
    if rules and len(added):
        state = apply_rules(state, rules, added.tolist())

    was, now = forms_of(base), forms_of(new_base)
    far = np.linalg.norm(now.middle[: len(base.parts)] - was.middle, axis=1)
    moved, reshaped, renamed, returned, same = [], [], [], [], 0
    for j, n in zip(matched.tolist(), numbers.tolist(), strict=True):
        path = fresh.parts[j].path
        if base.parts[n].absent:
            returned.append(path)
            continue
        if path != base.parts[n].path:
            renamed.append((path, base.parts[n].path))
        if not same_body(was, n, now, n):
            reshaped.append(path)
        elif far[n] > PLACE or not same_place(was, n, now, n, 2 * PLACE):
            moved.append((path, round(float(far[n]), 3)))
        elif path == base.parts[n].path:
            same += 1
    gone = [p.path for i, p in enumerate(current.parts) if new_base.parts[i].absent and not base.parts[i].absent]
    new = returned + [p.path for p in state.parts[len(base.parts) :]]
    newer = np.array([p.source == source for p in base.parts], bool)
    mended = int(
        (
            newer
            & base.parts.present
            & current.parts.present[: len(base.parts)]
            & (base.part_shape != current.part_shape)
        ).sum()
    )
    notes = [f"Mends of {mended:,} parts are not in the newer file; look at its health."] if mended else []
    counts = {
        "same": same, "new": len(new), "gone": len(gone), "moved": len(moved), "reshaped": len(reshaped),
        "renamed": len(renamed),
        "rematerialled": len(changed_material), "lost": len(lost),
    }  # fmt: skip
    report = Report(
        same, tuple(new), tuple(gone), tuple(moved), tuple(reshaped), tuple(renamed), tuple(changed_material),
        tuple(lost),
        tuple(notes), counts,
    )  # fmt: skip
    return new_base, state, report
